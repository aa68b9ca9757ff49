"""Rounds and games on a student's own page: the student's numbers alone, nothing of whoever the round was with."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from lacertus.core.plan.rounds import Counted, Game, Summary
from lacertus.services.classes import rounds
from lacertus.services.people import people

MOST_SHOWN = 3


@dataclass(frozen=True, kw_only=True)
class OwnRound:
    """A round as the student sees it: what was tried and how it ended by side, how many early and late; or rounds won."""

    objective: str
    on: date
    tried: Counted | None
    left: int
    right: int
    early: int | None
    """Attempts in the first third."""
    late: int | None
    """Attempts in the last third."""
    won: int | None
    of: int | None
    """Rounds of the game."""


def of_student(db: Session, academy: uuid.UUID, student: uuid.UUID) -> list[OwnRound]:
    """The latest rounds of a student in which the student tried something, and games that were tallied."""
    name = people.student(db, academy, student).name
    found = []
    for one in rounds.rounds(db, academy, student):
        own = one.summaries.get(name)
        if own is not None and own.over_all.attempts:
            found.append(_tried(one.row.objective, one.row.held_on, own))
        elif one.game is not None and one.row.taps:
            found.append(_played(one.row.objective, one.row.held_on, one.game, str(student)))
    return found[:MOST_SHOWN]


def _tried(objective: str, on: date, own: Summary) -> OwnRound:
    sides = {side: counted.attempts for side, counted in own.by_side.items()}
    return OwnRound(
        objective=objective,
        on=on,
        tried=own.over_all,
        left=sides.get("left", 0),
        right=sides.get("right", 0),
        early=own.first.attempts,
        late=own.last.attempts,
        won=None,
        of=None,
    )


def _played(objective: str, on: date, game: Game, student: str) -> OwnRound:
    sides = game.by_side.get(student, {})
    return OwnRound(
        objective=objective,
        on=on,
        tried=None,
        left=sides.get("left", 0),
        right=sides.get("right", 0),
        early=None,
        late=None,
        won=game.wins.get(student, 0),
        of=len(game.rounds),
    )
