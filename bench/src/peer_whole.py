"""Straightens a JPEG the two-step way with OpenCV: lens, then perspective, both with its best filter.

python3 peer_whole.py TASK.json; the task holds picture, out, camera (3 x 3), distortion (k1 k2 p1 p2 k3), flat and straight (four points each
that belong together, of the undistorted picture and of the output, pixel centres at whole numbers), width, height, quality. Prints seconds of each stage as JSON.
"""
import json
import sys
import time

import cv2
import numpy as np

with open(sys.argv[1]) as file:
    task = json.load(file)
times = {}
started = time.perf_counter()


def lap(name):
    global started
    now = time.perf_counter()
    times[name] = now - started
    started = now


picture = cv2.imread(task["picture"], cv2.IMREAD_COLOR | cv2.IMREAD_IGNORE_ORIENTATION)
lap("decode")
camera = np.array(task["camera"])
size = (picture.shape[1], picture.shape[0])
across, down = cv2.initUndistortRectifyMap(camera, np.array(task["distortion"]), None, camera, size, cv2.CV_32FC1)
flat = cv2.remap(picture, across, down, cv2.INTER_LANCZOS4)
lap("undistort")
homography = cv2.getPerspectiveTransform(np.float32(task["flat"]), np.float32(task["straight"]))
straight = cv2.warpPerspective(flat, homography, (task["width"], task["height"]), flags=cv2.INTER_LANCZOS4)
lap("warp")
cv2.imwrite(task["out"], straight, [cv2.IMWRITE_JPEG_QUALITY, task["quality"]])
lap("encode")
print(json.dumps(times))
