"""Runs the program's bench and the same work in the reference libraries in the same minute, on two threads each,
and writes docs/benchmarks.md as ratios. Usage: compare.py PROGRAM"""

import json
import pathlib
import statistics
import subprocess
import sys
import time

import cv2
import numpy as np

from haze import Haze

TIMES = 9
WIDE, HIGH = 1920, 1080


def picture():
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(np.float32)
    u, v = x / 97, y / 61
    channels = [0.5 + 0.4 * np.sin(u) * np.cos(v), 0.5 + 0.4 * np.cos(u * 1.7), 0.5 + 0.3 * np.sin(v * 2.3), np.ones_like(u)]
    return np.ascontiguousarray(np.stack(channels, -1), np.float32)


def median_ms(work):
    work()
    taken = []
    for _ in range(TIMES):
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1e3)
        # Three of a very slow one are enough.
        if len(taken) >= 3 and sum(taken) > 6e3:
            break
    return statistics.median(taken)


def reference():
    cv2.setNumThreads(2)
    plate = picture()
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(np.float32)
    from_x, from_y = x - 3 * np.sin(y * 0.05), y - 3 * np.cos(x * 0.03)
    from_x, from_y = from_x.astype(np.float32), from_y.astype(np.float32)
    measured = {}
    for sigma in (2, 10, 30, 100):
        measured[f"gaussian_{sigma}"] = median_ms(lambda: cv2.GaussianBlur(plate, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE))
    for name, how in (("remap_bilinear", cv2.INTER_LINEAR), ("remap_bicubic", cv2.INTER_CUBIC)):
        measured[name] = median_ms(lambda: cv2.remap(plate, from_x, from_y, how, borderMode=cv2.BORDER_REFLECT))
    full = Haze(plate)
    frames = iter(range(1, 10_000))
    measured["haze_full"] = median_ms(lambda: full.frame(next(frames)))
    half = Haze(cv2.resize(plate, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), 2)
    measured["haze_half"] = median_ms(lambda: half.frame(next(frames)))
    return measured


def main():
    ours = {one["name"]: one["ms"] for one in json.loads(subprocess.check_output([sys.argv[1], "bench", "--json", "--times", str(TIMES)]))}
    theirs = reference()
    lines = ["# Benchmarks", "", "Written by `./veil bench`: 1920x1080, four floats a pixel where it is a picture, two threads, medians of", f"{TIMES} runs, both sides in the same minute. Machines are shared and noisy: the ratios count, the times are orientation.", ""]
    lines += ["| work | ours, ms | numpy, OpenCV, pyfastnoiselite, ms | ratio |", "|---|---|---|---|"]
    for name, ms in ours.items():
        other = theirs.get(name)
        lines.append(f"| {name} | {ms:.1f} | {f'{other:.1f}' if other else ''} | {f'{ms / other:.2f}' if other else ''} |")
    half = ours["haze_half"] / ours["haze_full"]
    lines += ["", f"The haze at half scale takes {half:.2f} of our own time at full scale.", ""]
    lines += ["The haze is uncached but for the plate: every run is another frame, and the memory for held results (512 MB) is", "full before the first that counts. The reference is `bench/haze.py`.", ""]
    page = pathlib.Path(__file__).parent.parent / "docs/benchmarks.md"
    page.write_text("\n".join(lines) + "\n")
    print("\n".join(lines))


main()
