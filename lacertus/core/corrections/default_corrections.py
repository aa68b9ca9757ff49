"""The usual correction of a missed checkpoint, made from what it measures: marks, frames and cue, words included."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from lacertus.core.corrections.marks import Mark, Spot, drawn
from lacertus.core.errors import Unreadable
from lacertus.core.measuring.measures.balance import BalanceMeasure
from lacertus.core.measuring.measures.base import Measure, PointRef
from lacertus.core.measuring.measures.nested import Nested
from lacertus.core.measuring.measures.relation import MAT, RelationMeasure
from lacertus.core.measuring.measures.scalar import owner_of
from lacertus.core.measuring.scene import Scene
from lacertus.core.model import Record
from lacertus.core.review.asking import wanted_range
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Asked, Technique
from lacertus.core.techniques.vocabulary import Wanted

AROUND_S = 0.35
"""A correction is shown from so long before its frame to so long after, real time. A convention."""


class DefaultCorrection(Record):
    """A correction as it is made ready: on which frame it stops, over which frames it is shown, the marks, and the cue."""

    frame: int
    first: int
    last: int
    marks: tuple[Mark, ...]
    cue: str


def default_correction(technique: Technique, asked: Asked, judgement: Judgement, scene: Scene) -> DefaultCorrection:
    """The usual correction of a checkpoint or a reaction in one rep; where nothing of it is placed there are words alone.

    A measure that has no drawing of its own is shown by a look-here spot on what it reads.
    """
    frame = _frame(asked, judgement, scene)
    first, last = _around(frame, scene)
    if isinstance(asked, Checkpoint):
        marks = _marks(technique, asked, judgement, scene)
        if asked.kind in ("path", "peak", "speed", "dwell") and len(judgement.frames) > 1:
            first, last = min(judgement.frames), max(judgement.frames)
    else:
        marks = _at_event(technique, asked, judgement, scene)
    return DefaultCorrection(
        frame=frame, first=first, last=last, marks=tuple(m for m in marks if _seen(m, scene)), cue=asked.cues[0]
    )


def _marks(technique: Technique, checkpoint: Checkpoint, judgement: Judgement, scene: Scene) -> list[Mark]:
    wanted = wanted_range(checkpoint, technique, scene.rep)
    draw = _DRAWN.get(checkpoint.kind, _look_here)
    nested = getattr(checkpoint.measure, "of", None)
    if isinstance(nested, Nested):
        # What a change, a peak or a comparison reads is shown without its range, which is not the nested measure's own.
        marks = _DRAWN.get(nested.kind, _look_here)(nested.measure, None, judgement, scene)
    else:
        marks = draw(checkpoint.measure, wanted, judgement, scene)
    if not checkpoint.measure.points_used and not marks:
        marks = _at_event(technique, checkpoint, judgement, scene)
    return marks


def _at_event(technique: Technique, asked: Asked, judgement: Judgement, scene: Scene) -> list[Mark]:
    """For what reads instants alone: a look-here spot on what other checkpoints read at the same event, with how far it is off."""
    events = set(asked.events_used)
    for other in technique.in_phase_order:
        if events & set(other.measure.events_used) and other.measure.points_used:
            spot = _spot(other.measure.points_used[-1], scene)
            look = Mark(kind="look", spots=(spot,), words=(judgement.reason or "")[:60] if judgement.counts_as_missed else "")
            if _seen(look, scene):
                return [look]
    return []


def _frame(asked: Asked, judgement: Judgement, scene: Scene) -> int:
    """Where it was read last, else where one of its events is marked, else the middle of the rep."""
    low, high = scene.rep.range
    own = [frame for frame in judgement.frames if low <= frame <= high and judgement.view is None]
    marked = [frames[-1] for event in asked.events_used if (frames := scene.rep.events.get(event))]
    return own[-1] if own else marked[-1] if marked else (low + high) // 2


def _around(frame: int, scene: Scene) -> tuple[int, int]:
    real = scene.time.real_s
    low, high = scene.rep.range
    near = [f for f in range(low, high + 1) if abs(real[f] - real[frame]) <= AROUND_S]
    return near[0], near[-1]


def _seen(mark: Mark, scene: Scene) -> bool:
    """Whether every landmark that a mark hangs on has a place somewhere in the rep."""
    return any(drawn([mark], scene, range(scene.rep.range[0], scene.rep.range[1] + 1)))


def _spot(ref: PointRef, scene: Scene) -> Spot:
    """A spot on a point; a share of a segment hangs on its nearer end."""
    name = owner_of(ref) if ref.on is None else ref.on[0 if ref.share <= 0.5 else 1]
    body, landmark = scene.resolve(name)
    return Spot(body=body, landmark=landmark)


def nearest_wanted(wanted: Wanted | None, value: float | None) -> float | None:
    """The end of the wanted range that a value lies beyond, in the measure's own unit; None where there is no value or no range."""
    if wanted is None or value is None:
        return None
    low, high = wanted
    if low is not None and value < low:
        return low
    if high is not None and value > high:
        return high
    return low if high is None else high if low is None else (low + high) / 2


def _angle(measure: Any, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> list[Mark]:
    """The angle with the limb last that is to change: the one farther from the trunk, or the nearer one where that one stands."""
    spots = tuple(_spot(ref, scene) for ref in measure.points)
    outer_first = _from_trunk(spots[0]) > _from_trunk(spots[-1])
    outer = spots[0] if outer_first else spots[-1]
    if outer_first != _stands(outer, _frame_of(judgement, scene), scene):
        spots = spots[::-1]
    return [Mark(kind="angle", spots=spots, wanted=nearest_wanted(wanted, judgement.value))]


_STEPS_FROM_TRUNK = {"knee": 1, "elbow": 1, "ankle": 2, "wrist": 2, "heel": 3, "toe": 3, "knuckle": 3, "nose": 1, "head_top": 1}


def _from_trunk(spot: Spot) -> int:
    """How many limbs lie between a landmark and the trunk."""
    landmark = (spot.landmark or "").removeprefix("left_").removeprefix("right_")
    return _STEPS_FROM_TRUNK.get(landmark, 0)


def _frame_of(judgement: Judgement, scene: Scene) -> int:
    low, high = scene.rep.range
    return next((frame for frame in reversed(judgement.frames) if low <= frame <= high), low)


STANDS_S, STILL, LOW = 0.1, 0.02, 0.04
"""A limb's end stands where it moves less than STILL within STANDS_S before and after, real time, and lies no more than LOW above
the lowest landmark of its body; shares of the picture's height. Conventions."""


def _stands(spot: Spot, frame: int, scene: Scene) -> bool:
    """Whether a limb's end stands on the mat about a frame, so that it is not what can be moved."""
    body = scene.rep.bodies.get(spot.body) if spot.body is not None else None
    if body is None or spot.landmark not in body.landmarks:
        return False
    real, (first, last), tall = scene.time.real_s, scene.rep.range, scene.rep.size[1]
    near = np.array([f for f in range(first, last + 1) if abs(real[f] - real[frame]) <= STANDS_S])
    way = scene.places([PointRef(name=f"{spot.body}.{spot.landmark}")], near)[0]
    known = [name for name in body.landmarks if spot.body is not None and scene.has(spot.body, name, frame)]
    here = near == frame
    if np.isnan(way[:, here]).any() or not known or float(np.ptp(way[:, ~np.isnan(way[0])], axis=1).max()) > STILL * tall:
        return False
    lowest = scene.places([PointRef(name=f"{spot.body}.{name}") for name in known], np.array([frame]))[:, 1, 0]
    return bool(way[1, here][0] >= np.nanmax(lowest) - LOW * tall)


def _inclination(measure: Any, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> list[Mark]:
    spots = (_spot(measure.from_point, scene), _spot(measure.to_point, scene))
    nearest = nearest_wanted(wanted, judgement.value)
    if isinstance(measure.against, tuple):
        return [Mark(kind="line", spots=spots), Mark(kind="line", spots=tuple(_spot(ref, scene) for ref in measure.against))]
    if measure.against == "mat":
        nearest = None if nearest is None else 90.0 - nearest
    return [Mark(kind="angle", spots=spots, wanted=nearest)]


def _line(measure: Any, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> list[Mark]:
    return [Mark(kind="line", spots=tuple(_spot(ref, scene) for ref in measure.points)[:6])]


def _relation(measure: RelationMeasure, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> list[Mark]:
    """An arrow from the point towards where it belongs, and as long as the way there where it can be told."""
    spot = _spot(measure.point, scene)
    if measure.word in ("along", "between"):
        others = tuple(_spot(ref, scene) for ref in measure.others)
        return [Mark(kind="line", spots=others), Mark(kind="look", spots=(spot,))]
    to = _way_there(measure, wanted, judgement, scene)
    push = Mark(kind="force", spots=(spot, spot.model_copy(update={"dx": to[0], "dy": to[1]})))
    if getattr(measure, measure.word) == MAT:
        return [push]
    return [push, Mark(kind="look", spots=(_spot(measure.others[0], scene),))]


LEAST_PUSH = 0.06
"""An arrow is at least so long, as a share of the picture's height, or its direction is not seen."""


def _way_there(measure: RelationMeasure, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> tuple[float, float]:
    """Pixels from where the point is to where it is wanted."""
    least = LEAST_PUSH * scene.rep.size[1]
    nearest, value = nearest_wanted(wanted, judgement.value), judgement.value
    lacks = 1.0 if nearest is None or value is None else nearest - value
    try:
        px = abs(lacks) * scene.pixels_per(measure.unit, owner_of(measure.point))[0]
    except Unreadable:
        # A unit that is not known leaves the direction, which is what the arrow is for.
        px = 0.0
    px = max(px, least) * (1 if lacks >= 0 else -1)
    if measure.word in ("above", "below"):
        return 0.0, round(-px if measure.word == "above" else px, 1)
    if measure.word in ("towards", "behind"):
        try:
            towards = scene.towards_x()
        except Unreadable:
            towards = 1.0
        return round(px * towards * (1 if measure.word == "towards" else -1), 1), 0.0
    return 0.0, -least


def _space(measure: Any, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> list[Mark]:
    ends = measure.points_used[:2]
    return [Mark(kind="space", spots=tuple(_spot(ref, scene) for ref in ends))]


def _path(measure: Any, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> list[Mark]:
    point = getattr(measure, "point", None)
    return [] if point is None else [Mark(kind="path", spots=(_spot(point, scene),))]


def _balance(measure: BalanceMeasure, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> list[Mark]:
    """Mass and base; where a share is asked for, the base runs from the other foot to the one that it is asked of."""
    mass, base = _spot(measure.mass, scene), [_spot(ref, scene) for ref in measure.base_points]
    at = None
    if measure.kind_of_value == "share":
        side = scene.resolve(owner_of(measure.of))[1].partition("_")[0] if measure.of else scene.rep.side
        base.sort(key=lambda spot: (spot.landmark or "").startswith(side))
        at = nearest_wanted(wanted, judgement.value)
        at = None if at is None else min(max(at, 0.0), 1.0)
    return [Mark(kind="weight", spots=(mass, *base[:6]), wanted=at)]


def _look_here(measure: Measure, wanted: Wanted | None, judgement: Judgement, scene: Scene) -> list[Mark]:
    return [Mark(kind="look", spots=(_spot(ref, scene),)) for ref in measure.points_used[:1]]


_Draw = Callable[[Any, Wanted | None, Judgement, Scene], list[Mark]]
_DRAWN: dict[str, _Draw] = {
    "angle": _angle,
    "inclination": _inclination,
    "line": _line,
    "relation": _relation,
    "gap": _space,
    "path": _path,
    "peak": _path,
    "speed": _path,
    "balance": _balance,
}
