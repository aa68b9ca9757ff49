"""A whole comparison: the sides' clocks, one picture over the other, the table of differences, times of events, and curves."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from contextlib import ExitStack
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from lacertus.core.compare.align import common_events, locked, phase_spans, stretched
from lacertus.core.compare.curves import Curve, curves_of
from lacertus.core.compare.differences import EventRow, Row, Side, table_of, timing_of
from lacertus.core.compare.overlay import Laid, lay_over
from lacertus.core.compare.skeletons import Skeleton, skeletons_of
from lacertus.core.errors import BadInput, Unreadable
from lacertus.services.compare import sides as loading_sides
from lacertus.services.compare.sides import MARGIN_S, LoadedSide
from lacertus.services.review.kept.at_hand import at_hand

FEWEST, MOST = 2, 4
Array = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class ShownSide:
    """A side as it is shown: frames `first` to `last` of its film, with their times.

    `clock_s` is the time of the common clock of each of those frames where the sides are locked, `stretched_s` where they are
    stretched from event to event (None where too few events are common). `laid` is how its picture lies over the leading one,
    or `why_not_laid` says why it cannot.
    """

    loaded: LoadedSide
    first: int
    last: int
    clock_s: tuple[float, ...]
    stretched_s: tuple[float, ...] | None
    events: dict[str, int]
    laid: Laid | None
    why_not_laid: str
    skeletons: tuple[Skeleton, ...]
    curves: tuple[Curve, ...]


@dataclass(frozen=True, kw_only=True)
class Comparison:
    """Two to four sides beside one another, locked on an event."""

    anchor: str
    anchors: tuple[str, ...]
    sides: tuple[ShownSide, ...]
    phases: dict[str, tuple[float, float]]
    rows: tuple[Row, ...]
    timing: tuple[EventRow, ...]


def compare(
    db: Session, academy: uuid.UUID, keys: Sequence[str], anchor: str | None = None, checkpoint: str | None = None
) -> Comparison:
    """Compare two to four sides.

    Args:
        db: the session.
        academy: whose reps they are.
        keys: the sides, the leading rep first.
        anchor: the event on which they are locked; else that of the checkpoint, else one in the middle.
        checkpoint: whose curves are told.

    Raises:
        BadInput: too few or too many sides, of different techniques, without an event that all have, or no such event.
        NotFound: a side is not there, or may not be shown.
    """
    if not FEWEST <= len(keys) <= MOST:
        raise BadInput(f"compare {FEWEST} to {MOST} at a time")
    loaded = [loading_sides.load(db, academy, keys[0], None)]
    loaded += [loading_sides.load(db, academy, key, loaded[0]) for key in keys[1:]]
    measured = [(one, one.side) for one in loaded if one.side is not None]
    pairs = [(side.scene.rep.events, one.real_s) for one, side in measured]
    anchors = common_events(pairs)
    if not anchors:
        raise BadInput("no event is marked in all of them; mark the same event in each on the bench, then compare")
    chosen = _anchor(anchors, anchor, measured[0][1], checkpoint)
    lead = loaded[0]
    lead_at = pairs[0][0][chosen][0]
    with ExitStack() as solved:
        # A rep that is kept in space is not put there anew, and a rep that is there twice is put there once.
        for scene in {id(side.scene): side.scene for _, side in measured}.values():
            solved.enter_context(at_hand(scene))
        return Comparison(
            anchor=chosen,
            anchors=anchors,
            sides=tuple(_shown(one, lead, lead_at, chosen, anchors, checkpoint) for one in loaded),
            phases=_phases(measured[0][1], lead_at),
            rows=table_of([side for _, side in measured]),
            timing=timing_of([side for _, side in measured], chosen),
        )


def _anchor(anchors: Sequence[str], asked: str | None, lead: Side, checkpoint: str | None) -> str:
    if asked is not None:
        if asked not in anchors:
            raise BadInput(f"“{asked.replace('_', ' ')[:60]}” is not marked in all of them, or not in the same order")
        return asked
    read = lead.technique.asked(checkpoint) if checkpoint else None
    own = [event for event in (read.events_used if read else ()) if event in anchors]
    return own[-1] if own else anchors[len(anchors) // 2]


def _phases(lead: Side, at: int) -> dict[str, tuple[float, float]]:
    technique, rep = lead.technique, lead.scene.rep
    phase_of = {name: event.phase for name, event in technique.events.items()}
    return phase_spans(technique.phases, phase_of, rep.events, locked(lead.scene.times.tolist(), at), rep.range[1])


def _shown(
    one: LoadedSide, lead: LoadedSide, lead_at: int, anchor: str, anchors: Sequence[str], checkpoint: str | None
) -> ShownSide:
    real = np.array(one.real_s)
    clock, first, last = _clock(one, lead, lead_at, anchor, real)
    events = {} if one.side is None else {name: marks[0] for name, marks in one.side.scene.rep.events.items() if marks}
    laid, why = _laid(one, lead, lead_at, anchor)
    return ShownSide(
        loaded=one,
        first=first,
        last=last,
        clock_s=tuple(np.round(clock[first : last + 1], 5).tolist()),
        stretched_s=_stretched(one, lead, lead_at, anchor, anchors, clock, first, last),
        events=events,
        laid=laid,
        why_not_laid=why,
        skeletons=() if one.side is None else skeletons_of(one.side.scene, first, last),
        curves=_curves(one, checkpoint),
    )


def _clock(one: LoadedSide, lead: LoadedSide, lead_at: int, anchor: str, real: Array) -> tuple[Array, int, int]:
    """The clock's time of each frame, and which frames are shown."""
    if one.side is not None:
        clock = locked(real.tolist(), one.side.scene.rep.events[anchor][0])
        first, last = one.range
        low, high = float(clock[first]) - MARGIN_S, float(clock[last]) + MARGIN_S
    else:
        assert one.tie is not None
        own, theirs = one.tie
        lead_real = lead.real_s
        clock = real - real[theirs] + lead_real[own] - lead_real[lead_at]
        low, high = (lead_real[frame] - lead_real[lead_at] for frame in lead.range)
        low, high = low - MARGIN_S, high + MARGIN_S
    near = np.nonzero((clock >= low) & (clock <= high))[0]
    if not len(near):
        raise BadInput("the other view shows nothing of this rep")
    return clock, int(near[0]), int(near[-1])


def _stretched(
    one: LoadedSide, lead: LoadedSide, lead_at: int, anchor: str, anchors: Sequence[str], clock: Array, first: int, last: int
) -> tuple[float, ...] | None:
    if len(anchors) < 2 or lead.side is None:
        return None
    shown = clock[first : last + 1]
    if one.side is not None and one is not lead:
        lead_clock = locked(lead.real_s, lead_at)
        own = [float(clock[one.side.scene.rep.events[name][0]]) for name in anchors]
        theirs = [float(lead_clock[lead.side.scene.rep.events[name][0]]) for name in anchors]
        shown = stretched(shown, own, theirs)
    return tuple(np.round(shown, 5).tolist())


def _laid(one: LoadedSide, lead: LoadedSide, lead_at: int, anchor: str) -> tuple[Laid | None, str]:
    if one is lead:
        return Laid(scale=1.0, dx=0.0, dy=0.0), ""
    if one.side is None or lead.side is None:
        return None, "Only a rep that was cut and marked can be laid over another; show them side by side."
    views = [side.scene.rep.view for side in (lead.side, one.side)]
    if None not in views and views[0] != views[1]:
        return None, f"They are seen from the {views[0]} and from the {views[1]}; show them side by side."
    try:
        return lay_over(lead.side.scene, lead_at, one.side.scene, one.side.scene.rep.events[anchor][0]), ""
    except Unreadable as error:
        return None, str(error)


def _curves(one: LoadedSide, checkpoint: str | None) -> tuple[Curve, ...]:
    asked = one.side.technique.checkpoint(checkpoint) if one.side is not None and checkpoint else None
    return () if asked is None or one.side is None else curves_of(asked, one.side.technique, one.side.scene)
