"""Draws figures on a mat in front of a wall: rays against capsules and ellipsoids with a depth buffer.

The inner loops are compiled (numba); everything else is NumPy.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numba
import numpy as np
from numpy.typing import NDArray

from lacertus.studio.camera import Camera
from lacertus.studio.flesh import Capsule, Part
from lacertus.studio.vectors import unit

Picture = NDArray[np.uint8]
SAMPLES = 2
"""Each pixel is drawn from SAMPLES × SAMPLES rays."""
SHADOW_STEP = 3
"""Shadows are found on every third pixel and drawn smoothly between."""
DARKEST = 0.55
TONES = (255.0 * np.linspace(0.0, 1.0, 2048) ** 0.909 + 0.5).astype(np.uint8)
"""Light from 0 to 1 → 8-bit tone."""

LIGHT = unit(np.array([-0.45, -0.60, 0.95]))
AMBIENT, DIFFUSE = 0.52, 0.56
WALL_Y = 2.6
"""The wall stands this far behind the middle of the mat, metres."""


class Stage:
    """A camera's view of the empty hall, and figures drawn into it."""

    def __init__(self, camera: Camera) -> None:
        self.camera = camera
        self._rays = _rays(camera)
        floor, hall = _hall(camera, self._rays)
        shape = (camera.height, SAMPLES, camera.width, SAMPLES, 3)
        self._hall = hall.reshape(shape).mean(axis=(1, 3)).astype(np.float32)
        self._floor = np.ascontiguousarray(floor[:: SHADOW_STEP * SAMPLES, :: SHADOW_STEP * SAMPLES])
        self._depth = np.empty(hall.shape[:2], dtype=np.float32)
        self._colour = np.empty(hall.shape, dtype=np.float32)

    def draw(self, figures: Sequence[Sequence[Part]]) -> Picture:
        """A picture of the figures, height × width × 3, 0–255."""
        parts = [part for figure in figures for part in figure]
        table, kinds = _table(parts)
        boxes = np.array([_box(part, self.camera) for part in parts])
        shadow = _blurred(_shade_floor(_casters(parts), self._floor, LIGHT)).astype(np.float32)
        self._depth.fill(np.inf)
        _draw(table, kinds, boxes, np.array(self.camera.position), self._rays, LIGHT, self._depth, self._colour)
        picture = np.empty(self._hall.shape, dtype=np.uint8)
        _compose(self._hall, shadow, self._depth, self._colour, TONES, picture)
        return picture


def _blurred(image: NDArray[np.float64]) -> NDArray[np.float64]:
    from scipy.ndimage import uniform_filter

    return np.asarray(uniform_filter(image, size=3))


def _rays(camera: Camera) -> NDArray[np.float64]:
    """Unit directions of all rays, rows × columns × 3."""
    right, down, ahead = camera.axes
    xs = (np.arange(camera.width * SAMPLES) + 0.5) / SAMPLES - camera.width / 2
    ys = (np.arange(camera.height * SAMPLES) + 0.5) / SAMPLES - camera.height / 2
    rays = ahead * camera.focal_px + xs[None, :, None] * right + ys[:, None, None] * down
    return np.asarray(rays / np.linalg.norm(rays, axis=2, keepdims=True))


def _hall(camera: Camera, rays: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Mat places under each ray (nan where it meets none), and the picture of the empty hall."""
    x0, y0, z0 = camera.position
    with np.errstate(divide="ignore", invalid="ignore"):
        to_floor = np.where(rays[..., 2] < -1e-6, -z0 / rays[..., 2], np.inf)
        to_wall = np.where(rays[..., 1] > 1e-6, (WALL_Y - y0) / rays[..., 1], np.inf)
        on_floor = to_floor < to_wall
        fx, fy = x0 + rays[..., 0] * to_floor, y0 + rays[..., 1] * to_floor
        wx, wz = x0 + rays[..., 0] * to_wall, z0 + rays[..., 2] * to_wall
    floor = np.stack([np.where(on_floor, fx, np.nan), np.where(on_floor, fy, np.nan)], axis=-1)
    picture = np.where(on_floor[..., None], _mat(fx, fy), _wall(wx, wz))
    grain = np.random.default_rng(7).normal(0.0, 0.008, (camera.height, camera.width))
    picture += np.kron(grain, np.ones((SAMPLES, SAMPLES)))[..., None]
    return floor, picture


def _mat(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    x, y = np.nan_to_num(x, posinf=1e6, neginf=-1e6), np.nan_to_num(y, posinf=1e6, neginf=-1e6)
    straw, border = np.array([0.66, 0.63, 0.50]), np.array([0.36, 0.42, 0.50])
    inside = (np.abs(x) < 4.0) & (y > -4.0) & (y < 1.9)
    colour = np.where(inside[..., None], straw, border)
    seam = (np.abs((x + 0.5) % 1.0 - 0.5) < 0.006) | (np.abs((y + 0.5) % 2.0 - 1.0) < 0.008)
    weave = 1.0 + 0.018 * np.sin(x * 180.0)
    return colour * np.where(seam, 0.80, 1.0)[..., None] * weave[..., None]


def _wall(x: NDArray[np.float64], z: NDArray[np.float64]) -> NDArray[np.float64]:
    x, z = np.nan_to_num(x, posinf=1e6, neginf=-1e6), np.nan_to_num(z, posinf=1e6, neginf=-1e6)
    plaster, panel, rail = np.array([0.80, 0.79, 0.75]), np.array([0.50, 0.42, 0.33]), np.array([0.33, 0.26, 0.20])
    colour = np.where((z < 0.95)[..., None], panel, plaster)
    colour = np.where((np.abs(z - 0.97) < 0.035)[..., None], rail, colour)
    groove = (np.abs((x + 0.6) % 1.2 - 0.6) < 0.008) & (z < 0.95)
    light = 0.90 + 0.10 * np.cos(x * 0.5)
    return colour * np.where(groove, 0.78, 1.0)[..., None] * light[..., None]


def _table(parts: Sequence[Part]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Parts as rows of numbers: capsule (a, b, ra, rb) or ellipsoid (centre, frame ÷ size), colour, folds."""
    table = np.zeros((len(parts), 16))
    kinds = np.zeros(len(parts), dtype=np.int64)
    for i, part in enumerate(parts):
        if isinstance(part, Capsule):
            table[i, 0:3], table[i, 3:6], table[i, 6:8] = part.a, part.b, (part.ra, part.rb)
        else:
            kinds[i] = 1
            table[i, 0:3] = part.centre
            axes = (part.frame.forward, part.frame.left, part.frame.up)
            for k, (axis, size) in enumerate(zip(axes, part.size, strict=True)):
                table[i, 3 + 3 * k : 6 + 3 * k] = axis / size
        table[i, 12:15], table[i, 15] = part.colour, part.folds
    return table, kinds


def _box(part: Part, camera: Camera) -> tuple[int, int, int, int]:
    """Left, top, right, bottom of a part in rays, with room to spare."""
    balls = [(part.a, part.ra), (part.b, part.rb)] if isinstance(part, Capsule) else [(part.centre, max(part.size))]
    edges = []
    for centre, radius in balls:
        x, y, depth = camera.project(centre)
        reach = radius * camera.focal_px / max(depth - radius, 0.2) * 1.06 + 2
        edges.append((x - reach, y - reach, x + reach, y + reach))
    low, high = np.min(edges, axis=0), np.max(edges, axis=0)
    return (
        _inside(low[0], camera.width),
        _inside(low[1], camera.height),
        _inside(high[2], camera.width),
        _inside(high[3], camera.height),
    )


def _inside(pixels: float, most: int) -> int:
    """A place in rays, within the picture."""
    return int(min(max(pixels * SAMPLES, 0), most * SAMPLES))


@numba.njit(cache=True, fastmath=True)
def _hit_capsule(row, o, d):  # type: ignore[no-untyped-def]
    """Distance along a unit ray to a tapered capsule and its normal; negative where it is missed.

    A sphere sweeps from a to b while its radius changes: a quadratic for the cone's mantle between
    the two circles of contact, and one for each ball at the ends.
    """
    bax, bay, baz = row[3] - row[0], row[4] - row[1], row[5] - row[2]
    oax, oay, oaz = o[0] - row[0], o[1] - row[1], o[2] - row[2]
    ra, rb = row[6], row[7]
    rr = ra - rb
    m0 = bax * bax + bay * bay + baz * baz
    m1 = bax * oax + bay * oay + baz * oaz
    m2 = bax * d[0] + bay * d[1] + baz * d[2]
    m3 = d[0] * oax + d[1] * oay + d[2] * oaz
    m5 = oax * oax + oay * oay + oaz * oaz
    d2 = m0 - rr * rr
    if d2 > 0.0:
        k2 = d2 - m2 * m2
        k1 = d2 * m3 - m1 * m2 + m2 * rr * ra
        k0 = d2 * m5 - m1 * m1 + m1 * rr * ra * 2.0 - m0 * ra * ra
        h = k1 * k1 - k0 * k2
        if h < 0.0:
            return -1.0, 0.0, 0.0, 0.0
        if abs(k2) > 1e-12:
            t = (-math.sqrt(h) - k1) / k2
            y = m1 - ra * rr + t * m2
            if 0.0 < y < d2 and t > 0.0:
                nx = d2 * (oax + t * d[0]) - bax * y
                ny = d2 * (oay + t * d[1]) - bay * y
                nz = d2 * (oaz + t * d[2]) - baz * y
                n = math.sqrt(nx * nx + ny * ny + nz * nz)
                return t, nx / n, ny / n, nz / n
    best = -1.0
    bx, by, bz = 0.0, 0.0, 0.0
    h1 = m3 * m3 - m5 + ra * ra
    if h1 > 0.0:
        t = -m3 - math.sqrt(h1)
        if t > 0.0:
            best = t
            bx, by, bz = (oax + t * d[0]) / ra, (oay + t * d[1]) / ra, (oaz + t * d[2]) / ra
    obx, oby, obz = oax - bax, oay - bay, oaz - baz
    m4 = d[0] * obx + d[1] * oby + d[2] * obz
    h2 = m4 * m4 - (obx * obx + oby * oby + obz * obz) + rb * rb
    if h2 > 0.0:
        t = -m4 - math.sqrt(h2)
        if t > 0.0 and (best < 0.0 or t < best):
            best = t
            bx, by, bz = (obx + t * d[0]) / rb, (oby + t * d[1]) / rb, (obz + t * d[2]) / rb
    return best, bx, by, bz


@numba.njit(cache=True, fastmath=True)
def _hit_ellipsoid(row, o, d):  # type: ignore[no-untyped-def]
    """Distance along a ray to an ellipsoid and its normal, in the space where it is a unit ball."""
    ox, oy, oz = o[0] - row[0], o[1] - row[1], o[2] - row[2]
    px = row[3] * ox + row[4] * oy + row[5] * oz
    py = row[6] * ox + row[7] * oy + row[8] * oz
    pz = row[9] * ox + row[10] * oy + row[11] * oz
    qx = row[3] * d[0] + row[4] * d[1] + row[5] * d[2]
    qy = row[6] * d[0] + row[7] * d[1] + row[8] * d[2]
    qz = row[9] * d[0] + row[10] * d[1] + row[11] * d[2]
    a = qx * qx + qy * qy + qz * qz
    b = px * qx + py * qy + pz * qz
    h = b * b - a * (px * px + py * py + pz * pz - 1.0)
    if h < 0.0:
        return -1.0, 0.0, 0.0, 0.0
    t = (-b - math.sqrt(h)) / a
    if t <= 0.0:
        return -1.0, 0.0, 0.0, 0.0
    ux, uy, uz = px + t * qx, py + t * qy, pz + t * qz
    nx = row[3] * ux + row[6] * uy + row[9] * uz
    ny = row[4] * ux + row[7] * uy + row[10] * uz
    nz = row[5] * ux + row[8] * uy + row[11] * uz
    n = math.sqrt(nx * nx + ny * ny + nz * nz)
    return t, nx / n, ny / n, nz / n


@numba.njit(cache=True, fastmath=True, parallel=True)
def _draw(table, kinds, boxes, o, rays, light, depth, colour):  # type: ignore[no-untyped-def]
    """Draw every part where it is nearest; rows are shared out over the cores."""
    for y in numba.prange(boxes[:, 1].min(), boxes[:, 3].max()):
        for i in range(len(kinds)):
            if y < boxes[i, 1] or y >= boxes[i, 3]:
                continue
            row = table[i]
            for x in range(boxes[i, 0], boxes[i, 2]):
                d = rays[y, x]
                t, nx, ny, nz = _hit_capsule(row, o, d) if kinds[i] == 0 else _hit_ellipsoid(row, o, d)
                if t <= 0.0 or t >= depth[y, x]:
                    continue
                depth[y, x] = t
                bright = _brightness(row, o, d, t, nx, ny, nz, light)
                for c in range(3):
                    colour[y, x, c] = row[12 + c] * bright


@numba.njit(cache=True, fastmath=True, inline="always")
def _brightness(row, o, d, t, nx, ny, nz, light):  # type: ignore[no-untyped-def]
    """Wrapped light, darker underneath and at the edges, with folds on cloth."""
    lit = nx * light[0] + ny * light[1] + nz * light[2]
    bright = AMBIENT * (0.82 + 0.18 * nz) + DIFFUSE * max((lit + 0.35) / 1.35, 0.0)
    if row[15] > 0.0:
        px, py, pz = o[0] + t * d[0], o[1] + t * d[1], o[2] + t * d[2]
        bright *= 1.0 + 0.045 * math.sin(34.0 * pz + 21.0 * px + 6.0 * math.sin(23.0 * px + 17.0 * py))
    facing = -(nx * d[0] + ny * d[1] + nz * d[2])
    return bright * (0.80 + 0.20 * min(facing * 2.2, 1.0))


@numba.njit(cache=True, fastmath=True, parallel=True)
def _compose(hall, shadow, depth, colour, tones, out):  # type: ignore[no-untyped-def]
    """Average the rays of each pixel over the hall with its shadows, and bring it to 8 bits."""
    height, width = hall.shape[0], hall.shape[1]
    for y in numba.prange(height):
        for x in range(width):
            light = 1.0 - DARKEST * _between(shadow, y / SHADOW_STEP, x / SHADOW_STEP)
            for c in range(3):
                total = 0.0
                for sy in range(SAMPLES):
                    for sx in range(SAMPLES):
                        ry, rx = y * SAMPLES + sy, x * SAMPLES + sx
                        total += colour[ry, rx, c] if depth[ry, rx] < 1e9 else hall[y, x, c] * light
                value = min(max(total / (SAMPLES * SAMPLES), 0.0), 1.0)
                out[y, x, c] = tones[int(value * (len(tones) - 1) + 0.5)]


@numba.njit(cache=True, fastmath=True, inline="always")
def _between(image, y, x):  # type: ignore[no-untyped-def]
    """A value between the four pixels around a place."""
    y0, x0 = min(int(y), image.shape[0] - 1), min(int(x), image.shape[1] - 1)
    y1, x1 = min(y0 + 1, image.shape[0] - 1), min(x0 + 1, image.shape[1] - 1)
    fy, fx = y - y0, x - x0
    top = image[y0, x0] * (1 - fx) + image[y0, x1] * fx
    return top * (1 - fy) + (image[y1, x0] * (1 - fx) + image[y1, x1] * fx) * fy


def _casters(parts: Sequence[Part]) -> NDArray[np.float64]:
    """Balls (x, y, z, radius) that stand in for the parts where they cast shadows; small ones cast none."""
    balls: list[tuple[float, float, float, float]] = []
    for part in parts:
        if isinstance(part, Capsule):
            ends = [(part.a, part.ra), ((part.a + part.b) / 2, (part.ra + part.rb) / 2), (part.b, part.rb)]
        else:
            ends = [(part.centre, sum(part.size) / 3)]
        balls += [(*centre, radius) for centre, radius in ends if radius > 0.022]
    return np.array(balls)


@numba.njit(cache=True, fastmath=True, parallel=True)
def _shade_floor(balls, floor, light):  # type: ignore[no-untyped-def]
    """How much of the light each mat place misses, softened with the height of what stands in it."""
    rows, columns = floor.shape[0], floor.shape[1]
    out = np.zeros((rows, columns))
    for y in numba.prange(rows):
        for x in range(columns):
            fx, fy = floor[y, x, 0], floor[y, x, 1]
            if not (abs(fx) < 5.0 and abs(fy) < 5.0):
                continue
            dark = 0.0
            for i in range(len(balls)):
                bx, by, bz, r = balls[i, 0], balls[i, 1], max(balls[i, 2], 0.0), balls[i, 3]
                soft = 0.03 + 0.10 * bz
                reach = (r + soft) * 1.6
                if abs(bx - light[0] / light[2] * bz - fx) > reach or abs(by - light[1] / light[2] * bz - fy) > reach:
                    continue
                along = (bx - fx) * light[0] + (by - fy) * light[1] + bz * light[2]
                ox, oy, oz = bx - fx - along * light[0], by - fy - along * light[1], bz - along * light[2]
                v = (r + soft - math.sqrt(ox * ox + oy * oy + oz * oz)) / (2.0 * soft)
                dark = max(dark, min(max(v, 0.0), 1.0) / (1.0 + 0.5 * bz))
            out[y, x] = dark
    return out
