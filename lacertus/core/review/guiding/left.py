"""What is left to be done in a rep before all of its checkpoints are settled, in the order of work."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.guiding.tracks import poor_places, seeds_wanted
from lacertus.core.review.judge import Need
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique

STANDING_FAMILIES = frozenset({"kick", "throw", "sweep", "takedown entry"})
"""Techniques in which the performer is seen standing at some time; on the ground nobody is asked for a standing height."""

LeftKind = Literal["event", "height", "lengths", "seed", "track", "points", "poor", "answer", "not_seen", "undecided"]
GUIDING: tuple[LeftKind, ...] = ("event", "height", "lengths", "seed", "track", "points", "poor", "answer")
"""What the coach is led to one after the other. The others are told before a review is finished: they may be all that there is
to see."""


@dataclass(frozen=True, kw_only=True)
class Left:
    """One thing that is left: its kind, what it is about, and why it matters in words.

    `frame` is where it is done, where that is known; `body` whose height or points are asked for, `landmark` the one that is placed
    next; `count` how many points.
    """

    kind: LeftKind
    words: str
    checkpoint: str | None = None
    event: str | None = None
    frame: int | None = None
    body: BodyName | None = None
    landmark: str | None = None
    count: int | None = None

    @property
    def told(self) -> str:
        """What was left, as it is told of a review that was finished all the same."""
        spoken = (self.event or "").replace("_", " ")
        said: dict[LeftKind, str] = {
            "event": f"“{spoken}” was not marked",
            "height": f"no height of the {self.body} was marked",
            "lengths": f"the {self.body}’s limb lengths were not read",
            "seed": f"too few points to track the {self.body}",
            "points": f"points were missing: {self.words}",
            "poor": f"tracked poorly: {self.words}",
            "track": "points were not tracked",
            "answer": f"not answered: {self.words}",
            "not_seen": f"not seen: {self.words}",
            "undecided": f"borderline: {self.words}",
        }
        return said[self.kind]


def left_in(
    technique: Technique, rep: RepFile, judgements: Sequence[Judgement], needs: Sequence[Need], asks: Sequence[str]
) -> tuple[Left, ...]:
    """What is left in a rep, in the order of work: events, heights, points, tracking, answers; then what no act here settles.

    Args:
        technique: as it is asked of the performer.
        rep: the rep with its marks.
        judgements: what was found for each checkpoint.
        needs: the landmarks that its checkpoints read, as `needed_points` gives them.
        asks: the events that are to be marked in it.
    """
    by_id = {judgement.id: judgement for judgement in judgements}
    open_ones = [c for c in technique.in_phase_order if _is_open(by_id.get(c.id))]
    return (
        *_events(technique, rep, asks),
        *_heights(technique, rep, needs, by_id),
        *_points(technique, rep, needs, by_id),
        *_poor(rep, needs, by_id),
        *_answers(open_ones),
        *_not_settled(technique, by_id),
    )


def _is_open(judgement: Judgement | None) -> bool:
    return judgement is not None and judgement.verdict is Verdict.NOT_SEEN


def _events(technique: Technique, rep: RepFile, asks: Sequence[str]) -> Iterator[Left]:
    for key in asks:
        if key not in rep.events and key in technique.events:
            yield Left(kind="event", event=key, words=technique.events[key].mark)


def _heights(technique: Technique, rep: RepFile, needs: Sequence[Need], by_id: dict[str, Judgement]) -> Iterator[Left]:
    """A body's scale is asked for once, where a checkpoint that is not firm reads points of it."""
    wanting = {need.body for need in needs if _wants(by_id.get(need.checkpoint))}
    for body in ("performer", "partner"):
        entry = rep.bodies.get(body)
        known = entry is not None and (entry.height_px is not None or bool(entry.reference_lengths_px))
        if body not in wanting or known:
            continue
        if technique.family in STANDING_FAMILIES:
            words = f"The {body}’s standing height gives distances their scale and tells how far limbs lean towards the camera."
            yield Left(kind="height", body=body, words=words)
        elif entry is not None and entry.landmarks:
            words = f"The {body}’s limbs in a still frame, where they lie across the picture, give distances their scale."
            yield Left(kind="lengths", body=body, words=words)


def _wants(judgement: Judgement | None) -> bool:
    """Whether a scale may still make something of it."""
    return judgement is not None and judgement.verdict in (Verdict.NOT_SEEN, Verdict.BORDERLINE)


def _points(technique: Technique, rep: RepFile, needs: Sequence[Need], by_id: dict[str, Judgement]) -> Iterator[Left]:
    """Points that are missing at known frames, checkpoint by checkpoint; or the tracking that finds them."""
    missing: dict[str, list[Need]] = {}
    for need in needs:
        if need.frame is not None and _is_open(by_id.get(need.checkpoint)) and not _has(rep, need):
            missing.setdefault(need.checkpoint, []).append(need)
    if not missing:
        return
    entries = [entry for body in rep.bodies.values() for marks in body.landmarks.values() for entry in marks]
    if entries and all(entry.by == "placed" for entry in entries) and rep.range[0] < rep.range[1]:
        yield from _seeds(rep, [need for own in missing.values() for need in own])
        yield Left(kind="track", words="From the points that are placed, the others and their paths are tracked through the rep.")
    asked = {checkpoint.id: checkpoint for checkpoint in technique.in_phase_order}
    for key, wanted in missing.items():
        words = asked[key].ask if key in asked else ""
        yield Left(kind="points", checkpoint=key, frame=wanted[0].frame, body=wanted[0].body, count=len(wanted), words=words)


def _seeds(rep: RepFile, needs: Sequence[Need]) -> Iterator[Left]:
    """What tracking needs before it begins."""
    for one in seeds_wanted(rep, needs):
        yield Left(kind="seed", body=one.body, landmark=one.landmark, frame=one.frame, count=one.count, words=one.words)


def _poor(rep: RepFile, needs: Sequence[Need], by_id: dict[str, Judgement]) -> Iterator[Left]:
    """Where tracking was poor in what a checkpoint reads that is not firm: one place at a time, until it holds."""
    own: dict[str, list[Need]] = {}
    for need in needs:
        if _wants(by_id.get(need.checkpoint)):
            own.setdefault(need.checkpoint, []).append(need)
    for key, read in own.items():
        if not all(need.frame is None or _has(rep, need) for need in read):
            continue
        one = poor_places(rep, read)
        if one is not None:
            yield Left(
                kind="poor", checkpoint=key, body=one.body, landmark=one.landmark, frame=one.frame, count=one.count, words=one.words
            )


def _has(rep: RepFile, need: Need) -> bool:
    body = rep.bodies.get(need.body)
    return body is not None and any(entry.frame == need.frame for entry in body.landmarks.get(need.landmark, ()))


def _answers(checkpoints: Sequence[Checkpoint]) -> Iterator[Left]:
    for checkpoint in checkpoints:
        if KINDS[checkpoint.kind].by_eye:
            yield Left(kind="answer", checkpoint=checkpoint.id, words=checkpoint.ask)


def _not_settled(technique: Technique, by_id: dict[str, Judgement]) -> Iterator[Left]:
    for asked in technique.asked_in_order:
        found = by_id.get(asked.id)
        if found is None or (isinstance(asked, Checkpoint) and KINDS[asked.kind].by_eye):
            continue
        why = f": {found.reason}" if found.reason else ""
        if found.verdict is Verdict.NOT_SEEN:
            yield Left(kind="not_seen", checkpoint=asked.id, words=f"{asked.ask}{why}")
        elif found.verdict is Verdict.BORDERLINE and found.measured is None:
            yield Left(kind="undecided", checkpoint=asked.id, words=f"{asked.ask}{why}")
