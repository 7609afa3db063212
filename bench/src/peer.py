"""Times OpenCV for the bench, one task a line on standard input, one answer a line on standard output, both JSON.

{"do": "source", "file": PATH, "width": W, "height": H, "bits": 8 or 16}: interleaved RGB.
{"do": "positions", "file": PATH, "width": W, "height": H}: x, y as f32 of each output pixel, whose centres lie at whole numbers.
{"do": "remap", "way": "linear", "cubic" or "lanczos4", "threads": N}: one run, answered with its nanoseconds a pixel.
{"do": "steps", ...}: a camera (3 x 3), its distortion (k1 k2 p1 p2 k3), flat and straight (four points each that belong together, of the undistorted
picture and of the output, pixel centres at whole numbers), width and height of the output.
{"do": "two steps", "way": as above, "threads": N}: lens, then perspective, of the whole source; answered with nanoseconds a pixel of the output.
"""
import json
import sys
import time

import cv2
import numpy as np

WAYS = {"linear": cv2.INTER_LINEAR, "cubic": cv2.INTER_CUBIC, "lanczos4": cv2.INTER_LANCZOS4}

source = positions = steps = None


def time_of(run, threads, pixels):
    cv2.setNumThreads(threads)
    start = time.perf_counter()
    run()
    return (time.perf_counter() - start) * 1e9 / pixels


def both_steps(way):
    across, down, homography, size = steps
    flat = cv2.remap(source, across, down, way)
    cv2.warpPerspective(flat, homography, size, flags=way)


for line in sys.stdin:
    task = json.loads(line)
    answer = 0.0
    if task["do"] == "source":
        kind = np.uint16 if task["bits"] == 16 else np.uint8
        source = np.fromfile(task["file"], kind).reshape(task["height"], task["width"], 3)
    elif task["do"] == "positions":
        positions = np.fromfile(task["file"], np.float32).reshape(task["height"], task["width"], 2)
    elif task["do"] == "steps":
        camera = np.array(task["camera"])
        size = (source.shape[1], source.shape[0])
        maps = cv2.initUndistortRectifyMap(camera, np.array(task["distortion"]), None, camera, size, cv2.CV_32FC1)
        homography = cv2.getPerspectiveTransform(np.float32(task["flat"]), np.float32(task["straight"]))
        steps = (*maps, homography, (task["width"], task["height"]))
    else:
        way = WAYS[task["way"]]
        if task["do"] == "remap":
            pixels = positions.shape[0] * positions.shape[1]
            answer = time_of(lambda: cv2.remap(source, positions, None, way), task["threads"], pixels)
        else:
            answer = time_of(lambda: both_steps(way), task["threads"], steps[3][0] * steps[3][1])
    print(json.dumps(answer), flush=True)
