"""With what a rep can be compared: the student's own reps, models, reps of others, the studio's move, the other view."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from typing import Literal

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from lacertus.services.compare import models
from lacertus.services.people import consents
from lacertus.services.progress.ledger import COUNTS
from lacertus.services.review import loading, tied
from lacertus.services.techniques import catalogue, figure
from lacertus.store.tables import Clip, JudgementRow, RepRow, Review, Student

Why = Literal["this clip", "last", "best", "earlier", "other side", "model", "other student", "studio", "second view"]
MOST_EARLIER, MOST_OTHERS = 8, 8


@dataclass(frozen=True, kw_only=True)
class Choice:
    """Something to compare with: its key, why it is offered, and what tells it from others."""

    key: str
    why: Why
    student: str
    filmed_on: date | None
    side: str
    has_film: bool
    words: str = ""
    missed: int | None = None
    """How many checkpoints were missed in it, where it was finished."""


@dataclass(frozen=True, kw_only=True)
class _Row:
    rep: RepRow
    clip: Clip
    student: Student
    missed: int
    asked: int


def of_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> list[Choice]:
    """What a rep can be compared with, the most telling first. Reps of others only where they agreed to be shown.

    Raises:
        NotFound: no such rep.
    """
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    rep = next(one for one in review.reps if one.id == rep_id)
    technique = rep.technique_version.technique
    performer = rep.student_id or review.student_id
    rows = [row for row in _finished(db, academy, technique) if row.rep.id != rep_id]
    own = [row for row in rows if row.student.id == performer]
    found: list[Choice] = [*_views(review), *_same_clip(review, rep, performer)]
    found += _own(own, rep, review)
    found += _models(db, academy, technique, rep_id)
    if figure.can_show(catalogue.definition(rep.technique_version), rep.options or {}):
        found.append(Choice(key=f"studio.{rep.side}", why="studio", student="", filmed_on=None, side=rep.side, has_film=False))
    others = [row for row in rows if row.student.id != performer and may_be_shown(db, row.student)]
    best = sorted(others, key=lambda row: (row.rep.side != rep.side, row.missed / max(row.asked, 1)))
    found += [_choice(row, "other student") for row in best[:MOST_OTHERS]]
    unique: dict[str, Choice] = {}
    for one in found:
        unique.setdefault(one.key, one)
    return list(unique.values())


def of_technique(db: Session, academy: uuid.UUID, technique: str) -> list[Choice]:
    """The reps of a technique that a comparison can begin with: the academy's models, then the newest of each student.

    Raises:
        NotFound: no such technique.
    """
    catalogue.newest(db, academy, technique)
    found: dict[str, Choice] = {one.key: one for one in _models(db, academy, technique, None)}
    newest = sorted(_finished(db, academy, technique), key=lambda row: (row.clip.filmed_on, row.rep.first_frame), reverse=True)
    seen: set[uuid.UUID] = set()
    for row in newest:
        if row.clip.has_film and row.student.id not in seen and len(seen) < MOST_OTHERS:
            seen.add(row.student.id)
            one = _choice(row, "last")
            found.setdefault(one.key, one)
    return list(found.values())


def may_be_shown(db: Session, student: Student) -> bool:
    """Whether a student's pictures may stand beside those of others."""
    return student.lends_pictures and consents.allows(db, student, "sharing")


def _views(review: Review) -> Iterator[Choice]:
    for other in tied.others(review):
        clip = other.review.clip
        yield Choice(
            key=f"view.{clip.id}", why="second view", student="", filmed_on=clip.filmed_on, side="", has_film=clip.has_film,
            words=clip.name,
        )  # fmt: skip


def _same_clip(review: Review, rep: RepRow, performer: uuid.UUID) -> Iterator[Choice]:
    """Other reps of the same technique in the same clip, finished or not."""
    student = review.clip.student
    for number, other in enumerate((one for one in review.reps if one.blind_of is None), 1):
        same = other.technique_version.technique == rep.technique_version.technique
        if same and other.id != rep.id and (other.student_id or review.student_id) == performer:
            yield Choice(
                key=f"rep.{other.id}", why="this clip", student=student.name if student else "", filmed_on=review.clip.filmed_on,
                side=other.side, has_film=review.clip.has_film, words=f"rep {number} of this clip",
            )  # fmt: skip


def _own(own: list[_Row], rep: RepRow, review: Review) -> Iterator[Choice]:
    """The student's own reps: the last, the best, earlier ones, and the other side's best."""
    elsewhere = [row for row in own if row.clip.id != review.clip_id]
    same = [row for row in elsewhere if row.rep.side == rep.side]
    before = [row for row in same if row.clip.filmed_on <= review.clip.filmed_on]
    if same:
        yield _choice(max(same, key=lambda row: (row.clip.filmed_on, row.rep.first_frame)), "last")
        yield _choice(min(same, key=lambda row: (row.missed / max(row.asked, 1), -row.clip.filmed_on.toordinal())), "best")
    other = [row for row in own if row.rep.side != rep.side]
    if other:
        yield _choice(min(other, key=lambda row: (row.missed / max(row.asked, 1), -row.clip.filmed_on.toordinal())), "other side")
    for row in sorted(before, key=lambda row: row.clip.filmed_on)[:MOST_EARLIER]:
        yield _choice(row, "earlier")


def _models(db: Session, academy: uuid.UUID, technique: str, but: uuid.UUID | None) -> Iterator[Choice]:
    definition = catalogue.definition(catalogue.newest(db, academy, technique))
    for row, rep, review in models.of_technique(db, academy, technique):
        student = db.get_one(Student, rep.student_id or review.student_id)
        if rep.id == but or not may_be_shown(db, student):
            continue
        asked = definition.asked(row.checkpoint) if row.checkpoint else None
        clip = db.get_one(Clip, review.clip_id)
        yield Choice(
            key=f"rep.{rep.id}", why="model", student=student.name, filmed_on=clip.filmed_on, side=rep.side,
            has_film=clip.has_film, words=f"for “{asked.ask}”" if asked else "for the technique",
        )  # fmt: skip


def _choice(row: _Row, why: Why) -> Choice:
    return Choice(
        key=f"rep.{row.rep.id}", why=why, student=row.student.name, filmed_on=row.clip.filmed_on, side=row.rep.side,
        has_film=row.clip.has_film, missed=row.missed,
    )  # fmt: skip


def _finished(db: Session, academy: uuid.UUID, technique: str) -> list[_Row]:
    """The reps of a technique in finished reviews whose film is kept, with how many checkpoints were missed of how many."""
    missed = func.count().filter(
        or_(JudgementRow.verdict == "missed", (JudgementRow.verdict == "borderline") & JudgementRow.safety)
    )
    asked = func.count().filter(JudgementRow.verdict.in_(("met", "missed", "borderline")))
    counts = (
        select(JudgementRow.rep_id, JudgementRow.student_id, missed.label("missed"), asked.label("asked"))
        .join(Review, Review.id == JudgementRow.review_id)
        .where(Review.academy_id == academy, JudgementRow.technique == technique, COUNTS, Review.finished_at.is_not(None))
        .group_by(JudgementRow.rep_id, JudgementRow.student_id)
        .subquery()
    )
    rows = (
        select(RepRow, Clip, Student, counts.c.missed, counts.c.asked)
        .join(counts, counts.c.rep_id == RepRow.id)
        .join(Review, Review.id == RepRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .join(Student, Student.id == counts.c.student_id)
        .where(RepRow.blind_of.is_(None))
        .order_by(Clip.filmed_on, RepRow.first_frame)
    )
    return [_Row(rep=rep, clip=clip, student=student, missed=m, asked=n) for rep, clip, student, m, n in db.execute(rows)]
