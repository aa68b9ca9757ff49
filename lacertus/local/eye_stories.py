"""How the invented academy's people trained their eyes over the last weeks: what they answered on films that are gone since."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy as np
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from lacertus.core.eye.facts import Facts
from lacertus.core.eye.phrases import as_written
from lacertus.core.eye.questions import NONE, Choice, Kind, Question, Truth
from lacertus.core.eye.scoring import Given, Scored, score
from lacertus.core.measuring.measures.angle import AngleMeasure
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.library import shipped_technique
from lacertus.local.history import EMAIL, SECOND_EMAIL
from lacertus.services.eye.learner import Learner
from lacertus.store.tables import Account, EyeAnswer

TECHNIQUES = ("front-kick", "back-fall", "advancing-foot-sweep")
WEEKS = 6
MOST_ASKED = 2
"""So many events and angles of each technique were asked, so that there is something to be said of each."""
FPS, TRUE_FRAME, LAST_FRAME = 60, 60, 120
LOW_DEG, HIGH_DEG = 60.0, 150.0


@dataclass(frozen=True, kw_only=True)
class Eye:
    """What somebody's eye is like: how late it marks and how that scatters (milliseconds), the same of angles (degrees), how
    often it sees what was missed, and how many answers it gives in a week."""

    late_ms: float
    scatter_ms: float
    over_deg: float
    scatter_deg: float
    sees: float
    answers: int


COACH = Eye(late_ms=14, scatter_ms=22, over_deg=-4, scatter_deg=7, sees=0.8, answers=14)
SECOND = Eye(late_ms=-6, scatter_ms=30, over_deg=3, scatter_deg=9, sees=0.7, answers=9)
STUDENTS: Mapping[str, Eye] = {
    "Ilse Marrane": Eye(late_ms=30, scatter_ms=38, over_deg=6, scatter_deg=12, sees=0.6, answers=8),
    "Tomas Verhaal": Eye(late_ms=22, scatter_ms=45, over_deg=2, scatter_deg=14, sees=0.5, answers=5),
    "Benno Achterdam": Eye(late_ms=-12, scatter_ms=50, over_deg=-8, scatter_deg=11, sees=0.55, answers=4),
    "Oda Lindqvar": Eye(late_ms=8, scatter_ms=40, over_deg=4, scatter_deg=13, sees=0.6, answers=4),
}
CLEARER = 0.06
"""By so much of its scatter an eye gets better in a week."""


def tell(db: Session, academy: uuid.UUID, students: Mapping[str, uuid.UUID]) -> None:
    """Six weeks of answers of both coaches and of four students."""
    accounts = dict(db.execute(select(Account.email, Account.id).where(Account.academy_id == academy)).tuples().all())
    for email, eye in ((EMAIL, COACH), (SECOND_EMAIL, SECOND)):
        _answer(db, Learner(academy=academy, account=accounts[email]), eye, len(email))
    db.execute(update(Account).where(Account.id == accounts[SECOND_EMAIL]).values(eye_named=True))
    for name, eye in STUDENTS.items():
        _answer(db, Learner(academy=academy, student=students[name]), eye, len(name))
    db.flush()


def _answer(db: Session, learner: Learner, eye: Eye, seed: int) -> None:
    chance, now = np.random.default_rng(seed), datetime.now(UTC)
    for week in range(WEEKS):
        scatter = 1 - CLEARER * week
        for number in range(eye.answers):
            technique = shipped_technique(TECHNIQUES[number % len(TECHNIQUES)])
            kind: Kind = ("frame", "missed", "angle")[(number + week) % 3]
            asked = _asked(technique, kind, chance)
            if asked is None:
                continue
            question, truth = asked
            given = _given(question, truth, eye, scatter, chance)
            at = now - timedelta(weeks=WEEKS - 1 - week, days=1, minutes=3 * number)
            level = 1 + (week + number) % 3
            db.add(_row(learner, question, truth, given, score(question, truth, FACTS, given), level, at))


FACTS = Facts(
    size=(854, 480), times_s=tuple(frame / FPS for frame in range(LAST_FRAME + 1)), first=0, last=LAST_FRAME, side="right",
    events={}, came=(), fault="",
)  # fmt: skip
"""The times of a film; nothing else of it is asked here."""


def _asked(technique: Technique, kind: Kind, chance: np.random.Generator) -> tuple[Question, Truth] | None:
    """A question as it is asked of a film, with what was so in it."""
    about = {"technique": technique.id, "first": 0, "last": LAST_FRAME}
    if kind == "frame":
        event = str(chance.choice(list(technique.events)[:MOST_ASKED]))
        return Question(kind="frame", subject=event, says=as_written(technique.events[event].mark), **about), Truth(
            frame=TRUE_FRAME, says=as_written("")
        )
    if kind == "angle":
        found = [one.id for one in technique.checkpoints if isinstance(one.measure, AngleMeasure)][:MOST_ASKED]
        if not found:
            return None
        true = float(chance.uniform(LOW_DEG, HIGH_DEG))
        return Question(kind="angle", subject=str(chance.choice(found)), says=as_written(""), frame=TRUE_FRAME, **about), Truth(
            value=true, says=as_written("")
        )
    among = [technique.checkpoints[i] for i in chance.permutation(min(6, len(technique.checkpoints)))[:4]]
    choices = tuple(_choices(among))
    return Question(kind="missed", says=as_written(""), choices=choices, **about), Truth(
        choice=str(chance.choice([c.id for c in choices])), says=as_written("")
    )


def _choices(among: list[Checkpoint]) -> Iterator[Choice]:
    for one in among:
        yield Choice(id=one.id, says=as_written(one.ask))
    yield Choice(id=NONE, says=as_written(NONE))


def _given(question: Question, truth: Truth, eye: Eye, scatter: float, chance: np.random.Generator) -> Given:
    """What somebody with such an eye says to it."""
    if truth.frame is not None and question.kind == "frame":
        off = chance.normal(eye.late_ms, eye.scatter_ms * scatter) * FPS / 1000
        return Given(frame=int(np.clip(round(truth.frame + off), 0, LAST_FRAME)))
    if truth.value is not None:
        said = float(np.clip(truth.value + chance.normal(eye.over_deg, eye.scatter_deg * scatter), 0, 180))
        # Knowing what is wanted pulls a second look half of the way.
        return Given(before=round(said), after=round((said + truth.value) / 2))
    if chance.random() < 1 - (1 - eye.sees) * scatter:
        return Given(choice=truth.choice)
    return Given(choice=str(chance.choice([choice.id for choice in question.choices if choice.id != truth.choice])))


def _row(learner: Learner, question: Question, truth: Truth, given: Given, scored: Scored, level: int, at: datetime) -> EyeAnswer:
    return EyeAnswer(
        id=uuid.uuid4(), **learner.columns, technique=question.technique, kind=question.kind, subject=question.subject, level=level,
        given=given, true_choice=truth.choice, among=[choice.id for choice in question.choices], answered_at=at,
        **scored.model_dump(exclude={"grade"}),
    )  # fmt: skip
