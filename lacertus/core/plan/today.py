"""What an academy's day asks of a coach: each thing with its severity, its day and its minutes, as items of the queue.

Severities and minutes are conventions. Days are ordinals.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from statistics import median

from lacertus.core.plan.queue import Item
from lacertus.core.progress.ledger import State

REVIEWS_COUNTED = 20
REVIEW_MINUTES, REP_MINUTES = 2.0, 0.6
"""A review takes 2 minutes and 0.6 a rep where nothing is known of the coach."""
OTHER_MINUTES = 1.0
UNSEEN_DAYS = 28


class Kind(StrEnum):
    """What there is to do."""

    SAFETY = "safety"
    PAIN = "pain"
    QUESTION = "question"
    RELAPSE = "relapse"
    RECHECK = "recheck"
    REVIEW = "review"
    NAME = "name"
    OPINION = "opinion"
    RUNG = "rung"
    GRADE = "grade"
    UNSEEN = "unseen"


SEVERITY: Mapping[Kind, float] = {
    Kind.SAFETY: 6.0,
    Kind.PAIN: 5.0,
    Kind.QUESTION: 2.0,
    Kind.RELAPSE: 3.0,
    Kind.REVIEW: 2.0,
    Kind.NAME: 1.0,
    Kind.OPINION: 1.0,
    Kind.RUNG: 1.0,
    Kind.GRADE: 1.0,
    Kind.UNSEEN: 1.0,
}
RECHECK_SEVERITY: Mapping[State, float] = {
    State.RELAPSED: 2.5,
    State.RECURRING: 2.5,
    State.ONCE: 1.0,
    State.FADING: 1.0,
    State.CLEARED: 0.5,
}
SAFETY = frozenset({Kind.SAFETY, Kind.PAIN})


@dataclass(frozen=True, kw_only=True)
class Reason:
    """Why something is to be done: what it is, for whom, of what technique, since when. `about` names it for whoever shows it."""

    kind: Kind
    about: str
    since: int
    student: str = ""
    technique: str = ""
    state: State | None = None
    cuts: int = 0
    """Of a clip that waits for review: how many reps are cut, or proposed."""

    @property
    def severity(self) -> float:
        if self.kind is Kind.RECHECK:
            return RECHECK_SEVERITY.get(self.state or State.ONCE, RECHECK_SEVERITY[State.ONCE])
        return SEVERITY[self.kind]

    @property
    def is_look(self) -> bool:
        """A look at a technique of a student: what one clip answers."""
        return self.kind in (Kind.SAFETY, Kind.RECHECK, Kind.REVIEW)


@dataclass(frozen=True, kw_only=True)
class Task:
    """One item of the queue with everything that it stands for, the gravest reason first."""

    item: Item
    reasons: tuple[Reason, ...]


@dataclass(frozen=True, kw_only=True)
class Worked:
    """A finished review: its technique, the coach's minutes, and how many reps it had. The newest first where they are in a row."""

    technique: str
    minutes: float
    reps: int


class Pace:
    """How long a coach's reviews take: the median minutes a rep of the last 20, of a technique or else of all."""

    def __init__(self, worked: Sequence[Worked]) -> None:
        self._worked = [one for one in worked if one.reps > 0 and one.minutes > 0]

    def minutes(self, technique: str, cuts: int) -> float:
        """Of a review with so many cuts, in half minutes, rounded up; as if one were cut where none is."""
        reps = max(1, cuts)
        own = [one for one in self._worked if one.technique == technique] or self._worked
        if not own:
            return _halves(REVIEW_MINUTES + REP_MINUTES * reps)
        return _halves(median(one.minutes / one.reps for one in own[:REVIEWS_COUNTED]) * reps)


def _halves(minutes: float) -> float:
    return math.ceil(2 * minutes - 1e-9) / 2


def tasks_of(reasons: Iterable[Reason], pace: Pace) -> tuple[Task, ...]:
    """The items of a day. Rechecks and waiting clips of one student and technique are one item.

    Several clips of one technique that wait are one item each; the rechecks go with the oldest of them, as that one answers them.
    An item of several reasons has the largest severity, the oldest day, and the minutes of its review.
    """
    groups: list[list[Reason]] = []
    looks: dict[tuple[str, str], list[Reason]] = {}
    for one in reasons:
        if one.is_look and one.student and one.technique:
            looks.setdefault((one.student, one.technique), []).append(one)
        else:
            groups.append([one])
    for own in looks.values():
        clips = sorted((one for one in own if one.kind is Kind.REVIEW), key=lambda one: (one.since, one.about))
        rechecks = [one for one in own if one.kind is not Kind.REVIEW]
        first = [*rechecks, *clips[:1]]
        groups += [first, *([clip] for clip in clips[1:])]
    return tuple(sorted((_task(group, pace) for group in groups), key=lambda task: task.item.id))


def _task(group: Sequence[Reason], pace: Pace) -> Task:
    ordered = tuple(sorted(group, key=lambda one: (-one.severity, one.since, one.about)))
    clip = next((one for one in ordered if one.kind is Kind.REVIEW), None)
    item = Item(
        id=(clip or ordered[0]).about,
        severity=ordered[0].severity,
        since=min(one.since for one in ordered),
        minutes=pace.minutes(clip.technique, clip.cuts) if clip else OTHER_MINUTES,
        safety=any(one.kind in SAFETY for one in ordered),
    )
    return Task(item=item, reasons=ordered)
