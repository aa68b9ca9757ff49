"""Taking the camera's own motion out: where a place of one frame lies in the clip's first frame."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import NotSeen

Matrix = tuple[tuple[float, float, float], tuple[float, float, float]]


@dataclass(frozen=True)
class Steady:
    """Maps pixels of any frame to those of the first one.

    Args:
        motion: for each frame its 2×3 matrix to the first frame; None for a camera that stood still.
        known: False where the camera's motion was never found out, or was lost within the rep.
    """

    motion: Sequence[Matrix] | None
    known: bool = True
    _matrices: NDArray[np.float64] | None = field(init=False, repr=False, compare=False, default=None)

    def __post_init__(self) -> None:
        if self.motion is not None:
            object.__setattr__(self, "_matrices", np.asarray(self.motion, dtype=np.float64))

    def check(self) -> None:
        """Raise NotSeen where a path cannot be told from the camera's own motion."""
        if not self.known:
            raise NotSeen(
                "the camera’s own motion is not known here, so a path or a speed cannot be told from it; "
                "film from a tripod, or with more of the room in the picture"
            )

    def place(self, frame: int, x: float, y: float) -> tuple[float, float]:
        """A place (pixels) of a frame as it lies in the first frame."""
        if self._matrices is None:
            return x, y
        (a, b, dx), (c, d, dy) = self._matrices[frame]
        return float(a * x + b * y + dx), float(c * x + d * y + dy)

    def seen(self, frame: int, x: float, y: float) -> tuple[float, float]:
        """Where a place of the first frame lies in another one."""
        if self._matrices is None:
            return x, y
        (a, b, dx), (c, d, dy) = self._matrices[frame]
        found = np.linalg.solve(np.array([[a, b], [c, d]]), np.array([x - dx, y - dy]))
        return float(found[0]), float(found[1])

    def path(self, frames: Sequence[int], places: NDArray[np.float64]) -> NDArray[np.float64]:
        """Places (n × 2, pixels), each of its own frame, as they lie in the first frame.

        Raises:
            NotSeen: the camera's motion is not known.
        """
        self.check()
        if self._matrices is None or len(frames) == 0:
            return places
        matrices = self._matrices[np.asarray(frames)]
        return np.asarray(np.einsum("nij,nj->ni", matrices[:, :, :2], places) + matrices[:, :, 2])
