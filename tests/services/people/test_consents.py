"""What was agreed to for a student, and what is refused without it."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.clips import naming, uploads
from lacertus.services.clips.intake import Sent
from lacertus.services.errors import NotFound
from lacertus.services.people import consents, people
from lacertus.services.people.consents import NoConsent, Purpose
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepChanges
from lacertus.store.tables import Academy, Student
from tests.halls import Hall, taken_in

TODAY = datetime.now(UTC).date()


@pytest.fixture
def strict(db: Session, where: Hall) -> Hall:
    db.get_one(Academy, where.academy).needs_consent = True
    db.commit()
    return where


def student(db: Session, where: Hall) -> Student:
    return people.student(db, where.academy, where.student)


def given(db: Session, where: Hall, purpose: Purpose = "filming", on: date = TODAY, until: date | None = None) -> None:
    consents.give(db, where.academy, where.student, purpose, "A Student", "student", on, until)


def test_where_none_is_asked_for_all_is_allowed_until_it_is_withdrawn(db: Session, where: Hall) -> None:
    assert all(one.allows for one in consents.standings(db, student(db, where)))
    given(db, where)
    consents.withdraw(db, where.academy, where.student, "filming", "A Student")
    assert {one.purpose: one.allows for one in consents.standings(db, student(db, where))} == {
        "filming": False, "sharing": True, "training": True,
    }  # fmt: skip


@pytest.mark.parametrize(
    ("on", "until", "state"),
    [
        (TODAY, None, "given"),
        (TODAY, TODAY, "given"),
        (TODAY - timedelta(days=9), TODAY - timedelta(days=1), "ended"),
        (TODAY + timedelta(days=1), None, "not yet"),
    ],
)
def test_a_consent_holds_from_its_day_until_its_end(db: Session, strict: Hall, on: date, until: date | None, state: str) -> None:
    with pytest.raises(NoConsent, match="nobody has agreed"):
        consents.check(db, student(db, strict), "filming")
    given(db, strict, on=on, until=until)
    (found,) = [one for one in consents.standings(db, student(db, strict)) if one.purpose == "filming"]
    assert (found.state, found.allows) == (state, state == "given")


def test_the_newest_counts_and_the_older_ones_stay_on_record(db: Session, strict: Hall) -> None:
    given(db, strict)
    consents.withdraw(db, strict.academy, strict.student, "filming", "A Student")
    given(db, strict)
    consents.check(db, student(db, strict), "filming")
    history = consents.history(db, strict.academy, strict.student)
    assert [row.withdrawn_on for row in history] == [None, TODAY]
    with pytest.raises(NotFound, match="no consent to withdraw"):
        consents.withdraw(db, strict.academy, strict.student, "sharing", "A Student")


def test_a_guardian_agrees_for_a_child(db: Session, strict: Hall) -> None:
    student(db, strict).born_on = TODAY - timedelta(days=9 * 365)
    with pytest.raises(BadInput, match="a guardian agrees"):
        given(db, strict)
    consents.give(db, strict.academy, strict.student, "filming", "A Parent", "guardian", TODAY)
    consents.check(db, student(db, strict), "filming")
    with pytest.raises(NoConsent, match="a guardian’s consent"):
        consents.check(db, student(db, strict), "sharing")


@pytest.mark.parametrize(("born", "on", "child"), [
    (date(2008, 3, 10), date(2026, 3, 9), True),
    (date(2008, 3, 10), date(2026, 3, 10), False),
    (date(2008, 2, 29), date(2026, 2, 28), True),
    (date(2008, 2, 29), date(2026, 3, 1), False),
    (None, date(2026, 3, 1), False),
])  # fmt: skip
def test_of_age_on_the_eighteenth_birthday(born: date | None, on: date, child: bool) -> None:
    assert consents.is_child(Student(born_on=born), on) is child


class TestDoors:
    def test_a_clip_is_not_named_for_who_is_not_to_be_filmed(
        self, db: Session, strict: Hall, clips: dict[str, Path], tmp_path: Path
    ) -> None:
        clip = taken_in(db, strict, clips["constant"], tmp_path, queued=False)
        other = people.create_student(db, strict.academy, "Somebody Else")
        with pytest.raises(NoConsent, match="Somebody Else has not agreed to being filmed"):
            naming.name_clips(db, strict.academy, [clip], "Somebody Else")
        consents.give(db, strict.academy, other.id, "filming", "Somebody Else", "student", TODAY)
        (named,) = naming.name_clips(db, strict.academy, [clip], "Somebody Else")
        assert named.student_id == other.id

    def test_no_clip_is_taken_in_for_them(self, db: Session, strict: Hall) -> None:
        sent = Sent(name="kick.mp4", filmed_on=TODAY, student=strict.student)
        with pytest.raises(NoConsent, match="A Student has not agreed"):
            uploads.begin(db, strict.academy, 100, sent)
        given(db, strict)
        assert uploads.begin(db, strict.academy, 100, sent).length == 100

    def test_a_rep_is_not_said_to_be_theirs(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        other = people.create_student(db, where.academy, "Somebody Else")
        consents.give(db, where.academy, other.id, "filming", "Somebody Else", "student", TODAY)
        consents.withdraw(db, where.academy, other.id, "filming", "Somebody Else")
        with pytest.raises(NoConsent, match="was withdrawn"):
            reviewing.change_rep(db, where.academy, rep, RepChanges(student_id=other.id))
