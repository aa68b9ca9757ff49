"""What somebody's answers say of their eye, beside the academy's, and the own scatter of events that is offered to coaches."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, and_, false, func, select, update
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.eye.questions import NONE
from lacertus.core.eye.spread import (
    LEAST_EVENTS,
    SHOWN_DAYS,
    SLIP_MS,
    Alarms,
    Rate,
    Spread,
    alarms_of,
    own_events_s,
    rate_of,
    spread_from,
    spread_of,
)
from lacertus.services.eye.learner import Learner
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import blind_remarking
from lacertus.store.tables import Account, EyeAnswer, JudgementRow, Opinion, Review

SHOWN = timedelta(days=SHOWN_DAYS)


@dataclass(frozen=True, kw_only=True)
class OfSubject:
    """Errors about one event (milliseconds) or one angle (degrees), one's own and those of the academy's other people together."""

    technique: str
    subject: str
    own: Spread
    others: Spread


@dataclass(frozen=True, kw_only=True)
class OfWeek:
    """What was answered in a week, by the day that it began on: hits, and the mean distance from the truth."""

    day: date
    hits: Rate
    events_ms: float | None
    angles_deg: float | None


@dataclass(frozen=True, kw_only=True)
class OwnEvents:
    """The own scatter of marked events: how many answers there are of those that it takes, σ, and whether it is used."""

    answers: int
    least: int
    sigma_s: float | None
    is_used: bool


@dataclass(frozen=True, kw_only=True)
class OfColleague:
    """What the eye of somebody is like who lets the others see it by name: hits of all questions, and errors of all techniques."""

    name: str
    hits: Rate
    events: Spread
    angles: Spread


@dataclass(frozen=True, kw_only=True)
class Progress:
    """Everything on the page of one's own eye. `events` and `angles` are of all techniques together."""

    answers: int
    events: OfSubject
    angles: OfSubject
    by_event: tuple[OfSubject, ...]
    by_angle: tuple[OfSubject, ...]
    helped: Spread
    """Angles said once the wanted range was shown."""
    alarms: tuple[tuple[str, Alarms], ...]
    """By technique; one's second opinions count as answers."""
    opinions: int
    """How many second opinions there are among them."""
    kinds: tuple[tuple[str, Rate, Rate], ...]
    """By kind of question: one's own hits, and the others'."""
    weeks: tuple[OfWeek, ...]
    own_events: OwnEvents
    colleagues: tuple[OfColleague, ...] = ()
    """Those who let the others see their eye by name; coaches alone see them."""
    is_named: bool = False
    """Whether one lets the others see one's own."""


def progress_of(db: Session, learner: Learner) -> Progress:
    """What somebody's answers of the last year say of their eye; others appear together, and by name only where they want to."""
    since = datetime.now(UTC) - SHOWN
    rows = select(EyeAnswer).where(learner.own(EyeAnswer), EyeAnswer.answered_at >= since)
    own = list(db.scalars(rows.order_by(EyeAnswer.answered_at, EyeAnswer.id)))
    others = _others(db, learner)
    theirs = _hits_of_others(db, others)
    kinds = dict.fromkeys([*(row.kind for row in own), *theirs])
    opinions = _second_opinions(db, learner.account) if learner.account is not None else {}
    return Progress(
        answers=len(own),
        events=_all(db, own, others, "frame"),
        angles=_all(db, own, others, "angle"),
        by_event=_each(db, own, others, "frame"),
        by_angle=_each(db, own, others, "angle"),
        helped=spread_of([row.after for row in own if row.after is not None]),
        alarms=tuple(_alarms(own, opinions)),
        opinions=sum(map(len, opinions.values())),
        kinds=tuple((kind, _hits(own, kind), theirs.get(kind, rate_of(0, 0))) for kind in kinds),
        weeks=_weeks(own),
        own_events=_own_events(db, learner, own),
        colleagues=_colleagues(db, learner) if learner.account is not None else (),
        is_named=db.scalar(select(Account.eye_named).where(Account.id == learner.account)) or False,
    )


Others = tuple[ColumnElement[bool], ...]
"""Which answers are the other people's."""
LEAST_OTHERS = 3
"""What others answered is shown together only where it is of so many: of one alone it would name them. A convention."""


def _others(db: Session, learner: Learner) -> Others:
    """Coaches are shown beside the other coaches, students beside the other students; where there are too few of them, those
    alone who let themselves be seen by name."""
    others = (*learner.others(), EyeAnswer.answered_at >= datetime.now(UTC) - SHOWN)
    who = EyeAnswer.student_id if learner.account is None else EyeAnswer.account_id
    people = db.scalar(select(func.count(who.distinct())).where(*others)) or 0
    if people >= LEAST_OTHERS:
        return others
    return (*others, EyeAnswer.account_id.in_(select(Account.id).where(Account.eye_named)) if learner.account else false())


def _colleagues(db: Session, learner: Learner) -> tuple[OfColleague, ...]:
    def errors(kind: str) -> tuple[ColumnElement[Any], ...]:
        error = EyeAnswer.ms if kind == "frame" else EyeAnswer.degrees
        of = and_(EyeAnswer.kind == kind, error.is_not(None), *_no_slip(kind))
        return func.count().filter(of), func.avg(error).filter(of), func.stddev_samp(error).filter(of)

    since = EyeAnswer.answered_at >= datetime.now(UTC) - SHOWN
    rows = (
        select(Account.name, func.count().filter(EyeAnswer.hit), func.count(), *errors("frame"), *errors("angle"))
        .join(Account, Account.id == EyeAnswer.account_id)
        .where(*learner.others(), since, Account.eye_named, Account.left_at.is_(None))
        .group_by(Account.id, Account.name)
        .order_by(Account.name)
    )
    return tuple(
        OfColleague(name=name, hits=rate_of(hits, of), events=spread_from(*found[:3]), angles=spread_from(*found[3:]))
        for name, hits, of, *found in db.execute(rows)
    )


def show_by_name(db: Session, academy: uuid.UUID, account: uuid.UUID, *, shown: bool) -> Progress:
    """Let the others who teach here see by name what one's eye is like, or no longer. Nobody else decides it."""
    db.execute(update(Account).where(Account.id == account, Account.academy_id == academy).values(eye_named=shown))
    return progress_of(db, Learner(academy=academy, account=account))


def _hits_of_others(db: Session, others: Others) -> dict[str, Rate]:
    counted = select(EyeAnswer.kind, func.count().filter(EyeAnswer.hit), func.count()).where(*others).group_by(EyeAnswer.kind)
    return {kind: rate_of(hits, count) for kind, hits, count in db.execute(counted)}


def _errors(rows: Iterable[EyeAnswer], kind: str) -> list[float]:
    values = [row.ms if kind == "frame" else row.degrees for row in rows if row.kind == kind]
    return [value for value in values if value is not None and (kind != "frame" or abs(value) <= SLIP_MS)]


def _no_slip(kind: str) -> tuple[ColumnElement[bool], ...]:
    return (func.abs(EyeAnswer.ms) <= SLIP_MS,) if kind == "frame" else ()


def _all(db: Session, own: list[EyeAnswer], others: Others, kind: str) -> OfSubject:
    error = EyeAnswer.ms if kind == "frame" else EyeAnswer.degrees
    n, mean, scatter = db.execute(
        select(func.count(), func.avg(error), func.stddev_samp(error)).where(*others, EyeAnswer.kind == kind, *_no_slip(kind))
    ).one()
    return OfSubject(technique="", subject="", own=spread_of(_errors(own, kind)), others=spread_from(n, mean, scatter))


def _each(db: Session, own: list[EyeAnswer], others: Others, kind: str) -> tuple[OfSubject, ...]:
    error = EyeAnswer.ms if kind == "frame" else EyeAnswer.degrees
    of = (EyeAnswer.technique, EyeAnswer.subject)
    each = select(*of, func.count(), func.avg(error), func.stddev_samp(error))
    counted = each.where(*others, EyeAnswer.kind == kind, *_no_slip(kind))
    theirs = {(technique, subject): spread_from(*found) for technique, subject, *found in db.execute(counted.group_by(*of))}
    mine: dict[tuple[str, str], list[EyeAnswer]] = {}
    for row in own:
        if row.kind == kind:
            mine.setdefault((row.technique, row.subject), []).append(row)
    return tuple(
        OfSubject(
            technique=key[0], subject=key[1], own=spread_of(_errors(rows, kind)), others=theirs.get(key, spread_from(0, None, None))
        )
        for key, rows in sorted(mine.items())
    )


Told = tuple[str, str, tuple[str, ...]]
"""What was said to be missed, what was, and what could be."""
FIRM = ("met", "missed")


def _alarms(own: list[EyeAnswer], opinions: Mapping[str, list[Told]]) -> Iterable[tuple[str, Alarms]]:
    by: dict[str, list[Told]] = {technique: list(told) for technique, told in opinions.items()}
    for row in own:
        if row.kind == "missed":
            among = tuple(one for one in row.among if one != NONE)
            by.setdefault(row.technique, []).append((row.given.choice or "", row.true_choice or "", among))
    for technique, told in sorted(by.items()):
        yield from ((technique, alarms) for alarms in alarms_of(told))


def _second_opinions(db: Session, account: uuid.UUID) -> dict[str, list[Told]]:
    """By technique, one's second opinions by eye on what was measured firmly: each is an answer to “was this missed?”."""
    measured = func.coalesce(JudgementRow.measured, JudgementRow.verdict)
    same = (JudgementRow.rep_id == Opinion.rep_id) & (JudgementRow.checkpoint == Opinion.checkpoint)
    rows = (
        select(JudgementRow.technique, Opinion.checkpoint, Opinion.verdict, measured)
        .join(JudgementRow, same)
        .where(Opinion.account_id == account, Opinion.handed_in_at.is_not(None), Opinion.verdict.in_(FIRM))
        .where(JudgementRow.kind != "seen", measured.in_(FIRM))
    )
    found: dict[str, list[Told]] = {}
    for technique, checkpoint, said, true in db.execute(rows):
        missed = [checkpoint if verdict == "missed" else NONE for verdict in (said, true)]
        found.setdefault(technique, []).append((missed[0], missed[1], (checkpoint,)))
    return found


def _hits(rows: list[EyeAnswer], kind: str) -> Rate:
    of = [row for row in rows if row.kind == kind]
    return rate_of(sum(row.hit for row in of), len(of))


def _weeks(own: list[EyeAnswer]) -> tuple[OfWeek, ...]:
    by: dict[date, list[EyeAnswer]] = {}
    for row in own:
        year, week, _ = row.answered_at.isocalendar()
        by.setdefault(date.fromisocalendar(year, week, 1), []).append(row)
    return tuple(
        OfWeek(
            day=day,
            hits=rate_of(sum(row.hit for row in rows), len(rows)),
            events_ms=_mean_distance(_errors(rows, "frame")),
            angles_deg=_mean_distance(_errors(rows, "angle")),
        )
        for day, rows in sorted(by.items())
    )


def _mean_distance(errors: list[float]) -> float | None:
    return sum(map(abs, errors)) / len(errors) if errors else None


def _own_events(db: Session, learner: Learner, own: list[EyeAnswer]) -> OwnEvents:
    errors = _errors(own, "frame")
    used = db.scalar(select(Account.events_from_eye).where(Account.id == learner.account)) or False
    sigma = own_events_s([ms / 1000 for ms in errors])
    return OwnEvents(answers=len(errors), least=LEAST_EVENTS, sigma_s=sigma, is_used=used)


@needs(Right.REVIEW)
def use_own_events(db: Session, academy: uuid.UUID, account: uuid.UUID, *, use: bool) -> Progress:
    """Use the own scatter of events in one's open reviews and those to come, or the default again. It is never taken unasked.

    Raises:
        BadInput: there are too few answers yet.
    """
    learner = Learner(academy=academy, account=account)
    found = progress_of(db, learner)
    if use and found.own_events.sigma_s is None:
        raise BadInput(f"your own scatter is known from {LEAST_EVENTS} marked events on; there are {found.own_events.answers}")
    db.execute(update(Account).where(Account.id == account).values(events_from_eye=use))
    mine = (Review.account_id == account, Review.finished_at.is_(None))
    db.execute(select(Review.id).where(*mine).order_by(Review.id).with_for_update())
    marking = blind_remarking.marking_of(db, account)
    db.execute(update(Review).where(*mine).values(marking=marking).execution_options(synchronize_session=False))
    return progress_of(db, learner)
