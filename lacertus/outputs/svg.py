"""Drawn shapes as SVG, for the sheet on a screen and on paper. Words are escaped; nothing else comes from outside."""

from __future__ import annotations

from collections.abc import Iterable

from markupsafe import Markup

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
    Ring,
    Shape,
    Stroke,
    heads,
    inwards,
)

LINE_WORDS = 34


def svg_of(shapes: Iterable[Shape], width: int, height: int, picture: str = "", label: str = "") -> Markup:
    """The shapes over a picture (its address; none draws the shapes alone), in an SVG of the picture's size."""
    unit = height * UNIT
    parts = [
        Markup('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {} {}" role="img" aria-label="{}">').format(
            width, height, label
        )
    ]
    if picture:
        parts.append(Markup('<image href="{}" x="0" y="0" width="{}" height="{}"/>').format(picture, width, height))
    parts += [_drawn(shape, unit, width) for shape in shapes]
    return Markup("").join([*parts, Markup("</svg>")])


def _drawn(shape: Shape, unit: float, width: int) -> Markup:
    if isinstance(shape, Stroke):
        return _stroke(shape, unit)
    return _ring(shape, unit) if isinstance(shape, Ring) else _label(shape, unit, width)


def _stroke(stroke: Stroke, unit: float) -> Markup:
    colour = COLOURS[stroke.role]
    dash = f' stroke-dasharray="{DASH * unit:.1f} {DASH_GAP * unit:.1f}"' if stroke.role == "wanted" else ""
    lines = [(stroke.points, dash), *((head, "") for head in heads(stroke, HEAD * unit))]
    found = Markup("")
    for tint, wide in ((INK, OUTLINE * unit), (colour, LINE * unit)):
        for points, dashes in lines:
            path = " ".join(f"{x:.1f},{y:.1f}" for x, y in points)
            found += Markup(
                f'<polyline points="{path}" fill="none" stroke="{tint}" stroke-width="{wide:.1f}" '
                f'stroke-linecap="round" stroke-linejoin="round"{dashes}/>'
            )
    return found


def _ring(ring: Ring, unit: float) -> Markup:
    (x, y), colour = ring.at, COLOURS[ring.role]
    dash = f' stroke-dasharray="{DASH * unit:.1f} {DASH_GAP * unit:.1f}"' if ring.role == "wanted" else ""
    rings = "".join(
        f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{ring.radius:.1f}" fill="none" stroke="{tint}" stroke-width="{wide:.1f}"{dash}/>'
        for tint, wide in ((INK, OUTLINE * unit), (colour, LINE * unit))
    )
    return Markup(rings)


def _label(label: Label, unit: float, width: int) -> Markup:
    x, y = label.at
    size, turned = LETTERS * unit, inwards(label, width)
    at = f'x="{x + (-6 if turned else 6) * unit:.1f}" text-anchor="{"end" if turned else "start"}"'
    found = Markup("")
    for i, line in enumerate(wrapped(label.words)):
        place = Markup(
            f'{at} y="{y + i * 1.15 * size:.1f}" font-size="{size:.1f}" font-weight="600" font-family="Archivo, sans-serif"'
        )
        found += Markup('<text {} fill="none" stroke="{}" stroke-width="{}" stroke-linejoin="round">{}</text>').format(
            place, INK, f"{2.2 * unit:.1f}", line
        )
        found += Markup('<text {} fill="#ffffff">{}</text>').format(place, line)
    return found


def wrapped(words: str, most: int = LINE_WORDS) -> list[str]:
    """Words in lines of at most so many letters, broken between words."""
    lines = [""]
    for word in words.split():
        if lines[-1] and len(lines[-1]) + 1 + len(word) > most:
            lines.append(word)
        else:
            lines[-1] = f"{lines[-1]} {word}".strip()
    return lines
