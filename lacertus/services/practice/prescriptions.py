"""Practice of a student: what is prescribed, what was done of it, and whether the fault went away meanwhile."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.plan import practice as rules
from lacertus.core.plan.practice import DidItHelp, Done, Kept, amount_of
from lacertus.core.progress import ledger
from lacertus.core.techniques.practice import Dose
from lacertus.core.texts import checked_name, checked_text
from lacertus.services.days import checked_day
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.practice import drills, known
from lacertus.services.practice.clip_reps import DrillClip, drill_clips
from lacertus.services.progress import follow_up
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Account, PracticeLog, Prescription, Review, Student

MadeIn = Literal["review", "class", "hand"]
EndedWhy = Literal["done", "replaced", "pain", "cleared", "stopped"]
Side = Literal["both", "left", "right"]
LONGEST_TASK = 400
MOST_TIMES = 21
MOST_ENDED = 30


@dataclass(frozen=True, kw_only=True)
class Wish:
    """What to prescribe: a drill of a technique (or one that is written here by name), for which faults, how much, how often."""

    technique: str
    faults: tuple[str, ...]
    dose: Dose
    drill: str = ""
    name: str = ""
    how: str = ""
    times_a_week: int = rules.TIMES_A_WEEK
    partner_task: str = ""
    side: Side = "both"
    start: str | None = None
    until: date | None = None
    made_in: MadeIn = "hand"
    review: uuid.UUID | None = None


@dataclass(frozen=True, kw_only=True)
class Prescribed:
    """What was prescribed, and which prescription made room for it."""

    row: Prescription
    replaced: Prescription | None


@dataclass(frozen=True, kw_only=True)
class Followed:
    """A prescription with what came of it: how much was done, by fault whether it helped, and the clips that counted."""

    row: Prescription
    by: str
    kept: Kept | None
    helped: dict[str, DidItHelp]
    asks: dict[str, str]
    clips: tuple[DrillClip, ...]
    minutes: float
    """Of one time, by the student's own pace."""


WEEKS_SHOWN = 12


@dataclass(frozen=True, kw_only=True)
class PracticePage:
    """A student's practice: what is open, what has ended, adherence over all, and the log (the newest first)."""

    open: tuple[Followed, ...]
    ended: tuple[Followed, ...]
    adherence: Kept | None
    weeks: tuple[rules.Week, ...]
    log: tuple[tuple[PracticeLog, str], ...]


def open_of(db: Session, student: uuid.UUID) -> list[Prescription]:
    """What is prescribed to a student and has not ended, the oldest first."""
    own = select(Prescription).where(Prescription.student_id == student, Prescription.ended_on.is_(None))
    return list(db.scalars(own.order_by(Prescription.since, Prescription.created_at)))


def page(db: Session, academy: uuid.UUID, student_id: uuid.UUID, on: date) -> PracticePage:
    """A student's practice as it stands on a day.

    Raises:
        NotFound: no such student.
    """
    student = people.student(db, academy, student_id)
    newest = select(Prescription, Account.name).outerjoin(Account, Account.id == Prescription.account_id)
    rows = list(
        db.execute(newest.where(Prescription.student_id == student_id).order_by(Prescription.since, Prescription.created_at))
    )
    clips = drill_clips(db, [student_id])
    asked, done = [_asked(row) for row, _ in rows], _done(db, [row for row, _ in rows], clips)
    over_all, kept = rules.adherence(asked, done, on.toordinal())
    sessions = _sessions(db, student_id)
    rep_s = rules.own_rep_s([clip.starts_s for clip in clips])
    asks = {(one.technique, one.fault): one.ask for one in known.of_student(db, academy, student).faults}
    followed = [
        Followed(
            row=row,
            by=name or "",
            kept=kept.get(str(row.id)),
            helped={
                fault: rules.did_it_help(sessions.get((row.technique, fault), ()), row.since.toordinal(), _seen_until(row, on))
                for fault in row.faults
            },
            asks={fault: asks.get((row.technique, fault), fault.replace("-", " ")) for fault in row.faults},
            clips=tuple(clip for clip in clips if counts_for(clip, row)),
            minutes=_minutes(row.dose, rep_s),
        )
        for row, name in rows
    ]
    return PracticePage(
        open=tuple(one for one in followed if one.row.ended_on is None),
        ended=tuple(one for one in reversed(followed) if one.row.ended_on is not None)[:MOST_ENDED],
        adherence=over_all,
        weeks=rules.adherence_by_week(asked, done, on.toordinal(), WEEKS_SHOWN),
        log=tuple(_log(db, student_id)),
    )


def _seen_until(row: Prescription, on: date) -> int:
    """What is judged long after a prescription has ended tells nothing of it any more."""
    ended = None if row.ended_on is None else row.ended_on.toordinal() + rules.WINDOW_DAYS
    return on.toordinal() if ended is None else min(on.toordinal(), ended)


def _minutes(dose: Dose, rep_s: float) -> float:
    return round(2 * dose.seconds_taken(rep_s) / 60 + 0.499) / 2


def _asked(row: Prescription) -> rules.Asked:
    ends = [day for day in (row.until, row.ended_on) if day is not None]
    return rules.Asked(
        id=str(row.id),
        amount=amount_of(row.dose),
        times_a_week=row.times_a_week,
        since=row.since.toordinal(),
        until=min(ends).toordinal() if ends else None,
    )


def _done(db: Session, rows: Sequence[Prescription], clips: Sequence[DrillClip]) -> list[Done]:
    """What was logged for some prescriptions, and what clips of their drills show."""
    ids = [row.id for row in rows]
    logged = select(PracticeLog.prescription_id, PracticeLog.done_on, PracticeLog.amount).where(
        PracticeLog.prescription_id.in_(ids)
    )
    found = [Done(prescription=str(key), day=on.toordinal(), amount=amount) for key, on, amount in db.execute(logged)]
    for row in rows:
        own = [clip for clip in clips if counts_for(clip, row)]
        found += [Done(prescription=str(row.id), day=clip.on.toordinal(), amount=clip.reps) for clip in own]
    return found


def counts_for(clip: DrillClip, row: Prescription) -> bool:
    """Whether a clip of drilling counts for a prescription: its student's, its drill, filmed while it was open."""
    same = (clip.student, clip.technique) == (row.student_id, row.technique) and clip.drill in (row.drill, row.name)
    return same and row.since <= clip.on and (row.ended_on is None or clip.on <= row.ended_on)


def _sessions(db: Session, student: uuid.UUID) -> dict[tuple[str, str], list[ledger.Session]]:
    """By technique and fault, a student's sessions."""
    found: dict[tuple[str, str], list[ledger.Session]] = {}
    for one in follow_up.counts(db, student):
        found.setdefault((one.technique, one.fault), []).append(ledger.Session(one.day, one.exposures, one.misses))
    return found


def _log(db: Session, student: uuid.UUID, most: int = 60) -> list[tuple[PracticeLog, str]]:
    rows = select(PracticeLog, Account.name).outerjoin(Account, Account.id == PracticeLog.account_id)
    newest = rows.where(PracticeLog.student_id == student).order_by(PracticeLog.done_on.desc(), PracticeLog.created_at.desc())
    return [(row, name or "") for row, name in db.execute(newest.limit(most))]


# --- prescribing -------------------------------------------------------------------------------------


@needs(Right.PLAN)
def prescribe(
    db: Session, academy: uuid.UUID, student_id: uuid.UUID, wish: Wish, account: uuid.UUID | None, on: date
) -> Prescribed:
    """Prescribe a drill. Where three are open already, the one whose fault is lowest in fix first ends, and is told.

    Raises:
        BadInput: no fault, a day or a number that cannot be, or no name for a drill that is written here.
        Conflict: the same drill is prescribed already.
        NotFound: no such student, technique, drill or review.
    """
    student = people.student(db, academy, student_id)
    # Two who prescribe at once do not both find room.
    db.execute(select(Student.id).where(Student.id == student_id).with_for_update())
    name, how, task, start = _what(db, academy, wish)
    _check(db, academy, wish, on)
    here = open_of(db, student_id)
    if any((row.technique, row.name, row.side) == (wish.technique, name, wish.side) for row in here):
        raise Conflict(f"“{name}” is prescribed to {student.name} already; change that prescription instead. Nothing was changed.")
    standing = [
        rules.Open(id=str(row.id), technique=row.technique, faults=tuple(row.faults), since=row.since.toordinal()) for row in here
    ]
    gone = rules.makes_room(standing, known.of_student(db, academy, student).ranks)
    replaced = next((row for row in here if gone is not None and str(row.id) == gone.id), None)
    if replaced is not None:
        replaced.ended_on, replaced.ended_why = on, "replaced"
    row = Prescription(
        student_id=student_id, account_id=account, review_id=wish.review, technique=wish.technique, drill=wish.drill, name=name,
        how=how, faults=list(wish.faults), dose=wish.dose, times_a_week=wish.times_a_week, partner_task=task, side=wish.side,
        start=start, made_in=wish.made_in, since=on, until=wish.until,
    )  # fmt: skip
    db.add(row)
    db.flush()
    return Prescribed(row=row, replaced=replaced)


def _what(db: Session, academy: uuid.UUID, wish: Wish) -> tuple[str, str, str, str | None]:
    """Name, how, partner's task and start of what is prescribed."""
    if wish.drill:
        found = drills.find(db, academy, wish.technique, wish.drill)
        return found.name, found.how, wish.partner_task or found.partner_task, wish.start or found.start
    if wish.start is not None and not wish.name.strip():
        found = drills.find(db, academy, wish.technique, f"{drills.START}{wish.start}")
        return found.name, found.how, wish.partner_task or found.partner_task, found.start
    name = checked_name(wish.name, "the drill’s name", drills.LONGEST_NAME)
    how = checked_text(wish.how, "how it is done", drills.LONGEST_HOW) if wish.how.strip() else ""
    return name, how, wish.partner_task, wish.start


def _check(db: Session, academy: uuid.UUID, wish: Wish, on: date) -> None:
    if not wish.faults:
        raise BadInput("say which fault the drill is for; nothing was stored")
    if not 1 <= wish.times_a_week <= MOST_TIMES:
        raise BadInput(f"a drill is done 1 to {MOST_TIMES} times a week; nothing was stored")
    if wish.partner_task.strip():
        checked_text(wish.partner_task, "the partner’s task", LONGEST_TASK)
    if wish.until is not None and checked_day(wish.until, "the last day") < on:
        raise BadInput("the last day lies in the past; nothing was stored")
    technique = catalogue.definition(catalogue.newest(db, academy, wish.technique))
    unknown = set(wish.faults) - {one.fault.code for one in technique.everything_asked}
    if unknown:
        raise BadInput(f"this technique has no fault “{sorted(unknown)[0]}”; nothing was stored")
    if (
        wish.review is not None
        and db.scalar(select(Review.id).where(Review.id == wish.review, Review.academy_id == academy)) is None
    ):
        raise NotFound("There is no such review in your academy. Nothing was stored.")


def find(db: Session, academy: uuid.UUID, prescription_id: uuid.UUID) -> Prescription:
    """A prescription.

    Raises:
        NotFound: none in this academy.
    """
    own = select(Prescription).join(Student, Student.id == Prescription.student_id)
    row = db.scalar(own.where(Student.academy_id == academy, Prescription.id == prescription_id))
    if row is None:
        raise NotFound("There is no such prescription in your academy.")
    return row


@needs(Right.PLAN)
def change(
    db: Session,
    academy: uuid.UUID,
    prescription_id: uuid.UUID,
    dose: Dose | None = None,
    times_a_week: int | None = None,
    side: Side | None = None,
    partner_task: str | None = None,
) -> Prescription:
    """Change how much, how often, on which side, or what the partner does; raises as `prescribe`."""
    row = find(db, academy, prescription_id)
    if row.ended_on is not None:
        raise Conflict("This prescription has ended; prescribe the drill anew. Nothing was changed.")
    if times_a_week is not None and not 1 <= times_a_week <= MOST_TIMES:
        raise BadInput(f"a drill is done 1 to {MOST_TIMES} times a week; nothing was changed")
    if partner_task is not None:
        row.partner_task = checked_text(partner_task, "the partner’s task", LONGEST_TASK) if partner_task.strip() else ""
    row.dose, row.times_a_week, row.side = dose or row.dose, times_a_week or row.times_a_week, side or row.side
    db.flush()
    return row


@needs(Right.PLAN)
def end(db: Session, academy: uuid.UUID, prescription_id: uuid.UUID, why: EndedWhy, on: date) -> Prescription:
    """End a prescription; one that has ended stays as it ended. Raises NotFound where there is none."""
    row = find(db, academy, prescription_id)
    if row.ended_on is None:
        row.ended_on, row.ended_why = on, why
        db.flush()
    return row


def count_open(db: Session, academy: uuid.UUID) -> int:
    """How many prescriptions of an academy are open."""
    own = select(func.count()).select_from(Prescription).join(Student, Student.id == Prescription.student_id)
    return db.scalar(own.where(Student.academy_id == academy, Prescription.ended_on.is_(None))) or 0
