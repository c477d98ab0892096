# The classical yardstick, where OpenCV is installed: dense inverse search both ways, carried to the moment in between,
# blended by how well both ways agree. Reads sequences as written by render.mjs; prints mean PSNR per preset and removal as JSON.
import json
import sys

import cv2
import numpy as np

width, height, files = int(sys.argv[1]), int(sys.argv[2]), sys.argv[3:]
cv2.setNumThreads(1)
gx, gy = np.meshgrid(np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32))


def warp(image, flow, part):
    return cv2.remap(image, gx + part * flow[..., 0], gy + part * flow[..., 1], cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)


def carried(flow, part):
    x = np.clip(np.rint(gx + part * flow[..., 0]).astype(int), 0, width - 1)
    y = np.clip(np.rint(gy + part * flow[..., 1]).astype(int), 0, height - 1)
    index, size = (y * width + x).ravel(), width * height
    sums = [np.bincount(index, flow[..., i].ravel(), size) for i in (0, 1)] + [np.bincount(index, minlength=size)]
    sums = np.dstack([s.reshape(height, width) for s in sums]).astype(np.float32)
    for _ in range(60):
        empty = sums[..., 2] < 1e-3
        if not empty.any():
            break
        sums[empty] = cv2.blur(sums, (5, 5))[empty]
    return sums[..., :2] / np.maximum(sums[..., 2:], 1e-6)


def disagreement(there, back):
    return np.linalg.norm(there + np.dstack([warp(np.ascontiguousarray(back[..., i]), there, 1) for i in (0, 1)]), axis=2)


def between(a, b, there, back, t):
    f0, f1 = carried(there, t), carried(back, 1 - t)
    w0 = (1 - t) * np.exp(-warp(disagreement(there, back), f0, -t)) + 1e-4
    w1 = t * np.exp(-warp(disagreement(back, there), f1, t - 1)) + 1e-4
    made = (w0 * warp(a.astype(np.float32), f0, -t) + w1 * warp(b.astype(np.float32), f1, t - 1)) / (w0 + w1)
    return np.clip(np.rint(made), 0, 255)


def psnr(a, b):
    error = np.mean((a.astype(np.float64) - b) ** 2)
    return 100.0 if error == 0 else min(100.0, 10 * np.log10(255 * 255 / error))


result = {}
for name, preset in (("fast", cv2.DISOPTICAL_FLOW_PRESET_FAST), ("medium", cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)):
    search = cv2.DISOpticalFlow_create(preset)
    for step in (2, 4):
        means = []
        for file in files:
            frames = np.fromfile(file, np.uint8).reshape(-1, height, width)
            values = []
            for k in range(0, len(frames) - step, step):
                a, b = frames[k], frames[k + step]
                there, back = search.calc(a, b, None), search.calc(b, a, None)
                values += [psnr(between(a, b, there, back, j / step), frames[k + j]) for j in range(1, step)]
            means.append(float(np.mean(values)))
        result[f"{name} {step}"] = means
print(json.dumps(result))
