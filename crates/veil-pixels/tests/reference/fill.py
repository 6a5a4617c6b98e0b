"""Writes fill.json: a hole in the picture of reference.json as scipy 1.17 solves Laplace's and Poisson's equation in it.
Run with numpy and scipy."""
import json, pathlib
import numpy as np
from scipy.sparse import lil_matrix
from scipy.sparse.linalg import spsolve

HERE = pathlib.Path(__file__).parent
reference = json.loads((HERE / "reference.json").read_text())
width, height = reference["width"], reference["height"]
picture = np.array(reference["picture"], np.float64).reshape(height, width)
hole = np.zeros((height, width), bool)
hole[height // 4 : height // 2, width // 4 : 3 * width // 4] = True
hole[height // 4 : 3 * height // 4, width // 4 : width // 3] = True
# Another place of the picture, as a stroke brings it.
brought = np.roll(picture, (height // 5, width // 7), (0, 1))


def solved(known, guide):
    """`u` in the hole with the slopes of `guide` and the values of `known` about it."""
    places = np.argwhere(hole)
    number = {tuple(at): index for index, at in enumerate(places)}
    matrix, right = lil_matrix((len(places), len(places))), np.zeros(len(places))
    for index, (y, x) in enumerate(places):
        for other in [(y - 1, x), (y + 1, x), (y, x - 1), (y, x + 1)]:
            matrix[index, index] += 1
            right[index] += guide[y, x] - guide[other]
            if other in number:
                matrix[index, number[other]] = -1
            else:
                right[index] += known[other]
    return spsolve(matrix.tocsr(), right)


told = {
    "hole": ["".join("#" if there else "." for there in row) for row in hole],
    "rolled": [height // 5, width // 7],
    "laplace": [round(float(value), 6) for value in solved(picture, np.zeros_like(picture))],
    "poisson": [round(float(value), 6) for value in solved(picture, brought)],
}
(HERE / "fill.json").write_text(json.dumps(told, indent=0) + "\n")
