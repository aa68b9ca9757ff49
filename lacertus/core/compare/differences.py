"""What differs between reps: each checkpoint's value with the difference and its u, and when each event came.

Two values of one clip share errors (what is meant by “hip”, how long limbs are, how the camera stands): in their difference
those cancel. Of different clips nothing cancels. A difference is real only beyond 1.645 u, as a verdict is.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from lacertus.core.errors import Coincident, Unreadable
from lacertus.core.measuring import geometry
from lacertus.core.measuring.measures import KINDS, Reading
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.uncertainty import FIRM, Verdict
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.definition import Technique

LEAST_KEPT = math.sqrt(0.5)
"""Of two values that were put in space no more cancels than the half of σ² that points share by convention: what is drawn by
chance for each rep by itself must not seem to be shared."""


@dataclass(frozen=True, kw_only=True)
class Side:
    """A rep that is compared: its technique, the rep as the rules see it, its judgements, and which clip it is from."""

    technique: Technique
    scene: Scene
    judged: tuple[Judgement, ...]
    clip: str

    @cached_property
    def by_id(self) -> dict[str, Judgement]:
        return {one.id: one for one in self.judged}


@dataclass(frozen=True, kw_only=True)
class Difference:
    """A side's value less the leading side's: in the unit of both, with standard uncertainty; whether it is real."""

    value: float
    u: float
    is_real: bool


@dataclass(frozen=True, kw_only=True)
class Row:
    """A checkpoint in all sides: each side's judgement, and the difference to the leading one; None where it cannot be told."""

    id: str
    ask: str
    phase: str
    judged: tuple[Judgement | None, ...]
    differences: tuple[Difference | None, ...]


@dataclass(frozen=True, kw_only=True)
class EventRow:
    """An event in all sides: real time from the anchor with its u (seconds), as share of the rep, and later than the lead by."""

    event: str
    phase: str
    at_s: tuple[tuple[float, float] | None, ...]
    shares: tuple[float | None, ...]
    differences: tuple[Difference | None, ...]


def table_of(sides: Sequence[Side]) -> tuple[Row, ...]:
    """Every checkpoint and reaction that is asked in one of the sides, in phase order of the leading technique."""
    lead = sides[0]
    rows = []
    for asked in lead.technique.asked_in_order:
        judged = tuple(side.by_id.get(asked.id) for side in sides)
        if all(one is None or one.verdict is Verdict.NOT_ASKED for one in judged):
            continue
        told = tuple(None if side is lead else difference(lead, side, asked.id) for side in sides)
        rows.append(Row(id=asked.id, ask=asked.ask, phase=asked.phase, judged=judged, differences=told))
    return tuple(rows)


def difference(lead: Side, other: Side, checkpoint: str) -> Difference | None:
    """A checkpoint's value in one rep less that in the leading one; None where one of them has none, or in another unit."""
    one, two = lead.by_id.get(checkpoint), other.by_id.get(checkpoint)
    if one is None or two is None or one.value is None or two.value is None or one.unit != two.unit:
        return None
    if Verdict.NOT_ASKED in (one.verdict, two.verdict) or not one.unit:
        return None
    value = two.value - one.value
    if lead.scene.rep == other.scene.rep:
        return Difference(value=value, u=0.0, is_real=False)
    u = math.hypot(one.uncertainty or 0.0, two.uncertainty or 0.0)
    read, read_too = _reading(lead, one), _reading(other, two)
    if read is not None and read_too is not None:
        if read.cyclic:
            value = (value + 180.0) % 360.0 - 180.0
        if lead.clip == other.clip:
            u = _left(read, read_too, u)
    firm = not any(known is not None and known.lean_unknown for known in (read, read_too))
    return Difference(value=value, u=u, is_real=firm and abs(value) > FIRM * u)


def _reading(side: Side, judged: Judgement) -> Reading | None:
    """What the checkpoint's own measure reads; None where it was judged by another one, or in another view."""
    checkpoint = side.technique.checkpoint(judged.id)
    if checkpoint is None or judged.view is not None:
        return None
    try:
        reading = KINDS[checkpoint.kind].read(checkpoint.measure, side.scene, checkpoint.id)
    except (Unreadable, Coincident):
        return None
    return reading if math.isclose(reading.value, judged.value or 0.0, rel_tol=1e-9, abs_tol=1e-9) else None


def _left(one: Reading, two: Reading, whole: float) -> float:
    """The difference of two values of one clip has this u: what they share is taken off."""
    if one.draws is not None and two.draws is not None:
        return min(whole, max(float((two.draws - one.draws).std()), LEAST_KEPT * whole))
    if one.parts and two.parts:
        return geometry.uncertainty_of(geometry.combined((1.0, two.parts), (-1.0, one.parts)))
    return whole


# --- time --------------------------------------------------------------------------------------------


def timing_of(sides: Sequence[Side], anchor: str) -> tuple[EventRow, ...]:
    """When each event came, from the anchor, in the order of the leading technique's phases; without those that no side has."""
    lead = sides[0].technique
    order = sorted(lead.events, key=lambda name: lead.phases.index(lead.events[name].phase))
    rows = []
    for event in order:
        at = tuple(_since(side, anchor, event) for side in sides)
        if all(one is None for one in at):
            continue
        told = (None, *(_later(at[0], one) for one in at[1:]))
        shares = tuple(_share(side, event) for side in sides)
        rows.append(EventRow(event=event, phase=lead.events[event].phase, at_s=at, shares=shares, differences=told))
    return tuple(rows)


def _since(side: Side, anchor: str, event: str) -> tuple[float, float] | None:
    """Real seconds from the anchor to an event, with u."""
    frames = [side.scene.rep.events.get(name) for name in (anchor, event)]
    if not frames[0] or not frames[1]:
        return None
    try:
        start, end = (
            side.scene.time.instant(own[0], side.scene.edges.get(name, "first"))
            for name, own in zip((anchor, event), (frames[0], frames[1]), strict=True)
        )
    except Unreadable:
        return None
    u = 0.0 if anchor == event else math.hypot(start.u_s, end.u_s)
    return end.time_s - start.time_s, u


def _later(lead: tuple[float, float] | None, other: tuple[float, float] | None) -> Difference | None:
    if lead is None or other is None:
        return None
    value, u = other[0] - lead[0], math.hypot(lead[1], other[1])
    return Difference(value=value, u=u, is_real=abs(value) > FIRM * u)


def _share(side: Side, event: str) -> float | None:
    """Where in the rep an event came: 0 at its first frame, 1 at its last."""
    frames = side.scene.rep.events.get(event)
    if not frames:
        return None
    first, last = (side.scene.times[frame] for frame in side.scene.rep.range)
    return float((side.scene.times[frames[0]] - first) / (last - first)) if last > first else 0.0
