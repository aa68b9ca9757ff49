"""What is asked differently of one student: in force from then on, kept in finished reviews as it was."""

from __future__ import annotations

import uuid
from typing import Any

import pytest
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.errors import NotFound
from lacertus.services.people import accounts, people
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.view import view_of
from lacertus.services.sheets import finish as finishing
from lacertus.services.techniques import adaptations
from tests.halls import Hall, cut

OFF = {"checkpoint": "quick_return", "action": "off", "reason": "Old knee injury"}


@pytest.fixture
def review(db: Session, where: Hall, clip: uuid.UUID, truths: dict[str, Any]) -> uuid.UUID:
    found = reviewing.open_review(db, where.academy, clip).id
    cut(db, where, found, truths["constant"]["reps"][0])
    return found


def verdict(db: Session, where: Hall, review: uuid.UUID) -> tuple[str, str | None]:
    found = view_of(loading.load(db, where.academy, review)).reps[0].judgements
    return next((j.verdict.value, j.reason) for j in found if j.id == "quick_return")


def test_from_then_on_it_is_asked_differently_and_asked_again_when_it_ends(db: Session, where: Hall, review: uuid.UUID) -> None:
    assert verdict(db, where, review)[0] == "missed"
    row = adaptations.adapt(db, where.academy, where.student, "front-kick", OFF)
    assert verdict(db, where, review) == ("not_asked", "switched off: Old knee injury")
    relaxed = {"checkpoint": "quick_return", "action": "relaxed", "within": (None, 3000), "reason": "Slow on purpose"}
    adaptations.adapt(db, where.academy, where.student, "front-kick", relaxed)
    assert row.ended_at is not None and verdict(db, where, review)[0] == "met"
    adaptations.end(db, where.academy, where.student, adaptations.adaptations(db, where.academy, where.student)[0].id)
    assert verdict(db, where, review)[0] == "missed"


def test_a_finished_review_keeps_what_was_asked(db: Session, where: Hall, review: uuid.UUID) -> None:
    finishing.finish(db, where.academy, review)
    db.commit()
    adaptations.adapt(db, where.academy, where.student, "front-kick", OFF)
    db.commit()
    assert verdict(db, where, review)[0] == "missed"


def test_another_student_is_asked_as_before(db: Session, where: Hall, review: uuid.UUID) -> None:
    other = people.create_student(db, where.academy, "Another").id
    adaptations.adapt(db, where.academy, other, "front-kick", OFF)
    assert verdict(db, where, review)[0] == "missed"


@pytest.mark.parametrize("change", [{"checkpoint": "nothing"}, {"action": "relaxed"}, {"reason": ""}])
def test_what_does_not_fit_is_refused_and_nothing_kept(db: Session, where: Hall, change: dict[str, Any]) -> None:
    with pytest.raises(BadInput, match=r"is empty|only relaxed does|has no checkpoint"):
        adaptations.adapt(db, where.academy, where.student, "front-kick", OFF | change)
    assert adaptations.adaptations(db, where.academy, where.student) == []


def test_another_academy_sees_and_changes_nothing(db: Session, where: Hall) -> None:
    row = adaptations.adapt(db, where.academy, where.student, "front-kick", OFF)
    stranger = accounts.create_academy(db, "Elsewhere").id
    with pytest.raises(NotFound, match="There is no such student in your"):
        adaptations.adaptations(db, stranger, where.student)
    with pytest.raises(NotFound, match="There is no such student in your"):
        adaptations.end(db, stranger, where.student, row.id)
