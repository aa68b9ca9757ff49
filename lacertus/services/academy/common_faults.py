"""The academy at a glance: faults that are common now, students who were not seen, and how far coaches agree."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from operator import itemgetter

from sqlalchemy import Integer, Text, cast, func, null, select, union_all
from sqlalchemy.orm import Session

from lacertus.core.academy.agreement import Agreement, agreement, by_pair
from lacertus.core.academy.common_faults import Common, FaultCounts, StudentCounts, common_faults
from lacertus.core.progress.ledger import HIT_MISSES
from lacertus.core.techniques.definition import Technique
from lacertus.services.academy import second_opinions
from lacertus.services.academy.second_opinions import Judged
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Clip, JudgementRow, RepRow, Review, Student, Tally

LONG_UNSEEN_DAYS = 28
"""Whoever was not filmed for so long is told. A convention."""
MOST_SHOWN = 40


@dataclass(frozen=True, kw_only=True)
class ShownCommon:
    common: Common
    technique_name: str
    ask: str
    students: tuple[tuple[uuid.UUID, str], ...]
    """Who shares it: id and name."""


@dataclass(frozen=True, kw_only=True)
class Unseen:
    """A student who was not filmed for long; `last` is None where they never were."""

    id: uuid.UUID
    name: str
    last: date | None


@dataclass(frozen=True, kw_only=True)
class Part:
    """Agreement over a part of what was judged twice: two coaches, a way of judging, a checkpoint."""

    of: str
    agreement: Agreement


@dataclass(frozen=True, kw_only=True)
class Agreeing:
    over_all: Agreement | None
    pairs: tuple[Part, ...]
    ways: tuple[Part, ...]
    checkpoints: tuple[Part, ...]
    """The least agreed first."""


@dataclass(frozen=True, kw_only=True)
class AcademyPage:
    since: date
    until: date
    students: int
    filmed: int
    """Students who were judged in these days."""
    reps: int
    common: tuple[ShownCommon, ...]
    unseen: tuple[Unseen, ...]
    agreeing: Agreeing


def page(db: Session, academy: uuid.UUID, today: date, days: int = 30) -> AcademyPage:
    """The last so many days of an academy, today with them."""
    since = today - timedelta(days=days - 1)
    names = dict(db.execute(select(Student.id, Student.name).where(Student.academy_id == academy)).tuples().all())
    counts = _counts(db, academy, since, today)
    filmed, reps = _how_much(db, academy, since, today)
    return AcademyPage(
        since=since,
        until=today,
        students=len(names),
        filmed=filmed,
        reps=reps,
        common=_common(db, academy, common_faults(counts), names),
        unseen=_unseen(db, academy, today),
        agreeing=_agreeing(db, academy),
    )


def _counts(db: Session, academy: uuid.UUID, since: date, until: date) -> list[FaultCounts]:
    """What was missed, by fault. The database adds up what each student did: of a year it is a hundred thousand rows."""
    tally = Tally.__table__.c
    by = (tally.technique, tally.fault)
    sums = (func.sum(tally.exposures).label("exposures"), func.sum(tally.misses).label("misses"))
    words = (func.max(tally.family).label("family"), func.bool_or(tally.safety).label("safety"))
    of_students = (
        select(*by, tally.student_id, *words, *sums)
        .where(tally.academy_id == academy, tally.filmed_on.between(since, until))
        .group_by(*by, tally.student_id)
        .cte()
    )
    each = of_students.c
    # Both at once, as adding up is most of the work; as arrays of each fault they would be sorted first, which takes as long again.
    of_fault = select(
        each.technique,
        each.fault,
        null().label("student"),
        func.max(each.family),
        func.bool_or(each.safety),
        func.count().filter(each.exposures >= HIT_MISSES),
        *(cast(func.sum(one), Integer) for one in (each.exposures, each.misses)),
    ).group_by(each.technique, each.fault)
    # Ids as text, as they only tell students apart.
    student = (cast(each.student_id, Text), null(), null(), null(), *(cast(one, Integer) for one in (each.exposures, each.misses)))
    missed_often = select(each.technique, each.fault, *student).where(each.misses >= HIT_MISSES)
    faults: list[tuple[str, str, str, bool, int, int, int]] = []
    students: dict[tuple[str, str], list[StudentCounts]] = defaultdict(list)
    for technique, fault, who, family, safety, asked, exposures, misses in db.execute(union_all(of_fault, missed_often)):
        if who is None:
            faults.append((technique, fault, family, safety, asked, exposures, misses))
        else:
            students[technique, fault].append(StudentCounts(who, exposures, misses))
    return [FaultCounts(*told, students[told[:2]]) for told in faults]


def _how_much(db: Session, academy: uuid.UUID, since: date, until: date) -> tuple[int, int]:
    """Students and reps of finished reviews; demonstrations never count, nor do reps that were marked a second time."""
    rows = (
        select(func.count(func.distinct(func.coalesce(RepRow.student_id, Review.student_id))), func.count())
        .select_from(Clip)
        .join(Review, Review.clip_id == Clip.id)
        .join(RepRow, RepRow.review_id == Review.id)
        .where(
            Clip.academy_id == academy,
            Clip.filmed_on.between(since, until),
            Review.finished_at.is_not(None),
            RepRow.purpose != "demonstration",
            RepRow.blind_of.is_(None),
        )
    )
    filmed, reps = db.execute(rows).one()
    return filmed, reps


def _common(db: Session, academy: uuid.UUID, common: Sequence[Common], names: dict[uuid.UUID, str]) -> tuple[ShownCommon, ...]:
    found = common[:MOST_SHOWN]
    known = catalogue.known(db, academy, {one.technique for one in found})
    return tuple(
        ShownCommon(
            common=one,
            technique_name=known[one.technique].names.main if one.technique in known else one.technique,
            ask=ask_of(known.get(one.technique), one.fault),
            students=tuple(sorted(((key, names[key]) for key in map(uuid.UUID, one.sharing)), key=itemgetter(1))),
        )
        for one in found
    )


def ask_of(technique: Technique | None, fault: str) -> str:
    """What is asked where a fault is missed, in words."""
    everything = technique.everything_asked if technique else ()
    return next((asked.ask for asked in everything if asked.fault.code == fault), fault.replace("-", " "))


def _unseen(db: Session, academy: uuid.UUID, today: date) -> tuple[Unseen, ...]:
    """Who was neither filmed nor judged for long, the longest first; who never was comes first of all.

    One look into an index a student, so that it does not grow with what was filmed.
    """
    filmed = select(func.max(Clip.filmed_on)).where(Clip.student_id == Student.id).scalar_subquery()
    judged = select(func.max(JudgementRow.filmed_on)).where(JudgementRow.student_id == Student.id).scalar_subquery()
    last = func.greatest(filmed, judged).label("last")
    # Apart, so that it is looked up once a student and not once for each time that it is named; the offset keeps it apart.
    seen = (
        select(Student.id, Student.name, last)
        .where(Student.academy_id == academy, Student.archived_at.is_(None))
        .offset(0)
        .subquery()
        .c
    )
    long_ago = seen.last.is_(None) | (seen.last <= today - timedelta(days=LONG_UNSEEN_DAYS))
    rows = select(seen.id, seen.name, seen.last).where(long_ago).order_by(seen.last.asc().nulls_first(), seen.name)
    return tuple(Unseen(id=key, name=name, last=on) for key, name, on in db.execute(rows))


def _agreeing(db: Session, academy: uuid.UUID) -> Agreeing:
    judged = second_opinions.ratings(db, academy)
    ratings = [one.rating for one in judged]
    pairs = tuple(Part(of=" and ".join(pair), agreement=found) for pair, found in by_pair(ratings).items())
    ways = _parts(judged, lambda one: "by eye, by both" if one.by_eye else "measured by one, by eye by the other")
    known = catalogue.known(db, academy, {one.technique for one in judged})

    def words(one: Judged) -> str:
        technique = known.get(one.technique)
        asked = technique.asked(one.rating.checkpoint) if technique else None
        return f"{asked.ask if asked else one.rating.checkpoint} ({technique.names.main if technique else one.technique})"

    checkpoints = sorted(_parts(judged, words), key=lambda part: (part.agreement.same, -part.agreement.judged, part.of))
    return Agreeing(over_all=agreement(ratings), pairs=pairs, ways=tuple(ways), checkpoints=tuple(checkpoints)[:MOST_SHOWN])


def _parts(judged: Iterable[Judged], name: Callable[[Judged], str]) -> list[Part]:
    groups: dict[str, list[Judged]] = {}
    for one in judged:
        groups.setdefault(name(one), []).append(one)
    found = []
    for of, own in groups.items():
        made = agreement(one.rating for one in own)
        if made is not None:
            found.append(Part(of=of, agreement=made))
    return found
