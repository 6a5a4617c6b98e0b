"""Holes filled beside OpenCV's inpainting: photographs that come with scikit-image, with wires drawn out of them and with holes of
52 by 72 pixels. How far what fills them is off what was there, in the mean, of a range of 1 as it is seen. Writes a table in
Markdown. Usage: holes.py PROGRAM"""

import json
import pathlib
import statistics
import subprocess
import sys
import tempfile

import cv2
import numpy as np
from skimage import data

PHOTOGRAPHS = ["coffee", "chelsea", "astronaut", "rocket", "grass", "gravel", "brick"]
REACH = 5


def photograph(name):
    still = getattr(data, name)()
    return np.repeat(still[..., None], 3, 2) if still.ndim == 2 else np.ascontiguousarray(still[..., 2::-1])


def wires(random, high, wide):
    hole = np.zeros((high, wide), np.uint8)
    for _ in range(4):
        ends = random.uniform(0, [[wide, high], [wide, high]]).astype(int)
        cv2.line(hole, tuple(map(int, ends[0])), tuple(map(int, ends[1])), 255, 7)
    return hole


def blots(random, high, wide):
    hole = np.zeros((high, wide), np.uint8)
    for _ in range(3):
        middle = random.uniform([70, 70], [wide - 70, high - 70]).astype(int)
        cv2.ellipse(hole, tuple(map(int, middle)), (36, 26), random.uniform(0, 180), 0, 360, 255, -1)
    return hole


def filled(program, folder, way):
    """By a Fill hole row, from the two files in a folder."""
    high, wide = cv2.imread(f"{folder}/hole.png", 0).shape
    media = [{"id": 1, "name": "still", "path": "still.png", "colour": "srgb"}, {"id": 2, "name": "hole", "path": "hole.png", "colour": "linear"}]
    stages = [
        {"id": 1, "kind": "plate", "name": "Still", "controls": {"media": {"media": 1}}},
        {"id": 2, "kind": "plate", "name": "Hole", "controls": {"media": {"media": 2}}},
        {"id": 3, "kind": "fill_hole", "name": "Filled", "controls": {"with": way}, "links": {"main": {"from": {"stage": 1}}, "hole": {"from": {"stage": 2}, "take": "red"}}},
        {"id": 4, "kind": "final", "name": "Final", "links": {"main": {"from": {"stage": 3}}}},
    ]
    picture = {"width": wide, "height": high, "fps": 24, "frames": {"first": 1, "last": 1}}
    setup = pathlib.Path(folder) / "setup.json"
    setup.write_text(json.dumps({"format": 1, "name": "holes", "picture": picture, "media": media, "stages": stages}))
    subprocess.run([program, "render", "--setup", setup, "--bits", "16", "--frames", "1-1", "--out", f"{folder}/out.####.png"], check=True, capture_output=True)
    return cv2.imread(f"{folder}/out.0001.png", cv2.IMREAD_UNCHANGED)[..., :3] / 257


def main():
    program, random = sys.argv[1], np.random.default_rng(5)
    ways = ["smooth", "patches", "Telea", "Navier-Stokes"]
    print("| picture | ours, smoothly | ours, with patches | Telea's | Navier-Stokes |", "|---|---|---|---|---|", sep="\n")
    means = {}
    for name in PHOTOGRAPHS:
        still = photograph(name)
        for what, drawn in (("wires", wires), ("holes", blots)):
            hole = drawn(random, *still.shape[:2])
            torn = still.copy()
            torn[hole > 0] = 0
            with tempfile.TemporaryDirectory() as folder:
                cv2.imwrite(f"{folder}/still.png", torn)
                cv2.imwrite(f"{folder}/hole.png", hole)
                made = [filled(program, folder, way) for way in ways[:2]]
            made += [cv2.inpaint(torn, hole, REACH, how) for how in (cv2.INPAINT_TELEA, cv2.INPAINT_NS)]
            off = [np.abs(one.astype(float) - still)[hole > 0].mean() / 255 for one in made]
            means.setdefault(what, []).append(off)
            print(f"| {name}, {what} | " + " | ".join(f"{one:.3f}" for one in off) + " |", flush=True)
    for what, all_off in means.items():
        print(f"| mean of {what} | " + " | ".join(f"{statistics.mean(one):.3f}" for one in zip(*all_off)) + " |")


main()
