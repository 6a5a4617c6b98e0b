"""Writes lens.json: where OpenCV shows places through lenses, for the kernel to be checked on.

Made with opencv-python-headless 5.0.0.93; run it in this folder to make it anew.
"""

import json

import cv2
import numpy as np

WIDE, HIGH = 1920, 1080
LENSES = [
    {"focal": 1800.0, "centre": [960.0, 540.0], "radial": [-0.21, 0.06, 0.0], "tangential": [0.0, 0.0]},
    {"focal": 1500.0, "centre": [948.5, 551.25], "radial": [-0.28, 0.11, -0.02], "tangential": [0.0013, -0.0027]},
    {"focal": 2400.0, "centre": [960.0, 540.0], "radial": [0.15, 0.02, 0.01], "tangential": [-0.004, 0.003]},
]


def shown(lens, places):
    (x, y), focal = lens["centre"], lens["focal"]
    camera = np.array([[focal, 0, x], [0, focal, y], [0, 0, 1.0]])
    k1, k2, k3 = lens["radial"]
    p1, p2 = lens["tangential"]
    points = np.column_stack([(places - [x, y]) / focal, np.ones(len(places))])
    to, _ = cv2.projectPoints(points, np.zeros(3), np.zeros(3), camera, np.array([k1, k2, p1, p2, k3]))
    return to[:, 0]


def main():
    x, y = np.meshgrid(np.linspace(0.5, WIDE - 0.5, 7), np.linspace(0.5, HIGH - 0.5, 5))
    places = np.column_stack([x.ravel(), y.ravel()])
    made = [{**lens, "places": places.tolist(), "shown": shown(lens, places).tolist()} for lens in LENSES]
    with open("lens.json", "w") as file:
        json.dump(made, file)


main()
