"""How long each part of a body is in the picture: as given, as the clip shows it, or by the table of proportions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lacertus.core.measuring import body as anatomy

TABLE_U = 0.06
"""u of a length by the table of proportions, as a share of it: people differ from it by 3–5 %, and the height has its own. A
convention."""
WIDTHS = {"hip_width": (0.165, 0.2), "shoulder_width": (0.235, 0.12)}
"""The table's widths are of the outside of the body; joints' middles lie closer together. As shares of standing height, with u as
a share of the width. Conventions."""
OTHER_PARTS: dict[str, tuple[float, float]] = {
    "neck": (0.035, 0.4),
    "nose": (0.115, 0.25),
    "chin": (0.06, 0.4),
    "crown": (0.16, 0.15),
    "ear": (0.095, 0.25),
    "hand": (0.056, 0.25),
    "heel": (0.055, 0.25),
    "toe": (0.122, 0.12),
}
"""Parts that no reference length is taken of: from the neck to the landmarks of the head, from wrist to hand, from ankle to heel
and toe, each as a share of standing height, and its u as a share of itself. From the studio's figure and the posed bodies of the
bench, which differ by half of that; conventions."""


@dataclass(frozen=True, kw_only=True)
class PartLength:
    """Length of a part and its u, pixels; `known` if it was given, read from the clip, or goes by a marked height."""

    px: float
    u: float
    known: bool


def part_lengths(
    given: Mapping[str, tuple[float, float]], seen: Mapping[str, tuple[float, float]], height_px: float | None
) -> dict[str, PartLength]:
    """Every part's length.

    Args:
        given: reference lengths and their u by segment, pixels.
        seen: what the clip shows of segments in enough frames, pixels; a segment that never lay square to the camera looks
            shorter than it is.
        height_px: standing height, pixels, where it is marked.
    """
    tall = height_px or _tall(given) or _tall(seen)
    found: dict[str, PartLength] = {}
    for segment in anatomy.SEGMENTS:
        if segment in given:
            found[segment] = PartLength(px=given[segment][0], u=max(given[segment][1], 1e-3 * given[segment][0]), known=True)
            continue
        table = _by_table(segment, tall, marked=height_px is not None)
        if segment in seen:
            found[segment] = _shown(seen[segment], table)
        elif table is not None:
            found[segment] = table
    if tall is not None:
        for name, (share, u) in OTHER_PARTS.items():
            found[name] = PartLength(px=share * tall, u=u * share * tall, known=False)
    return found


def _tall(lengths: Mapping[str, tuple[float, float]]) -> float | None:
    """Standing height by the segment that makes it tallest: others may never have lain square to the camera."""
    heights = [
        px / anatomy.PROPORTIONS[bare]
        for name, (px, _) in lengths.items()
        if (bare := anatomy.joint_of(name)) in anatomy.PROPORTIONS and "width" not in bare
    ]
    return max(heights, default=None)


def _by_table(segment: str, tall: float | None, *, marked: bool) -> PartLength | None:
    bare = anatomy.joint_of(segment)
    if tall is None or bare not in anatomy.PROPORTIONS:
        return None
    share, u = WIDTHS.get(bare, (anatomy.PROPORTIONS[bare], TABLE_U))
    return PartLength(px=share * tall, u=u * share * tall, known=marked)


def _shown(seen: tuple[float, float], table: PartLength | None) -> PartLength:
    """The clip's own length, unless it is so much shorter than the table's that the part never lay square to the camera."""
    px, u = seen
    if table is None or px > table.px - 2 * table.u:
        return PartLength(px=px, u=u, known=True)
    return PartLength(px=table.px, u=table.u, known=True)
