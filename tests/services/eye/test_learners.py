"""Students train their eyes too, and an academy's own techniques are asked about as the academy asks them."""

from __future__ import annotations

import uuid
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.eye.scoring import Given
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reading import read_technique
from lacertus.library import check_text, shipped_technique
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.eye import filming, pool, progress, training
from lacertus.services.eye.learner import Learner
from lacertus.services.eye.offered import of_academy, of_everybody
from lacertus.services.eye.pool import Take
from lacertus.services.people import people
from lacertus.services.techniques import catalogue
from lacertus.services.transfer import student_in, student_out
from lacertus.services.transfer.forget import forget
from lacertus.store.tables import Account, EyeAnswer, EyeCard, EyeTake
from tests import eyes
from tests.eyes import KICK
from tests.halls import Hall, hall
from tests.services.techniques.ours import OURS


@pytest.fixture
def films(db: Session) -> list[uuid.UUID]:
    return eyes.put_in(db)


@pytest.fixture
def student(where: Hall, films: list[uuid.UUID]) -> Learner:
    return Learner(academy=where.academy, student=where.student)


def late(db: Session, learner: Learner, frames: list[int]) -> None:
    """So many events, each marked so many frames late."""
    take = pool.ready(db, learner.academy, [of_everybody()[KICK]])[0]
    question, truth = next(one for one in take.asked if one[0].kind == "frame")
    for off in frames:
        given = Given(frame=min(max((truth.frame or 0) + off, question.first), question.last))
        training.answer(db, learner, uuid.uuid4(), [take.id], "frame", question.subject, given)


def test_a_learner_is_a_coach_or_a_student(db: Session, where: Hall, films: list[uuid.UUID]) -> None:
    for wrong in ({}, {"account": uuid.uuid4(), "student": uuid.uuid4()}):
        with pytest.raises(ValueError, match="an account or a student"):
            Learner(academy=where.academy, **wrong)
    account = db.scalars(sa.select(Account.id)).first()
    both = {"academy_id": where.academy, "account_id": account, "student_id": where.student}
    row = {"id": uuid.uuid4(), "technique": KICK, "kind": "frame", "subject": "", "level": 1, "given": Given(frame=1), "hit": True}
    with pytest.raises(IntegrityError, match="ck_eye_answer_learner"), db.begin_nested():
        db.execute(sa.insert(EyeAnswer).values(**row, among=[], **both))


def test_a_student_is_asked_answers_and_has_cards_of_their_own(db: Session, where: Hall, student: Learner) -> None:
    made = training.make_set(db, student, 3, [KICK])
    assert len(made.asked) >= 3
    one = made.asked[0]
    takes = [take.id for take in one.takes]
    (_, truth), _ = training.question_of(db, where.academy, takes, one.question.kind, one.question.subject)
    given = Given(frame=truth.frame if one.question.kind == "frame" else None, before=truth.value, choice=truth.choice)
    assert training.answer(db, student, uuid.uuid4(), takes, one.question.kind, one.question.subject, given).scored.hit
    assert db.scalars(sa.select(EyeAnswer.student_id)).all() == [where.student]
    assert db.scalars(sa.select(EyeCard.account_id)).all() == [None]
    assert not {take.id for each in training.make_set(db, student, 3, [KICK]).asked for take in each.takes} & set(takes)
    coach = Learner(academy=where.academy, account=db.scalars(sa.select(Account.id)).first())
    assert progress.progress_of(db, coach).answers == 0
    assert progress.progress_of(db, coach).kinds == (), "what students answer is not among the other coaches’ answers"


def test_other_students_are_shown_only_where_they_are_three(db: Session, where: Hall, student: Learner) -> None:
    late(db, student, [2, 3, 4])
    for number in range(3):
        assert progress.progress_of(db, student).events.others.n == 0, f"{number} others could be named"
        other = people.create_student(db, where.academy, f"Other {number}").id
        late(db, Learner(academy=where.academy, student=other), [number - 1, number])
    found = progress.progress_of(db, student)
    assert (found.events.own.n, found.events.others.n) == (3, 6)
    assert found.events.own.bias == pytest.approx(50, abs=0.5)


def test_what_is_older_than_a_year_says_nothing_of_an_eye_any_more(db: Session, where: Hall, student: Learner) -> None:
    late(db, student, [2, 3, 4])
    long_ago = datetime.now(UTC) - timedelta(days=400)
    db.execute(sa.update(EyeAnswer).where(EyeAnswer.frames == 4).values(answered_at=long_ago))
    found = progress.progress_of(db, student)
    assert (found.answers, found.events.own.n) == (2, 2)


def test_a_slip_is_a_miss_and_no_sign_of_bias(db: Session, where: Hall, student: Learner) -> None:
    late(db, student, [2, 3, 4, -60])
    found = progress.progress_of(db, student)
    assert (found.events.own.n, found.own_events.answers) == (3, 3)
    assert found.events.own.bias == pytest.approx(50, abs=0.5)
    assert {kind: (own.n, own.of) for kind, own, _ in found.kinds}["frame"] == (2, 4)


def test_nobody_fills_the_database_with_answers(
    db: Session, where: Hall, student: Learner, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(training, "MOST_ANSWERS", 3)
    late(db, student, [2, 3, 4])
    with pytest.raises(Conflict, match="This one was not stored"):
        late(db, student, [1])
    assert progress.progress_of(db, student).answers == 3


def test_what_a_student_answered_goes_out_comes_back_and_is_forgotten(
    db: Session, where: Hall, student: Learner, tmp_path: Path
) -> None:
    late(db, student, [2, 3, 4])
    student_out.write(db, where.academy, where.student, tmp_path / "student.zip")
    db.commit()
    with zipfile.ZipFile(tmp_path / "student.zip") as archive:
        assert b'"eye":[{' in archive.read("lacertus_student.json")
    there = hall(db, "Other hall", "other@example.test")
    moved, _ = student_in.read(db, there.academy, tmp_path / "student.zip")
    db.commit()
    found = progress.progress_of(db, Learner(academy=there.academy, student=moved.id))
    assert found.events.own == progress.progress_of(db, student).events.own
    assert found.events.own.n == 3
    forget(db, where.academy, where.student)
    assert db.scalars(sa.select(EyeAnswer.student_id)).all() == [moved.id] * 3
    assert db.scalar(sa.select(sa.func.count()).select_from(EyeCard)) == 0


class TestOwnTechniques:
    def stored(self, db: Session, where: Hall, technique: Technique) -> uuid.UUID:
        found = catalogue.store_version(db, technique, where.academy).id
        db.commit()
        return found

    def filmed(self, db: Session) -> list[EyeTake]:
        assert filming.film_next(db, 100)
        return list(db.scalars(sa.select(EyeTake).where(EyeTake.academy_id.is_not(None), EyeTake.state == "ready")))

    def takes(self, db: Session, where: Hall, technique: str) -> list[Take]:
        return pool.ready(db, where.academy, [of_academy(db, where.academy)[technique]])

    def test_one_that_moves_like_a_shipped_one_is_filmed_when_it_is_asked_for(
        self, db: Session, where: Hall, films: list[uuid.UUID]
    ) -> None:
        own = check_text(OURS.replace("SECONDS", "0.8").replace("WITHIN", "120"))
        self.stored(db, where, own)
        coach = Learner(academy=where.academy, account=db.scalars(sa.select(Account.id)).first())
        made = training.make_set(db, coach, 3, [own.id])
        assert not made.asked and made.waiting > 0
        (row,) = self.filmed(db)
        assert (row.technique, row.academy_id) == (own.id, where.academy)
        (take,) = self.takes(db, where, own.id)
        assert {question.subject for question, _ in take.asked if question.kind == "frame"} >= {"reached"}
        assert training.make_set(db, coach, 3, [own.id]).asked
        stranger = hall(db, "Other hall", "other@example.test")
        assert own.id not in of_academy(db, stranger.academy)
        assert pool.take_of(db, stranger.academy, row.id) is None
        with pytest.raises(BadInput, match="shows no technique"):
            training.make_set(db, Learner(academy=stranger.academy, account=uuid.uuid4()), 3, [own.id])

    def test_an_own_version_of_a_shipped_one_is_asked_by_its_own_ranges(
        self, db: Session, where: Hall, films: list[uuid.UUID]
    ) -> None:
        kick = shipped_technique(KICK)
        data: dict[str, Any] = kick.model_dump(mode="json", by_alias=True, exclude_unset=True)
        (chamber,) = (one for one in data["checkpoints"] if one["id"] == "tight_chamber")
        chamber["within"] = [None, 20]
        strict = read_technique(data)
        self.stored(db, where, strict)
        assert self.takes(db, where, KICK) == [], "films of the shipped one tell nothing of its ranges"
        coach = Learner(academy=where.academy, account=db.scalars(sa.select(Account.id)).first())
        training.make_set(db, coach, 3, [KICK])
        self.filmed(db)
        (take,) = self.takes(db, where, KICK)
        come = take.facts.of("tight_chamber")
        assert come is not None and come.verdict == "missed" and come.high == 20
        newer = strict.model_copy(update={"names": strict.names.model_copy(update={"main": "Our kick"})})
        self.stored(db, where, newer)
        assert self.takes(db, where, KICK) == [], "a newer version is filmed anew"
        with pytest.raises(NotFound, match="no longer asked"):
            training.answer(db, coach, uuid.uuid4(), [uuid.uuid4()], "frame", "x", Given(frame=1))
