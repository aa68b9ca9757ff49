"""The compiled loops of the renderer: rays against tapered capsules and ellipsoids, the hall, shadows.

Parts are rows of numbers (`render.part_table`); the camera is a row of position, right, down, ahead,
focal length (`render.camera_row`). Pictures are rows × columns × 3, light from 0 to 1.
"""

from __future__ import annotations

import math

import numba
import numpy as np

AMBIENT, DIFFUSE = 0.52, 0.56
WALL_Y = 2.6
"""The wall stands this far behind the middle of the mat, metres."""
DARKEST = 0.55
GRID_CELL, GRID_HALF = 0.04, 110
"""Shadows are kept on a grid of mat places: cell in metres, half width in cells."""
FAR = 1e9
SUBRAYS = ((-0.375, -0.125), (0.125, -0.375), (-0.125, 0.375), (0.375, 0.125))
"""Where the rays of an edge pixel go, from its middle."""


@numba.njit(cache=True, fastmath=True)
def hit_capsule(row, o, dx, dy, dz):  # type: ignore[no-untyped-def]
    """Distance along a unit ray to a tapered capsule and its normal; negative where it is missed.

    A ball moves from a to b while its radius changes: a quadratic for the mantle between the two
    circles of contact, and one for each ball at the ends.
    """
    bax, bay, baz = row[3] - row[0], row[4] - row[1], row[5] - row[2]
    oax, oay, oaz = o[0] - row[0], o[1] - row[1], o[2] - row[2]
    ra, rb = row[6], row[7]
    rr = ra - rb
    m0 = bax * bax + bay * bay + baz * baz
    m1 = bax * oax + bay * oay + baz * oaz
    m2 = bax * dx + bay * dy + baz * dz
    m3 = dx * oax + dy * oay + dz * oaz
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
                nx = d2 * (oax + t * dx) - bax * y
                ny = d2 * (oay + t * dy) - bay * y
                nz = d2 * (oaz + t * dz) - baz * y
                n = math.sqrt(nx * nx + ny * ny + nz * nz)
                return t, nx / n, ny / n, nz / n
    best = -1.0
    bx, by, bz = 0.0, 0.0, 0.0
    h1 = m3 * m3 - m5 + ra * ra
    if h1 > 0.0:
        t = -m3 - math.sqrt(h1)
        if t > 0.0:
            best = t
            bx, by, bz = (oax + t * dx) / ra, (oay + t * dy) / ra, (oaz + t * dz) / ra
    obx, oby, obz = oax - bax, oay - bay, oaz - baz
    m4 = dx * obx + dy * oby + dz * obz
    h2 = m4 * m4 - (obx * obx + oby * oby + obz * obz) + rb * rb
    if h2 > 0.0:
        t = -m4 - math.sqrt(h2)
        if t > 0.0 and (best < 0.0 or t < best):
            best = t
            bx, by, bz = (obx + t * dx) / rb, (oby + t * dy) / rb, (obz + t * dz) / rb
    return best, bx, by, bz


@numba.njit(cache=True, fastmath=True)
def hit_ellipsoid(row, o, dx, dy, dz):  # type: ignore[no-untyped-def]
    """Distance along a ray to an ellipsoid and its normal, in the space where it is a unit ball."""
    ox, oy, oz = o[0] - row[0], o[1] - row[1], o[2] - row[2]
    px = row[3] * ox + row[4] * oy + row[5] * oz
    py = row[6] * ox + row[7] * oy + row[8] * oz
    pz = row[9] * ox + row[10] * oy + row[11] * oz
    qx = row[3] * dx + row[4] * dy + row[5] * dz
    qy = row[6] * dx + row[7] * dy + row[8] * dz
    qz = row[9] * dx + row[10] * dy + row[11] * dz
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


@numba.njit(cache=True, fastmath=True)
def ray(camera, x, y):  # type: ignore[no-untyped-def]
    """Unit direction of the ray through a place of the picture, measured from its middle in pixels."""
    dx = camera[9] * camera[12] + x * camera[3] + y * camera[6]
    dy = camera[10] * camera[12] + x * camera[4] + y * camera[7]
    dz = camera[11] * camera[12] + x * camera[5] + y * camera[8]
    n = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
    return dx * n, dy * n, dz * n


@numba.njit(cache=True, fastmath=True)
def brightness(row, o, dx, dy, dz, t, nx, ny, nz, light):  # type: ignore[no-untyped-def]
    """Wrapped light, darker underneath, near the mat and at the edges, with folds on cloth."""
    lit = nx * light[0] + ny * light[1] + nz * light[2]
    bright = AMBIENT * (0.80 + 0.20 * nz) + DIFFUSE * max((lit + 0.35) / 1.35, 0.0)
    pz = o[2] + t * dz
    if row[15] > 0.0:
        px, py = o[0] + t * dx, o[1] + t * dy
        bright *= 1.0 + row[15] * 0.045 * math.sin(34.0 * pz + 21.0 * px + 6.0 * math.sin(23.0 * px + 17.0 * py))
    if nz < 0.2 and pz < 0.30:
        bright *= 1.0 - 0.28 * (1.0 - max(pz, 0.0) / 0.30) * min((0.2 - nz) * 1.2, 1.0)
    facing = -(nx * dx + ny * dy + nz * dz)
    return bright * (0.80 + 0.20 * min(facing * 2.2, 1.0))


@numba.njit(cache=True, fastmath=True)
def row_span(box, line, y):  # type: ignore[no-untyped-def]
    """First and last column of a part's box that a row can meet: only as far as its axis comes near the row.

    `line` holds the axis in the picture (x, y of both ends) and the part's reach, pixels.
    """
    rise, reach = line[3] - line[1], line[4]
    if abs(rise) < 1e-3:
        return box[0], box[2]
    a, b = (y - reach - line[1]) / rise, (y + reach - line[1]) / rise
    a, b = min(max(min(a, b), 0.0), 1.0), min(max(max(a, b), 0.0), 1.0)
    xa, xb = line[0] + a * (line[2] - line[0]), line[0] + b * (line[2] - line[0])
    return max(box[0], int(min(xa, xb) - reach)), min(box[2], int(max(xa, xb) + reach) + 2)


@numba.njit(cache=True, fastmath=True, parallel=True)
def draw_parts(table, kinds, boxes, lines, camera, light, depth, owner, colour):  # type: ignore[no-untyped-def]
    """One ray a pixel: the nearest part's distance, number and colour; `boxes` are left, top, right, bottom."""
    half_x, half_y = depth.shape[1] / 2.0, depth.shape[0] / 2.0
    first, last = boxes[:, 0].min(), boxes[:, 2].max()
    for y in numba.prange(depth.shape[0]):
        rays = np.empty((3, depth.shape[1]))
        for x in range(depth.shape[1]):
            depth[y, x] = FAR
            owner[y, x] = -1
        if y < boxes[:, 1].min() or y >= boxes[:, 3].max():
            continue
        for x in range(first, last):
            rays[0, x], rays[1, x], rays[2, x] = ray(camera, x + 0.5 - half_x, y + 0.5 - half_y)
        for i in range(len(kinds)):
            if y < boxes[i, 1] or y >= boxes[i, 3]:
                continue
            row = table[i]
            start, stop = row_span(boxes[i], lines[i], y)
            for x in range(start, stop):
                dx, dy, dz = rays[0, x], rays[1, x], rays[2, x]
                if kinds[i] == 0:
                    t, nx, ny, nz = hit_capsule(row, camera, dx, dy, dz)
                else:
                    t, nx, ny, nz = hit_ellipsoid(row, camera, dx, dy, dz)
                if t <= 0.0 or t >= depth[y, x]:
                    continue
                depth[y, x] = t
                owner[y, x] = i
                bright = brightness(row, camera, dx, dy, dz, t, nx, ny, nz, light)
                for c in range(3):
                    colour[y, x, c] = row[12 + c] * bright


@numba.njit(cache=True, fastmath=True)
def sample(table, kinds, near, count, camera, light, x, y, out):  # type: ignore[no-untyped-def]
    """One ray against the parts numbered in `near`; True and the colour where one is hit."""
    dx, dy, dz = ray(camera, x, y)
    best = FAR
    for k in range(count):
        i = near[k]
        row = table[i]
        if kinds[i] == 0:
            t, nx, ny, nz = hit_capsule(row, camera, dx, dy, dz)
        else:
            t, nx, ny, nz = hit_ellipsoid(row, camera, dx, dy, dz)
        if 0.0 < t < best:
            best = t
            bright = brightness(row, camera, dx, dy, dz, t, nx, ny, nz, light)
            for c in range(3):
                out[c] = row[12 + c] * bright
    return best < FAR


@numba.njit(cache=True, fastmath=True)
def hall_at(camera, light, shadow, dx, dy, dz, out):  # type: ignore[no-untyped-def]
    """Colour of the hall along a ray: mats with seams, a wall of panels, plaster and a rail; shadows on the mat."""
    to_floor = -camera[2] / dz if dz < -1e-6 else FAR
    to_wall = (WALL_Y - camera[1]) / dy if dy > 1e-6 else FAR
    if to_floor < to_wall:
        x, y = camera[0] + dx * to_floor, camera[1] + dy * to_floor
        width = max(0.006, 0.9 * to_floor / camera[12])
        if abs(x) < 4.0 and -4.0 < y < 1.9:
            out[0], out[1], out[2] = 0.66, 0.63, 0.50
        else:
            out[0], out[1], out[2] = 0.36, 0.42, 0.50
        off = min(abs((x + 0.5) % 1.0 - 0.5), abs((y + 0.5) % 2.0 - 1.0))
        seam = 0.20 * 0.006 / width * min(max((width - off) / width * 2.0, 0.0), 1.0)
        weave = 1.0 + 0.012 * math.sin(x * 61.0) * math.sin(y * 47.0)
        shade = (1.0 - seam) * weave * (1.0 - DARKEST * shadow_at(shadow, x, y))
    else:
        x, z = camera[0] + dx * to_wall, camera[2] + dz * to_wall
        if z < 0.935:
            out[0], out[1], out[2] = 0.50, 0.42, 0.33
            groove = abs((x + 0.6) % 1.2 - 0.6)
            shade = 0.80 if groove < 0.008 else 1.0
        elif z < 1.005:
            out[0], out[1], out[2] = 0.33, 0.26, 0.20
            shade = 1.0
        else:
            out[0], out[1], out[2] = 0.80, 0.79, 0.75
            shade = 1.0 + 0.010 * math.sin(x * 3.1 + 0.7 * z) * math.sin(z * 4.3)
        shade *= 0.90 + 0.10 * math.cos(x * 0.5)
    for c in range(3):
        out[c] *= shade


@numba.njit(cache=True, fastmath=True)
def shadow_at(shadow, x, y):  # type: ignore[no-untyped-def]
    """How much of the light a mat place misses, between the four grid places around it."""
    gx, gy = x / GRID_CELL + GRID_HALF, y / GRID_CELL + GRID_HALF
    i, j = int(np.floor(gx)), int(np.floor(gy))
    if i < 0 or j < 0 or i >= 2 * GRID_HALF - 1 or j >= 2 * GRID_HALF - 1:
        return 0.0
    fx, fy = gx - i, gy - j
    near = shadow[j, i] * (1 - fx) + shadow[j, i + 1] * fx
    return near * (1 - fy) + (shadow[j + 1, i] * (1 - fx) + shadow[j + 1, i + 1] * fx) * fy


@numba.njit(cache=True, fastmath=True)
def cast_shadows(balls, light, shadow):  # type: ignore[no-untyped-def]
    """Shadows of balls (x, y, z, radius) on the grid, softened with the height of what stands there."""
    shadow[:] = 0.0
    for i in range(len(balls)):
        bx, by, bz, r = balls[i, 0], balls[i, 1], max(balls[i, 2], 0.0), balls[i, 3]
        soft = 0.03 + 0.10 * bz
        reach = (r + soft) * 1.6
        mx, my = bx - light[0] / light[2] * bz, by - light[1] / light[2] * bz
        first_x, last_x = int((mx - reach) / GRID_CELL) + GRID_HALF, int((mx + reach) / GRID_CELL) + GRID_HALF + 1
        first_y, last_y = int((my - reach) / GRID_CELL) + GRID_HALF, int((my + reach) / GRID_CELL) + GRID_HALF + 1
        for j in range(max(first_y, 0), min(last_y + 1, 2 * GRID_HALF)):
            for k in range(max(first_x, 0), min(last_x + 1, 2 * GRID_HALF)):
                fx, fy = (k - GRID_HALF) * GRID_CELL, (j - GRID_HALF) * GRID_CELL
                along = (bx - fx) * light[0] + (by - fy) * light[1] + bz * light[2]
                ox, oy, oz = bx - fx - along * light[0], by - fy - along * light[1], bz - along * light[2]
                v = (r + soft - math.sqrt(ox * ox + oy * oy + oz * oz)) / (2.0 * soft)
                dark = min(max(v, 0.0), 1.0) / (1.0 + 0.5 * bz)
                if dark > shadow[j, k]:
                    shadow[j, k] = dark


@numba.njit(cache=True, fastmath=True, parallel=True)
def draw_hall(camera, light, shadow, out):  # type: ignore[no-untyped-def]
    """The hall without anybody in it (with the shadows of a grid)."""
    half_x, half_y = out.shape[1] / 2.0, out.shape[0] / 2.0
    for y in numba.prange(out.shape[0]):
        for x in range(out.shape[1]):
            dx, dy, dz = ray(camera, x + 0.5 - half_x, y + 0.5 - half_y)
            hall_at(camera, light, shadow, dx, dy, dz, out[y, x])


@numba.njit(cache=True, fastmath=True, parallel=True)
def compose(table, kinds, shade_box, region, camera, light, shadow, hall, owner, colour, out):  # type: ignore[no-untyped-def]
    """Figures over the hall; a pixel on an edge is the mean of four rays. Adds light 0–1 to `out`.

    Only `region` (left, top, right, bottom) is composed, and shadows are looked up inside `shade_box` only.
    """
    height, width = owner.shape
    half_x, half_y = width / 2.0, height / 2.0
    for y in numba.prange(region[1], region[3]):
        near = np.empty(9, dtype=np.int64)
        found = np.empty(3)
        behind = np.empty(3)
        for x in range(region[0], region[2]):
            mine = owner[y, x]
            edge = (
                (x > 0 and owner[y, x - 1] != mine)
                or (x + 1 < width and owner[y, x + 1] != mine)
                or (y > 0 and owner[y - 1, x] != mine)
                or (y + 1 < height and owner[y + 1, x] != mine)
            )
            if mine >= 0 and not edge:
                for c in range(3):
                    out[y, x, c] += colour[y, x, c]
                continue
            light_here = 1.0
            if shade_box[0] <= x < shade_box[2] and shade_box[1] <= y < shade_box[3]:
                dx, dy, dz = ray(camera, x + 0.5 - half_x, y + 0.5 - half_y)
                t = -camera[2] / min(dz, -1e-6)
                if dy < 1e-6 or t < (WALL_Y - camera[1]) / dy:
                    light_here = 1.0 - DARKEST * shadow_at(shadow, camera[0] + dx * t, camera[1] + dy * t)
            for c in range(3):
                behind[c] = hall[y, x, c] * light_here
            if not edge:
                for c in range(3):
                    out[y, x, c] += behind[c]
                continue
            # Whatever the four rays meet is drawn in this pixel or beside it.
            count = 0
            for j in range(max(y - 1, 0), min(y + 2, height)):
                for k in range(max(x - 1, 0), min(x + 2, width)):
                    part = owner[j, k]
                    new = part >= 0
                    for m in range(count):
                        new = new and near[m] != part
                    if new:
                        near[count] = part
                        count += 1
            for s in range(4):
                sx, sy = SUBRAYS[s]
                hit = sample(table, kinds, near, count, camera, light, x + 0.5 + sx - half_x, y + 0.5 + sy - half_y, found)
                for c in range(3):
                    out[y, x, c] += 0.25 * (found[c] if hit else behind[c])


@numba.njit(cache=True, fastmath=True, parallel=True)
def to_bytes(total, shots, region, grain, tones, out):  # type: ignore[no-untyped-def]
    """The mean of `shots` exposures with the sensor's grain, brought to 8 bits; `total` is emptied for the next picture."""
    for y in numba.prange(region[1], region[3]):
        for x in range(region[0], region[2]):
            for c in range(3):
                value = min(max(total[y, x, c] / shots + grain[y, x], 0.0), 1.0)
                out[y, x, c] = tones[int(value * (len(tones) - 1) + 0.5)]
                total[y, x, c] = 0.0
