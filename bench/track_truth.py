"""Follows the marks and planes of the demo's shots with OpenCV, on the frames that `brazen-veil demo` draws, and writes
how far it is off the truth beside them, planes with three tenths covered: medians in pixels, for crates/veil-demo/tests/truth/opencv.json.
Usage: track_truth.py FOLDER_OF_THE_SHOW SHOT=FRAMES ..."""

import json
import pathlib
import sys

import cv2
import numpy as np
import OpenImageIO as oiio

LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
LK = dict(winSize=(31, 31), maxLevel=2, criteria=(cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 40, 0.001))


def image(file):
    """Luma as a display has it, eight bits."""
    light = oiio.ImageBuf(str(file)).get_pixels(oiio.FLOAT)[..., :3] @ LUMA
    encoded = np.where(light <= 0.0031308, light * 12.92, 1.055 * np.maximum(light, 0) ** (1 / 2.4) - 0.055)
    return (np.clip(encoded, 0, 1) * 255 + 0.5).astype(np.uint8)


def passing(seen, planes):
    """What crates/veil-demo/tests/truth/tracking.rs lays over three tenths of each plane."""
    seen = seen.copy()
    y, x = np.mgrid[0 : seen.shape[0], 0 : seen.shape[1]].astype(np.float64)
    shade = 0.35 + 0.3 * np.sin(x * 0.31) * np.cos(y * 0.23)
    for plane in planes:
        (ax, ay), _, (cx, cy), _ = plane["corners"]
        wide, high = (cx - ax) * 0.5, (cy - ay) * 0.6
        left, top = ax + (cx - ax) * (0.25 + 0.2 * np.sin(ax * 0.7)), ay + high * 0.3
        inside = (x >= left) & (y >= top) & (x < left + wide) & (y < top + high)
        seen[inside] = (np.clip(shade[inside], 0, 1) * 255 + 0.5).astype(np.uint8)
    return seen


def in_pixels(places):
    """OpenCV's centres of pixels are whole numbers."""
    return np.asarray(places, np.float32).reshape(-1, 1, 2) - 0.5


def followed(folder, code, count):
    shot = folder / "plates" / code
    truth = json.loads((shot / "truth.json").read_text())["frames"][:count]
    frames = [image(shot / f"{code}.{frame['frame']}.exr") for frame in truth]
    marks = in_pixels([[mark["x"], mark["y"]] for mark in truth[0]["marks"]])
    planes = []
    for plane in truth[0]["planes"]:
        inside = np.zeros_like(frames[0])
        cv2.fillConvexPoly(inside, np.round(in_pixels(plane["corners"])).astype(np.int32), 255)
        features = cv2.goodFeaturesToTrack(frames[0], 80, 0.01, 5, mask=inside)
        planes.append((features, features.copy(), in_pixels(plane["corners"])))
    off_marks, off_corners = [], []
    covered = [frames[0]] + [passing(frame, known["planes"]) for frame, known in zip(frames[1:], truth[1:])]
    for at, (before, now, known) in enumerate(zip(frames, frames[1:], truth[1:])):
        marks, _, _ = cv2.calcOpticalFlowPyrLK(before, now, marks, None, **LK)
        wanted = in_pixels([[mark["x"], mark["y"]] for mark in known["marks"]])
        off_marks += list(np.linalg.norm(marks - wanted, axis=-1).ravel())
        for number, (first, last, corners) in enumerate(planes):
            last, _, _ = cv2.calcOpticalFlowPyrLK(covered[at], covered[at + 1], last, None, **LK)
            carried, _ = cv2.findHomography(first, last, cv2.RANSAC, 1.0)
            planes[number] = (first, last, corners)
            wanted = in_pixels(known["planes"][number]["corners"])
            off_corners += list(np.linalg.norm(cv2.perspectiveTransform(corners, carried) - wanted, axis=-1).ravel())
    return {"frames": count, "marks": round(float(np.median(off_marks)), 4), "corners": round(float(np.median(off_corners)), 4)}


def main():
    folder = pathlib.Path(sys.argv[1])
    shots = dict(one.split("=") for one in sys.argv[2:])
    found = {code: followed(folder, code, int(count)) for code, count in shots.items()}
    print(json.dumps({"opencv": cv2.__version__, "shots": found}, indent=2))


main()
