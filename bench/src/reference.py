"""Times OpenCV's remap on one thread: python3 reference.py SOURCE.rgb WIDTH HEIGHT MAP.f32 MAP_WIDTH MAP_HEIGHT REPEATS BITS.

The source is interleaved RGB, 8 or 16 bit; the map holds x, y of each output pixel (OpenCV's pixel centres lie at whole numbers).
Prints medians in nanoseconds a pixel as JSON.
"""
import json
import statistics
import sys
import time

import cv2
import numpy as np

source = np.fromfile(sys.argv[1], np.uint16 if sys.argv[8] == "16" else np.uint8).reshape(int(sys.argv[3]), int(sys.argv[2]), 3)
positions = np.fromfile(sys.argv[4], np.float32).reshape(int(sys.argv[6]), int(sys.argv[5]), 2)
cv2.setNumThreads(1)
ways = {"linear": cv2.INTER_LINEAR, "cubic": cv2.INTER_CUBIC, "lanczos4": cv2.INTER_LANCZOS4}
result = {}
for name, way in ways.items():
    times = []
    for _ in range(int(sys.argv[7])):
        start = time.perf_counter()
        cv2.remap(source, positions, None, way, borderMode=cv2.BORDER_CONSTANT)
        times.append(time.perf_counter() - start)
    result[name] = statistics.median(times) * 1e9 / (positions.shape[0] * positions.shape[1])
print(json.dumps(result))
