"""Places that a lattice's surface reads from, by scipy along both directions, and the inverse by `fsolve`: through the corners by
`CubicHermiteSpline` with numpy's `gradient` as slopes, near them by `BSpline` with ends that do not bend. Writes mesh.json."""

import json
import pathlib

import numpy as np
from scipy.interpolate import BSpline, CubicHermiteSpline
from scipy.optimize import fsolve

rng = np.random.default_rng(8)
across, down = np.array([0.0, 30.0, 85.0, 120.0, 160.0]), np.array([0.0, 50.0, 74.0, 120.0])
rest = np.stack(np.meshgrid(across, down), axis=-1)
moved = rest + rng.uniform(-7, 7, rest.shape)


def corners(knots, values, axis):
    return CubicHermiteSpline(knots, values, np.gradient(values, knots, axis=axis, edge_order=1), axis=axis)


def near(knots, values, axis):
    mirrored = np.concatenate([2 * knots[0] - knots[3:0:-1], knots, 2 * knots[-1] - knots[-2:-5:-1]])
    values = np.moveaxis(values, axis, 0)
    count = len(knots)

    def bend(at):
        # Second derivatives there, of each coefficient with one beyond either end.
        return np.array([float(BSpline(mirrored[:count + 6], unit, 3)(at, nu=2)) for unit in np.eye(count + 2)])

    first, last = bend(knots[0]), bend(knots[-1])
    ends = [-np.tensordot(first[1:-1], values, 1) / first[0], -np.tensordot(last[1:-1], values, 1) / last[-1]]
    return BSpline(mirrored, np.concatenate([ends[:1], values, ends[1:]]), 3)


def surface(curve, places, u, v):
    along = curve(across, places, 1)(u)
    return curve(down, along, 0)(v)


def reads(kind):
    for y in range(14, 106, 13):
        for x in range(14, 146, 11):
            pixel = np.array([x + 0.5, y + 0.5])

            def source(uv):
                return surface(corners, rest, *uv)

            def lies(uv):
                return source(uv) + surface(kind, moved - rest, *uv) - pixel

            at, _, found, _ = fsolve(lies, pixel, full_output=True, xtol=1e-12)
            assert found == 1
            yield {"pixel": [x, y], "source": list(source(at))}


plain = lambda places: np.asarray(places).reshape(-1, 2).tolist()
out = {"rows": len(down) - 1, "columns": len(across) - 1, "rest": plain(rest), "moved": plain(moved)}
out |= {"corners": list(reads(corners)), "near": list(reads(near))}
pathlib.Path(__file__).with_suffix(".json").write_text(json.dumps(out))
