"""How the camera moved: the background of each frame registered to the clip's first.

Gyms are plain: walls and mats have edges, but few corners. So a frame is registered by its brightness
itself, at the edges of a reference frame spread evenly over the picture, coarse to fine (inverse
compositional alignment, Baker and Matthews, "Lucas–Kanade 20 years on", 2004). Turn, scale and shift are
sought; Tukey's weights leave out what does not fit, which is what moves by itself. The edges towards the
picture's sides are tried first, as athletes stand in its middle: before a plain wall theirs would else be
the only upright edges, and be followed. Frames are always
compared with a reference, not with the one before, so that errors do not add up; a new reference is
taken only when the old one is going out of sight. Where too little fits or the edges do not settle all
directions, the motion is lost, and the frames are named.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.uint8]
Floats = NDArray[np.float32]
Matrix = NDArray[np.float64]

LEVELS = 3
"""The small picture, a half and a quarter of it."""
SEEK_CELLS = (16, 12)
EDGES_A_CELL = 14
"""Edge pixels are chosen cell by cell: an athlete has the strongest ones, but fills few cells."""
LEAST_GRADIENT = 1.5
"""Grey levels a pixel below which there is no edge, only noise."""
MIDDLE_WIDE, MIDDLE_HIGH = 0.55, 0.8
"""Share of the picture's width and height, about its middle, where athletes are looked for."""
MOST_STEPS = 12
SETTLED_PX = 0.01
TUKEY = 4.685
"""Tukey's constant for 95 % efficiency on Gaussian noise."""
LEAST_SCATTER_PX = 0.08
MOST_SCATTER_PX = 0.3
FAINT = 3.0
"""Grey levels a pixel: an edge of this steepness counts half."""
FITS_PX = 0.5
LEAST_FITTING = 0.5
"""Share of the edges in sight that must lie within FITS_PX of the small picture."""
MOST_U_PX = 0.35
"""Standard uncertainty of the shift anywhere in the small picture above which it is not settled."""
LEAST_EDGES = 120
LEAST_OVERLAP = 0.6
BRIDGED_FRAMES = 3
"""Over so many frames in a row a lost motion is bridged evenly; over more it is told as lost."""
STILL_SHARE = 0.0012
"""A camera whose picture never shifts by more than this share of its longer side stood still: it is more than
registering a clip from a tripod gives by itself (docs/decisions.md)."""


@dataclass(frozen=True, kw_only=True)
class CameraMotion:
    """Matrices (frames × 2 × 3, displayed pixels) from each frame to the first, or None for a still camera;
    the residual of the background's edges in displayed pixels (the clip's median); and the stretches (first,
    last frame) in which the motion was lost."""

    matrices: Matrix | None
    residual_px: float | None
    lost: tuple[tuple[int, int], ...]


@dataclass(frozen=True, kw_only=True)
class _Found:
    """Reference → frame about the picture's middle (a, b, x, y), and the residual in small pixels."""

    warp: NDArray[np.float64]
    residual: float


class CameraWatch:
    """Registers small grey pictures as they come; `scale` is displayed pixels per small one."""

    def __init__(self, scale: tuple[float, float]) -> None:
        self.scale = scale
        self._matrices: list[Matrix] = []
        self._residuals: list[float] = []
        self._lost: list[tuple[int, int]] = []
        self._missed = 0
        self._reference: _Reference | None = None
        self._to_first = _identity()
        self._warp = np.zeros(4)
        self._speed = np.zeros(4)

    def __call__(self, picture: Grey) -> Matrix:
        """Take the next frame; gives its matrix to the first, in small pixels."""
        if self._reference is None:
            self._refer_to(picture, _identity())
            self._matrices.append(_identity())
            return self._matrices[-1]
        pictures = _pyramid(picture)
        found = self._reference.find(pictures, self._warp + self._speed, self._warp)
        if found is None:
            self._miss(picture)
        else:
            self._hit(picture, found)
        return self._matrices[-1]

    def _miss(self, picture: Grey) -> None:
        """Hold the motion; after more frames than can be bridged, go on from here as from a new beginning."""
        self._missed += 1
        self._matrices.append(self._matrices[-1])
        if self._missed > BRIDGED_FRAMES:
            last = len(self._matrices) - 1
            self._lost.append((last if self._missed > BRIDGED_FRAMES + 1 else last - BRIDGED_FRAMES, last))
            self._refer_to(picture, self._matrices[-1])

    def _hit(self, picture: Grey, found: _Found) -> None:
        assert self._reference is not None
        self._residuals.append(found.residual)
        self._speed = (found.warp - self._warp) / (self._missed + 1)
        self._warp = found.warp
        to_first = _after(self._to_first, cv2.invertAffineTransform(self._reference.matrix(found.warp)))
        if 0 < self._missed <= BRIDGED_FRAMES:
            self._bridge(to_first)
        self._missed = 0
        self._matrices.append(to_first)
        if self._reference.overlap(found.warp) < LEAST_OVERLAP:
            self._refer_to(picture, to_first)

    def _bridge(self, after: Matrix) -> None:
        before, gap = self._matrices[-self._missed - 1], self._missed + 1
        for step in range(1, gap):
            self._matrices[step - gap] = before + (after - before) * step / gap

    def _refer_to(self, picture: Grey, to_first: Matrix) -> None:
        self._reference, self._to_first = _Reference(picture), to_first
        self._warp, self._speed = np.zeros(4), np.zeros(4)

    def finish(self) -> CameraMotion:
        """The whole clip's motion in displayed pixels."""
        matrices = self._displayed(np.array(self._matrices or [_identity()]))
        residual = float(np.median(self._residuals)) * max(self.scale) if self._residuals else None
        lost = _joined(self._lost)
        still = not lost and self._stood_still(matrices)
        return CameraMotion(matrices=None if still else matrices, residual_px=residual, lost=lost)

    def _displayed(self, small: Matrix) -> Matrix:
        """Matrices for small pixels → for displayed ones."""
        scale = np.array(self.scale)
        found = small.copy()
        found[:, :, 2] *= scale[None, :]
        found[:, 0, 1] *= scale[0] / scale[1]
        found[:, 1, 0] *= scale[1] / scale[0]
        return found

    def _stood_still(self, matrices: Matrix) -> bool:
        width, height = self._reference.size if self._reference else (1, 1)
        width, height = width * self.scale[0], height * self.scale[1]
        corners = np.array([[0, 0], [width, 0], [0, height], [width, height]])
        places = np.einsum("nij,cj->nci", matrices[:, :, :2], corners) + matrices[:, None, :, 2]
        return bool(np.abs(places - corners).max() < STILL_SHARE * max(width, height))


class _Reference:
    """A frame that others are found against: its edges at each level."""

    def __init__(self, picture: Grey) -> None:
        self.size = picture.shape[1], picture.shape[0]
        pictures = _pyramid(picture)
        self._levels = [[_Level(level, sides_only) for level in pictures] for sides_only in (True, False)]

    def find(self, pictures: list[Floats], *guesses: NDArray[np.float64]) -> _Found | None:
        """The warp under which a frame's pictures fit the reference; None where none does.

        First from the guesses at the finest level: what has begun to move by itself is off by more than
        the background there, and left out. Seen coarse, both are one blur, so that comes last, for jolts.
        """
        for edges in self._levels:
            for levels in ((0,), (1, 0), (2, 1, 0)):
                for guess in guesses:
                    found = self._fit([edges[number] for number in levels], [pictures[number] for number in levels], guess)
                    if found is not None:
                        return found
        return None

    def _fit(self, levels: list[_Level], pictures: list[Floats], guess: NDArray[np.float64]) -> _Found | None:
        warp, residual, settled = guess, 0.0, False
        for level, picture in zip(levels, pictures, strict=True):
            shrink = self.size[0] / picture.shape[1]
            scaled, residual, settled = level.align(picture, warp / (1, 1, shrink, shrink))
            if scaled is None:
                return None
            warp = scaled * (1, 1, shrink, shrink)
        return _Found(warp=warp, residual=residual) if settled else None

    def matrix(self, warp: NDArray[np.float64]) -> Matrix:
        """The 2×3 matrix, reference → frame, of a warp about the middle."""
        a, b, x, y = warp
        turn = np.array([[1 + a, -b], [b, 1 + a]])
        middle = np.array(self.size) / 2
        return np.column_stack([turn, middle - turn @ middle + (x, y)])

    def overlap(self, warp: NDArray[np.float64]) -> float:
        """Share of the reference that is still in sight, by its shift alone."""
        return float(max(1 - abs(warp[2]) / self.size[0], 0) * max(1 - abs(warp[3]) / self.size[1], 0))


class _Level:
    """Edge pixels of one size of the reference, their brightness and how it changes with the warp."""

    def __init__(self, picture: Floats, sides_only: bool) -> None:
        self.middle = np.array([picture.shape[1], picture.shape[0]], dtype=np.float64) / 2
        across = cv2.Sobel(picture, cv2.CV_32F, 1, 0, ksize=3, scale=1 / 8)
        down = cv2.Sobel(picture, cv2.CV_32F, 0, 1, ksize=3, scale=1 / 8)
        rows, columns = _edges(np.hypot(across, down))
        if sides_only:
            off = np.abs(np.column_stack([columns, rows]) - self.middle) / self.middle
            outside = (off > (MIDDLE_WIDE, MIDDLE_HIGH)).any(axis=1)
            rows, columns = rows[outside], columns[outside]
        self.places = np.column_stack([columns, rows]).astype(np.float64) - self.middle
        self.bright = picture[rows, columns].astype(np.float64)
        gx, gy = across[rows, columns].astype(np.float64), down[rows, columns].astype(np.float64)
        x, y = self.places.T
        # Each edge counts by how far it is off in pixels, not in grey levels: a white jacket before a
        # dark wall must not outvote the wall. Faint edges count less, as noise moves them.
        self.steep = np.hypot(gx, gy) + FAINT
        self.change = np.column_stack([gx * x + gy * y, gy * x - gx * y, gx, gy]) / self.steep[:, None]

    def align(self, picture: Floats, warp: NDArray[np.float64]) -> tuple[NDArray[np.float64] | None, float, bool]:
        """Warp, residual in pixels, and whether it is settled in all directions; no warp where it does not fit."""
        if len(self.bright) < LEAST_EDGES:
            return None, 0.0, False
        weights, off, normal = np.zeros(0), np.zeros(0), np.eye(4)
        for _ in range(MOST_STEPS):
            off, inside = self._off(picture, warp)
            if inside.sum() < LEAST_EDGES:
                return None, 0.0, False
            scatter = np.clip(1.4826 * float(np.median(np.abs(off[inside]))), LEAST_SCATTER_PX, MOST_SCATTER_PX)
            weights = np.where(inside, np.maximum(1 - (off / (TUKEY * scatter)) ** 2, 0) ** 2, 0)
            weighted = self.change * weights[:, None]
            normal = self.change.T @ weighted
            try:
                step = np.linalg.solve(normal, weighted.T @ off)
            except np.linalg.LinAlgError:
                return None, 0.0, False
            warp = _without(warp, step)
            if np.abs(step[:2]).max() * self.middle.max() + np.abs(step[2:]).max() < SETTLED_PX:
                break
        return warp, *self._judged(weights, off[inside], off, normal)

    def _off(self, picture: Floats, warp: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
        """How far each edge of the reference is off in the frame, in pixels across it, and which are in sight.

        From how much brighter it is, the change of light taken out.
        """
        a, b, dx, dy = warp
        x, y = self.places.T
        at_x = ((1 + a) * x - b * y + dx + self.middle[0]).astype(np.float32)
        at_y = (b * x + (1 + a) * y + dy + self.middle[1]).astype(np.float32)
        seen = cv2.remap(picture, at_x, at_y, cv2.INTER_LINEAR).reshape(-1)
        inside = (at_x >= 0) & (at_x <= picture.shape[1] - 1) & (at_y >= 0) & (at_y <= picture.shape[0] - 1)
        off = seen - self.bright
        return (off - (np.median(off[inside]) if inside.any() else 0.0)) / self.steep, inside

    def _judged(
        self, weights: NDArray[np.float64], sighted: NDArray[np.float64], off: NDArray[np.float64], normal: Matrix
    ) -> tuple[float, bool]:
        """Residual in pixels, and whether enough edges fit and all directions are settled."""
        total = float(weights.sum())
        if (np.abs(sighted) < FITS_PX).mean() < LEAST_FITTING or total < LEAST_EDGES / 2:
            return 0.0, False
        variance = float((weights * off**2).sum() / total)
        spread = np.linalg.inv(normal) * variance
        turn_u = np.sqrt(max(spread[0, 0], spread[1, 1], 0)) * float(np.hypot(*self.middle))
        shift_u = np.sqrt(max(spread[2, 2], spread[3, 3], 0))
        return float(np.sqrt(variance)), bool(np.hypot(turn_u, shift_u) < MOST_U_PX)


def _without(warp: NDArray[np.float64], step: NDArray[np.float64]) -> NDArray[np.float64]:
    """The warp after the step's inverse: similarities as complex numbers, z → (1 + c)·z + d."""
    c, d = complex(warp[0], warp[1]), complex(warp[2], warp[3])
    e, f = complex(step[0], step[1]), complex(step[2], step[3])
    turn = (1 + c) / (1 + e)
    shift = d - turn * f
    return np.array([turn.real - 1, turn.imag, shift.real, shift.imag])


def _edges(steep: Floats) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Rows and columns of the steepest pixels of each cell."""
    height, width = steep.shape
    across, down = min(SEEK_CELLS[0], width // 6), min(SEEK_CELLS[1], height // 6)
    rows, columns = [], []
    for y0, y1 in _spans(height, down):
        for x0, x1 in _spans(width, across):
            cell = steep[y0:y1, x0:x1].reshape(-1)
            best = np.argpartition(cell, -min(EDGES_A_CELL, cell.size))[-EDGES_A_CELL:]
            best = best[cell[best] > LEAST_GRADIENT]
            rows.append(y0 + best // (x1 - x0))
            columns.append(x0 + best % (x1 - x0))
    if not rows:
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    return np.concatenate(rows), np.concatenate(columns)


def _spans(length: int, parts: int) -> list[tuple[int, int]]:
    """A length in even parts, its outermost pixels left out."""
    inner = length - 4
    return [(2 + k * inner // parts, 2 + (k + 1) * inner // parts) for k in range(parts)]


def _pyramid(picture: Grey) -> list[Floats]:
    """The picture smoothed a little, and halved again and again."""
    levels = [cv2.GaussianBlur(picture.astype(np.float32), (5, 5), 0.9)]
    for _ in range(LEVELS - 1):
        levels.append(cv2.pyrDown(levels[-1]))
    return levels


def _identity() -> Matrix:
    return np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])


def _after(outer: Matrix, inner: Matrix) -> Matrix:
    """The motion that does `inner` first, then `outer`."""
    turn = outer[:, :2] @ inner[:, :2]
    return np.column_stack([turn, outer[:, :2] @ inner[:, 2] + outer[:, 2]])


def _joined(stretches: list[tuple[int, int]]) -> tuple[tuple[int, int], ...]:
    """Stretches in order, those that touch made one."""
    found: list[tuple[int, int]] = []
    for first, last in stretches:
        if found and first <= found[-1][1] + 1:
            found[-1] = (found[-1][0], last)
        else:
            found.append((first, last))
    return tuple(found)
