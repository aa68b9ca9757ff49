"""The steps of the work against the real database: intake, review, correction, follow-up, people."""

from __future__ import annotations

import uuid
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput, LacertusError
from lacertus.jobs import tasks
from lacertus.library import shipped
from lacertus.services.clips import intake
from lacertus.services.corrections import correct
from lacertus.services.errors import Conflict, NotFound, SignInRefused, TooLarge, TooManyTries
from lacertus.services.people import accounts, attempts, people
from lacertus.services.progress import follow_up
from lacertus.services.review import loading, reference
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepChanges, RepCut
from lacertus.services.review.review import Spot
from lacertus.services.sheets import finish as finishing
from lacertus.services.techniques import catalogue
from lacertus.settings import settings
from lacertus.store.media import media, original_key, review_key
from lacertus.store.tables import Clip, EventMark, JudgementRow, PointRow, RepRow, SignIn, SignInAttempt, TechniqueVersion
from tests.drawn import drawing
from tests.halls import EMAIL, PASSWORD, Hall, cut, hall, judged, read_in, taken_in


def verdict(db: Session, where: Hall, review: uuid.UUID, checkpoint: str) -> str:
    return next(j for j in judged(db, where, review)[0].judgements if j.id == checkpoint).verdict.value


class TestIntake:
    def test_a_clip_is_read_and_its_original_kept(self, db: Session, where: Hall, clip: uuid.UUID, clips: dict[str, Path]) -> None:
        found = intake.clip(db, where.academy, clip)
        assert (found.state, found.frames_done, found.width) == ("ready", len(found.pts_s or []), 480)
        whole = b"".join(media().read(original_key(clip), 0, media().size(original_key(clip))))
        assert whole.startswith(clips["constant"].read_bytes())

    @pytest.mark.parametrize(
        ("content", "words"), [(b"this is no film", "is not a video"), (b"\0" * 4096, "is not a video")], ids=["text", "zeros"]
    )
    def test_what_cannot_be_read_ends_in_a_reason(
        self, db: Session, where: Hall, tmp_path: Path, content: bytes, words: str
    ) -> None:
        bad = tmp_path / "kick.mp4"
        bad.write_bytes(content)
        clip_id = read_in(db, where, bad, tmp_path, by_task=True)
        found = intake.clip(db, where.academy, clip_id)
        assert found.state == "failed"
        assert "kick.mp4" in (found.failure or "")
        assert words in (found.failure or "")
        with pytest.raises(LacertusError, match="This media file is not there"):
            media().size(review_key(clip_id))
        with pytest.raises(Conflict, match="is not ready"):
            reviewing.open_review(db, where.academy, clip_id)

    def test_half_a_file_ends_in_a_reason(self, db: Session, where: Hall, tmp_path: Path, clips: dict[str, Path]) -> None:
        half = tmp_path / "half.mp4"
        half.write_bytes(clips["long_gop"].read_bytes()[:20_000])
        assert intake.clip(db, where.academy, read_in(db, where, half, tmp_path, by_task=True)).state == "failed"

    @pytest.mark.parametrize(
        ("name", "size", "kind", "words"),
        [
            ("", 9, BadInput, "is missing"),
            ("notes.txt", 9, BadInput, "not a video file"),
            ("a.mp4", 0, BadInput, "is empty"),
            ("a.mp4", 10**12, TooLarge, "larger than 4 GB"),
            ("a\0.mp4", 9, BadInput, "cannot be shown"),
        ],
    )
    def test_what_cannot_be_a_clip_is_refused_before_it_is_sent(
        self, name: str, size: int, kind: type[Exception], words: str
    ) -> None:
        with pytest.raises(kind, match=words):
            intake.check_upload(name, size)

    def test_a_stopped_clip_can_be_read_again(self, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path) -> None:
        clip_id = taken_in(db, where, clips["constant"], tmp_path)
        intake.stop_reading(db, where.academy, clip_id)
        db.commit()
        tasks.read_clip(str(clip_id))
        db.expire_all()
        assert intake.clip(db, where.academy, clip_id).state == "stopped"
        intake.read_again(db, where.academy, clip_id)
        db.commit()
        tasks.read_clip(str(clip_id))
        db.expire_all()
        assert intake.clip(db, where.academy, clip_id).state == "ready"

    def test_a_stop_asked_for_in_the_middle_leaves_no_half_copy(
        self, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        clip_id = taken_in(db, where, clips["constant"], tmp_path, queued=False)
        monkeypatch.setattr(intake, "note_progress", lambda *_: True)
        tasks.read_clip(str(clip_id))
        db.expire_all()
        assert intake.clip(db, where.academy, clip_id).state == "stopped"
        with pytest.raises(LacertusError, match="This media file is not there"):
            media().size(review_key(clip_id))

    def test_a_clip_over_the_frame_limit_says_so(
        self, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr("lacertus.jobs.read_clip.settings", lambda: type(settings())(most_frames=10))
        found = intake.clip(db, where.academy, read_in(db, where, clips["constant"], tmp_path, by_task=True))
        assert "more than 10 frames" in (found.failure or "")

    def test_deleting_a_clip_takes_all_that_came_from_it(
        self, db: Session, where: Hall, clip: uuid.UUID, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        finishing.finish(db, where.academy, review)
        db.commit()
        intake.delete_clip(db, where.academy, clip)
        db.commit()
        for table in (Clip, RepRow, PointRow, EventMark, JudgementRow):
            assert db.scalar(select(func.count()).select_from(table)) == 0
        with pytest.raises(LacertusError, match="This media file is not there"):
            media().size(original_key(clip))


class TestReview:
    def test_the_faults_put_in_are_found_from_placed_points(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        assert verdict(db, where, review, "thigh_lifted") == "missed"
        assert verdict(db, where, review, "quick_return") == "missed"
        assert verdict(db, where, review, "hands_up") == "not_seen"

    def test_an_open_review_is_opened_again_not_twice(self, db: Session, where: Hall, clip: uuid.UUID, review: uuid.UUID) -> None:
        assert reviewing.open_review(db, where.academy, clip).id == review

    @pytest.mark.parametrize(
        ("facts", "words"),
        [
            ({"first_frame": 0, "last_frame": 9999}, "does not fit the clip"),
            ({"first_frame": 30, "last_frame": 20}, "does not fit the clip"),
            ({"first_frame": 0, "last_frame": 20, "rung": "champion"}, "not in the ladder"),
            ({"first_frame": 0, "last_frame": 20, "options": {"mood": "good"}}, "no option"),
        ],
    )
    def test_a_cut_that_does_not_fit_is_refused_and_not_stored(
        self, db: Session, where: Hall, review: uuid.UUID, facts: dict[str, Any], words: str
    ) -> None:
        with pytest.raises(BadInput, match=words):
            reviewing.cut_rep(db, where.academy, review, "front-kick", RepCut.model_validate({"side": "right"} | facts))
        db.rollback()
        assert loading.load(db, where.academy, review).reps == []

    def test_an_unknown_technique_is_refused(self, db: Session, where: Hall, review: uuid.UUID) -> None:
        with pytest.raises(NotFound, match="flying-carpet"):
            reviewing.cut_rep(
                db,
                where.academy,
                review,
                "flying-carpet",
                RepCut(first_frame=0, last_frame=9, side="right"),
            )

    def test_a_cut_sent_twice_cuts_once(self, db: Session, where: Hall, review: uuid.UUID) -> None:
        one, facts = uuid.uuid4(), {"first_frame": 0, "last_frame": 20, "side": "right", "options": {}}
        for last in (20, 30):
            reviewing.cut_rep(db, where.academy, review, "front-kick", RepCut.model_validate(facts | {"last_frame": last}), one)
        found = loading.load(db, where.academy, review).reps
        assert [(r.id, r.last_frame) for r in found] == [(one, 30)]

    @pytest.mark.parametrize(
        ("event", "frames", "words"),
        [("knee_top", [5000], "outside the rep"), ("knee_top", [40, 40], "each once"), ("lunch", [40], "no event “lunch”")],
    )
    def test_an_event_that_does_not_fit_leaves_the_old_mark(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, event: str, frames: list[int], words: str
    ) -> None:
        with pytest.raises(BadInput, match=words):
            reviewing.mark_event(db, where.academy, rep, event, frames)
        db.rollback()
        assert verdict(db, where, review, "thigh_lifted") == "missed"

    def test_a_rep_cannot_shrink_past_its_events(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        with pytest.raises(BadInput, match="outside the rep"):
            reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"last_frame": 40}))
        db.rollback()

    def test_events_come_and_go(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        reviewing.mark_event(db, where.academy, rep, "knee_top", [])
        assert verdict(db, where, review, "thigh_lifted") == "missed"
        reviewing.mark_event(db, where.academy, rep, "knee_top", None)
        assert verdict(db, where, review, "thigh_lifted") == "not_seen"

    def test_a_point_moved_counts_where_it_is_now(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        need = next(n for n in judged(db, where, review)[0].needs if n.checkpoint == "thigh_lifted" and "knee" in n.landmark)
        spot = Spot(body="performer", landmark=need.landmark, frame=need.frame or 0)
        reviewing.place_point(db, where.academy, rep, spot, 300.0, 60.0)
        assert verdict(db, where, review, "thigh_lifted") == "met"
        reviewing.remove_point(db, where.academy, rep, spot)
        assert verdict(db, where, review, "thigh_lifted") == "not_seen"

    @pytest.mark.parametrize(
        ("spot", "x", "words"),
        [
            (Spot(body="performer", landmark="tail", frame=1), 5, "not a landmark"),
            (Spot(body="horse", landmark="nose", frame=1), 5, "no body"),
            (Spot(body="performer", landmark="nose", frame=9999), 5, "not in the clip"),
            (Spot(body="performer", landmark="nose", frame=1), 9999, "outside the picture"),
            (Spot(body="performer", landmark="nose", frame=1), float("nan"), "outside the picture"),
        ],
    )
    def test_a_point_that_cannot_be_is_refused(
        self, db: Session, where: Hall, rep: uuid.UUID, spot: Spot, x: float, words: str
    ) -> None:
        with pytest.raises(BadInput, match=words):
            reviewing.place_point(db, where.academy, rep, spot, x, 5.0)

    def test_answers_by_eye_are_given_and_taken_back(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        for yes, wanted in ((True, "met"), (False, "missed"), (None, "not_seen")):
            reviewing.answer(db, where.academy, rep, "hands_up", yes)
            assert verdict(db, where, review, "hands_up") == wanted
        with pytest.raises(BadInput, match="no by-eye checkpoint"):
            reviewing.answer(db, where.academy, rep, "thigh_lifted", True)

    @pytest.mark.parametrize(("body", "px"), [("horse", 100.0), ("performer", 3.0), ("performer", 9e9)])
    def test_a_height_that_cannot_be_is_refused(self, db: Session, where: Hall, review: uuid.UUID, body: str, px: float) -> None:
        with pytest.raises(BadInput, match=r"standing height|no body"):
            reference.set_height(db, where.academy, review, body, px)

    def test_a_finished_review_is_kept_as_it_was(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        finishing.finish(db, where.academy, review)
        db.commit()
        for attempt in (
            lambda: reviewing.mark_event(db, where.academy, rep, "knee_top", None),
            lambda: reviewing.delete_rep(db, where.academy, rep),
            lambda: finishing.finish(db, where.academy, review),
            lambda: reference.set_height(db, where.academy, review, "performer", 100.0),
        ):
            with pytest.raises(Conflict, match="kept as it was"):
                attempt()

    def test_an_empty_review_cannot_be_finished(self, db: Session, where: Hall, review: uuid.UUID) -> None:
        with pytest.raises(BadInput, match="Nothing has been judged yet"):
            finishing.finish(db, where.academy, review)

    def test_a_review_keeps_the_version_it_was_judged_by(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        technique = catalogue.definition(catalogue.newest(db, where.academy, "front-kick"))
        looser = [c.model_copy(update={"within": (None, 179.0)}) if c.id == "thigh_lifted" else c for c in technique.checkpoints]
        loading = catalogue.store_version(db, technique.model_copy(update={"checkpoints": tuple(looser)}), where.academy)
        assert loading.version == 1
        assert catalogue.newest(db, where.academy, "front-kick").id == loading.id
        assert verdict(db, where, review, "thigh_lifted") == "missed"

    def test_a_stored_technique_keeps_the_order_of_its_events(self, db: Session, where: Hall) -> None:
        db.expire_all()
        for technique in shipped():
            loading = catalogue.definition(catalogue.newest(db, where.academy, technique.id))
            assert list(loading.events) == list(technique.events)

    def test_shipped_techniques_are_stored_once(self, db: Session) -> None:
        before = db.scalar(select(func.count()).select_from(TechniqueVersion))
        catalogue.store_shipped(db)
        assert db.scalar(select(func.count()).select_from(TechniqueVersion)) == before


class TestFollowUp:
    def test_faults_are_counted_over_the_dates(
        self, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
    ) -> None:
        for days in (0, 9):
            clip = read_in(db, where, clips["long_gop"], tmp_path, date(2026, 5, 4) + timedelta(days=days))
            review = reviewing.open_review(db, where.academy, clip).id
            rep = cut(db, where, review, truths["long_gop"]["reps"][0])
            reviewing.answer(db, where.academy, rep, "hands_up", days > 0)
            correct.draw(db, where.academy, rep, drawing(frame=20, first=20, last=20))
            finishing.finish(db, where.academy, review)
            db.commit()
        rows = {row.history.fault: row.history for row in follow_up.ledger_page(db, where.academy, where.student).faults}
        assert [(date.fromordinal(d.day).isoformat(), d.misses, d.exposures) for d in rows["low-chamber"].cells] == [
            ("2026-05-04", 1, 1),
            ("2026-05-13", 1, 1),
        ]
        assert [(d.misses, d.exposures) for d in rows["hands-drop"].cells] == [(1, 1), (0, 1)]
        assert "bent-reach" not in rows
        shown = follow_up.corrections(db, where.student)
        assert [(s.clip.filmed_on.day, s.correction.cue) for s in shown] == [(13, "Knee first"), (4, "Knee first")]
        assert shown[0].ask.startswith("Thigh lifted")

    def test_a_demonstration_never_counts(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"purpose": "demonstration"}))
        finishing.finish(db, where.academy, review)
        assert follow_up.ledger_page(db, where.academy, where.student).faults == ()

    def test_an_open_review_counts_nothing_yet(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        assert follow_up.ledger_page(db, where.academy, where.student).faults == ()
        assert follow_up.corrections(db, where.student) == []


class TestPeople:
    def test_the_right_password_opens_a_session_until_sign_out(self, db: Session, where: Hall) -> None:
        token = accounts.sign_in(db, f"  {EMAIL.upper()} ", PASSWORD).token
        assert accounts.signed_in(db, token).academy == "Hall"
        accounts.sign_out(db, token)
        with pytest.raises(SignInRefused, match="You are not signed in"):
            accounts.signed_in(db, token)

    @pytest.mark.parametrize(("email", "password"), [(EMAIL, "wrong"), ("nobody@example.test", PASSWORD), ("", "")])
    def test_a_wrong_one_is_refused_and_opens_nothing(self, db: Session, where: Hall, email: str, password: str) -> None:
        for _ in range(2):
            with pytest.raises(SignInRefused, match="Nothing was changed"):
                accounts.sign_in(db, email, password)
        assert db.scalar(select(func.count()).select_from(SignIn)) == 0
        assert db.scalar(select(func.count()).select_from(SignInAttempt)) == 2 * len(attempts.keys_of("", "", None))

    def test_guessing_is_slowed_down_even_with_the_right_one_at_last(self, db: Session, where: Hall) -> None:
        for _ in range(attempts.MOST_FAILURES):
            with pytest.raises(SignInRefused, match="E-mail or password is wrong"):
                accounts.sign_in(db, EMAIL, "wrong")
        with pytest.raises(TooManyTries, match="Too many wrong passwords"):
            accounts.sign_in(db, EMAIL, PASSWORD)

    def test_a_session_ends_by_itself(self, db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch) -> None:
        monkeypatch.setattr(accounts, "settings", lambda: type(settings())(session_hours=0))
        with pytest.raises(SignInRefused, match="has ended"):
            accounts.signed_in(db, accounts.sign_in(db, EMAIL, PASSWORD).token)

    @pytest.mark.parametrize(("email", "password"), [("no mail", PASSWORD), ("a@b.test", "short")])
    def test_accounts_need_an_address_and_a_long_password(self, db: Session, where: Hall, email: str, password: str) -> None:
        with pytest.raises(BadInput, match=r"at least 10 characters|not an e-mail address"):
            accounts.create_account(db, where.academy, email, "X", password)

    def test_another_academy_sees_nothing(
        self, db: Session, where: Hall, clip: uuid.UUID, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        other = hall(db, "Other", "other@example.test").academy
        for look in (
            lambda: people.student(db, other, where.student),
            lambda: intake.clip(db, other, clip),
            lambda: loading.load(db, other, review),
            lambda: reviewing.open_review(db, other, clip),
            lambda: reviewing.delete_rep(db, other, rep),
            lambda: intake.delete_clip(db, other, clip),
            lambda: finishing.finish(db, other, review),
        ):
            with pytest.raises(NotFound, match=r"There is no such .* in your academy"):
                look()
        assert intake.clips(db, other) == []
