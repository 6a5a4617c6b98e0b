"""Motion between frames beside OpenCV's dense inverse search at its medium preset: photographs that come with scikit-image,
moved by known smooth bends of up to 30 pixels, and made footage of two layers that move apart. Both sides by turns, two
threads. Writes a table in Markdown. Usage: flow.py PROGRAM"""

import json
import pathlib
import statistics
import subprocess
import sys
import tempfile
import time

import cv2
import numpy as np
from skimage import data

WIDE, HIGH = 1920, 1080
TURNS = 5
PHOTOGRAPHS = [("coffee", 8), ("chelsea", 20), ("astronaut", 30), ("camera", 12), ("coins", 30), ("moon", 5), ("rocket", 16), ("brick", 24)]
LAYERS = [("coffee", "gravel"), ("cat", "grass"), ("camera", "coffee")]


def photograph(name):
    """In eight bits of grey, larger than the frame."""
    still = getattr(data, name)()
    if still.ndim == 3:
        still = cv2.cvtColor(still[..., :3], cv2.COLOR_RGB2GRAY)
    grow = 1.3 * max(WIDE / still.shape[1], HIGH / still.shape[0])
    return cv2.resize(still, None, fx=grow, fy=grow, interpolation=cv2.INTER_CUBIC).astype(np.float32)


def bend(random, most):
    """Smooth moves of at most so many pixels."""
    y, x = np.mgrid[0:HIGH, 0:WIDE]
    moves = np.zeros((HIGH, WIDE, 2)) + random.normal(0, 0.7, 2)
    for axis in (0, 1, 0, 1, 0, 1):
        along, down = random.uniform(-1.6, 1.6, 2)
        wave = np.sin(2 * np.pi * (along * x / WIDE + down * y / HIGH) + random.uniform(0, 6.28))
        moves[..., axis] += random.uniform(0.3, 1) * wave
    return (moves * most / np.linalg.norm(moves, axis=-1).max()).astype(np.float32)


def places():
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(np.float32)
    return x, y


def before(moves):
    """Where each place of the second frame lay in the first."""
    x, y = places()
    from_x, from_y = x.copy(), y.copy()
    for _ in range(40):
        there = cv2.remap(moves, from_x, from_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        from_x, from_y = x - there[..., 0], y - there[..., 1]
    return from_x, from_y


def seen(still, x, y):
    left, top = (still.shape[1] - WIDE) // 2, (still.shape[0] - HIGH) // 2
    return cv2.remap(still, x + np.float32(left), y + np.float32(top), cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)


def bent(name, most, random):
    still, moves = photograph(name), bend(random, most)
    return seen(still, *places()), seen(still, *before(moves)), moves


def layered(front, back, random):
    """An ellipse of one photograph that turns and goes its way over another, which bends."""
    front, back, moves = photograph(front), photograph(back), bend(random, 6)
    (x, y), centre, far = places(), np.float32([WIDE / 2, HIGH / 2]), random.uniform(-25, 25, 2).astype(np.float32)
    angle = np.radians(random.uniform(-2, 2))
    turn = np.float32([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    here = np.stack([x, y], -1) - centre
    ends, begins = here @ turn.T + centre + far, (here - far) @ turn
    cover = lambda at: np.clip((1 - np.hypot(at[..., 0] / (0.2 * WIDE), at[..., 1] / (0.32 * HIGH))) * 0.3 * HIGH + 0.5, 0, 1)
    first, second = cover(here), cover(begins)
    from_x, from_y = begins[..., 0] + centre[0], begins[..., 1] + centre[1]
    seen_first = seen(back, x, y) * (1 - first) + seen(front, x, y) * first
    seen_second = seen(back, *before(moves)) * (1 - second) + seen(front, from_x, from_y) * second
    return seen_first, seen_second, np.where((first > 0.5)[..., None], ends - np.stack([x, y], -1), moves)


def in_bits(frame, random):
    return np.clip(frame + random.normal(0, 1, frame.shape) + 0.5, 0, 255).astype(np.uint8)


def ours(program, folder, pair):
    for name, frame in zip(("from", "to"), pair):
        frame.astype("<f4").tofile(folder / name)
    command = [program, "bench", "--flow", str(folder), "--times", "1"]
    ms = json.loads(subprocess.check_output(command))["ms"]
    return ms, np.fromfile(folder / "moves", "<f4").reshape(HIGH, WIDE, 2)


def theirs(search, pair):
    start = time.perf_counter()
    moves = search.calc(*pair, None)
    return (time.perf_counter() - start) * 1e3, moves


def main():
    program = sys.argv[1]
    cv2.setNumThreads(2)
    search = cv2.DISOpticalFlow_create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
    work = [(f"{name}, {most} px", bent, (name, most)) for name, most in PHOTOGRAPHS]
    work += [(f"{front} over {back}", layered, (front, back)) for front, back in LAYERS]
    print("| pictures | ours off by, px | theirs | ratio | ours, ms | theirs | ratio |")
    print("|---|---|---|---|---|---|---|")
    all_off, all_ratios = [], []
    with tempfile.TemporaryDirectory() as folder:
        for number, (name, make, what) in enumerate(work):
            random = np.random.default_rng(7000 + number)
            first, second, truth = make(*what, random)
            pair = in_bits(first, random), in_bits(second, random)
            turns = [(ours(program, pathlib.Path(folder), pair), theirs(search, pair)) for _ in range(TURNS)]
            off = [float(np.linalg.norm(moves - truth, axis=-1).mean()) for _, moves in turns[-1]]
            ms = [statistics.median(turn[side][0] for turn in turns) for side in (0, 1)]
            ratio = statistics.median(turn[0][0] / turn[1][0] for turn in turns)
            all_off.append(off)
            all_ratios.append(ratio)
            print(f"| {name} | {off[0]:.3f} | {off[1]:.3f} | {off[0] / off[1]:.2f} | {ms[0]:.0f} | {ms[1]:.0f} | {ratio:.2f} |")
    mean = np.mean(all_off, axis=0)
    ratio = statistics.median(all_ratios)
    print(f"| mean off, median ratio (to be at most 1.00 and 1.50) | {mean[0]:.3f} | {mean[1]:.3f} | {mean[0] / mean[1]:.2f} | | | {ratio:.2f} |")


main()
