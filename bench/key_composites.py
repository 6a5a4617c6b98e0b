#!/usr/bin/env python3
"""Figures before an uneven screen, with the coverage that they truly have: what the screen key is held against.

    python key_composites.py OUT [--size 176x120] [--seed 7] [--screen green|blue|both]

Writes OUT/SCREEN/TEXTURE_KIND.png (8 bits, sRGB, the true coverage in alpha, colour not multiplied by it),
OUT/SCREEN/screen.png (16 bits), the screen alone, and OUT/figures/TEXTURE_KIND.png (8 bits, sRGB, not multiplied by
coverage), the figure's own colours, before green; those of `spill` are those of `clean`. Textures are photographs without people that ship with scikit-image 0.26
(their sources and licences: skimage/data/README.txt). Three kinds: `clean`; `spill`, the screen's light on the figure,
3 % of it everywhere and 12 % more at its edges; `moving`, blurred by a move of 11 pixels, with noise of 1 %. Each figure
is a soft-edged body with thin strands; every other one has a rim of another colour, 2 to 6 pixels wide, as black cloth
round a white shirt has. Before blue, green and blue of the figures are exchanged, so that no more of them has the
screen's own colour than before green: that no key can tell without a hold matte. Needs
numpy, scikit-image, opencv-python-headless.
"""
import argparse
import os

import cv2
import numpy as np
import skimage.data

TEXTURES = ("chelsea", "coffee", "rocket", "hubble_deep_field", "immunohistochemistry", "retina", "stereo_motorcycle", "gravel")
KINDS = ("clean", "spill", "moving")
SCREENS = {"green": (0.06, 0.42, 0.09), "blue": (0.05, 0.11, 0.44)}
RIMS = ((0.004, 0.004, 0.005), (0.05, 0.028, 0.016), (0.78, 0.76, 0.72), (0.02, 0.02, 0.035))


def to_light(code):
    return np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)


def to_code(light):
    light = np.clip(light, 0, 1)
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)


def texture(name, wide, high):
    """A photograph, cut to the shape and brought to the size, in light."""
    still = getattr(skimage.data, name)()
    still = still[0] if isinstance(still, tuple) else still
    still = np.repeat(still[..., None], 3, 2) if still.ndim == 2 else still[..., :3]
    grow = max(wide / still.shape[1], high / still.shape[0]) * 1.4
    light = to_light(still.astype(np.float64) / 255)
    light = cv2.resize(light, None, fx=grow, fy=grow, interpolation=cv2.INTER_AREA)
    y, x = (light.shape[0] - high) // 2, (light.shape[1] - wide) // 2
    return np.clip(light[y:y + high, x:x + wide], 0, 1)


def screen(colour, wide, high):
    """A screen that is a third darker at one side, a little at the bottom, and not of one hue."""
    yy, xx = np.mgrid[0:high, 0:wide]
    light = 1.0 - 0.33 * xx / wide - 0.10 * (yy / high) ** 2
    hue = np.stack([1 + 0.15 * yy / high, np.ones((high, wide)), 1 - 0.12 * xx / wide], -1)
    return np.array(colour) * hue * light[..., None]


def body(rng, wide, high, soft):
    """How far each pixel lies within a body of round forms, and its coverage with strands."""
    yy, xx = np.mgrid[0:high, 0:wide].astype(np.float64)
    inside = np.full((high, wide), -1e9)
    for _ in range(4):
        x, y = rng.uniform(0.35, 0.65) * wide, rng.uniform(0.4, 0.75) * high
        a, b = rng.uniform(0.12, 0.24) * high, rng.uniform(0.16, 0.3) * high
        r = np.hypot((xx - x) / a, (yy - y) / b)
        inside = np.maximum(inside, (1 - r) * min(a, b))
    big = (inside > 0).astype(np.uint8)
    inside = cv2.distanceTransform(big, cv2.DIST_L2, 5) - cv2.distanceTransform(1 - big, cv2.DIST_L2, 5)
    strands = np.zeros((high * 4, wide * 4), np.uint8)
    rim = np.argwhere(np.abs(inside) < 1.5)
    for _ in range(14):
        y, x = rim[rng.integers(len(rim))]
        turn, reach = rng.uniform(0, 6.28), rng.uniform(0.08, 0.22) * high
        bend = rng.uniform(-0.6, 0.6)
        steps = np.linspace(0, 1, 12)
        path = np.stack([x + reach * steps * np.cos(turn + bend * steps), y + reach * steps * np.sin(turn + bend * steps)], -1)
        cv2.polylines(strands, [np.round(path * 4).astype(np.int32)], False, 255, int(rng.integers(2, 7)), cv2.LINE_AA)
    strands = cv2.resize(strands, (wide, high), interpolation=cv2.INTER_AREA) / 255.0
    return inside, np.maximum(np.clip(inside / soft + 0.5, 0, 1), strands)


def composite(name, kind, at, colour, behind, seed, wide, high):
    """What is seen, the true coverage, and the figure's own light times its coverage."""
    rng = np.random.default_rng(seed * 1000 + at)
    inside, alpha = body(rng, wide, high, (1.2, 2.0, 3.0, 1.5)[at % 4])
    figure = texture(name, wide, high)
    if at % 2 == 1:
        width = rng.uniform(2, 6)
        figure = np.where((inside < width)[..., None], RIMS[at // 2 % len(RIMS)], figure)
    if colour == "blue":
        figure = figure[..., [0, 2, 1]]
    own = figure * alpha[..., None]
    if kind == "spill":
        near = 0.03 + 0.12 * np.exp(-np.clip(inside, 0, None) / 6)
        figure = figure + behind * near[..., None]
    light = figure * alpha[..., None]
    if kind == "moving":
        line = np.zeros((11, 11))
        cv2.line(line, (0, int(rng.integers(0, 11))), (10, int(rng.integers(0, 11))), 1.0)
        line /= line.sum()
        light, alpha = (cv2.filter2D(each, -1, line, borderType=cv2.BORDER_REPLICATE) for each in (light, alpha))
        own = light
    seen = to_code(light + behind * (1 - alpha[..., None]))
    if kind == "moving":
        seen = seen + rng.normal(0, 0.01, seen.shape)
    return seen, alpha, own


def main():
    ask = argparse.ArgumentParser()
    ask.add_argument("out")
    ask.add_argument("--size", default="176x120")
    ask.add_argument("--seed", type=int, default=7)
    ask.add_argument("--screen", default="both", choices=["green", "blue", "both"])
    told = ask.parse_args()
    wide, high = map(int, told.size.split("x"))
    for colour in SCREENS if told.screen == "both" else (told.screen,):
        folder = os.path.join(told.out, colour)
        os.makedirs(folder, exist_ok=True)
        behind = screen(SCREENS[colour], wide, high)
        bits = lambda value: np.clip(np.round(value * 255), 0, 255).astype(np.uint8)
        best = [cv2.IMWRITE_PNG_COMPRESSION, 9]
        alone = np.round(to_code(behind) * 65535).astype(np.uint16)
        cv2.imwrite(os.path.join(folder, "screen.png"), alone[..., ::-1], best)
        for at, name in enumerate(TEXTURES):
            for kind in KINDS:
                seen, alpha, own = composite(name, kind, at, colour, behind, told.seed, wide, high)
                rgba = np.dstack([bits(seen)[..., ::-1], bits(alpha)])
                cv2.imwrite(os.path.join(folder, f"{name}_{kind}.png"), rgba, best)
                if colour == "green" and kind != "spill":
                    # Where little is covered, little of the colour is known.
                    straight = np.where(alpha[..., None] > 0.004, own / np.maximum(alpha, 0.004)[..., None], 0)
                    figures = os.path.join(told.out, "figures")
                    os.makedirs(figures, exist_ok=True)
                    cv2.imwrite(os.path.join(figures, f"{name}_{kind}.png"), bits(to_code(straight))[..., ::-1], best)


if __name__ == "__main__":
    main()
