"""Film of finished reviews that trains the eye: whose, what is true of it, and that nothing of it outlives what it shows."""

from __future__ import annotations

import uuid
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.core.eye.scoring import Given
from lacertus.services.clips import intake
from lacertus.services.errors import NotFound
from lacertus.services.eye import overview, pool, real, training
from lacertus.services.eye.learner import Learner
from lacertus.services.eye.offered import of_academy
from lacertus.services.eye.pool import Take
from lacertus.services.people import consents, people
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepChanges
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer.forget import forget
from lacertus.store import database
from lacertus.store.media import media, review_key
from lacertus.store.tables import Account, Clip, EyeAnswer, EyeTake, RepRow
from lacertus.studio.picture.stamp import read_stamp
from lacertus.video.errors import BadVideo
from lacertus.video.excerpt import first_of, write_excerpt
from tests.halls import Hall, cut, hall, judged, read_in

KICK = "front-kick"
FIRMEST = "quick_return"
"""Of what this kick missed, the one that is farthest from its range in its own uncertainty."""


def agree(db: Session, where: Hall, on: date = date(2026, 5, 1)) -> None:
    consents.give(db, where.academy, where.student, "training", "A Student", "student", on)


@pytest.fixture
def kick(db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> uuid.UUID:
    """A kick whose thigh was too low, measured, reviewed and finished."""
    review = reviewing.open_review(db, where.academy, read_in(db, where, clips["constant"], tmp_path)).id
    rep = cut(db, where, review, truths["constant"]["reps"][0])
    for one in judged(db, where, review)[0].judgements:
        if one.kind == "seen":
            reviewing.answer(db, where.academy, rep, one.id, True)
    finishing.finish(db, where.academy, review)
    db.commit()
    return rep


def takes(db: Session, where: Hall) -> list[Take]:
    found = pool.ready(db, where.academy, [of_academy(db, where.academy)[KICK]])
    return [take for take in found if take.rep is not None]


def learner(db: Session, where: Hall) -> Learner:
    return Learner(
        academy=where.academy, account=db.scalars(sa.select(Account.id).where(Account.academy_id == where.academy)).first()
    )


def review_of(db: Session, rep: uuid.UUID) -> uuid.UUID:
    return db.get_one(RepRow, rep).review_id


def frames_of(path: Path) -> list[tuple[int | None, float | None]]:
    """The number that is stamped on each frame, and when it is shown."""
    with av.open(str(path)) as container:
        assert not container.streams.audio
        pictures = ((frame.to_ndarray(format="rgb24"), frame.time) for frame in container.decode(video=0))
        return [(read_stamp(np.asarray(picture, dtype=np.uint8)), time) for picture, time in pictures]


def test_nobody_is_shown_who_has_not_agreed(db: Session, where: Hall, kick: uuid.UUID) -> None:
    assert not real.take_in(db), "no consent was ever recorded"
    agree(db, where, date.today() + timedelta(days=3))
    assert not real.take_in(db), "it begins later"
    agree(db, where)
    assert real.take_in(db) and not real.take_in(db), "once"
    (take,) = takes(db, where)
    assert take.rep == kick
    stranger = hall(db, "Other hall", "other@example.test")
    assert takes(db, stranger) == []
    with pytest.raises(NotFound, match="no such film"):
        overview.film_of(db, stranger.academy, take.id)
    consents.withdraw(db, where.academy, where.student, "training", "A Student")
    assert takes(db, where) == [] and pool.take_of(db, where.academy, take.id) is None
    with pytest.raises(NotFound, match="no such film"):
        overview.film_of(db, where.academy, take.id)


def test_a_partner_is_shown_only_once_they_are_named_and_agreed_too(db: Session, where: Hall, kick: uuid.UUID) -> None:
    agree(db, where)
    partner = people.create_student(db, where.academy, "Bela Novak").id
    review = review_of(db, kick)

    def said(**changes: Any) -> None:
        finishing.reopen(db, where.academy, review, "who the partner is")
        reviewing.change_rep(db, where.academy, kick, RepChanges.model_validate(changes))
        finishing.finish(db, where.academy, review)
        db.commit()

    said(partner="person")
    assert not real.take_in(db), "nobody knows who that is"
    said(partner_student_id=str(partner))
    assert not real.take_in(db), "who has not agreed"
    consents.give(db, where.academy, partner, "training", "Bela Novak", "student", date(2026, 5, 1))
    assert real.take_in(db)
    (take,) = takes(db, where)
    assert take.rep == kick
    consents.withdraw(db, where.academy, partner, "training", "Bela Novak")
    assert takes(db, where) == []
    said(partner="bag")
    assert db.get_one(RepRow, kick).partner_student_id is None, "a bag has no name"
    assert real.take_in(db)


def test_its_film_holds_the_rep_frame_by_frame_and_nothing_after_it(
    db: Session, where: Hall, kick: uuid.UUID, tmp_path: Path
) -> None:
    agree(db, where)
    assert real.take_in(db)
    (take,) = takes(db, where)
    rep, facts = db.get_one(RepRow, kick), take.facts
    film = overview.film_of(db, where.academy, take.id)
    assert isinstance(film, bytes)
    start = rep.first_frame - facts.first
    assert 0 <= facts.first < 12
    (tmp_path / "cut.mp4").write_bytes(film)
    assert [stamp for stamp, _ in frames_of(tmp_path / "cut.mp4")] == list(range(start, rep.last_frame + 1))
    assert len(facts.times_s) == rep.last_frame - start + 1 and facts.times_s[0] == 0
    thigh = facts.of("thigh_lifted")
    assert thigh is not None and thigh.frame is not None and facts.first <= thigh.frame <= facts.last


def test_only_what_was_measured_firmly_is_asked_and_an_answer_is_held_against_it(db: Session, where: Hall, kick: uuid.UUID) -> None:
    agree(db, where)
    real.take_in(db)
    (take,) = takes(db, where)
    kinds = {question.kind for question, _ in take.asked}
    assert "frame" not in kinds, "an event was marked by a coach: that is no truth"
    question, truth = next(one for one in take.asked if one[0].kind == "missed")
    told = {one.id: one for one in judged(db, where, review_of(db, kick))[0].judgements}
    assert truth.choice == FIRMEST
    for choice in question.choices:
        assert choice.id == "none" or told[choice.id].kind != "seen"
        assert (choice.id == "none") or (told[choice.id].verdict == "missed") == (choice.id == FIRMEST)
    who = learner(db, where)
    assert training.answer(db, who, uuid.uuid4(), [take.id], "missed", "", Given(choice=truth.choice)).scored.hit
    asked = training.make_set(db, who, 5, [KICK]).asked
    assert take.id not in {one.id for each in asked for one in each.takes}, "it was answered"


def test_what_the_coach_sees_otherwise_is_in_doubt(db: Session, where: Hall, kick: uuid.UUID) -> None:
    agree(db, where)
    review = review_of(db, kick)
    finishing.reopen(db, where.academy, review, "the camera was tilted")
    reviewing.overrule(db, where.academy, kick, FIRMEST, "met", "the camera was tilted")
    finishing.finish(db, where.academy, review)
    db.commit()
    real.take_in(db)
    (take,) = takes(db, where)
    question, truth = next(one for one in take.asked if one[0].kind == "missed")
    assert truth.choice == "thigh_lifted", "the next of what was missed"
    assert FIRMEST not in {choice.id for choice in question.choices}


def test_a_review_that_is_opened_again_is_asked_about_when_it_is_finished_anew(db: Session, where: Hall, kick: uuid.UUID) -> None:
    agree(db, where)
    real.take_in(db)
    (before,) = takes(db, where)
    training.answer(db, learner(db, where), uuid.uuid4(), [before.id], "missed", "", Given(choice="none"))
    finishing.reopen(db, where.academy, review_of(db, kick), "once more")
    db.commit()
    assert takes(db, where) == []
    assert not real.take_in(db)
    finishing.finish(db, where.academy, review_of(db, kick))
    db.commit()
    assert real.take_in(db)
    (after,) = takes(db, where)
    assert after.id != before.id
    assert db.scalars(sa.select(EyeAnswer.take_id)).all() == [None], "the answer stays"


def test_it_goes_with_its_film_and_with_its_student(db: Session, where: Hall, kick: uuid.UUID) -> None:
    agree(db, where)
    real.take_in(db)
    (take,) = takes(db, where)
    clip = intake.clip(db, where.academy, db.scalars(sa.select(Clip.id)).one())
    clip.has_film = False
    db.flush()
    assert takes(db, where) == []
    clip.has_film = True
    db.flush()
    assert [one.id for one in takes(db, where)] == [take.id]
    forget(db, where.academy, where.student)
    assert db.get(EyeTake, take.id) is None


def test_all_who_are_in_the_clip_have_to_agree(db: Session, where: Hall, kick: uuid.UUID) -> None:
    agree(db, where)
    guest = people.create_student(db, where.academy, "A Guest").id
    db.execute(sa.select(RepRow.id).where(RepRow.id == kick))
    finishing.reopen(db, where.academy, review_of(db, kick), "it was the guest")
    db.get_one(RepRow, kick).student_id = guest
    finishing.finish(db, where.academy, review_of(db, kick))
    db.commit()
    assert not real.take_in(db)
    agree(db, Hall(academy=where.academy, student=guest))
    assert real.take_in(db)


class TestExcerpt:
    @pytest.fixture
    def copy(self, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path) -> Any:
        clip = read_in(db, where, clips["constant"], tmp_path)
        with media().as_local(review_key(clip)) as path:
            yield path

    def test_it_begins_with_the_keyframe_before_and_plays_at_the_times_that_are_said(self, copy: Path, tmp_path: Path) -> None:
        for first in (0, 5, 12, 31):
            start = first_of(copy, first)
            assert first - 12 < start <= first
            times = [0.02 * number**1.1 for number in range(20)]
            write_excerpt(copy, tmp_path / "part.mp4", start, times)
            shown = frames_of(tmp_path / "part.mp4")
            assert [stamp for stamp, _ in shown] == list(range(start, start + 20))
            assert [time for _, time in shown] == pytest.approx(times, abs=1e-4)

    def test_what_is_not_there_is_told(self, copy: Path, tmp_path: Path) -> None:
        with pytest.raises(BadVideo, match="ends before frame 9000"):
            first_of(copy, 9000)
        with pytest.raises(BadVideo, match="has no keyframe at 5"):
            write_excerpt(copy, tmp_path / "part.mp4", 5, [0.0])
        with pytest.raises(BadVideo, match="ends before the excerpt does"):
            write_excerpt(copy, tmp_path / "part.mp4", 0, [0.02 * number for number in range(9000)])


def test_the_lock_lets_one_worker_take_reps_in(db: Session, where: Hall, kick: uuid.UUID) -> None:
    agree(db, where)
    db.commit()
    with database.session() as other:
        other.execute(sa.select(sa.func.pg_advisory_xact_lock(real.ONE_AT_A_TIME)))
        assert not real.take_in(db)
    assert real.take_in(db)
