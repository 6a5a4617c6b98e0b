"""Writes frames.bin and frames.json: natural pictures, each moved by known amounts.

Run with numpy, OpenCV and scikit-image 0.26: `python make.py`. The pictures are those samples of scikit-image that are in
the public domain or under CC0. Each is moved at twice the size and then brought down, so that a moved frame is what a
camera would have seen, not a resampled first frame; both get noise of their own, 1 % of white.
"""
import json, pathlib
import cv2, numpy as np
from skimage import data

SIDE, HERE = 180, pathlib.Path(__file__).parent
PICTURES = {"gravel": data.gravel, "brick": data.brick, "grass": data.grass, "coffee": data.coffee, "cat": data.chelsea, "coins": data.coins}


def square(picture):
    """The middle of a picture, grey, twice as wide as a frame and a border."""
    grey = picture if picture.ndim == 2 else cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY)
    wide = 2 * SIDE + 80
    if min(grey.shape) < wide:
        grey = cv2.resize(grey, None, fx=wide / min(grey.shape), fy=wide / min(grey.shape), interpolation=cv2.INTER_LANCZOS4)
    y, x = ((length - wide) // 2 for length in grey.shape)
    return grey[y:y + wide, x:x + wide].astype(np.float32)


def frame(grey, matrix, noise):
    """What is seen after places (in pixels of a frame, about its middle) were moved by a matrix."""
    middle, border = SIDE / 2, 20
    lift = np.array([[2, 0, 2 * border - 0.5], [0, 2, 2 * border - 0.5], [0, 0, 1.0]])
    centre = np.array([[1, 0, -middle], [0, 1, -middle], [0, 0, 1.0]])
    whole = lift @ np.linalg.inv(centre) @ matrix @ centre @ np.linalg.inv(lift)
    moved = cv2.warpPerspective(grey, whole, grey.shape[::-1], flags=cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REFLECT)
    part = moved[2 * border:2 * (border + SIDE), 2 * border:2 * (border + SIDE)]
    small = cv2.resize(part, (SIDE, SIDE), interpolation=cv2.INTER_AREA)
    return np.clip(np.rint(small + noise.normal(0, 2.55, small.shape)), 0, 255).astype(np.uint8)


def main():
    random = np.random.default_rng(7)
    frames, listed = [], []
    for name, load in PICTURES.items():
        grey = square(load())
        frames.append(frame(grey, np.eye(3), random))
        first = len(frames) - 1
        for motion in ["shift", "shift", "similarity", "similarity"]:
            x, y = random.uniform(-12, 12, 2)
            turn, scale = (np.radians(random.uniform(-5, 5)), random.uniform(0.95, 1.05)) if motion == "similarity" else (0.0, 1.0)
            c, s = scale * np.cos(turn), scale * np.sin(turn)
            matrix = np.array([[c, -s, x], [s, c, y], [0, 0, 1.0]])
            frames.append(frame(grey, matrix, random))
            listed.append({"picture": name, "motion": motion, "first": first, "moved": len(frames) - 1, "matrix": matrix.tolist()})
    (HERE / "frames.bin").write_bytes(b"".join(frame.tobytes() for frame in frames))
    (HERE / "frames.json").write_text(json.dumps({"side": SIDE, "pairs": listed}, indent=1) + "\n")


main()
