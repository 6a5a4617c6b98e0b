"""Writes hsv.json: hue, saturation and value of some colours, light above 1 among them.

Made with colorsys of Python 3's standard library; run it in this folder to make it anew.
"""

import colorsys
import json
import random


def main():
    random.seed(25)
    corners = [[r, g, b] for r in (0.0, 1.0) for g in (0.0, 1.0) for b in (0.0, 1.0)]
    others = [[round(random.uniform(0, 4), 4) for _ in range(3)] for _ in range(24)]
    colours = corners + [[0.5, 0.5, 0.5], [0.2, 0.2, 0.1], [0.1, 0.2, 0.2], [0.2, 0.1, 0.2]] + others
    with open("hsv.json", "w") as file:
        lines = [json.dumps({"rgb": rgb, "hsv": [round(v, 7) for v in colorsys.rgb_to_hsv(*rgb)]}) for rgb in colours]
        file.write("[\n" + ",\n".join(lines) + "\n]\n")


main()
