"""The mat seen from above: the homography between picture and mat from marked points.

Direct linear transformation with normalised coordinates: Hartley and Zisserman, Multiple View Geometry in
Computer Vision, section 4.1 and 4.4.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import BadInput

Array = NDArray[np.float64]


@dataclass(frozen=True)
class MatPlan:
    """Maps pixels of the picture to metres on the mat."""

    matrix: Array

    def on_mat(self, places: Array) -> Array:
        """Places (n × 2, pixels) on the mat (n × 2, metres)."""
        ones = np.column_stack((places, np.ones(len(places)))) @ self.matrix.T
        return np.asarray(ones[:, :2] / ones[:, 2:])

    @property
    def handed(self) -> float:
        """+1 where the mat's X to Y turns against the clock as seen from above, −1 where it turns with it.

        The camera stands above the mat, and the picture has y down: X to Y against the clock in the picture
        is against the clock from above.
        """
        return -1.0 if np.linalg.det(self.matrix) > 0 else 1.0


def plan_of(marked: Array, known: Array) -> MatPlan:
    """The plan from marked pixels (n × 2) and their places in metres (n × 2), n ≥ 4.

    Raises:
        BadInput: three of four points lie in a line, or points coincide.
    """
    (a, to_a), (b, to_b) = _normalised(marked), _normalised(known)
    rows = []
    for (x, y), (u, v) in zip(a, b, strict=True):
        rows += [(x, y, 1, 0, 0, 0, -u * x, -u * y, -u), (0, 0, 0, x, y, 1, -v * x, -v * y, -v)]
    _, sizes, vectors = np.linalg.svd(np.array(rows))
    if sizes[7] < 1e-6 * sizes[0]:
        raise BadInput("the marked mat points lie in a line, so they give no plan; mark four corners of a tile")
    matrix = np.linalg.inv(to_b) @ vectors[8].reshape(3, 3) @ to_a
    middle = np.append(marked.mean(axis=0), 1.0)
    return MatPlan(matrix / float(matrix[2] @ middle))


def _normalised(points: Array) -> tuple[Array, Array]:
    """Points moved to the origin with mean distance √2 from it, and the matrix that does so."""
    centre = points.mean(axis=0)
    spread = float(np.hypot(*(points - centre).T).mean())
    if spread < 1e-9:
        raise BadInput("the marked mat points lie on one spot")
    scale = 2**0.5 / spread
    return (points - centre) * scale, np.array([[scale, 0, -scale * centre[0]], [0, scale, -scale * centre[1]], [0, 0, 1]])
