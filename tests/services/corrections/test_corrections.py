"""Corrections: drawn, made ready, snapped, copied, spoken over, with the same done right beside them."""

from __future__ import annotations

import uuid
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from lacertus.core.corrections.default_corrections import nearest_wanted
from lacertus.core.corrections.marks import Mark, Spot
from lacertus.core.corrections.shapes import Stroke
from lacertus.core.errors import BadInput
from lacertus.jobs import tasks
from lacertus.services.corrections import correct, examples, phrases
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import accounts, people
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish as finishing
from lacertus.store import queue
from lacertus.store.media import example_key, media, review_key, still_key
from lacertus.store.tables import Account, Review
from lacertus.video.inspect import inspect_clip
from lacertus.video.review_copy import write_still
from tests import watch
from tests.drawn import PUSH, default_of_rep, drawing
from tests.halls import Hall, cut, judged, read_in, unqueue


class TestDrawing:
    def test_a_missed_checkpoint_gets_its_marks_and_its_picture(self, db: Session, where: Hall, rep: uuid.UUID) -> None:
        drawn = correct.draw(db, where.academy, rep, drawing()).id
        db.commit()
        with pytest.raises(NotFound, match="still being drawn"):
            correct.still_file(db, where.academy, drawn)
        tasks.draw_still(str(drawn))
        db.expire_all()
        files, key = correct.still_file(db, where.academy, drawn)
        assert b"".join(files.read(key, 0, 3)) == b"\xff\xd8\xff"

    @pytest.mark.parametrize(
        ("changes", "words"),
        [
            ({"checkpoint": "leg_straight"}, "was not missed"),
            ({"frame": 9999}, "outside the rep"),
            ({"first": 51}, "51–55 is not that"),
            ({"last": 9999}, "is not that"),
            ({"marks": (Mark(kind="look", spots=(Spot(x=-5, y=0),)),)}, "outside the picture"),
            ({"marks": (Mark(kind="force", spots=(Spot(x=5, y=5), Spot(x=5, y=6))),), "snap": False}, "has no length"),
            ({"marks": (PUSH,) * 13}, "at most 12 marks"),
            ({"cue": "   "}, "the cue is missing"),
            ({"cue": "x" * 10_000}, "longer than 200"),
        ],
    )
    def test_a_correction_that_makes_no_sense_is_refused_and_nothing_is_stored(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, changes: dict[str, Any], words: str
    ) -> None:
        with pytest.raises(BadInput, match=words):
            correct.draw(db, where.academy, rep, drawing(**changes))
        db.rollback()
        assert loading.load(db, where.academy, review).corrections == []

    def test_words_that_a_coach_used_before_are_offered_first_the_most_used_before_all(
        self, db: Session, where: Hall, rep: uuid.UUID
    ) -> None:
        for cue in ("Lift the knee", "Show me the knee", "Show me the knee"):
            correct.draw(db, where.academy, rep, drawing(cue=cue))
        now = correct.draw(db, where.academy, rep, drawing(cue="Up")).id
        db.commit()
        account = db.scalars(select(Account.id)).first()
        assert account is not None
        with watch.paused():
            db.execute(update(Review).values(account_id=account))
        found = phrases.known(db, where.academy, account, now)
        assert found[:2] == ["Show me the knee", "Lift the knee"]
        assert "Knee first then foot" in found
        # Another coach begins with the technique's own.
        assert "Lift the knee" not in phrases.known(db, where.academy, uuid.uuid4(), now)

    def test_sent_twice_it_is_drawn_once_and_can_be_changed_and_taken_away(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        one = uuid.uuid4()
        for cue in ("Knee first", "Knee first", "Knee, then foot"):
            correct.draw(db, where.academy, rep, drawing(cue=cue), one)
            db.commit()
        (found,) = loading.load(db, where.academy, review).corrections
        assert (found.id, found.cue) == (one, "Knee, then foot")
        correct.delete(db, where.academy, one)
        db.commit()
        assert loading.load(db, where.academy, review).corrections == []
        tasks.draw_still(str(one))  # A job that comes too late does nothing.

    def test_a_picture_whose_correction_is_deleted_while_it_is_drawn_goes_too(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        one = correct.draw_default(db, where.academy, rep, "thigh_lifted", uuid.uuid4()).id
        key = still_key(loading.load(db, where.academy, review).clip_id, one)
        unqueue(db)
        db.commit()

        def deleted_meanwhile(*args: Any) -> None:
            write_still(*args)
            correct.delete(db, where.academy, one)
            db.commit()

        monkeypatch.setattr("lacertus.jobs.draw_still.write_still", deleted_meanwhile)
        tasks.draw_still(str(one))
        assert key not in media().files("clips")

    def test_another_frame_needs_another_picture(self, db: Session, where: Hall, rep: uuid.UUID) -> None:
        one = default_of_rep(db, where, rep)
        tasks.draw_still(str(one.id))
        db.expire_all()
        assert one.has_still
        for frame, there in ((one.frame, True), (one.frame - 1, False)):
            given = drawing(frame=frame, first=one.first_frame, last=one.last_frame)
            assert correct.draw(db, where.academy, rep, given, one.id).has_still is there


class TestDefault:
    def test_one_act_makes_marks_frames_and_words_and_they_follow_the_body(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truths: dict[str, Any]
    ) -> None:
        found = default_of_rep(db, where, rep)
        judgement = next(j for j in judged(db, where, review)[0].judgements if j.id == "thigh_lifted")
        assert found.frame == judgement.frames[-1]
        assert found.first_frame < found.frame < found.last_frame
        assert found.cue == "Knee first then foot"
        (mark,) = found.marks
        assert (mark.kind, mark.wanted) == ("angle", nearest_wanted(judgement.within, judgement.value))
        shapes = correct.shapes_at(correct.shown(db, where.academy, rep)[found.id], found.frame)
        seen = next(s for s in shapes if isinstance(s, Stroke) and s.role == "seen")
        knee = truths["constant"]["reps"][0]["bodies"]["performer"]["landmarks"]["right_knee"][found.frame]
        assert seen.points[-1] == pytest.approx((knee["x"], knee["y"]), abs=0.1)

    def test_what_was_not_missed_has_none(self, db: Session, where: Hall, rep: uuid.UUID) -> None:
        for checkpoint in ("leg_straight", "no_such"):
            with pytest.raises(BadInput, match=r"has no checkpoint|was not missed"):
                correct.draw_default(db, where.academy, rep, checkpoint, uuid.uuid4())

    def test_a_place_at_a_landmark_hangs_on_it(self, db: Session, where: Hall, rep: uuid.UUID, truths: dict[str, Any]) -> None:
        ready = default_of_rep(db, where, rep)
        knee = truths["constant"]["reps"][0]["bodies"]["performer"]["landmarks"]["right_knee"][ready.frame]
        look = Mark(kind="look", spots=(Spot(x=knee["x"] + 3, y=knee["y"] - 3),))
        given = drawing(frame=ready.frame, first=ready.frame, last=ready.frame, marks=(look,))
        assert correct.draw(db, where.academy, rep, given).marks[0].spots == (Spot(body="performer", landmark="right_knee"),)

    def test_it_is_copied_to_other_reps_in_which_the_same_was_missed(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truths: dict[str, Any]
    ) -> None:
        found = default_of_rep(db, where, rep)
        second = cut(db, where, review, truths["constant"]["reps"][0])
        (copy,) = correct.copy(db, where.academy, found.id, {second: uuid.uuid4()})
        assert (copy.rep_id, copy.cue, copy.marks) == (second, found.cue, found.marks)
        reviewing.overrule(db, where.academy, second, "thigh_lifted", "met", "clear to the eye")
        db.flush()
        db.expire_all()
        with pytest.raises(BadInput, match="was not missed"):
            correct.copy(db, where.academy, found.id, {second: uuid.uuid4()})


class TestVoice:
    def test_it_is_kept_comes_back_with_its_correction_and_goes_with_the_clip(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        one = default_of_rep(db, where, rep)
        correct.keep_voice(db, where.academy, one.id, b"sound", 3.5)
        db.commit()
        key = correct.voice_file(db, where.academy, one.id)
        assert b"".join(media().read(key, 0, 99)) == b"sound"
        kept = one.id
        correct.delete(db, where.academy, kept)
        db.commit()
        assert correct.draw(db, where.academy, rep, drawing(voice_s=3.5), kept).voice_s == 3.5
        assert correct.draw(db, where.academy, rep, drawing(voice_s=3.5), uuid.uuid4()).voice_s is None
        correct.drop_voice(db, where.academy, kept)
        with pytest.raises(NotFound, match="Nothing was said"):
            correct.voice_file(db, where.academy, kept)

    @pytest.mark.parametrize(("sound", "seconds"), [(b"", 1.0), (b"x" * 8_000_001, 1.0), (b"x", 121.0), (b"x", 0.0)])
    def test_nothing_and_too_much_are_refused(self, db: Session, where: Hall, rep: uuid.UUID, sound: bytes, seconds: float) -> None:
        one = default_of_rep(db, where, rep)
        with pytest.raises(BadInput, match=r"at most 120 s|nothing was recorded"):
            correct.keep_voice(db, where.academy, one.id, sound, seconds)


class TestExample:
    @pytest.fixture
    def earlier(self, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> uuid.UUID:
        """A finished review of the same student in which the checkpoint was met, by the coach's own verdict."""
        clip = read_in(db, where, clips["long_gop"], tmp_path, date(2026, 4, 2))
        found = reviewing.open_review(db, where.academy, clip).id
        rep = cut(db, where, found, truths["long_gop"]["reps"][0])
        reviewing.overrule(db, where.academy, rep, "thigh_lifted", "met", "high enough")
        finishing.finish(db, where.academy, found)
        db.commit()
        return rep

    def test_a_picture_that_is_taken_away_while_it_is_drawn_goes(
        self, db: Session, where: Hall, rep: uuid.UUID, earlier: uuid.UUID, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        one = default_of_rep(db, where, rep)
        examples.put_example(db, where.academy, one.id, "own")
        unqueue(db)
        db.commit()
        assert one.example is not None and one.example.clip is not None
        key = example_key(one.example.clip, one.id)

        def taken_away(*args: Any) -> None:
            write_still(*args)
            correct.delete(db, where.academy, one.id)
            db.commit()

        monkeypatch.setattr("lacertus.jobs.draw_example.write_still", taken_away)
        tasks.draw_example(str(one.id))
        assert key not in media().files("clips")

    def test_the_students_own_best_rep_stands_beside_at_the_same_event(
        self, db: Session, where: Hall, rep: uuid.UUID, earlier: uuid.UUID
    ) -> None:
        one = default_of_rep(db, where, rep)
        assert [c.words for c in examples.choices(db, where.academy, one.id)] == ["Your rep of 2 April", "The studio’s figure"]
        examples.put_example(db, where.academy, one.id, "own")
        db.commit()
        assert one.example is not None
        assert one.example.rep == earlier
        tasks.draw_example(str(one.id))
        db.expire_all()
        files, key = examples.example_file(db, where.academy, one.id)
        with files.as_local(key) as path, Image.open(path) as picture:
            assert picture.size == (one.example.width, one.example.height) == (480, 270)
        assert one.example.shapes[0].role == "seen"

    def test_another_student_stands_beside_only_if_allowed(
        self, db: Session, where: Hall, rep: uuid.UUID, earlier: uuid.UUID
    ) -> None:
        one = default_of_rep(db, where, rep)
        other = people.create_student(db, where.academy, "B Student").id
        loading.review_of_rep(db, where.academy, rep)[1].student_id = other
        db.commit()
        db.expire_all()
        assert [c.source for c in examples.choices(db, where.academy, one.id)] == ["reference"]
        with pytest.raises(BadInput, match="does not lend it"):
            examples.put_example(db, where.academy, one.id, "other")
        people.change_student(db, where.academy, where.student, {"lends_pictures": True})
        db.commit()
        assert [c.words for c in examples.choices(db, where.academy, one.id)] == [
            "A Student’s rep of 2 April",
            "The studio’s figure",
        ]

    def test_what_cannot_be_drawn_is_told_and_not_waited_for(
        self, db: Session, where: Hall, rep: uuid.UUID, earlier: uuid.UUID
    ) -> None:
        one = default_of_rep(db, where, rep)
        examples.put_example(db, where.academy, one.id, "own")
        db.commit()
        assert one.example is not None
        assert one.example.clip is not None
        media().delete(review_key(one.example.clip))
        tasks.draw_example(str(one.id))
        db.expire_all()
        assert one.example is not None
        assert not one.example.ready
        job = queue.state_of(db, queue.DRAW_EXAMPLE, one.id)
        assert job is not None
        assert (job.state, job.reason) == ("failed", "This media file is not there.")

    def test_the_studios_figure_shows_it_done_right(self, db: Session, where: Hall, rep: uuid.UUID) -> None:
        one = default_of_rep(db, where, rep)
        examples.put_example(db, where.academy, one.id, "reference")
        db.commit()
        tasks.draw_example(str(one.id))
        db.expire_all()
        files, key = examples.example_file(db, where.academy, one.id)
        with files.as_local(key) as path, Image.open(path) as picture:
            assert picture.size == (960, 540)
            assert np.asarray(picture).std() > 20
        with examples.example_film(db, where.academy, one.id)[0].as_local(examples.film_of(one) or "") as path:
            film = inspect_clip(path)
        assert (film.width, film.height) == (640, 360)
        assert 40 <= len(film.pts_s) <= 56
        assert one.example is not None
        (limb,) = one.example.shapes
        assert isinstance(limb, Stroke)
        (_, (_hip_x, hip_y), (_knee_x, knee_y)) = limb.points
        assert knee_y < hip_y + 10, "the thigh is lifted to the level"
        examples.put_example(db, where.academy, one.id, None)
        with pytest.raises(NotFound, match="There is no example picture for this correction"):
            examples.example_file(db, where.academy, one.id)
        with pytest.raises(NotFound, match="There is no film beside this correction"):
            examples.example_film(db, where.academy, one.id)


def test_a_finished_review_keeps_its_corrections(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
    one = default_of_rep(db, where, rep)
    finishing.finish(db, where.academy, review)
    db.commit()
    acts: list[Any] = [
        lambda: correct.draw(db, where.academy, rep, drawing(), one.id),
        lambda: correct.delete(db, where.academy, one.id),
        lambda: correct.copy(db, where.academy, one.id, {rep: uuid.uuid4()}),
        lambda: correct.keep_voice(db, where.academy, one.id, b"x", 1.0),
        lambda: examples.put_example(db, where.academy, one.id, "reference"),
    ]
    for act in acts:
        with pytest.raises(Conflict, match="kept as it was"):
            act()


def test_nobody_else_sees_or_changes_them(db: Session, where: Hall, rep: uuid.UUID) -> None:
    one = default_of_rep(db, where, rep)
    other = accounts.create_academy(db, "Elsewhere").id
    acts: list[Any] = [
        lambda: correct.one(db, other, one.id),
        lambda: correct.shown(db, other, rep),
        lambda: examples.choices(db, other, one.id),
        lambda: correct.draw_default(db, other, rep, "thigh_lifted", uuid.uuid4()),
    ]
    for act in acts:
        with pytest.raises(NotFound, match="There is no such"):
            act()
