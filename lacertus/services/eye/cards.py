"""When a question is asked again: spaced repetition by the `fsrs` package, with a clock that is given."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fsrs import Card, Rating, Scheduler

from lacertus.core.eye.scoring import Grade

# Without fuzzing, so that the same answers give the same days.
_SCHEDULER = Scheduler(enable_fuzzing=False)


def answered(state: dict[str, Any] | None, grade: Grade, now: datetime) -> tuple[dict[str, Any], datetime]:
    """The state of a card after an answer, and when it is due.

    Args:
        state: as it was before; None of a question that was never answered.
        grade: how well it went.
        now: when it was answered, with its time zone.
    """
    card = Card(due=now) if state is None else Card.from_dict(state)  # type: ignore[arg-type]
    card, _ = _SCHEDULER.review_card(card, Rating(int(grade)), review_datetime=now)
    return dict(card.to_dict()), card.due
