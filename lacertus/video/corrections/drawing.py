"""Burning drawn shapes and words into a picture (RGB array), as the browser and the sheet draw them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from lacertus.core.corrections.shapes import (
    COLOURS,
    DASH,
    DASH_GAP,
    HEAD,
    INK,
    LETTERS,
    LINE,
    OUTLINE,
    UNIT,
    Label,
    Place,
    Ring,
    Shape,
    Stroke,
    heads,
    inwards,
)

Picture = NDArray[np.uint8]


def _rgb(colour: str) -> tuple[int, int, int]:
    red, green, blue = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
    return red, green, blue


DARK = _rgb(INK)
TINTS = {role: _rgb(colour) for role, colour in COLOURS.items()}
FINE = 4
"""Places are given to OpenCV in sixteenths of a pixel."""


def burn(picture: Picture, shapes: Iterable[Shape], cues: Sequence[str] = ()) -> Picture:
    """A copy of a picture with shapes drawn, and cues on a band at its foot."""
    found = picture.copy()
    unit = picture.shape[0] * UNIT
    labels = []
    for shape in shapes:
        if isinstance(shape, Stroke):
            _stroke(found, shape, unit)
        elif isinstance(shape, Ring):
            _ring(found, shape, unit)
        else:
            labels.append(shape)
    return _words(found, labels, cues, unit) if labels or cues else found


def _stroke(picture: Picture, stroke: Stroke, unit: float) -> None:
    colour = TINTS[stroke.role]
    pieces = dashes(stroke.points, DASH * unit, DASH_GAP * unit) if stroke.role == "wanted" else [stroke.points]
    lines = [*pieces, *heads(stroke, HEAD * unit)]
    for tint, wide in _widths(colour, unit):
        for line in lines:
            spots = np.round(np.array(line) * (1 << FINE)).astype(np.int32)
            cv2.polylines(picture, [spots.reshape(-1, 1, 2)], False, tint, round(wide), cv2.LINE_AA, FINE)


def _widths(tint: tuple[int, int, int], unit: float) -> tuple[tuple[tuple[int, int, int], float], ...]:
    """Outline and line, each wide enough to keep its colour in a film, which halves the resolution of colours."""
    line = max(2.0, LINE * unit)
    return (DARK, max(line + 2.0, OUTLINE * unit)), (tint, line)


def dashes(points: Sequence[Place], on: float, off: float) -> list[tuple[Place, ...]]:
    """A way cut into dashes."""
    found: list[tuple[Place, ...]] = []
    along = 0.0
    for a, b in itertools.pairwise(points):
        length = math.dist(a, b)
        at = -along
        while at < length:
            start, end = max(at, 0.0), min(at + on, length)
            if end > start and length > 0:
                found.append(tuple((a[0] + t / length * (b[0] - a[0]), a[1] + t / length * (b[1] - a[1])) for t in (start, end)))
            at += on + off
        along = (along + length) % (on + off)
    return found


def _ring(picture: Picture, ring: Ring, unit: float) -> None:
    at = tuple(round(value * (1 << FINE)) for value in ring.at)
    for tint, wide in _widths(TINTS[ring.role], unit):
        cv2.circle(picture, at, round(ring.radius * (1 << FINE)), tint, round(wide), cv2.LINE_AA, FINE)


def _words(picture: Picture, labels: Sequence[Label], cues: Sequence[str], unit: float) -> Picture:
    image = Image.fromarray(picture)
    draw = ImageDraw.Draw(image)
    font = _font(round(LETTERS * unit))
    for label in labels:
        turned = inwards(label, image.width)
        place = (label.at[0] + (-6 if turned else 6) * unit, label.at[1])
        draw.multiline_text(
            place, _wrapped(label.words, font, 0.36 * image.width), fill="white", font=font, anchor="ra" if turned else "la",
            stroke_width=max(1, round(0.9 * unit)), stroke_fill=DARK,
        )  # fmt: skip
    if cues:
        _band(image, cues, unit)
    return np.asarray(image).copy()


def _band(image: Image.Image, cues: Sequence[str], unit: float) -> None:
    """The cues on a dark band at the foot of the picture, large enough for a phone."""
    font = _font(round(13 * unit))
    text = "\n".join(_wrapped(cue, font, 0.92 * image.width) for cue in cues)
    draw = ImageDraw.Draw(image, "RGBA")
    _, top, _, bottom = draw.multiline_textbbox((0, 0), text, font=font)
    tall = bottom - top + 10 * unit
    draw.rectangle((0, image.height - tall, image.width, image.height), fill=(*DARK, 225))
    draw.multiline_text((image.width / 2, image.height - tall / 2), text, fill="white", font=font, anchor="mm", align="center")


def _wrapped(words: str, font: ImageFont.FreeTypeFont | ImageFont.ImageFont, most: float) -> str:
    """Words broken into lines that fit a width in pixels; a word that is wider than that is cut."""
    lines = [""]
    for word in words.split():
        while font.getlength(word) > most and len(word) > 1:
            fits = next(n for n in range(len(word) - 1, 0, -1) if n == 1 or font.getlength(word[:n]) <= most)
            lines += [word[:fits]]
            word = word[fits:]
        longer = f"{lines[-1]} {word}".strip()
        if lines[-1] and font.getlength(longer) > most:
            lines.append(word)
        else:
            lines[-1] = longer
    return "\n".join(line for line in lines if line)


def written(picture: Picture, texts: Iterable[tuple[str, Place, float]], letters: float) -> Picture:
    """A copy of a picture with dark texts: each with the place of its upper left corner, and the width that it is broken at."""
    image = Image.fromarray(picture)
    draw, font = ImageDraw.Draw(image), _font(round(letters))
    for text, place, most in texts:
        draw.multiline_text(place, _wrapped(text, font, most), fill=DARK, font=font, spacing=round(0.3 * letters))
    return np.asarray(image).copy()


def lines_of(text: str, most: float, letters: float) -> int:
    """In how many lines a text is written that is broken at a width."""
    return len(_wrapped(text, _font(round(letters)), most).splitlines()) if text else 0


@lru_cache(maxsize=8)
def _font(size: int) -> ImageFont.FreeTypeFont | ImageFont.ImageFont:
    """A sans of the system where there is one, as it has more letters; else the one that comes with Pillow."""
    for name in ("DejaVuSans.ttf", "LiberationSans-Regular.ttf"):
        try:
            return ImageFont.truetype(name, size)
        except OSError:
            continue
    return ImageFont.load_default(size)
