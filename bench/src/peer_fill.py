"""How far a filled part is from the truth, and how far OpenCV's two inpainting methods are on the same pixels.

peer_fill.py FOLDER WIDTH HEIGHT: truth and ours (interleaved RGB) and mask (255 where hidden) lie in the folder; telea and flow are
written beside them. Prints [colour, gradient] of ours,
of Telea's method and of the Navier-Stokes one as JSON: mean absolute differences of means over squares of 16 px, of hidden pixels alone.
"""
import json
import sys

import cv2
import numpy as np

folder, width, height = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
read = lambda name, *more: np.fromfile(f"{folder}/{name}", np.uint8).reshape(height, width, *more)
truth, ours, mask = read("truth", 3), read("ours", 3), read("mask")
known = truth.copy()
known[mask > 0] = 0
hidden = (mask > 0).astype(np.float32)


def gradient(a):
    a = a.astype(np.float32)
    return np.abs(np.diff(a, axis=1))[:-1].mean(2) + np.abs(np.diff(a, axis=0))[:, :-1].mean(2)


def means(a, weight):
    total = cv2.boxFilter(a * (weight[..., None] if a.ndim == 3 else weight), -1, (16, 16), normalize=False)
    count = np.maximum(cv2.boxFilter(weight, -1, (16, 16), normalize=False), 1)
    return total / (count[..., None] if a.ndim == 3 else count)


def off(a):
    colour = np.abs(means(a.astype(np.float32), hidden) - means(truth.astype(np.float32), hidden)).mean(2)[hidden > 0].mean()
    inner = hidden[:-1, :-1]
    grain = np.abs(means(gradient(a), inner) - means(gradient(truth), inner))[inner > 0].mean()
    return [float(colour), float(grain)]


telea, flow = (cv2.inpaint(known, mask, 5, way) for way in (cv2.INPAINT_TELEA, cv2.INPAINT_NS))
for name, filled in (("telea", telea), ("flow", flow)):
    filled.tofile(f"{folder}/{name}")
print(json.dumps(off(ours) + off(telea) + off(flow)))
