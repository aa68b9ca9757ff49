"""How closely a coach marks: a rep marked twice, the second time blind, and the coach's own σ from it (docs/measurement.md).

The standard deviation of one marking from n pairs is √(Σd² ÷ 2n) (Bland and Altman 1996, Measurement error: the
within-subject standard deviation). One pair of the default's size is counted in, so that a handful of lucky pairs claims no
certainty that it does not have; a convention. Only the own part of σ is found so: what the coach means by “hip” is the same
both times, so the shared part stays as it is.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

from pydantic import Field

from lacertus.core.measuring.body import BODIES, SHARED_SHARE, SIGMA_SHARE, joint_of
from lacertus.core.measuring.repfile import Marking, RepFile
from lacertus.core.measuring.timebase import MARKING_SCATTER_S, TimeBase
from lacertus.core.model import Record
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.definition import Technique

LEAST_PAIRS = 10
"""From so many pairs on a joint's own scatter, or that of all joints together, or of events, replaces the default. A convention."""


class PointPair(Record):
    """A landmark placed twice on one frame: how far apart, in pixels and as shares of standing height."""

    joint: str
    dx_px: float
    dy_px: float
    dx: float
    dy: float


class EventPair(Record):
    """An event marked twice: how many frames and seconds apart, and the scatter in seconds that the rules assume there."""

    event: str
    frames: int
    seconds: float
    assumed_s: float


class ValuePair(Record):
    """A checkpoint measured twice."""

    checkpoint: str
    unit: str
    difference: float


class Remark(Record):
    """All pairs of one rep that was marked twice."""

    points: tuple[PointPair, ...] = ()
    events: tuple[EventPair, ...] = ()
    values: tuple[ValuePair, ...] = ()


class Scatter(Record):
    """A coach's own scatter: one standard deviation, with the number of pairs behind it; None where there is none yet."""

    point_pairs: int = 0
    px: float | None = Field(default=None, description="Of a point's x and of its y, pixels")
    event_pairs: int = 0
    frames: float | None = None
    ms: float | None = None
    degree_pairs: int = 0
    deg: float | None = Field(default=None, description="Of angles read, degrees")
    marking: Marking = Marking()


def remark_of(technique: Technique, first: RepFile, second: RepFile) -> Remark:
    """The pairs of two markings of one rep: the same landmarks on the same frames, and the same events.

    Values are read at the first marking's instants both times, as that is where its points are placed again.
    """
    again = second.model_copy(update={"events": first.events})
    return Remark(
        points=tuple(_point_pairs(first, second)),
        events=tuple(_event_pairs(first, second)),
        values=tuple(_value_pairs(judge_rep(technique, first), judge_rep(technique, again))),
    )


def _point_pairs(first: RepFile, second: RepFile) -> Iterable[PointPair]:
    for name in BODIES:
        if name not in first.bodies or name not in second.bodies:
            continue
        tall = first.bodies[name].height_px
        for landmark, points in second.bodies[name].landmarks.items():
            before = {p.frame: p for p in first.bodies[name].landmarks.get(landmark, ()) if p.by == "placed"}
            for point in points:
                if point.by == "placed" and point.frame in before and tall is not None:
                    dx, dy = point.x - before[point.frame].x, point.y - before[point.frame].y
                    yield PointPair(joint=joint_of(landmark), dx_px=dx, dy_px=dy, dx=dx / tall, dy=dy / tall)


def _event_pairs(first: RepFile, second: RepFile) -> Iterable[EventPair]:
    time = TimeBase(first.pts_s, first.capture_rate)
    for event, frames in second.events.items():
        before = first.events.get(event, ())
        for a, b in zip(before, frames, strict=False):
            seconds = time.real_s[b] - time.real_s[a]
            gap = time.real_s[max(a, 1)] - time.real_s[max(a, 1) - 1]
            yield EventPair(event=event, frames=b - a, seconds=seconds, assumed_s=max(gap / 2, MARKING_SCATTER_S))


def _value_pairs(first: Sequence[Judgement], second: Sequence[Judgement]) -> Iterable[ValuePair]:
    for a, b in zip(first, second, strict=True):
        if a.value is not None and b.value is not None and a.unit is not None and a.kind != "seen":
            yield ValuePair(checkpoint=a.id, unit=a.unit, difference=b.value - a.value)


def scatter_of(remarks: Sequence[Remark]) -> Scatter:
    """A coach's scatter from all that was marked twice."""
    points = [pair for remark in remarks for pair in remark.points]
    events = [pair for remark in remarks for pair in remark.events]
    degrees = [pair.difference for remark in remarks for pair in remark.values if pair.unit == "deg"]
    return Scatter(
        point_pairs=len(points),
        px=_sd([d for pair in points for d in (pair.dx_px, pair.dy_px)]),
        event_pairs=len(events),
        frames=_sd([pair.frames for pair in events]),
        ms=_times_1000(_sd([pair.seconds for pair in events])),
        degree_pairs=len(degrees),
        deg=_sd(degrees),
        marking=Marking(own=_own_shares(points), events_s=_events_s(events)),
    )


def _sd(differences: Sequence[float]) -> float | None:
    """Standard deviation of one marking from differences of two."""
    return math.sqrt(sum(d * d for d in differences) / (2 * len(differences))) if differences else None


def _times_1000(value: float | None) -> float | None:
    return None if value is None else 1000 * value


def _own_shares(points: Sequence[PointPair]) -> dict[str, float]:
    """The own part of σ by joint, as share of standing height: from that joint's pairs, or the default times what all show."""
    if len(points) < LEAST_PAIRS:
        return {}
    overall = _ratio(points)
    found = {}
    for joint, share in SIGMA_SHARE.items():
        own = [pair for pair in points if pair.joint == joint]
        ratio = _ratio(own) if len(own) >= LEAST_PAIRS else overall
        found[joint] = round(ratio * _default_own(share), 6)
    return found


def _default_own(share: float) -> float:
    return share * math.sqrt(1 - SHARED_SHARE)


def _ratio(pairs: Sequence[PointPair]) -> float:
    """Measured own scatter ÷ the default, over pairs of any joints; one pair of the default's size counts in."""
    squares = [(pair.dx**2 + pair.dy**2) / (4 * _default_own(SIGMA_SHARE[pair.joint]) ** 2) for pair in pairs]
    return math.sqrt((sum(squares) + 1) / (len(squares) + 1))


def _events_s(events: Sequence[EventPair]) -> float | None:
    if len(events) < LEAST_PAIRS:
        return None
    assumed = sum(pair.assumed_s**2 for pair in events) / len(events)
    return round(math.sqrt((sum(pair.seconds**2 for pair in events) / 2 + assumed) / (len(events) + 1)), 6)
