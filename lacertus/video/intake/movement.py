"""How much moves in each frame against the one before, the camera's own motion taken out."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.uint8]

NOISE_LEVELS = 6
"""Differences up to so many grey levels are the sensor's noise and the codec's."""
REPEATED_LEVELS = 0.02
"""A frame that differs by less on average is the one before it once more."""
MOVING_LEVELS = 0.15


class MovementTrace:
    """Takes small grey pictures in turn, each with its motion to the clip's first frame."""

    def __init__(self) -> None:
        self.moved: list[float] = []
        self._differs: list[float] = []
        self._before: tuple[Grey, NDArray[np.float64]] | None = None

    def __call__(self, picture: Grey, to_first: NDArray[np.float64]) -> None:
        half = cv2.resize(picture, (picture.shape[1] // 2, picture.shape[0] // 2), interpolation=cv2.INTER_AREA)
        if self._before is None:
            self.moved.append(0.0)
            self._differs.append(1.0)
        else:
            before, matrix = self._before
            self._differs.append(float(cv2.absdiff(half, before).mean()))
            self.moved.append(self._moves(half, before, _between(matrix, to_first)))
        self._before = half, to_first

    def _moves(self, now: Grey, before: Grey, shift: NDArray[np.float64]) -> float:
        """Grey levels above the noise, averaged over the picture that both frames show."""
        halved = shift.copy()
        halved[:, 2] /= 2
        if not np.allclose(halved, np.eye(2, 3), atol=0.02):
            size = (now.shape[1], now.shape[0])
            seen = cv2.warpAffine(np.full_like(before, 255), halved, size, flags=cv2.INTER_NEAREST)
            before = cv2.warpAffine(before, halved, size, flags=cv2.INTER_LINEAR)
            now = np.where(seen > 0, now, before)
        return float(cv2.subtract(cv2.absdiff(now, before), NOISE_LEVELS).mean())

    def levels(self) -> list[int]:
        """The trace from 0 to 99, the clip's 99.5th percentile at 99: one jump of light must not flatten the rest."""
        moved = np.asarray(self.moved)
        top = float(np.percentile(moved, 99.5)) if moved.size else 0.0
        return [0] * moved.size if top <= 0 else [round(value) for value in np.minimum(99 * moved / top, 99)]

    def repeated(self) -> list[int]:
        """Frames that show the picture before them once more while the clip moves: a phone fills its clock with these."""
        differs = np.asarray(self._differs)
        if differs.size < 3:
            return []
        same = differs < REPEATED_LEVELS
        moving = np.roll(differs, 1) > MOVING_LEVELS
        moving &= np.roll(differs, -1) > MOVING_LEVELS
        return [int(frame) for frame in np.flatnonzero(same & moving) if 0 < frame < differs.size - 1]


def _between(before: NDArray[np.float64], now: NDArray[np.float64]) -> NDArray[np.float64]:
    """The motion from the frame before to this one, both given to the clip's first."""
    back = cv2.invertAffineTransform(now)
    turn = back[:, :2] @ before[:, :2]
    return np.column_stack([turn, back[:, :2] @ before[:, 2] + back[:, 2]])
