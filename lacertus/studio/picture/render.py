"""Draws figures on a mat in front of a wall: one ray a pixel, edges smoothed, motion blurred where wanted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.studio.body.flesh import Capsule, Part
from lacertus.studio.body.vectors import unit
from lacertus.studio.picture import kernels
from lacertus.studio.picture.camera import Camera

Picture = NDArray[np.uint8]
TONES = (255.0 * np.linspace(0.0, 1.0, 2048) ** 0.909 + 0.5).astype(np.uint8)
"""Light from 0 to 1 → 8-bit tone."""
LIGHT = unit(np.array([-0.45, -0.60, 0.95]))
GRAIN = 0.006


class Stage:
    """The hall as a camera of one picture size sees it, and figures drawn into it."""

    def __init__(self, width: int, height: int) -> None:
        shape = (height, width)
        self._depth = np.empty(shape, dtype=np.float32)
        self._owner = np.empty(shape, dtype=np.int16)
        self._colour = np.empty((*shape, 3), dtype=np.float32)
        self._total = np.zeros((*shape, 3), dtype=np.float32)
        self._hall = np.empty((*shape, 3), dtype=np.float32)
        self._hall_of: Camera | None = None
        self._empty_of: Camera | None = None
        self._kept: Picture = np.empty((*shape, 3), dtype=np.uint8)
        self._shadow = np.zeros((2 * kernels.GRID_HALF,) * 2, dtype=np.float32)
        self._grain = np.random.default_rng(7).normal(0.0, GRAIN, shape).astype(np.float32)

    def draw(self, shots: Sequence[tuple[Camera, Sequence[Part]]]) -> Picture:
        """A picture, height × width × 3, 0–255: the mean of one exposure or, for motion blur, of several.

        Where nobody is and no shadow falls, the empty hall is drawn once and kept.
        """
        whole = np.array([0, 0, self._depth.shape[1], self._depth.shape[0]])
        still = all(camera == shots[0][0] for camera, _ in shots)
        picture = self._empty(shots[0][0]) if still else np.empty((*self._depth.shape, 3), dtype=np.uint8)
        if still and not any(parts for _, parts in shots):
            return picture
        exposures = [self._exposure(camera, parts) for camera, parts in shots]
        boxes = np.array([box for exposure in exposures for box in (*exposure.boxes, exposure.shade_box)])
        region = np.array([*boxes[:, :2].min(axis=0), *boxes[:, 2:].max(axis=0)]) if still else whole
        for exposure in exposures:
            self._expose(exposure, region)
        kernels.to_bytes(self._total, len(shots), region, self._grain, TONES, picture)
        return picture

    def _empty(self, camera: Camera) -> Picture:
        """A copy of the hall without anybody in it."""
        self._draw_hall(camera)
        if self._empty_of != camera:
            self._total[:] = self._hall
            kept = np.empty(self._total.shape, dtype=np.uint8)
            kernels.to_bytes(self._total, 1, np.array([0, 0, kept.shape[1], kept.shape[0]]), self._grain, TONES, kept)
            self._kept, self._empty_of = kept, camera
        return self._kept.copy()

    def _draw_hall(self, camera: Camera) -> None:
        if self._hall_of != camera:
            self._shadow[:] = 0
            kernels.draw_hall(camera_row(camera), LIGHT, self._shadow, self._hall)
            self._hall_of = camera

    @staticmethod
    def _exposure(camera: Camera, parts: Sequence[Part]) -> _Exposure:
        table, kinds = part_table(parts)
        boxes, lines = part_boxes(table, kinds, camera)
        casters = _casters(table, kinds)
        return _Exposure(
            camera=camera,
            table=table,
            kinds=kinds,
            boxes=boxes,
            lines=lines,
            casters=casters,
            shade_box=_shade_box(casters, camera),
        )

    def _expose(self, one: _Exposure, region: NDArray[np.int64]) -> None:
        view = camera_row(one.camera)
        self._draw_hall(one.camera)
        kernels.cast_shadows(one.casters, LIGHT, self._shadow)
        kernels.draw_parts(
            one.table, one.kinds, one.boxes, one.lines, view, LIGHT, self._depth, self._owner, self._colour
        )  # fmt: skip
        kernels.compose(
            one.table, one.kinds, one.shade_box, region, view, LIGHT, self._shadow, self._hall,
            self._owner, self._colour, self._total,
        )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class _Exposure:
    """Parts before a camera, as the kernels read them."""

    camera: Camera
    table: NDArray[np.float64]
    kinds: NDArray[np.int64]
    boxes: NDArray[np.int64]
    lines: NDArray[np.float64]
    casters: NDArray[np.float64]
    shade_box: NDArray[np.int64]


def camera_row(camera: Camera) -> NDArray[np.float64]:
    """Position, right, down, ahead and focal length, as the kernels read it."""
    return np.concatenate([camera.position, *camera.axes, [camera.focal_px]])


def part_table(parts: Sequence[Part]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Parts as rows of numbers: capsule (a, b, ra, rb) or ellipsoid (centre, frame ÷ size), colour, folds."""
    table = np.zeros((len(parts), 17))
    kinds = np.zeros(len(parts), dtype=np.int64)
    for i, part in enumerate(parts):
        row = table[i]
        if isinstance(part, Capsule):
            row[0:3], row[3:6], row[6], row[7] = part.a, part.b, part.ra, part.rb
            row[16] = max(part.ra, part.rb)
        else:
            kinds[i] = 1
            row[0:3] = part.centre
            forward, left, up = part.size
            row[3:6], row[6:9], row[9:12] = part.frame.forward / forward, part.frame.left / left, part.frame.up / up
            row[16] = max(part.size)
        row[12:15], row[15] = part.colour, part.folds
    return table, kinds


def part_boxes(
    table: NDArray[np.float64], kinds: NDArray[np.int64], camera: Camera
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Where each part lies in the picture, in pixels, with room to spare: left, top, right, bottom; and its axis
    (x, y of both ends) with how far it reaches from that."""
    right, down, ahead = camera.axes
    axes = np.stack([right, down, ahead], axis=1)
    ends = np.stack([table[:, 0:3], np.where((kinds == 0)[:, None], table[:, 3:6], table[:, 0:3])])
    radii = np.stack([np.where(kinds == 0, table[:, 6], table[:, 16]), np.where(kinds == 0, table[:, 7], table[:, 16])])
    seen = (ends - np.array(camera.position)) @ axes
    depth = np.maximum(seen[..., 2], 0.3)
    reach = radii * camera.focal_px / np.maximum(depth - radii, 0.2) * 1.06 + 2
    x = camera.width / 2 + seen[..., 0] * camera.focal_px / depth
    y = camera.height / 2 + seen[..., 1] * camera.focal_px / depth
    edges = np.stack([(x - reach).min(0), (y - reach).min(0), (x + reach).max(0) + 1, (y + reach).max(0) + 1], axis=1)
    size = np.array([camera.width, camera.height, camera.width, camera.height])
    lines = np.stack([x[0], y[0], x[1], y[1], reach.max(axis=0)], axis=1)
    return np.asarray(np.clip(edges, 0, size), dtype=np.int64), lines


def _casters(table: NDArray[np.float64], kinds: NDArray[np.int64]) -> NDArray[np.float64]:
    """Balls (x, y, z, radius) that stand in for the parts where they cast shadows; small ones cast none."""
    capsules, round_ones = table[kinds == 0], table[kinds == 1]
    sizes = 1.0 / np.linalg.norm(round_ones[:, 3:12].reshape(-1, 3, 3), axis=2)
    balls = [
        np.column_stack([capsules[:, 0:3], capsules[:, 6]]),
        np.column_stack([(capsules[:, 0:3] + capsules[:, 3:6]) / 2, (capsules[:, 6] + capsules[:, 7]) / 2]),
        np.column_stack([capsules[:, 3:6], capsules[:, 7]]),
        np.column_stack([round_ones[:, 0:3], sizes.mean(axis=1)]),
    ]
    found = np.concatenate(balls)
    return np.ascontiguousarray(found[found[:, 3] > 0.022])


def _shade_box(casters: NDArray[np.float64], camera: Camera) -> NDArray[np.int64]:
    """Left, top, right, bottom of where shadows can fall in the picture; the whole of it where they come near the camera."""
    if not len(casters):
        return np.zeros(4, dtype=np.int64)
    heights = np.maximum(casters[:, 2:3], 0.0)
    places = casters[:, :2] - LIGHT[:2] / LIGHT[2] * heights
    reach = ((casters[:, 3:4] + 0.03 + 0.10 * heights) * 1.6 + 2 * kernels.GRID_CELL).max()
    (x0, y0), (x1, y1) = places.min(axis=0) - reach, places.max(axis=0) + reach
    seen = [camera.project(np.array([x, y, 0.0])) for x in (x0, x1) for y in (y0, y1)]
    size = np.array([camera.width, camera.height, camera.width, camera.height])
    if min(depth for _, _, depth in seen) < 0.5:
        return np.array([0, 0, *size[:2]])
    xs, ys = [x for x, _, _ in seen], [y for _, y, _ in seen]
    box = np.array([min(xs) - 2, min(ys) - 2, max(xs) + 3, max(ys) + 3])
    return np.asarray(np.clip(box, 0, size), dtype=np.int64)
