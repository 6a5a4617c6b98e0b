"""How strongly scipy's thin-plate spline (`RBFInterpolator`) bends through ties of ellipses, and how scipy's own field moves places
between them. Writes outlines.json."""

import json
import pathlib

import numpy as np
from scipy.interpolate import RBFInterpolator

ELLIPSES = [
    {"middle": [300, 300], "rest": [100, 60], "goal": [120, 40]},
    {"middle": [600, 300], "rest": [80, 80], "goal": [60, 100]},
    {"middle": [450, 130], "rest": [200, 40], "goal": [200, 60]},
    {"middle": [450, 470], "rest": [250, 30], "goal": [240, 50]},
]
TIES, STEP, HIGH, WIDE = 40, 4, 600, 900


def places(ellipse, which, count):
    turn = np.arange(count) / count * 2 * np.pi
    return np.array(ellipse["middle"]) + np.stack([np.cos(turn), np.sin(turn)], 1) * ellipse[which]


rest = np.concatenate([places(one, "rest", TIES) for one in ELLIPSES])
goal = np.concatenate([places(one, "goal", TIES) for one in ELLIPSES])
y, x = np.mgrid[0:HIGH + 1:STEP, 0:WIDE + 1:STEP]
grid = np.stack([x.ravel(), y.ravel()], 1).astype(float)
ways = RBFInterpolator(rest, goal - rest, kernel="thin_plate_spline")(grid).reshape(*x.shape, 2)
xx = ways[1:-1, 2:] - 2 * ways[1:-1, 1:-1] + ways[1:-1, :-2]
yy = ways[2:, 1:-1] - 2 * ways[1:-1, 1:-1] + ways[:-2, 1:-1]
xy = (ways[2:, 2:] - ways[2:, :-2] - ways[:-2, 2:] + ways[:-2, :-2]) / 4
energy = float((xx**2 + yy**2 + 2 * xy**2).sum())
out = {"ellipses": ELLIPSES, "ties": TIES, "step": STEP, "size": [WIDE, HIGH], "energy": energy}
pathlib.Path(__file__).with_suffix(".json").write_text(json.dumps(out))
