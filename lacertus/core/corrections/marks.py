"""Marks of a correction: what they hang on, and the plain shapes that they are drawn as, frame by frame.

A mark's spots are landmarks, and then it moves with the body, or fixed places. The browser, the sheet and the marked clip draw the
same shapes, so that a student sees what the coach saw.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import Annotated, Literal, Self, get_args

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from lacertus.core.corrections.shapes import Label, Place, Ring, Shape, Stroke
from lacertus.core.errors import BadInput, Unreadable
from lacertus.core.measuring.body import CENTRE_OF_MASS, BodyName, is_point
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.scene import Scene
from lacertus.core.model import Record

Array = NDArray[np.float64]
MarkKind = Literal["force", "line", "angle", "weight", "path", "space", "look", "words", "freehand"]
MARK_KINDS: tuple[MarkKind, ...] = get_args(MarkKind)
SPOTS: dict[MarkKind, tuple[int, int]] = {
    "force": (2, 2),
    "line": (2, 6),
    "angle": (2, 3),
    "weight": (2, 7),
    "path": (1, 6),
    "space": (2, 2),
    "look": (1, 1),
    "words": (1, 1),
    "freehand": (2, 60),
}
"""How many spots a mark of each kind hangs on, at least and at most."""
LONGEST_WORDS = 200
SNAPS_WITHIN = 0.035
"""A spot given as a place goes to a landmark that lies within this share of the picture's height. A convention."""
HOLDS_S = 0.1
"""So long before its first and after its last place a landmark's mark is drawn where that was, real time: longer, and the body has
gone elsewhere. A convention."""
WANTED_S = 0.1
"""What is wanted is drawn so long before and after the frame that it is wanted at, real time: a limb that swings through is wanted
in its place at one moment only. A convention."""
LOOK_SIZE = 0.06
"""Radius of a look-here spot, as a share of the picture's height."""


class Spot(Record):
    """What a mark hangs on: a landmark, `dx` and `dy` pixels off it, or a fixed place. Pixels of the displayed picture."""

    body: BodyName | None = None
    landmark: str | None = None
    dx: float = 0.0
    dy: float = 0.0
    x: float | None = None
    y: float | None = None

    @model_validator(mode="after")
    def _one_way(self) -> Self:
        if (self.landmark is None) == (self.x is None) or (self.x is None) != (self.y is None):
            raise ValueError("a spot is a landmark of a body, or a place x, y")
        if self.landmark is not None and (self.body is None or not is_point(self.landmark)):
            raise ValueError(f"“{self.landmark}” of “{self.body}” is not a landmark")
        return self

    @property
    def ref(self) -> PointRef | None:
        return None if self.landmark is None else PointRef(name=f"{self.body}.{self.landmark}")


class Mark(Record):
    """Something drawn on the picture.

    `wanted` is the angle that is wanted, degrees (kind angle: at the middle spot, or of two spots against the vertical), or where
    along the base the weight is wanted (kind weight, share 0–1 from its first spot to its last). The spots of kind weight are the
    mass, then the base; of kind path the point that goes the way, then the way that is wanted. A freehand line stands where it was
    drawn, on the frame that it was drawn on.
    """

    kind: MarkKind
    spots: Annotated[tuple[Spot, ...], Field(max_length=60)]
    wanted: float | None = Field(default=None, ge=-360, le=360)
    words: str = Field(default="", max_length=LONGEST_WORDS)

    @model_validator(mode="after")
    def _fits(self) -> Self:
        least, most = SPOTS[self.kind]
        if not least <= len(self.spots) <= most:
            asked = f"{least}" if least == most else f"{least} to {most}"
            raise ValueError(f"a mark “{self.kind}” hangs on {asked} spots, not {len(self.spots)}")
        if self.kind == "words" and not self.words.strip():
            raise ValueError("a mark of words needs words")
        return self


def snapped(mark: Mark, scene: Scene, frame: int) -> Mark:
    """The mark with each spot that was given as a place, and lies near a landmark on that frame, hung on the landmark."""
    if mark.kind == "freehand":
        return mark
    reach = SNAPS_WITHIN * scene.rep.size[1]
    known = [
        (body, landmark)
        for body, data in scene.rep.bodies.items()
        for landmark in data.landmarks
        if scene.has(body, landmark, frame)
    ]
    if not known:
        return mark
    refs = [PointRef(name=f"{body}.{landmark}") for body, landmark in known]
    places = scene.places(refs, np.array([frame]))[:, :, 0]

    def hung(spot: Spot) -> Spot:
        if spot.x is None or spot.y is None:
            return spot
        far = np.hypot(places[:, 0] - spot.x, places[:, 1] - spot.y)
        nearest = int(np.argmin(far))
        if not far[nearest] <= reach:
            return spot
        return Spot(body=known[nearest][0], landmark=known[nearest][1])

    return mark.model_copy(update={"spots": tuple(hung(spot) for spot in mark.spots)})


LEAST_LENGTH_PX = 4.0


def check_drawable(marks: Sequence[Mark], size: tuple[int, int]) -> None:
    """Raise BadInput where a fixed place lies outside the picture, or an arrow has no length."""
    for mark in marks:
        a, b = mark.spots[0], mark.spots[-1]
        if mark.kind == "force" and (a.body, a.landmark) == (b.body, b.landmark):
            gap = (b.dx - a.dx, b.dy - a.dy) if a.x is None or b.x is None else (b.x - a.x, (b.y or 0) - (a.y or 0))
            if math.hypot(*gap) < LEAST_LENGTH_PX:
                raise BadInput("the arrow has no length: press where it starts and let go where it points; nothing was stored")
    for spot in (spot for mark in marks for spot in mark.spots):
        if spot.x is not None and spot.y is not None and not (0 <= spot.x <= size[0] and 0 <= spot.y <= size[1]):
            raise BadInput(f"the place {spot.x:g}, {spot.y:g} lies outside the picture ({size[0]}×{size[1]}); nothing was stored")
        if max(abs(spot.dx), abs(spot.dy)) > max(size):
            raise BadInput("a mark lies farther from its landmark than the picture is large; nothing was stored")


def drawn(marks: Sequence[Mark], scene: Scene, frames: Sequence[int], at: int | None = None) -> tuple[tuple[Shape, ...], ...]:
    """The shapes of marks on each of some frames of the rep.

    A mark is not drawn where a landmark that it hangs on has no place, nor had one a moment before or after. How an angle, a line
    and a weight are wanted is drawn about the frame `at` only, or on every frame where none is given.
    """
    ways = [_ways(mark, scene) for mark in marks]
    first = scene.rep.range[0]
    real_s = scene.time.real_s
    found = []
    for frame in frames:
        shapes: list[Shape] = []
        for mark, way in zip(marks, ways, strict=True):
            if way is not None:
                wants = at is None or abs(real_s[frame] - real_s[at]) <= WANTED_S + 1e-9
                now = _Now(way=way, i=frame - first, span=(frames[0] - first, frames[-1] - first), scene=scene, wants=wants)
                if mark.kind == "path" or not np.isnan(way[:, :, now.i]).any():
                    shapes += _SHAPES[mark.kind](mark, now)
        found.append(tuple(shapes))
    return tuple(found)


def _ways(mark: Mark, scene: Scene) -> Array | None:
    """Where each spot is on every frame of the rep (spots × 2 × n); None where one is never seen."""
    first, last = scene.rep.range
    frames = np.arange(first, last + 1)
    ways = []
    for spot in mark.spots:
        if spot.ref is None:
            ways.append(np.tile(np.array([[spot.x], [spot.y]], dtype=np.float64), (1, len(frames))))
            continue
        way = _way(spot.ref, scene, frames)
        known = np.nonzero(~np.isnan(way[0]))[0]
        if len(known) == 0:
            return None
        held = known[np.abs(known[None, :] - np.arange(len(frames))[:, None]).argmin(axis=1)]
        way = way[:, held] + np.array([[spot.dx], [spot.dy]])
        real_s = np.array(scene.time.real_s)[frames]
        way[:, np.abs(real_s[held] - real_s) > HOLDS_S + 1e-9] = np.nan
        ways.append(way)
    return np.stack(ways)


def _way(ref: PointRef, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """Where a point is on each frame (2 × n); not a number where it has no place."""
    body, landmark = scene.resolve(str(ref))
    nowhere = np.full((2, len(frames)), np.nan)
    known = scene.rep.bodies[body].landmarks if body in scene.rep.bodies else {}
    if landmark != CENTRE_OF_MASS:
        there = all(known.get(part) for _, part in scene.landmarks_of(str(ref)))
        return scene.places((ref,), frames)[0] if there else nowhere
    # Of the mass, which parts stand in for others goes by the frame.
    for i, frame in enumerate(frames.tolist()):
        with suppress(Unreadable):
            found = scene.landmark(body, landmark, frame)
            nowhere[:, i] = found.x, found.y
    return nowhere


@dataclass(frozen=True, kw_only=True)
class _Now:
    """A mark's spots over the whole rep (spots × 2 × n), which frame is drawn, and the stretch that the mark is shown in.

    `wants` says whether how it is wanted is drawn too.
    """

    way: Array
    i: int
    span: tuple[int, int]
    scene: Scene
    wants: bool

    @property
    def places(self) -> list[Place]:
        return _places(self.way[:, :, self.i])

    @property
    def tall(self) -> int:
        return self.scene.rep.size[1]


def _places(found: Array) -> list[Place]:
    return [(round(float(x), 1), round(float(y), 1)) for x, y in found]


def _force(mark: Mark, now: _Now) -> list[Shape]:
    return [Stroke(role="push", points=tuple(now.places), head="end"), *_words(mark, now.places[-1])]


def _freehand(mark: Mark, now: _Now) -> list[Shape]:
    """A line that was drawn by hand is of its frame: a moment later the body has gone from under it."""
    if not now.wants:
        return []
    return [Stroke(role="look", points=tuple(now.places)), *_words(mark, now.places[-1])]


def _line(mark: Mark, now: _Now) -> list[Shape]:
    places = now.places
    wanted: list[Shape] = [Stroke(role="wanted", points=(places[0], places[-1]))] if len(places) > 2 and now.wants else []
    return [Stroke(role="seen", points=tuple(places)), *wanted, *_words(mark, places[len(places) // 2])]


def _angle(mark: Mark, now: _Now) -> list[Shape]:
    """Both limbs as they are seen, and the far one as it is wanted: turned about the joint, towards where it lies already."""
    places = now.places
    joint, end = np.array(places[-2]), np.array(places[-1])
    upright = math.radians(now.scene.rep.upright.deg)
    against = np.array(places[0]) - joint if len(places) == 3 else np.array([math.sin(upright), -math.cos(upright)])
    length = float(np.hypot(*(end - joint)))
    shapes: list[Shape] = [Stroke(role="seen", points=tuple(places))]
    if mark.wanted is not None and now.wants and length > 0 and np.hypot(*against) > 0:
        turned = (end - joint) @ np.array([-against[1], against[0]])
        wanted = math.radians(abs(mark.wanted)) * (1 if turned >= 0 else -1)
        c, s = math.cos(wanted), math.sin(wanted)
        along = np.array([c * against[0] - s * against[1], s * against[0] + c * against[1]]) / np.hypot(*against)
        tip = joint + length * along
        shapes.append(Stroke(role="wanted", points=(places[-2], (round(float(tip[0]), 1), round(float(tip[1]), 1)))))
    return [*shapes, *_words(mark, places[-2])]


def _weight(mark: Mark, now: _Now) -> list[Shape]:
    """The mass, the plumb line from it to the mat, the base, and where on the base the weight is wanted."""
    mass, *base = now.places
    low = max(y for _, y in base)
    size = LOOK_SIZE * 0.4 * now.tall
    shapes: list[Shape] = [
        Stroke(role="seen", points=tuple(sorted(base))),
        Ring(role="seen", at=mass, radius=size),
        Stroke(role="seen", points=(mass, (mass[0], low)), head="end"),
    ]
    if mark.wanted is not None and now.wants:
        at = _between(base[0], base[-1], mark.wanted)
        shapes += [Ring(role="wanted", at=at, radius=size), Stroke(role="wanted", points=(at, (at[0], mass[1])))]
    return [*shapes, *_words(mark, mass)]


def _path(mark: Mark, now: _Now) -> list[Shape]:
    """The way taken while the mark is shown, and the wanted one: through the further spots, else straight."""
    first, last = now.span
    way = now.way[0][:, first : last + 1]
    taken = _places(way[:, ~np.isnan(way[0])].T)
    if not taken or np.isnan(now.way[1:, :, now.i]).any():
        return []
    thinned = _thinned(taken)
    wanted = tuple(now.places[1:]) if len(now.way) > 1 else (taken[0], taken[-1])
    if len(wanted) == 1:
        wanted = (taken[0], wanted[0])
    return [
        Stroke(role="seen", points=thinned if len(thinned) > 1 else (taken[0], taken[0])),
        Stroke(role="wanted", points=wanted, head="end"),
        *_words(mark, taken[-1]),
    ]


def _thinned(places: list[Place], least_px: float = 2.0) -> tuple[Place, ...]:
    """A way without its standing still."""
    found = [places[0]]
    for place in places[1:]:
        if math.dist(place, found[-1]) >= least_px:
            found.append(place)
    return tuple(found)


def _space(mark: Mark, now: _Now) -> list[Shape]:
    """Two arrows that close on each other."""
    a, b = now.places
    middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
    arrows = [Stroke(role="push", points=(end, _between(end, middle, 0.8)), head="end") for end in (a, b)]
    return [*arrows, *_words(mark, middle)]


def _between(a: Place, b: Place, share: float) -> Place:
    return round(a[0] + share * (b[0] - a[0]), 1), round(a[1] + share * (b[1] - a[1]), 1)


def _look(mark: Mark, now: _Now) -> list[Shape]:
    at = now.places[0]
    return [Ring(role="look", at=at, radius=round(LOOK_SIZE * now.tall, 1)), *_words(mark, at)]


def _only_words(mark: Mark, now: _Now) -> list[Shape]:
    return list(_words(mark, now.places[0]))


def _words(mark: Mark, at: Place) -> tuple[Label, ...]:
    return (Label(role="push", at=at, words=mark.words.strip()),) if mark.words.strip() else ()


_SHAPES = {
    "force": _force,
    "line": _line,
    "angle": _angle,
    "weight": _weight,
    "path": _path,
    "space": _space,
    "look": _look,
    "words": _only_words,
    "freehand": _freehand,
}
