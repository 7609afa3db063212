"""Times OpenCV for the bench, one task a line on standard input, one answer a line on standard output, both JSON.

{"do": "source", "file": PATH, "width": W, "height": H, "bits": 8 or 16}: interleaved RGB.
{"do": "positions", "file": PATH, "width": W, "height": H}: x, y as f32 of each output pixel, whose centres lie at whole numbers.
{"do": "remap", "way": "linear", "cubic" or "lanczos4", "threads": N}: one run, answered with its nanoseconds a pixel.
"""
import json
import sys
import time

import cv2
import numpy as np

WAYS = {"linear": cv2.INTER_LINEAR, "cubic": cv2.INTER_CUBIC, "lanczos4": cv2.INTER_LANCZOS4}

source = positions = None
for line in sys.stdin:
    task = json.loads(line)
    answer = 0.0
    if task["do"] == "source":
        kind = np.uint16 if task["bits"] == 16 else np.uint8
        source = np.fromfile(task["file"], kind).reshape(task["height"], task["width"], 3)
    elif task["do"] == "positions":
        positions = np.fromfile(task["file"], np.float32).reshape(task["height"], task["width"], 2)
    else:
        cv2.setNumThreads(task["threads"])
        start = time.perf_counter()
        cv2.remap(source, positions, None, WAYS[task["way"]], borderMode=cv2.BORDER_CONSTANT)
        answer = (time.perf_counter() - start) * 1e9 / (positions.shape[0] * positions.shape[1])
    print(json.dumps(answer), flush=True)
