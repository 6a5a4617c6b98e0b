"""Writes reference.json: what well-known libraries make of a small natural picture, for the kernels to be checked on.

Made with scipy 1.17.1, colour-science 0.4.7, Pillow 13.0.0, opencv-python-headless 5.0.0.93, skia-python 144.1 and scikit-image 0.26.0 (its
`camera`, which is under CC0); run it in this folder to make it anew.
"""

import json

import colour
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
    """At thirds of pixels, without the pixels near the border: Pillow's bicubic is Keys' with a = -1/2."""
    times, border = 3, 11
    inner = lambda large: listed(np.asarray(large)[border * times : -border * times, border * times : -border * times])
    grey = Image.fromarray(picture.astype(np.float32), "F")
    by_pillow = lambda filter: inner(grey.resize((WIDE * times, HIGH * times), filter))
    info = lambda wide, high: skia.ImageInfo.Make(wide, high, skia.ColorType.kRGBA_F32_ColorType, skia.AlphaType.kPremul_AlphaType)
    held = np.zeros((HIGH * times, WIDE * times, 4), np.float32)
    colour = np.ascontiguousarray(np.dstack([picture] * 3 + [np.ones_like(picture)]), np.float32)
    surface = skia.Surface.MakeRasterDirect(info(WIDE * times, HIGH * times), held)
    image = skia.Image.fromarray(colour, skia.ColorType.kRGBA_F32_ColorType, skia.AlphaType.kPremul_AlphaType)
    cubic = skia.SamplingOptions(skia.CubicResampler.Mitchell())
    surface.getCanvas().drawImageRect(image, skia.Rect(WIDE * times, HIGH * times), cubic, skia.Paint(BlendMode=skia.BlendMode.kSrc))
    surface.flushAndSubmit()
    made = {"cubic": by_pillow(Image.Resampling.BICUBIC), "lanczos": by_pillow(Image.Resampling.LANCZOS), "mitchell": inner(held[..., 0])}
    return {"times": times, "border": border, **made}


def boxes(picture):
    """The box, and the triangle as the box twice."""
    once = ndimage.uniform_filter(picture, (5, 7), mode="reflect")
    twice = ndimage.uniform_filter(np.pad(picture, 20, mode="symmetric"), (5, 7))
    return {"box": listed(once), "triangle": listed(ndimage.uniform_filter(twice, (5, 7))[20:-20, 20:-20])}


def streaked(picture):
    """The mean along a line of 9 steps right, which falls by 0.4 a step."""
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(np.float64)
    steps = [ndimage.map_coordinates(picture, [y + 0.4 * step, x + step], order=1, mode="nearest") for step in range(-4, 5)]
    return {"length": 9 * float(np.hypot(1, 0.4)), "angle": float(-np.arctan(0.4)), "pixels": listed(np.mean(steps, 0))}


def shapes(picture):
    """Grown and shrunk by one pixel, and distances to what is bright and to what is not."""
    cross = ndimage.generate_binary_structure(2, 1)
    grown = ndimage.grey_dilation(picture, footprint=cross, mode="constant", cval=0)
    shrunk = ndimage.grey_erosion(picture, footprint=cross, mode="constant", cval=0)
    to = lambda pixels: listed(ndimage.distance_transform_edt(~pixels))
    return {"grown": listed(grown), "shrunk": listed(shrunk), "to_matte": to(picture >= 0.5), "to_rest": to(picture < 0.5)}


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
    names = "Src SrcOver SrcIn SrcOut SrcATop Xor DstOver DstIn DstOut DstATop Plus Multiply Screen Overlay Darken Lighten ColorDodge ColorBurn HardLight SoftLight Difference Exclusion Hue Saturation Color Luminosity"
    modes = {name: getattr(skia.BlendMode, "k" + name) for name in names.split()}
    made = {}
    for name, mode in modes.items():
        held = np.ascontiguousarray(below.reshape(1, 64, 4), np.float32)
        surface = skia.Surface.MakeRasterDirect(info, held)
        top = skia.Image.fromarray(np.ascontiguousarray(layer.reshape(1, 64, 4), np.float32), skia.ColorType.kRGBA_F32_ColorType, skia.AlphaType.kPremul_AlphaType)
        surface.getCanvas().drawImage(top, 0, 0, skia.SamplingOptions(), skia.Paint(BlendMode=mode))
        surface.flushAndSubmit()
        made[name] = listed(held)
    return {"below": listed(below), "layer": listed(layer), "modes": made}


def spaces():
    """Linear BT.709 colours in other spaces, and looked up in a cube by tetrahedra."""
    random = np.random.default_rng(11)
    light = random.random((24, 3)) * 1.2
    named = colour.RGB_COLOURSPACES
    into = lambda name: colour.RGB_to_RGB(light, named["sRGB"], named[name], chromatic_adaptation_transform="Bradford")
    made = {
        "srgb": colour.models.eotf_inverse_sRGB(light),
        "bt709": colour.models.oetf_BT709(light),
        "bt1886": colour.models.eotf_inverse_BT1886(light),
        "gamma22": light ** (1 / 2.2),
        "linear2020": into("ITU-R BT.2020"),
        "acescg": into("ACEScg"),
        "aces2065": into("ACES2065-1"),
        "acescct": colour.models.log_encoding_ACEScct(into("ACEScg")),
    }
    side = 5
    table = colour.LUT3D(random.random((side, side, side, 3)), domain=np.array([[0, 0, 0], [1.5, 1.5, 1.5]]))
    looked = table.apply(light, interpolator=colour.algebra.table_interpolation_tetrahedral)
    cube = np.transpose(table.table, (2, 1, 0, 3))
    return {"light": listed(light), "in": {name: listed(values) for name, values in made.items()}, "cube": listed(cube), "side": side, "high": 1.5, "looked": listed(looked)}


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
    "spaces": spaces(),
    "boxes": boxes(picture),
    "streaked": streaked(picture),
    "shapes": shapes(picture),
    "histogram": np.histogram(np.float32(listed(picture)), bins=16, range=(0.125, 0.75))[0].tolist(),
}
with open("reference.json", "w") as file:
    json.dump(everything, file, separators=(",", ":"))
