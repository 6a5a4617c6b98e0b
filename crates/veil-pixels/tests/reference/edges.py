"""Writes edges.json: what scikit-image 0.26 finds in the picture of reference.json. Run with scikit-image and numpy."""
import json, pathlib
import numpy as np
from skimage.feature import canny

HERE = pathlib.Path(__file__).parent
reference = json.loads((HERE / "reference.json").read_text())
picture = np.array(reference["picture"], np.float64).reshape(reference["height"], reference["width"])
# Its slopes are eight times those per pixel.
cases = [{"sigma": sigma, "low": low, "high": high} for sigma, low, high in [(1.0, 0.01, 0.03), (2.0, 0.004, 0.012), (3.0, 0.002, 0.006)]]
for case in cases:
    found = canny(picture, case["sigma"], 8 * case["low"], 8 * case["high"], mode="nearest")
    case["lines"] = ["".join("#" if there else "." for there in row) for row in found]
(HERE / "edges.json").write_text(json.dumps(cases, indent=0) + "\n")
