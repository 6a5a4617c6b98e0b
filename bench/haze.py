"""The haze of `brazen-veil bench`, written with the reference libraries: each step the best call they have.

Noise of three octaves in three dimensions, its steepness over one pixel, its strength, a soft ellipse that scales
the move, a displacement with cubic sampling, and a blur whose width grows with the move, from a stack of Gaussians.
"""

import cv2
import numpy as np
from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType

SIZE, STRENGTH, SOFTNESS, CHURN, OCTAVES = 60.0, 150.0, 0.5, 0.05, 3


class Haze:
    """What does not change from frame to frame is made once, as the other side holds it in its cache."""

    def __init__(self, plate, scale=1):
        self.plate, self.scale = plate, scale
        self.high, self.wide = plate.shape[:2]
        y, x = np.mgrid[0 : self.high, 0 : self.wide].astype(np.float32)
        self.x, self.y = x, y
        self.noise = FastNoiseLite(1)
        self.noise.noise_type = NoiseType.NoiseType_Perlin
        self.noise.fractal_type = FractalType.FractalType_FBm
        self.noise.fractal_octaves = OCTAVES
        self.noise.frequency = 1.0 / SIZE
        self.places = np.empty((3, self.high * self.wide), np.float32)
        self.places[0] = ((x + 0.5) * scale).ravel()
        self.places[1] = ((y + 0.5) * scale).ravel()
        distance = np.hypot((x + 0.5 - 960 / scale) / (420 / scale), (y + 0.5 - 480 / scale) / (380 / scale))
        t = np.clip((distance - 1.0) * (400.0 / 240.0) + 0.5, 0, 1)
        self.matte = (1 - t * t * (3 - 2 * t)).astype(np.float32)

    def frame(self, number):
        self.places[2] = SIZE * CHURN * number
        field = self.noise.gen_from_coords(self.places).reshape(self.high, self.wide) * np.float32(0.5)
        across = cv2.Sobel(field, cv2.CV_32F, 1, 0, ksize=1, scale=0.5 / self.scale)
        down = cv2.Sobel(field, cv2.CV_32F, 0, 1, ksize=1, scale=0.5 / self.scale)
        weight = self.matte * np.float32(STRENGTH / self.scale)
        cv2.multiply(across, weight, dst=across)
        cv2.multiply(down, weight, dst=down)
        from_x, from_y = cv2.subtract(self.x, across), cv2.subtract(self.y, down)
        moved = cv2.remap(self.plate, from_x, from_y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
        variance = cv2.add(cv2.multiply(across, across), cv2.multiply(down, down)) * np.float32(SOFTNESS**2)
        return self.softened(moved, variance, from_x, from_y)

    def softened(self, moved, variance, from_x, from_y):
        widest = float(variance.max()) ** 0.5
        below, sigma, picture = 0.0, 0.7, self.plate
        while below < widest:
            step = (sigma**2 - below**2) ** 0.5
            picture = cv2.GaussianBlur(picture, (0, 0), step, borderType=cv2.BORDER_REFLECT)
            soft = cv2.remap(picture, from_x, from_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT)
            share = np.clip((variance - below**2) / (sigma**2 - below**2), 0, 1)
            moved = cv2.blendLinear(moved, soft, 1 - share, share)
            below, sigma = sigma, sigma * 2
        return moved
