"""Writes temperature.json: the chromaticity of black bodies by Planck's law and the CIE 1931 observer.

Made with colour-science 0.4.7; run it in this folder to make it anew.
"""

import json

from colour import MSDS_CMFS, SpectralShape, XYZ_to_xy, sd_blackbody, sd_to_XYZ

OBSERVER = MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]


def xy(kelvin):
    return XYZ_to_xy(sd_to_XYZ(sd_blackbody(kelvin, SpectralShape(360, 830, 1)), OBSERVER))


def main():
    kelvins = [1700, 2000, 2222, 2500, 2856, 3200, 4000, 4300, 5000, 5600, 6504, 7500, 10000, 15000, 25000]
    with open("temperature.json", "w") as file:
        json.dump([{"kelvin": k, "xy": [round(float(v), 6) for v in xy(k)]} for k in kelvins], file, indent=1)
        file.write("\n")


main()
