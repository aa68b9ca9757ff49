"""A frame number in the corner of the picture, for people to read and for programs to check.

A row of square cells along the top edge: white, 16 bits (highest first), their parity, black; each
cell is 1/45 of the picture's height, so the stamp can be read at any scale.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

BITS = 16
CELLS = BITS + 3
CELL_SHARE = 1 / 45


def write_stamp(picture: NDArray[np.uint8], number: int) -> NDArray[np.uint8]:
    """The picture with a frame number (0–65,535) in its upper left corner."""
    height = picture.shape[0]
    cell = height * CELL_SHARE
    image = Image.fromarray(picture)
    draw = ImageDraw.Draw(image)
    for i, lit in enumerate(_cells(number)):
        box = (round((i + 1) * cell), round(cell), round((i + 2) * cell) - 1, round(2 * cell) - 1)
        draw.rectangle(box, fill=(235, 235, 235) if lit else (20, 20, 20))
    font = ImageFont.load_default(size=cell * 1.5)
    draw.text((cell, cell * 2.2), f"{number:04d}", fill=(30, 34, 38), font=font)
    return np.asarray(image)


def read_stamp(picture: NDArray[np.uint8]) -> int | None:
    """The frame number in a picture of any size, or None where no stamp can be read."""
    height = picture.shape[0]
    cell = height * CELL_SHARE
    grey = picture[..., :3].mean(axis=2)
    row = round(1.5 * cell)
    lit = []
    for i in range(CELLS):
        column, reach = round((i + 1.5) * cell), max(round(cell / 5), 1)
        lit.append(bool(grey[row - reach : row + reach, column - reach : column + reach].mean() > 128))
    bits = lit[1 : 1 + BITS]
    if not lit[0] or lit[-1] or lit[1 + BITS] != bool(sum(bits) % 2):
        return None
    return sum(1 << (BITS - 1 - i) for i, bit in enumerate(bits) if bit)


def _cells(number: int) -> list[bool]:
    bits = [bool(number >> (BITS - 1 - i) & 1) for i in range(BITS)]
    return [True, *bits, bool(sum(bits) % 2), False]
