"""Writes reference.json: what well-known libraries make of a small natural picture, for the kernels to be checked on.

Made with scipy 1.17.1, Pillow 13.0.0, opencv-python-headless 5.0.0.93, skia-python 144.1 and scikit-image 0.26.0 (its
`camera`, which is under CC0); run it in this folder to make it anew.
"""

import json

import cv2
import numpy as np
import skia
from PIL import Image
from scipy import ndimage
from skimage import data, transform

WIDE, HIGH = 48, 32
EDGES = {"clear": "constant", "hold": "nearest", "mirror": "reflect", "repeat": "grid-wrap"}


def listed(values):
    return [float(f"{value:.6g}") for value in np.asarray(values, np.float64).ravel()]


def natural():
    # A face, a hand and a camera before a meadow: edges, fine texture and flat parts.
    return data.camera()[70 : 70 + HIGH * 4 : 4, 190 : 190 + WIDE * 4 : 4].astype(np.float64) / 255


def gaussians(picture):
    blurred = lambda sigma, mode: ndimage.gaussian_filter(picture, sigma, mode=mode, truncate=6)
    return [{"sigma": sigma, "edge": edge, "pixels": listed(blurred(sigma, mode))} for edge, mode in EDGES.items() for sigma in (0.8, 6.0, 13.0)]


def moved(picture):
    """Output p reads p - move(p), straight between pixels."""
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(np.float64)
    moves = np.stack([4.3 * np.sin(y * 0.31) + 0.7, 3.1 * np.cos(x * 0.23)])
    read = lambda mode: ndimage.map_coordinates(picture, [y - moves[1], x - moves[0]], order=1, mode=mode)
    # Outside, the library fades to its constant within one pixel of the border only from version to version.
    edges = {edge: mode for edge, mode in EDGES.items() if edge != "clear"}
    return {"moves": listed(moves), "by_edge": [{"edge": edge, "pixels": listed(read(mode))} for edge, mode in edges.items()]}


def enlarged(picture):
    """Keys' cubic with a = -1/2 at thirds of pixels; four pixels at each border are left out."""
    times = 3
    large = Image.fromarray(picture.astype(np.float32), "F").resize((WIDE * times, HIGH * times), Image.Resampling.BICUBIC)
    inner = np.asarray(large)[4 * times : -4 * times, 4 * times : -4 * times]
    return {"times": times, "border": 4, "pixels": listed(inner)}


def tilted(picture):
    """Seen through a homography of pixel corners; the library counts from the first pixel's centre."""
    matrix = np.array([[1.1, 0.2, -3.0], [-0.15, 1.2, 2.0], [2e-3, -1e-3, 1.0]])
    half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])
    back = np.linalg.inv(half) @ np.linalg.inv(matrix) @ half
    seen = transform.warp(picture, transform.ProjectiveTransform(back), order=1, mode="edge", clip=False)
    return {"matrix": listed(matrix), "pixels": listed(seen)}


def shrunk(picture):
    """Each of fewer pixels is the mean of the area that it covers."""
    return {"width": 19, "height": 13, "pixels": listed(cv2.resize(picture, (19, 13), interpolation=cv2.INTER_AREA))}


def blends():
    """Premultiplied pixels laid on each other, in floats."""
    random = np.random.default_rng(7)
    straight = random.random((2, 64, 4))
    straight[0, :8, 3] = straight[1, 8:16, 3] = 1.0
    straight[0, 16:20, 3] = straight[1, 20:24, 3] = 0.0
    below, layer = straight * np.concatenate([np.repeat(straight[..., 3:], 3, -1), np.ones((2, 64, 1))], -1)
    info = skia.ImageInfo.Make(64, 1, skia.ColorType.kRGBA_F32_ColorType, skia.AlphaType.kPremul_AlphaType)
    modes = {"over": skia.BlendMode.kSrcOver, "plus": skia.BlendMode.kPlus, "multiply": skia.BlendMode.kMultiply, "screen": skia.BlendMode.kScreen}
    made = {}
    for name, mode in modes.items():
        held = np.ascontiguousarray(below.reshape(1, 64, 4), np.float32)
        surface = skia.Surface.MakeRasterDirect(info, held)
        top = skia.Image.fromarray(np.ascontiguousarray(layer.reshape(1, 64, 4), np.float32), skia.ColorType.kRGBA_F32_ColorType, skia.AlphaType.kPremul_AlphaType)
        surface.getCanvas().drawImage(top, 0, 0, skia.SamplingOptions(), skia.Paint(BlendMode=mode))
        surface.flushAndSubmit()
        made[name] = listed(held)
    return {"below": listed(below), "layer": listed(layer), **made}


picture = natural()
everything = {
    "width": WIDE,
    "height": HIGH,
    "picture": listed(picture),
    "gaussian": gaussians(picture),
    "moved": moved(picture),
    "enlarged": enlarged(picture),
    "shrunk": shrunk(picture),
    "tilted": tilted(picture),
    "blends": blends(),
}
with open("reference.json", "w") as file:
    json.dump(everything, file, separators=(",", ":"))
