"""Places seen by cameras, and cameras found from places, by OpenCV's `projectPoints` and `solvePnP` (opencv-python-headless).

A camera is panned to its left about y, tilted up about x and rolled clockwise about z; OpenCV looks along +z with y down.
Writes camera.json beside this file.
"""
import json
from pathlib import Path

import cv2
import numpy as np

rng = np.random.default_rng(5)
CASES = [
    ([0.0, 1.6, 4.0], [0.0, 0.0, 0.0], 35.0, 36.0, 1920, 1080),
    ([3.0, 0.4, -2.0], [70.0, -12.0, 0.0], 50.0, 36.0, 1920, 1080),
    ([-1.0, 8.0, 2.0], [-160.0, -60.0, 33.0], 18.0, 24.89, 2048, 858),
    ([0.2, 0.1, 0.3], [15.0, 85.0, 180.0], 85.0, 36.0, 1281, 719),
]


def about(axis, degrees):
    return cv2.Rodrigues(np.eye(3)[axis] * np.radians(degrees))[0]


cases = []
for place, (pan, tilt, roll), focal, sensor, width, height in CASES:
    turn = about(1, pan) @ about(0, tilt) @ about(2, -roll)
    to_camera = np.diag([1.0, -1.0, -1.0]) @ turn.T
    zoom = focal / sensor * width
    lens = np.array([[zoom, 0, width / 2], [0, zoom, height / 2], [0, 0, 1]])
    pixels = rng.uniform([0, 0], [width, height], (12, 2))
    depths = rng.uniform(1.0, 30.0, 12)
    rays = np.concatenate([(pixels - [width / 2, height / 2]) / zoom, np.ones((12, 1))], 1)
    world = (rays * depths[:, None]) @ to_camera + place
    turned, moved = cv2.Rodrigues(to_camera)[0], -to_camera @ np.array(place)
    seen = cv2.projectPoints(world, turned, moved, lens, None)[0][:, 0]
    found, turned, moved = cv2.solvePnP(world, seen, lens, None, flags=cv2.SOLVEPNP_ITERATIVE)
    assert found
    turned, moved = cv2.solvePnPRefineLM(world, seen, lens, None, turned, moved)
    solved = (-cv2.Rodrigues(turned)[0].T @ moved)[:, 0]
    cases.append({
        "place": place, "turn": [pan, tilt, roll], "focal_mm": focal, "sensor_width_mm": sensor, "width": width, "height": height,
        "solved_place": solved.tolist(),
        "points": [{"world": w.tolist(), "seen": s.tolist(), "depth": d} for w, s, d in zip(world, seen, depths)],
    })
Path(__file__).with_suffix(".json").write_text(json.dumps(cases, indent=1) + "\n")
