"""Places that a lattice's surface reads from, by scipy: `CubicSpline` with natural ends along both directions, and the inverse by
`fsolve`. Writes mesh.json."""

import json
import pathlib

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.optimize import fsolve

rng = np.random.default_rng(8)
across, down = np.array([0.0, 30.0, 85.0, 120.0, 160.0]), np.array([0.0, 50.0, 74.0, 120.0])
rest = np.stack(np.meshgrid(across, down), axis=-1)
moved = rest + rng.uniform(-7, 7, rest.shape)


def surface(places, u, v):
    along = CubicSpline(across, places, axis=1, bc_type="natural")(u)
    return CubicSpline(down, along, axis=0, bc_type="natural")(v)


reads = []
for y in range(14, 106, 13):
    for x in range(14, 146, 11):
        pixel = np.array([x + 0.5, y + 0.5])
        at, _, found, _ = fsolve(lambda uv: surface(moved, *uv) - pixel, pixel, full_output=True, xtol=1e-12)
        assert found == 1
        reads.append({"pixel": [x, y], "source": list(surface(rest, *at))})
plain = lambda places: np.asarray(places).reshape(-1, 2).tolist()
out = {"rows": len(down) - 1, "columns": len(across) - 1, "rest": plain(rest), "moved": plain(moved), "reads": reads}
pathlib.Path(__file__).with_suffix(".json").write_text(json.dumps(out))
