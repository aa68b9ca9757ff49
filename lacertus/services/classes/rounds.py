"""Rounds and games: live with a clock and a tally, or a range of a long clip in which attempts were cut."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.timebase import TimeBase
from lacertus.core.plan.clock import Act, Where, after, where
from lacertus.core.plan.rounds import Attempt, Game, Outcome, Side, Summary, Tap, game_of, summary_of
from lacertus.core.progress.answers import Answered, ReactionTable, answer_tables
from lacertus.core.texts import checked_text
from lacertus.services.days import checked_day, day_at
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Academy, Clip, ReactedRow, RepRow, Review, Round, Student, TechniqueVersion

MOST_ROUNDS, LONGEST_S = 60, 3600.0
MOST_TAPS = 2000
MOST_SHOWN = 100
LONGEST_OBJECTIVE = 200


@dataclass(frozen=True, kw_only=True)
class Wish:
    """A round to be held: what scores, how many rounds of how many seconds, who."""

    objective: str
    student: uuid.UUID
    other: uuid.UUID | None
    seconds: float
    rounds: int = 1
    rest_s: float = 0.0
    held_on: date
    lesson: uuid.UUID | None = None
    clip: uuid.UUID | None = None
    first_frame: int | None = None
    last_frame: int | None = None


@dataclass(frozen=True, kw_only=True)
class Shown:
    """A round with its numbers: attempts of a clip by each student, or a game's score; and how reactions were answered."""

    row: Round
    student: str
    other: str
    clip_name: str
    attempts: tuple[tuple[Attempt, str, str], ...]
    """Each attempt, the technique's name, and who made it (a student's name)."""
    summaries: dict[str, Summary]
    """By a student's name."""
    answers: tuple[ReactionTable, ...]
    game: Game | None


@needs(Right.FLOOR)
def add(db: Session, academy: uuid.UUID, wish: Wish, account: uuid.UUID | None) -> Round:
    """Keep a round.

    Raises:
        BadInput: numbers that cannot be, one student twice, or frames outside the clip.
        NotFound: no such student or clip.
    """
    student = people.student(db, academy, wish.student)
    other = people.student(db, academy, wish.other) if wish.other is not None else None
    if other is not None and other.id == student.id:
        raise BadInput("choose two students; this is one and the same. Nothing was stored")
    if not (1 <= wish.rounds <= MOST_ROUNDS and 1 <= wish.seconds <= LONGEST_S and 0 <= wish.rest_s <= LONGEST_S):
        raise BadInput(f"a game has 1 to {MOST_ROUNDS} rounds of 1 to {LONGEST_S:g} seconds; nothing was stored")
    seconds = wish.seconds
    if wish.clip is not None:
        wish, seconds = _within(db, academy, wish)
    row = Round(
        academy_id=academy, account_id=account, student_id=student.id, other_id=other.id if other else None, clip_id=wish.clip,
        lesson_id=wish.lesson, held_on=checked_day(wish.held_on, "the day"),
        objective=checked_text(wish.objective, "what scores", LONGEST_OBJECTIVE), first_frame=wish.first_frame,
        last_frame=wish.last_frame, rounds=wish.rounds, seconds=seconds, rest_s=wish.rest_s,
    )  # fmt: skip
    db.add(row)
    db.flush()
    return row


def _within(db: Session, academy: uuid.UUID, wish: Wish) -> tuple[Wish, float]:
    """A round in a clip with its frames, the whole clip where none are said; and how long that lasted in reality, seconds."""
    clip = db.scalar(select(Clip).where(Clip.id == wish.clip, Clip.academy_id == academy))
    if clip is None or not clip.pts_s:
        raise NotFound("There is no such clip in your academy, or it is not read yet. Nothing was stored.")
    end = len(clip.pts_s) - 1
    first, last = (0 if wish.first_frame is None else wish.first_frame), (end if wish.last_frame is None else wish.last_frame)
    if not 0 <= first < last <= end:
        raise BadInput(f"a round lies within frames 0 to {end} of its clip; nothing was stored")
    times = _real_s(clip)
    return replace(wish, first_frame=first, last_frame=last), times[last] - times[first]


def _real_s(clip: Clip) -> tuple[float, ...]:
    """The real time of each frame of a clip, seconds."""
    return TimeBase(pts_s=tuple(clip.pts_s or ()), capture_rate=clip.capture_rate).real_s


def find(db: Session, academy: uuid.UUID, round_id: uuid.UUID, *, lock: bool = False) -> Round:
    """A round. Raises NotFound where there is none."""
    own = select(Round).where(Round.academy_id == academy, Round.id == round_id)
    row = db.scalar(own.with_for_update() if lock else own)
    if row is None:
        raise NotFound("There is no such round in your academy.")
    return row


def _names(db: Session, ids: Collection[uuid.UUID]) -> dict[uuid.UUID, str]:
    return dict(db.execute(select(Student.id, Student.name).where(Student.id.in_(ids))).tuples().all())


@needs(Right.PLAN)
def remove(db: Session, academy: uuid.UUID, round_id: uuid.UUID) -> None:
    """Delete a round with its tally; the clip stays. Raises NotFound where there is none."""
    db.delete(find(db, academy, round_id))
    db.flush()


def lengths_s(row: Round) -> list[float]:
    """Rounds and rests one after the other; no rest after the last."""
    with_rests = [length for _ in range(row.rounds) for length in (row.seconds, row.rest_s)]
    return with_rests[:-1]


@needs(Right.FLOOR)
def run(db: Session, academy: uuid.UUID, round_id: uuid.UUID, act: Act) -> Round:
    """Start, pause, skip, go back or stop the clock of a live round. Raises as `clock.after`, or NotFound."""
    row = find(db, academy, round_id, lock=True)
    if row.clip_id is not None:
        raise Conflict("This round lies in a clip; it has no clock.")
    row.clock = after(row.clock, act, lengths_s(row), datetime.now(UTC).timestamp())
    db.flush()
    return row


@needs(Right.FLOOR)
def tap(db: Session, academy: uuid.UUID, round_id: uuid.UUID, taps: Sequence[Tap], undo: Sequence[str] = ()) -> Round:
    """Add taps to the tally, and take some back by their keys; what is sent twice counts once.

    Raises:
        BadInput: too many, or of somebody who is not in this round.
        NotFound: no such round.
    """
    row = find(db, academy, round_id, lock=True)
    players = {str(row.student_id), *([str(row.other_id)] if row.other_id else [])}
    if any(one.by not in players or one.round > row.rounds for one in taps):
        raise BadInput("this tap is of nobody in this round; nothing was stored")
    kept = {one.key: one for one in (*row.taps, *taps)}
    for key in undo:
        kept.pop(key, None)
    if len(kept) > MOST_TAPS:
        raise BadInput(f"a round keeps at most {MOST_TAPS} taps; nothing was stored")
    row.taps = tuple(kept.values())
    db.flush()
    return row


# --- looking at them -------------------------------------------------------------------------------


def rounds(db: Session, academy: uuid.UUID, student: uuid.UUID | None = None) -> list[Shown]:
    """The rounds of an academy, or of one student, the newest first."""
    own = select(Round).where(Round.academy_id == academy)
    if student is not None:
        own = own.where(or_(Round.student_id == student, Round.other_id == student))
    rows = list(db.scalars(own.order_by(Round.held_on.desc(), Round.created_at.desc()).limit(MOST_SHOWN)))
    ids = {key for row in rows for key in (row.student_id, row.other_id) if key is not None}
    names = _names(db, ids)
    return [shown(db, row, names) for row in rows]


def one(db: Session, academy: uuid.UUID, round_id: uuid.UUID) -> Shown:
    """One round. Raises NotFound where there is none."""
    row = find(db, academy, round_id)
    ids = [key for key in (row.student_id, row.other_id) if key is not None]
    return shown(db, row, _names(db, ids))


def shown(db: Session, row: Round, names: dict[uuid.UUID, str]) -> Shown:
    """A round with its numbers."""
    student, other = names.get(row.student_id, ""), names.get(row.other_id, "") if row.other_id else ""
    if row.clip_id is None:
        players = [str(row.student_id), *([str(row.other_id)] if row.other_id else [])]
        game = game_of(row.taps, players, row.rounds)
        return Shown(row=row, student=student, other=other, clip_name="", attempts=(), summaries={}, answers=(), game=game)
    clip = db.get_one(Clip, row.clip_id)
    attempts = _attempts(db, row, clip, names)
    who = list(dict.fromkeys(name for _, _, name in attempts)) or [student]
    return Shown(
        row=row,
        student=student,
        other=other,
        clip_name=clip.name,
        attempts=tuple(attempts),
        summaries={name: summary_of([a for a, _, by in attempts if by == name], row.seconds) for name in who},
        answers=_answers(db, row, clip),
        game=None,
    )


_OUTCOMES: dict[str | None, Outcome] = {"completed": "completed", "blocked": "blocked", "countered": "countered"}


def _attempts(db: Session, row: Round, clip: Clip, names: dict[uuid.UUID, str]) -> list[tuple[Attempt, str, str]]:
    """The reps that were cut within the round, as attempts."""
    reps = (
        select(RepRow, TechniqueVersion)
        .join(Review, Review.id == RepRow.review_id)
        .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
        .where(
            Review.clip_id == clip.id,
            RepRow.blind_of.is_(None),
            RepRow.purpose != "demonstration",
            RepRow.first_frame.between(row.first_frame or 0, row.last_frame or 0),
        )
        .order_by(RepRow.first_frame)
    )
    found = []
    times, first = _real_s(clip), row.first_frame or 0
    for rep, version in db.execute(reps):
        side: Side = "left" if rep.side == "left" else "right"
        attempt = Attempt(
            at_s=times[rep.first_frame] - times[first],
            seconds=times[rep.last_frame] - times[rep.first_frame],
            side=side,
            outcome=_OUTCOMES.get(rep.outcome, "unknown"),
            technique=version.technique,
        )
        name = names.get(rep.student_id or clip.student_id or row.student_id, "")
        found.append((attempt, catalogue.definition(version).names.main, name))
    return found


def _answers(db: Session, row: Round, clip: Clip) -> tuple[ReactionTable, ...]:
    """Reaction → answer → outcome, of the reps of the round in finished reviews."""
    rows = (
        select(ReactedRow)
        .join(RepRow, RepRow.id == ReactedRow.rep_id)
        .join(Review, Review.id == RepRow.review_id)
        .where(Review.clip_id == clip.id, RepRow.first_frame.between(row.first_frame or 0, row.last_frame or 0))
    )
    return answer_tables(
        Answered(
            day=one.filmed_on.toordinal(),
            technique=one.technique,
            reaction=one.reaction,
            answer=one.answer,
            verdict=one.verdict,
            latency_ms=one.latency_ms,
            completed=None if one.outcome is None else one.outcome == "completed",
        )
        for one in db.scalars(rows)
    )


def now_in(row: Round, now: float) -> Where:
    """Where a live round is at a moment, seconds since the epoch: rounds and rests count as units."""
    return where(row.clock, lengths_s(row), now)


def day_of(db: Session, academy: uuid.UUID, clip: uuid.UUID | None) -> date:
    """The day of a round: that on which its clip was filmed, or today. Raises NotFound where there is no such clip."""
    if clip is None:
        return day_at(db.get_one(Academy, academy))
    on = db.scalar(select(Clip.filmed_on).where(Clip.id == clip, Clip.academy_id == academy))
    if on is None:
        raise NotFound("There is no such clip in your academy. Nothing was stored.")
    return on
