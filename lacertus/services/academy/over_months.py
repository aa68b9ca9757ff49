"""The academy over months: its most common faults, and how long a coach takes for a rep."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import date

from sqlalchemy import Date, cast, func, select
from sqlalchemy.orm import Session

from lacertus.core.academy.over_months import Missed, PacePoint, RatePoint, Worked, paces, rates
from lacertus.services.academy.common_faults import ask_of
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Clip, RepRow, Review, Tally

MOST_FAULTS = 4
"""So many faults are shown over time: more lines cannot be told apart."""
LEAST_EXPOSURES = 10


@dataclass(frozen=True, kw_only=True)
class FaultOverMonths:
    technique: str
    technique_name: str
    fault: str
    ask: str
    points: tuple[RatePoint, ...]


@dataclass(frozen=True, kw_only=True)
class OverMonths:
    """The months (their first days) with the faults that were missed most over all of them, and the coach's own pace."""

    months: tuple[date, ...]
    faults: tuple[FaultOverMonths, ...]
    pace: tuple[PacePoint, ...]


def over_months(db: Session, academy: uuid.UUID, coach: uuid.UUID, today: date, count: int = 12) -> OverMonths:
    """So many months of an academy, up to that of today."""
    number = today.year * 12 + today.month - 1
    months = tuple(date(one // 12, one % 12 + 1, 1) for one in range(number - count + 1, number + 1))
    return OverMonths(months=months, faults=_faults(db, academy, months[0], today), pace=_pace(db, coach, months[0]))


def _faults(db: Session, academy: uuid.UUID, since: date, today: date) -> tuple[FaultOverMonths, ...]:
    of = (Tally.technique, Tally.fault)
    within = (Tally.academy_id == academy, Tally.filmed_on.between(since, today))
    sums = (func.sum(Tally.misses), func.sum(Tally.exposures))
    most = select(*of, *sums).where(*within).group_by(*of).having(sums[0] > 0, sums[1] >= LEAST_EXPOSURES)
    common = {(technique, fault) for technique, fault, *_ in db.execute(most.order_by(sums[0].desc(), *of).limit(MOST_FAULTS))}
    if not common:
        return ()
    month = cast(func.date_trunc("month", Tally.filmed_on), Date)
    rows = select(*of, month, func.count(Tally.student_id.distinct()), *sums).group_by(*of, month).where(*within)
    wanted = rows.where(Tally.technique.in_({one for one, _ in common}), Tally.fault.in_({one for _, one in common}))
    counts: dict[tuple[str, str], list[Missed]] = {}
    for technique, fault, first, students, misses, exposures in db.execute(wanted):
        if (technique, fault) in common:
            counts.setdefault((technique, fault), []).append(
                Missed(month=first.toordinal(), students=students, misses=int(misses), exposures=int(exposures))
            )
    known = catalogue.known(db, academy, {technique for technique, _ in common})
    found = []
    for (technique, fault), own in counts.items():
        definition = known.get(technique)
        found.append(
            FaultOverMonths(
                technique=technique,
                technique_name=definition.names.main if definition else technique,
                fault=fault,
                ask=ask_of(definition, fault),
                points=rates(own),
            )
        )
    return tuple(sorted(found, key=lambda one: (-sum(point.misses for point in one.points), one.technique, one.fault)))


def _pace(db: Session, coach: uuid.UUID, since: date) -> tuple[PacePoint, ...]:
    """Of the coach's own finished reviews whose time was counted, by the month of the clip."""
    own = (Review.account_id == coach, Review.finished_at.is_not(None), Review.worked_s > 0)
    rows = (
        select(Clip.filmed_on, Review.worked_s, func.count(RepRow.id))
        .join(Review, Review.clip_id == Clip.id)
        .join(RepRow, RepRow.review_id == Review.id)
        .where(*own, Clip.filmed_on >= since, RepRow.blind_of.is_(None))
        .group_by(Review.id, Clip.filmed_on)
    )
    worked = [
        Worked(month=on.replace(day=1).toordinal(), minutes=seconds / 60, reps=reps) for on, seconds, reps in db.execute(rows)
    ]
    return paces(worked)
