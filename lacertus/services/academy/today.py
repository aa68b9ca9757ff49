"""A coach's day: everything that there is to do, as the queue for the minutes at hand; what came in; the classes of the day."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from cachetools import LRUCache
from sqlalchemy import Uuid, bindparam, func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.plan.queue import queue_of
from lacertus.core.plan.today import RECHECK_SEVERITY, SEVERITY, UNSEEN_DAYS, Kind, Pace, Reason, Task, Worked, tasks_of
from lacertus.core.progress.ledger import State
from lacertus.services.academy import asked_opinions, decisions, second_opinions
from lacertus.services.classes import lessons
from lacertus.services.classes.calendar import TrainingDays
from lacertus.services.classes.lessons import OnDay
from lacertus.services.days import day_at
from lacertus.services.people import people
from lacertus.services.practice import known
from lacertus.services.practice.stamps import stamps_of
from lacertus.services.practice.states import Budget
from lacertus.services.techniques import catalogue
from lacertus.store.tables import (
    Academy,
    Clip,
    FloorNote,
    InboxRow,
    Prescription,
    RepRow,
    Review,
    Student,
    TechniqueVersion,
)

MOST_MINUTES = 24 * 60
CAME_IN_HOURS = 48
MOST_WORKED = 400
MOST_KEPT = 4000
MOST_SHOWN = 100
"""So many items are shown of each list; how many more there are is told."""
MOST_TOLD = 4
"""So many rechecks of a technique are told one by one."""
WORK_OUT_S = 0.5
"""So long one request works out students of whom something is new; the page asks again for the rest."""
STATES: Mapping[State, str] = {
    State.ONCE: "missed before",
    State.RECURRING: "keeps coming back",
    State.FADING: "is going away",
    State.RELAPSED: "is back",
    State.CLEARED: "had gone: does it still hold?",
}


@dataclass(frozen=True, kw_only=True)
class Shown:
    """A reason as it is shown: whom and what it is about, in words, and where the work is (a path of the screens)."""

    reason: Reason
    student: str
    words: str
    path: str


def _kind(one: known.FaultNow) -> Kind:
    return Kind.SAFETY if one.safety and one.missed_since is not None else Kind.RECHECK


def _severity(one: known.FaultNow) -> float:
    return SEVERITY[Kind.SAFETY] if _kind(one) is Kind.SAFETY else RECHECK_SEVERITY.get(one.state, RECHECK_SEVERITY[State.ONCE])


@dataclass(frozen=True, kw_only=True)
class ShownTask:
    """An item of the queue as it is shown, with its priority on the day."""

    task: Task
    priority: float
    overdue_days: int
    reasons: tuple[Shown, ...]

    @property
    def path(self) -> str:
        return next((one.path for one in self.reasons if one.reason.kind is Kind.REVIEW), self.reasons[0].path)


@dataclass(frozen=True, kw_only=True)
class Day:
    """A coach's day. `looking` says how many students’ rung decisions are still to be worked out."""

    on: date
    chosen: tuple[ShownTask, ...]
    left: tuple[ShownTask, ...]
    more_chosen: int
    """So many more are chosen than are shown."""
    more_left: int
    minutes: float
    classes: tuple[OnDay, ...]
    came_in: int
    arrived: int
    looking: int


def day(db: Session, academy_id: uuid.UUID, coach: uuid.UUID, minutes: float | None = None, on: date | None = None) -> Day:
    """What there is to do on a day, for so many minutes or all of it.

    Raises:
        BadInput: a number of minutes that cannot be.
    """
    if minutes is not None and not 0 <= minutes <= MOST_MINUTES:
        raise BadInput(f"minutes at hand are 0 to {MOST_MINUTES}")
    academy = db.get_one(Academy, academy_id)
    today = on or day_at(academy)
    gathered = _Gathered(db, academy, coach, today)
    tasks = {task.item.id: task for task in tasks_of((one.reason for one in gathered.shown), _pace(db, coach))}
    tasks |= {key: task for key, (task, _) in gathered.ready.items()}
    queue = queue_of([task.item for task in tasks.values()], today.toordinal(), minutes)
    words = {(one.reason.kind, one.reason.about): one for one in gathered.shown}

    def shown(ids: Iterable[str]) -> tuple[ShownTask, ...]:
        return tuple(_shown_task(tasks[one], gathered.told_of(tasks[one], words), today) for one in ids)

    recent = datetime.now(ZoneInfo("UTC")) - timedelta(hours=CAME_IN_HOURS)
    came_in, just_arrived = db.execute(_CAME_IN, {"academy": academy_id, "recent": recent}).one()
    return Day(
        on=today,
        chosen=shown(item.id for item in queue.chosen[:MOST_SHOWN]),
        left=shown(item.id for item in queue.left[:MOST_SHOWN]),
        more_chosen=max(0, len(queue.chosen) - MOST_SHOWN),
        more_left=max(0, len(queue.left) - MOST_SHOWN),
        minutes=queue.minutes,
        classes=tuple(lessons.on_days(db, academy_id, today, today + timedelta(days=1))),
        came_in=came_in or 0,
        arrived=just_arrived or 0,
        looking=gathered.looking,
    )


def _shown_task(task: Task, reasons: tuple[Shown, ...], today: date) -> ShownTask:
    return ShownTask(
        task=task,
        priority=float(task.item.priority(today.toordinal())),
        overdue_days=max(0, today.toordinal() - task.item.since),
        reasons=reasons,
    )


def _pace(db: Session, coach: uuid.UUID) -> Pace:
    """The coach's own minutes of their finished reviews, the newest first."""
    rows = db.execute(_WORKED, {"coach": coach})
    return Pace([Worked(technique=name, minutes=seconds / 60, reps=reps) for name, seconds, reps in rows])


# Putting a question together takes as long as asking it: the day's are put together once, with room for whom they are about.
_ACADEMY, _COACH = bindparam("academy", type_=Uuid()), bindparam("coach", type_=Uuid())
_WAITING = select(func.count()).where(InboxRow.academy_id == _ACADEMY, InboxRow.done_at.is_(None))
_ARRIVED = select(func.count()).where(Clip.academy_id == _ACADEMY, Clip.created_at >= bindparam("recent"))
_CAME_IN = select(_WAITING.scalar_subquery(), _ARRIVED.scalar_subquery())
_WORKED = (
    select(func.min(TechniqueVersion.technique), Review.worked_s, func.count(RepRow.id))
    .join(RepRow, RepRow.review_id == Review.id)
    .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
    .where(Review.account_id == _COACH, Review.finished_at.is_not(None), Review.worked_s > 0, RepRow.blind_of.is_(None))
    .group_by(Review.id)
    .order_by(Review.finished_at.desc())
    .limit(MOST_WORKED)
)
_PRESCRIBED = (
    select(Prescription.student_id, Prescription.technique, Prescription.faults)
    .join(Student, Student.id == Prescription.student_id)
    .where(Student.academy_id == _ACADEMY, Prescription.ended_on.is_(None))
)
_INBOX = select(InboxRow).where(
    InboxRow.academy_id == _ACADEMY, InboxRow.done_at.is_(None), InboxRow.kind.in_(("pain", "question", "forget"))
)
_FLOOR = select(FloorNote).where(FloorNote.academy_id == _ACADEMY, FloorNote.kind == "question", FloorNote.done_at.is_(None))
_CUT = select(RepRow.review_id, func.count().label("reps")).where(RepRow.blind_of.is_(None)).group_by(RepRow.review_id).subquery()
_CLIPS = (
    select(Clip.id, Clip.name, Clip.student_id, Clip.naming, Clip.proposals, Clip.created_at, _CUT.c.reps, Review.proposals)
    .outerjoin(Review, Review.clip_id == Clip.id)
    .outerjoin(_CUT, _CUT.c.review_id == Review.id)
    .where(Clip.academy_id == _ACADEMY, Clip.state == "ready", Review.finished_at.is_(None))
)
_CUT_ALREADY = (
    select(Review.clip_id, func.min(TechniqueVersion.technique))
    .join(RepRow, RepRow.review_id == Review.id)
    .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
    .where(Review.academy_id == _ACADEMY, Review.finished_at.is_(None))
    .group_by(Review.clip_id)
)


@dataclass(frozen=True, kw_only=True)
class _Due:
    """What is due of a student's faults: each reason; and as items, where no clip of theirs waits that would join them."""

    shown: tuple[Shown, ...]
    items: dict[str, tuple[Task, tuple[Shown, ...]]]


def _due_of(shown: tuple[Shown, ...]) -> _Due:
    by_reason = {(one.reason.kind, one.reason.about): one for one in shown}
    tasks = tasks_of((one.reason for one in shown), Pace([]))
    items = {task.item.id: (task, tuple(by_reason[one.kind, one.about] for one in task.reasons)) for task in tasks}
    return _Due(shown=shown, items=items)


_told: LRUCache[tuple[object, ...], _Due] = LRUCache(MOST_KEPT)
"""What is due of each student, while their faults, the day, their classes and what is prescribed to them are the same."""


@lru_cache(maxsize=1000)
def _in_words(day: date) -> str:
    return f"{day.day} {day:%B}"


class _Gathered:
    """Everything that there is to do, each with its words; the parts are asked one after the other."""

    def __init__(self, db: Session, academy: Academy, coach: uuid.UUID, today: date) -> None:
        self._db, self._academy, self._coach, self._today = db, academy, coach, today
        self._students = people.students(db, academy.id, only=(Student.name, Student.grade_id, Student.fix_choice))
        self._names = {one.id: one.name for one in self._students}
        budget = Budget(WORK_OUT_S)
        stamps = stamps_of(db, academy.id, self._students)
        self._last_filmed = stamps.last_filmed
        self._known = known.of_students(db, academy.id, self._students, budget, stamps)
        self._zone = ZoneInfo(academy.time_zone)
        self._techniques = {one.technique: catalogue.definition(one).names.main for one in catalogue.techniques(db, academy.id)}
        found = decisions.pending(db, academy.id, self._students, stamps, today, budget)
        self.looking = max(found.looking, len(self._students) - len(self._known))
        clips = list(self._clips())
        with_clips = {one.reason.student for one in clips}
        self.ready: dict[str, tuple[Task, tuple[Shown, ...]]] = {}
        """Items of students of whom no clip waits, as they were put together before."""
        self.shown: list[Shown] = [
            *self._faults(with_clips),
            *self._inbox(),
            *self._asked_on_the_floor(),
            *clips,
            *self._opinions(),
            *self._decisions(found.pending),
            *self._unseen(with_clips),
        ]

    def told_of(self, task: Task, words: Mapping[tuple[Kind, str], Shown]) -> tuple[Shown, ...]:
        """The reasons of an item in words."""
        if task.item.id in self.ready:
            return self.ready[task.item.id][1]
        return tuple(words[one.kind, one.about] for one in task.reasons)

    def _local(self, moment: datetime) -> int:
        return moment.astimezone(self._zone).date().toordinal()

    def _named(self, technique: str) -> str:
        return self._techniques.get(technique, technique.replace("-", " "))

    def _faults(self, with_clips: set[str]) -> Iterator[Shown]:
        """Rechecks that are due, each on the student's training day, and relapses that nothing was prescribed for.

        Of students of whom no clip waits they are items already, and are put there.
        """
        prescribed: dict[uuid.UUID, set[tuple[str, str]]] = {}
        for student, technique, fault in self._prescribed():
            prescribed.setdefault(student, set()).add((technique, fault))
        days = TrainingDays(self._db, self._academy.id, self._today)
        for student, own in self._known.items():
            answered = frozenset(prescribed.get(student, ()))
            key = (self._names[student], own, self._today, days.of(student), answered)
            told = _told.get(key)
            if told is None:
                told = _told[key] = _due_of(tuple(self._of_student(student, own, days, answered)))
            if str(student) in with_clips:
                yield from told.shown
            else:
                self.ready |= told.items

    def _of_student(
        self, student: uuid.UUID, own: known.Known, days: TrainingDays, answered: frozenset[tuple[str, str]]
    ) -> Iterator[Shown]:
        now = self._today.toordinal()
        due: dict[str, list[tuple[int, known.FaultNow]]] = {}
        for one in own.faults:
            relapsed = one.relapsed_on is not None and one.relapsed_on == one.last_day
            if relapsed and (one.technique, one.fault) not in answered:
                words = f"“{one.ask}” is back, and nothing is prescribed for it"
                yield self._of_fault(Kind.RELAPSE, student, one, one.relapsed_on or now, words)
            day = None if one.recheck is None else days.due(student, one.recheck)
            if day is not None and day <= now:
                due.setdefault(one.technique, []).append((day, one))
        for rechecks in due.values():
            yield from self._rechecks(student, rechecks)

    def _rechecks(self, student: uuid.UUID, due: Sequence[tuple[int, known.FaultNow]]) -> Iterator[Shown]:
        """What is to be looked at again of one technique: the gravest and the oldest, and how many more there are."""
        ordered = sorted(due, key=lambda one: (-_severity(one[1]), one[0], one[1].fault))
        told = list(ordered[:MOST_TOLD])
        oldest = min(ordered, key=lambda one: one[0])
        told += [] if oldest in told else [oldest]
        for day, one in told:
            words = f"look again at “{one.ask}”: {'a safety point, ' if one.safety else ''}{STATES.get(one.state, 'missed')}"
            yield self._of_fault(_kind(one), student, one, day, words)
        rest = [one for one in ordered[MOST_TOLD:] if one is not oldest]
        if rest:
            day, one = rest[0]
            words = f"look again at {len(rest)} more {'point' if len(rest) == 1 else 'points'}"
            yield self._of_fault(_kind(one), student, one, day, words)

    def _prescribed(self) -> set[tuple[uuid.UUID, str, str]]:
        open_ones = self._db.execute(_PRESCRIBED, {"academy": self._academy.id})
        return {(student, technique, fault) for student, technique, own in open_ones for fault in own}

    def _of_fault(self, kind: Kind, student: uuid.UUID, one: known.FaultNow, since: int, words: str) -> Shown:
        about = f"{kind.value}:{student}:{one.technique}:{one.fault}"
        reason = Reason(kind=kind, about=about, since=since, student=str(student), technique=one.technique, state=one.state)
        told = f"{one.technique_name}: {words}"
        return Shown(reason=reason, student=self._names[student], words=told, path=f"/students/{student}")

    def _inbox(self) -> Iterator[Shown]:
        for row in self._db.scalars(_INBOX, {"academy": self._academy.id}):
            kind = Kind.PAIN if row.kind == "pain" else Kind.QUESTION
            words = row.words or "asks to be deleted"
            told = f"Something hurts: {words}" if kind is Kind.PAIN else f"Asks: {words}"
            reason = Reason(kind=kind, about=f"inbox:{row.id}", since=self._local(row.created_at), student=str(row.student_id))
            yield Shown(reason=reason, student=self._names.get(row.student_id, ""), words=told, path="/inbox")

    def _asked_on_the_floor(self) -> Iterator[Shown]:
        for row in self._db.scalars(_FLOOR, {"academy": self._academy.id}):
            about, student = f"floor:{row.id}", str(row.student_id)
            reason = Reason(kind=Kind.QUESTION, about=about, since=self._local(row.noted_at), student=student)
            words = f"Asked on the floor: {row.words}"
            yield Shown(reason=reason, student=self._names.get(row.student_id, ""), words=words, path=f"/students/{student}")

    def _clips(self) -> Iterator[Shown]:
        """Clips that wait for their review, and those that nobody has named."""
        of_academy = {"academy": self._academy.id}
        # By clip, a technique that was cut in an open review.
        first_of = dict(self._db.execute(_CUT_ALREADY, of_academy).tuples().all())
        for clip, name, student, naming, proposals, at, reps, offered in self._db.execute(_CLIPS, of_academy):
            since = self._local(at)
            if student is None:
                reason = Reason(kind=Kind.NAME, about=f"name:{clip}", since=since)
                yield Shown(reason=reason, student="", words=f"Name the clip “{name}”", path="/clips")
            elif naming.drill is None and student in self._names:
                technique = naming.technique or first_of.get(clip, "")
                cuts = reps or len(offered or proposals)
                reason = Reason(
                    kind=Kind.REVIEW, about=f"clip:{clip}", since=since, student=str(student), technique=technique, cuts=cuts
                )
                what = f"{self._named(technique)}, " if technique else ""
                words = f"Review “{name}”: {what}{cuts} {'rep' if cuts == 1 else 'reps'}"
                yield Shown(reason=reason, student=self._names[student], words=words, path=f"/bench/{clip}")

    def _opinions(self) -> Iterator[Shown]:
        """Second opinions that this coach was asked for, and those begun and not handed in."""
        begun = second_opinions.begun(self._db, self._academy.id, self._coach)
        asked = asked_opinions.of_coach(self._db, self._academy.id, self._coach)
        by_review = {one.review: one for one in asked}
        for one in begun:
            if one.review not in by_review:
                reason = Reason(kind=Kind.OPINION, about=f"opinion:{one.review}", since=one.filmed_on.toordinal())
                words = f"Finish your second opinion on “{one.clip_name}”"
                yield Shown(reason=reason, student=one.student, words=words, path=f"/second/{one.review}")
        for ask in asked:
            reason = Reason(kind=Kind.OPINION, about=f"opinion:{ask.review}", since=ask.on.toordinal())
            words = f"{ask.by or 'A coach'} asks for your second opinion on “{ask.clip_name}”"
            yield Shown(reason=reason, student=ask.student, words=words, path=f"/second/{ask.review}")

    def _decisions(self, pending: Iterable[decisions.Pending]) -> Iterator[Shown]:
        for one in pending:
            kind = Kind.GRADE if one.grade else Kind.RUNG
            about = f"{kind.value}:{one.student}:{one.technique or one.grade}"
            reason = Reason(kind=kind, about=about, since=one.since, student=str(one.student), technique=one.technique)
            yield Shown(reason=reason, student=self._names[one.student], words=one.words, path=f"/students/{one.student}")

    def _unseen(self, waiting: set[str]) -> Iterator[Shown]:
        """Students who were not filmed for four weeks, but for those a clip of whom waits to be looked at."""
        for student, on in self._last_filmed.items():
            since = on.toordinal() + UNSEEN_DAYS
            if student in self._names and str(student) not in waiting and since <= self._today.toordinal():
                reason = Reason(kind=Kind.UNSEEN, about=f"unseen:{student}", since=since, student=str(student))
                words = f"Not filmed since {_in_words(on)}"
                yield Shown(reason=reason, student=self._names[student], words=words, path=f"/students/{student}")
