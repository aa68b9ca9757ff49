"""The curves of a checkpoint in all reps of a review, locked on the event at which it is read."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from lacertus.core.compare.align import locked
from lacertus.core.compare.curves import Curve, curves_of, spread_of
from lacertus.core.compare.quantity import why_none
from lacertus.core.errors import BadInput
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.services.review import loading
from lacertus.services.review.kept.at_hand import at_hand
from lacertus.services.review.view import JudgedRep, view_of

Array = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class RepCurves:
    """The curves of one rep: the clock's time of each frame from `first` on, seconds, and the frames that were read."""

    rep: uuid.UUID
    first: int
    clock_s: tuple[float, ...]
    read_at: tuple[int, ...]
    curves: tuple[Curve, ...]


@dataclass(frozen=True, kw_only=True)
class SetCurves:
    """The curves of a checkpoint in the reps of a set, and the event on which they are locked; or why there are none."""

    checkpoint: str
    event: str | None
    why_none: str
    reps: tuple[RepCurves, ...] = ()
    spread: tuple[tuple[Array, Array], ...] = ()
    """For each curve of the first rep, mean and standard deviation over all reps at each of its frames."""


def of_review(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str) -> SetCurves:
    """The curves of a checkpoint in a rep (the first) and in the other reps of the same technique in its review.

    Raises:
        BadInput: the technique has no such checkpoint.
        NotFound: no such rep.
    """
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    view = view_of(review)
    own = view.rep(rep_id)
    asked = own.technique.checkpoint(checkpoint)
    if asked is None:
        raise BadInput("this technique has no such checkpoint that is measured")
    others = [
        one
        for one in view.reps
        if one.rep.id != rep_id and one.technique.id == own.technique.id and one.rep.blind_of is None
    ]  # fmt: skip
    event = _event(asked, own)
    found = [curves for one in (own, *others) if (curves := _of_rep(one, checkpoint, event)) is not None]
    if not found or not found[0].curves:
        return SetCurves(checkpoint=checkpoint, event=event, why_none=why_none(asked))
    known = any(not curve.is_empty for one in found for curve in one.curves)
    told = "" if known else "nothing of it is known yet: place its points, or track them through the rep"
    if not known:
        return SetCurves(checkpoint=checkpoint, event=event, why_none=told)
    return SetCurves(checkpoint=checkpoint, event=event, why_none="", reps=tuple(found), spread=tuple(_spreads(found)))


def _spreads(reps: Sequence[RepCurves]) -> Iterator[tuple[Array, Array]]:
    clock = np.array(reps[0].clock_s)
    for number in range(len(reps[0].curves)):
        alike = [one for one in reps if number < len(one.curves)]
        yield spread_of(clock, [(np.array(one.clock_s), one.curves[number].values) for one in alike])


def _event(asked: Checkpoint, own: JudgedRep) -> str | None:
    """The event on which the reps are locked: the last that the checkpoint uses and the rep has, else any that it has."""
    marked = [event for event in asked.events_used if own.file.events.get(event)]
    return marked[-1] if marked else next((event for event, frames in own.file.events.items() if frames), None)


def _of_rep(one: JudgedRep, checkpoint: str, event: str | None) -> RepCurves | None:
    """A rep's curves; None where it does not mark the event, or is not asked for the checkpoint."""
    technique: Technique = one.technique
    asked = technique.checkpoint(checkpoint)
    frames = one.file.events.get(event, ()) if event else (one.file.range[0],)
    if asked is None or not frames:
        return None
    with at_hand(one.scene) as scene:
        curves = curves_of(asked, technique, scene)
        clock = locked(scene.times.tolist(), frames[0])
    first, last = one.file.range
    judgement = one.judgement(checkpoint)
    return RepCurves(
        rep=one.rep.id,
        first=first,
        clock_s=tuple(np.round(clock[first : last + 1], 5).tolist()),
        read_at=judgement.frames if judgement is not None else (),
        curves=curves,
    )
