"""Runs the program's bench and the same work in the reference libraries in the same minute, on two threads each,
and writes docs/benchmarks.md as ratios. Usage: compare.py PROGRAM"""

import json
import pathlib
import statistics
import subprocess
import sys
import tempfile
import time

import cv2
import numexpr
import numpy as np
import OpenEXR
import OpenImageIO as oiio

from chain import Chain
from haze import Haze
from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType
from scipy import ndimage
from scipy.interpolate import RBFInterpolator

TIMES = 9
ROUNDS = 5
CACHE_MB = 512
WIDE, HIGH = 1920, 1080
# The highest ratio that each is to have.
BARS = {
    "gaussian_2": 1.0, "gaussian_10": 0.4, "gaussian_30": 0.1, "gaussian_100": 0.02, "remap_bilinear": 1.0, "remap_bicubic": 0.8,
    "perspective_gentle": 1.0, "perspective_strong": 1.0, "perspective_turned": 1.0, "formula_10_ops": 0.25, "over": 1.0, "noise_6_octaves_3d": 0.2, "exr_half_zip_write": 1.3,
    "exr_half_zip_read": 1.3, "haze_full": 0.2, "track_100_points": 1.5, "glow_100": 0.03, "chain_8_rows": 0.3, "median_9_frames": 0.5, "defocus_20_far": 0.5,
}

# What has no peer, and how long it may take.
MOST_MS = {"screen_key_960x540": "25 ms", "plan_200_rows": "3 ms", "surface_followed": "60 ms", "shape_warp_dragged_half": "83 ms", "clean_plate_48": "6000 ms"}


def bar(name, ratio):
    """What a ratio is to be at most, and whether it is more."""
    if name not in BARS:
        return ""
    return f"{BARS[name]:.2f}" if ratio <= BARS[name] else f"{BARS[name]:.2f}, not reached"


def picture():
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(np.float32)
    u, v = x / 97, y / 61
    channels = [0.5 + 0.4 * np.sin(u) * np.cos(v), 0.5 + 0.4 * np.cos(u * 1.7), 0.5 + 0.3 * np.sin(v * 2.3), np.ones_like(u)]
    return np.ascontiguousarray(np.stack(channels, -1), np.float32)


# What a call of a library is known by, and the call: for each row those that were tried, of which the quickest counts.


def over(below, layer):
    """A premultiplied layer over a picture; opacity is not in it."""
    under, above, made = oiio.ImageBuf(below), oiio.ImageBuf(layer), oiio.ImageBuf(oiio.ImageSpec(WIDE, HIGH, 4, "float"))
    kept, out = np.empty_like(below), np.empty_like(below)

    def by_numpy():
        np.multiply(below, 1 - layer[..., 3:], out=out)
        np.add(out, layer, out=out)

    def by_opencv():
        share = cv2.merge([1 - cv2.extractChannel(layer, 3)] * 4)
        cv2.add(cv2.multiply(below, share, dst=kept), layer, dst=out)

    return {
        "oiio over": lambda: oiio.ImageBufAlgo.over(made, above, under, nthreads=2),
        "oiio over, new": lambda: oiio.ImageBufAlgo.over(above, under, nthreads=2),
        "cv2.multiply and cv2.add": by_opencv,
        "numpy in place": by_numpy,
    }


def gaussian(plate, sigma):
    made, kernel = np.empty_like(plate), cv2.getGaussianKernel(int(round(sigma * 8 + 1)) | 1, sigma, cv2.CV_32F)
    calls = {
        "cv2.GaussianBlur": lambda: cv2.GaussianBlur(plate, (0, 0), sigma, dst=made, borderType=cv2.BORDER_REPLICATE),
        "cv2.GaussianBlur, new": lambda: cv2.GaussianBlur(plate, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE),
        "cv2.sepFilter2D": lambda: cv2.sepFilter2D(plate, -1, kernel, kernel, dst=made, borderType=cv2.BORDER_REPLICATE),
    }
    if sigma <= 10:
        calls["scipy gaussian_filter"] = lambda: ndimage.gaussian_filter(plate, (sigma, sigma, 0), output=made, mode="nearest")
    if sigma <= 2:
        bell = oiio.ImageBufAlgo.make_kernel("gaussian", 6 * sigma + 1, 6 * sigma + 1)
        source = oiio.ImageBuf(plate)
        calls["oiio convolve"] = lambda: oiio.ImageBufAlgo.convolve(source, bell, nthreads=2)
    return calls


def remap(plate, from_x, from_y, how):
    """Places are others in each frame, so that to make whole numbers of them counts."""
    made = np.empty_like(plate)

    def by_whole_places():
        first, second = cv2.convertMaps(from_x, from_y, cv2.CV_16SC2)
        cv2.remap(plate, first, second, how, dst=made, borderMode=cv2.BORDER_REFLECT)

    def by_pairs():
        cv2.remap(plate, cv2.merge([from_x, from_y]), None, how, dst=made, borderMode=cv2.BORDER_REFLECT)

    return {
        "cv2.remap": lambda: cv2.remap(plate, from_x, from_y, how, dst=made, borderMode=cv2.BORDER_REFLECT),
        "cv2.remap, new": lambda: cv2.remap(plate, from_x, from_y, how, borderMode=cv2.BORDER_REFLECT),
        "cv2.convertMaps and cv2.remap": by_whole_places,
        "cv2.merge and cv2.remap": by_pairs,
    }


def formula(px, py):
    middle, room, more = np.float32(0.5), np.empty_like(px), np.empty_like(px)

    def in_place():
        np.square(np.subtract(px, WIDE / 2, out=room), out=room)
        np.square(np.subtract(py, HIGH / 2, out=more), out=more)
        np.sin(np.divide(np.sqrt(np.add(room, more, out=room), out=room), 12, out=room), out=room)
        np.add(np.multiply(room, middle, out=room), middle, out=room)

    def by_opencv():
        away = cv2.magnitude(cv2.subtract(px, WIDE / 2, dst=room), cv2.subtract(py, HIGH / 2, dst=more))
        np.sin(np.divide(away, 12, out=away), out=away)
        cv2.addWeighted(away, 0.5, away, 0, 0.5, dst=away)

    text = f"0.5 + 0.5 * sin(sqrt((px - {WIDE / 2}) ** 2 + (py - {HIGH / 2}) ** 2) / 12)"
    return {
        "numpy": lambda: middle + middle * np.sin(np.sqrt(np.square(px - WIDE / 2) + np.square(py - HIGH / 2)) / 12),
        "numpy in place": in_place,
        "cv2.magnitude and numpy": by_opencv,
        "numexpr": lambda: numexpr.evaluate(text, local_dict={"px": px, "py": py}),
    }


# As places are carried, in the same order as the program's.
PERSPECTIVES = {
    "perspective_gentle": [[1.02, 0.05, -40.0], [-0.03, 0.98, 30.0], [2e-5, -1e-5, 1.0]],
    "perspective_strong": [[2.4, 0.5, -500.0], [0.3, 2.5, -450.0], [3.5e-4, 2.0e-4, 1.0]],
    "perspective_turned": [[0.866, 0.5, -141.0], [-0.5, 0.866, 552.0], [0.0, 0.0, 1.0]],
    "perspective_smaller": [[1.1, 0.25, -160.0], [0.08, 1.05, -60.0], [2.2e-4, 1.4e-4, 1.0]],
}


def perspective(plate, name):
    """Bilinear; where much is made smaller, of a picture softened beforehand, since OpenCV does not soften by place as
    OpenImageIO does."""
    matrix, made, source = np.array(PERSPECTIVES[name]), np.empty_like(plate), oiio.ImageBuf(plate)
    softened = (lambda: cv2.GaussianBlur(plate, (0, 0), 0.7)) if name == "perspective_smaller" else (lambda: plate)
    columns = tuple(float(value) for value in matrix.T.ravel())
    return {
        "cv2.warpPerspective": lambda: cv2.warpPerspective(softened(), matrix, (WIDE, HIGH), dst=made, flags=cv2.INTER_LINEAR),
        "cv2.warpPerspective, new": lambda: cv2.warpPerspective(softened(), matrix, (WIDE, HIGH), flags=cv2.INTER_LINEAR),
        "oiio warp": lambda: oiio.ImageBufAlgo.warp(source, columns, "triangle", nthreads=2),
    }


def write_exr(file, pixels):
    spec = oiio.ImageSpec(WIDE, HIGH, 4, "half")
    spec.attribute("compression", "zip")
    out = oiio.ImageOutput.create(file)
    assert out.open(file, spec) and out.write_image(pixels) and out.close(), out.geterror()


def read_exr(file):
    found = oiio.ImageInput.open(file)
    assert found.read_image("float").shape == (HIGH, WIDE, 4)
    found.close()


def files(folder, plate):
    """Half floats as blocks of 16 lines, from and to floats."""
    file, other, head = f"{folder}/x.exr", f"{folder}/y.exr", {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}

    def written():
        with OpenEXR.File(head, {"RGBA": plate.astype(np.float16)}) as out:
            out.write(other)

    def read():
        with OpenEXR.File(other) as found:
            assert found.channels()["RGBA"].pixels.astype(np.float32).shape == (HIGH, WIDE, 4)

    return {
        "exr_half_zip_write": {"oiio ImageOutput": lambda: write_exr(file, plate), "OpenEXR File.write": written},
        "exr_half_zip_read": {"oiio ImageInput": lambda: read_exr(file), "OpenEXR File": read},
    }


PEAK = """
import os, subprocess, sys
child = subprocess.Popen(sys.argv[1:], stdout=subprocess.DEVNULL)
_, status, used = os.wait4(child.pid, 0)
assert status == 0
print(used.ru_maxrss / 1024)
"""


def peak_memory(program):
    """Megabytes at most while 100 frames of the haze are rendered from and to files, with a cache of CACHE_MB."""
    with tempfile.TemporaryDirectory() as folder:
        write_exr(f"{folder}/plate.exr", picture())
        setup = f"{folder}/haze.json"
        subprocess.check_call([program, "bench", "--haze-setup", setup])
        command = [program, "render", "--setup", setup, "--frames", "1-100", "--threads", "2", "--cache", str(CACHE_MB), "--out", f"{folder}/out.####.exr"]
        # What a process is said to have held counts what the one held that it was forked from: a small one starts it.
        return float(subprocess.check_output([sys.executable, "-c", PEAK, *command]))


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


def references(folder):
    """The same work in the libraries, by name."""
    cv2.setNumThreads(2)
    numexpr.set_num_threads(2)
    oiio.attribute("threads", 2)
    oiio.attribute("exr_threads", 2)
    plate, layer = picture(), picture()
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(np.float32)
    from_x, from_y = x - 3 * np.sin(y * 0.05), y - 3 * np.cos(x * 0.03)
    from_x, from_y = from_x.astype(np.float32), from_y.astype(np.float32)
    works = {}
    for sigma in (2, 10, 30, 100):
        works[f"gaussian_{sigma}"] = gaussian(plate, sigma)
    # A glow is a blur of what shines, and what it takes to find that and lay it on.
    works["glow_100"] = works["gaussian_100"]
    for name, how in (("remap_bilinear", cv2.INTER_LINEAR), ("remap_bicubic", cv2.INTER_CUBIC)):
        works[name] = remap(plate, from_x, from_y, how)
    for name in PERSPECTIVES:
        works[name] = perspective(plate, name)
    works["formula_10_ops"] = formula(x + np.float32(0.5), y + np.float32(0.5))
    works["over"] = over(plate, layer)
    noise = FastNoiseLite(1)
    noise.noise_type, noise.fractal_type, noise.fractal_octaves, noise.frequency = NoiseType.NoiseType_Perlin, FractalType.FractalType_FBm, 6, 1 / 60
    places = np.stack([x.ravel() + 0.5, y.ravel() + 0.5, np.full(x.size, 22.2, np.float32)])
    works["noise_6_octaves_3d"] = {"pyfastnoiselite gen_from_coords": lambda: noise.gen_from_coords(places)}
    textured = FastNoiseLite(1)
    textured.noise_type, textured.fractal_type, textured.fractal_octaves, textured.frequency = NoiseType.NoiseType_Perlin, FractalType.FractalType_FBm, 6, 1 / 60
    def frame(right, down):
        values = textured.gen_from_coords(np.stack([x.ravel() - right, y.ravel() - down, np.full(x.size, 22.2, np.float32)])).reshape(HIGH, WIDE)
        return np.clip(127.5 + 127.5 * values, 0, 255).astype(np.uint8)
    first, second = frame(0, 0), frame(6.3, -4.7)
    corners = cv2.goodFeaturesToTrack(first, 100, 0.01, 30)
    # 31 pixels a side; two coarser levels reach as far as a search of 61.
    kept = cv2.SparsePyrLKOpticalFlow_create(winSize=(31, 31), maxLevel=2)
    works["track_100_points"] = {
        "cv2.calcOpticalFlowPyrLK": lambda: cv2.calcOpticalFlowPyrLK(first, second, corners, None, winSize=(31, 31), maxLevel=2),
        "cv2.SparsePyrLKOpticalFlow": lambda: kept.calc(first, second, corners, None),
    }
    works.update(files(folder, plate))
    nine = np.stack([np.roll(plate, (-3 * number, -7 * number), (0, 1)) for number in range(9)])
    works["median_9_frames"] = {"np.median": lambda: np.median(nine, 0), "np.partition": lambda: np.partition(nine, 4, 0)[4]}
    down, right = np.mgrid[-20:21, -20:21]
    disc = (down * down + right * right <= 400).astype(np.float32)
    disc /= disc.sum()
    # One disc for all pixels; ours are as large as the depth says.
    works["defocus_20_far"] = {"cv2.filter2D": lambda: cv2.filter2D(plate, -1, disc)}
    works["chain_8_rows"] = {"`bench/chain.py`": Chain(plate).frame}
    full, half = Haze(plate), Haze(cv2.resize(plate, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), 2)
    frames = iter(range(1, 100_000))
    works["haze_full"] = {"`bench/haze.py`": lambda: full.frame(next(frames))}
    works["haze_half"] = {"`bench/haze.py`": lambda: half.frame(next(frames))}
    return works


def by_time(calls):
    """The calls that were tried, the quickest first, and what each took."""
    def once(work):
        start = time.perf_counter()
        work()
        return (time.perf_counter() - start) * 1e3

    def tried(work):
        first = once(work)
        return first if first > 1e3 else min(once(work) for _ in range(TIMES))

    return sorted(((tried(work), name) for name, work in calls.items()), key=lambda one: one[0])


def measured_ours(program, part):
    return json.loads(subprocess.check_output([program, "bench", "--json", "--times", str(TIMES), "--only", part]))


def ours_ms(program, name):
    measured = measured_ours(program, name)
    return next(one["ms"] for one in measured if one["name"] == name or one["name"].startswith(f"{name}_"))


def compared(program, name, work):
    """The quickest of each side, by turns: what else a machine does only ever adds, and slows now the one and now the other."""
    ours, theirs = [], []
    for _ in range(ROUNDS):
        theirs.append(median_ms(work))
        ours.append(ours_ms(program, name))
        if theirs[-1] > 1e3:
            break
    return min(ours), min(theirs), min(ours) / min(theirs)


def share_of_own(program, name, others):
    """Of the slowest of those whose name has a part, by turns as well."""
    own, others_ms = [], {}
    for _ in range(ROUNDS):
        own.append(ours_ms(program, name))
        for one in measured_ours(program, others):
            others_ms[one["name"]] = min(one["ms"], others_ms.get(one["name"], one["ms"]))
    return min(own) / max(others_ms.values())


def alone_ms(program, name):
    """The quickest of some turns of what has no peer."""
    return min(ours_ms(program, name) for _ in range(3))


def thin_plate_ms():
    """scipy's thin plate through 160 places of four ellipses, asked for every pixel, once: it takes long enough."""
    turn = np.arange(40) / 40 * 2 * np.pi
    circle = np.stack([np.cos(turn), np.sin(turn)], 1)
    ellipses = [((600, 500), (200, 120), (240, 80)), ((1200, 500), (160, 160), (120, 200)), ((900, 180), (400, 80), (400, 120)), ((900, 900), (500, 60), (480, 100))]
    rest, goal = (np.concatenate([np.array(one[0]) + circle * one[which] for one in ellipses]) for which in (1, 2))
    y, x = np.mgrid[0:HIGH, 0:WIDE] + 0.5
    grid = np.stack([x.ravel(), y.ravel()], 1)
    start = time.perf_counter()
    RBFInterpolator(rest, goal - rest, kernel="thin_plate_spline")(grid)
    return (time.perf_counter() - start) * 1e3


def main():
    program = sys.argv[1]
    with tempfile.TemporaryDirectory() as folder:
        works = references(folder)
        tried = {name: by_time(calls) for name, calls in works.items()}
        rows = {name: compared(program, name, calls[tried[name][0][1]]) for name, calls in works.items()}
    alone = {name: alone_ms(program, name) for name in ("noise_6_octaves_turned", "steepness", "screen_key_960x540", "arc_2000_segments", "plan_200_rows", "surface_followed", "shape_warp_dragged_half", "skin_12x8", "clean_plate_48")}
    stop, peak = ours_ms(program, "stop_worst"), peak_memory(program)
    lines = ["# Benchmarks", "", "Written by `./veil bench`: 1920x1080, four floats a pixel where it is a picture, two threads, medians of", f"{TIMES} runs, both sides by turns {ROUNDS} times over, of which the quickest of each side counts. Machines are shared and", "noisy: the ratios count, the times are orientation.", ""]
    lines += ["| work | ours, ms | quickest call of a library, ms | ratio | to be at most |", "|---|---|---|---|---|"]
    lines += [f"| {name} | {ours:.1f} | {theirs:.1f} | {ratio:.2f} | {bar(name, ratio)} |" for name, (ours, theirs, ratio) in rows.items()]
    lines += [f"| {name} | {ours:.1f} | | | {MOST_MS.get(name, '')} |" for name, ours in alone.items()]
    half = share_of_own(program, "haze_half", "haze_full")
    arc = share_of_own(program, "arc_2000_segments", "remap_bilinear")
    lines += ["", f"An arc of two thousand pieces takes {arc:.2f} of our own bilinear remap (to be at most 1).", ""]
    chain = share_of_own(program, "chain_8_rows", "row_")
    lines += [f"The chain of eight rows takes {chain:.2f} of our own slowest row of it (to be at most 2.5).", ""]
    lattice, outlines = share_of_own(program, "lattice_12x8", "remap_of_lattice"), share_of_own(program, "shape_warp_read", "remap_of_shape_warp")
    solved = alone_ms(program, "shape_warp_solved")
    thin = solved / thin_plate_ms()
    lines += [f"A lattice of 12x8 that moves takes {lattice:.2f} of our own bilinear remap by the same moves (to be at most 1.5). A shape warp of", f"four pairs at normal quality is solved in {solved:.0f} ms (to be 150), {thin:.3f} of what scipy takes for a thin plate through 160 places", f"on the same grid (to be at most 0.1), and read from then on in {outlines:.2f} of our own remap by the same moves (to be at most 1.5).", "Dragged, it is solved and read at quick quality at half scale. The surface has a hundred corners over 960x540.", ""]
    between = share_of_own(program, "between_frames", "remap_bilinear")
    lines += [f"A frame between two, along motion both ways that is known, takes {between:.2f} of our own bilinear remap (to be at most 3).", ""]
    shafts = share_of_own(program, "rays_600", "remap_bilinear")
    lines += [f"Shafts of light 600 pixels long take {shafts:.2f} of our own bilinear remap (to be at most 3).", ""]
    bent, fringed = (share_of_own(program, name, "remap_bilinear") for name in ("refraction_even", "refraction_fringed"))
    lines += [f"A background bent by a body that covers all of it takes {bent:.2f} of our own bilinear remap (to be at most 2), {fringed:.2f} where", "blue is bent more than red.", ""]
    lines += [f"The haze at half scale takes {half:.2f} of our own time at full scale.", ""]
    lines += ["The haze is uncached but for the plate: every run is another frame, and the memory for held results (512 MB) is", "full before the first that counts. The reference is `bench/haze.py`.", ""]
    lines += [f"Work that was called off at 40 moments went on for {stop:.0f} ms at most (to be 50). Rendering 100 frames of the", f"haze from and to OpenEXR took {peak:.0f} MB at most, {CACHE_MB} MB of it for held results (to be {CACHE_MB + 500}).", ""]
    lines += ["Points are those of a 31-pixel pattern looked for over 61, a hundred at once from one frame to the next, to OpenCV's", "pyramidal Lucas-Kanade with a window of 31 and two coarser levels.", ""]
    lines += ["For each row the quickest of the calls that were tried, into memory that is there unless it says new, in ms of their best", "runs:", ""]
    lines += [f"- {name}: " + ", ".join(f"{call} {ms:.1f}" for ms, call in calls) for name, calls in tried.items()] + [""]
    page = pathlib.Path(__file__).parent.parent / "docs/benchmarks.md"
    page.write_text("\n".join(lines) + "\n")
    print("\n".join(lines))


main()
