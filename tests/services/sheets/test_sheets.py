"""Sheet, revisions, marked clip and voice: from missed checkpoint to what the student takes home."""

from __future__ import annotations

import io
import uuid
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import webvtt
from pypdf import PdfReader
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.clips.naming import Naming
from lacertus.core.corrections.marks import Mark, Spot
from lacertus.core.errors import BadInput
from lacertus.core.sheets.revision import left_in_words
from lacertus.core.sheets.sheet import Sheet
from lacertus.core.sheets.words import read_words
from lacertus.jobs import tasks
from lacertus.outputs.sheet import page
from lacertus.services import jobs
from lacertus.services.corrections import correct, examples, marked_clip
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import people
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepChanges
from lacertus.services.review.view import view_of
from lacertus.services.sheets import finish as finishing
from lacertus.services.sheets import rendering, sheet
from lacertus.store.media import captions_key, marked_key, media
from lacertus.store.tables import JudgementRow, Review
from lacertus.video.corrections.marked_clip import write_marked
from lacertus.video.corrections.voice import SAMPLE_HZ
from tests.drawn import default_of_rep, drawing
from tests.halls import Hall, cut, unqueue


@pytest.fixture
def corrected(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> uuid.UUID:
    """A correction with its picture and the studio's figure beside it."""
    found = default_of_rep(db, where, rep).id
    examples.put_example(db, where.academy, found, "reference")
    db.commit()
    tasks.draw_still(str(found))
    tasks.draw_example(str(found))
    db.expire_all()
    return found


def finished(db: Session, where: Hall, review: uuid.UUID) -> Sheet:
    finishing.finish(db, where.academy, review)
    db.commit()
    return sheet.latest(db, where.academy, review)[1].sheet


class TestSheet:
    def test_it_says_what_was_good_what_to_fix_with_pictures_numbers_and_drills(
        self, db: Session, where: Hall, review: uuid.UUID, corrected: uuid.UUID
    ) -> None:
        loading.load(db, where.academy, review).clip.naming = Naming(question="Is my knee high enough?")
        finishing.change_words(db, where.academy, review, read_words({"answer": "Not yet."}))
        found = finished(db, where, review)
        assert found.student == "A Student"
        assert found.techniques == ("Front kick",)
        assert 1 <= len(found.good) <= 4
        assert (found.question, found.answer) == ("Is my knee high enough?", "Not yet.")
        assert found.next_on is not None and found.next_on > "2026-05-04"
        lifted = next(fix for fix in found.fixes if fix.checkpoint == "thigh_lifted")
        assert lifted.cues == ("Knee first then foot",)
        assert lifted.numbers[0].startswith("Missed. Wanted: ")
        assert "give or take" in lifted.numbers[1]
        assert [picture.of for picture in lifted.pictures] == ["still", "beside"]
        assert lifted.drills[0].name == "Chamber holds at the wall"
        assert len(found.fixes) == 2
        assert any("hamstrings" in caution for caution in found.cautions)

    def test_the_pdf_holds_the_words_and_the_pictures_on_two_pages_at_most(
        self, db: Session, where: Hall, review: uuid.UUID, corrected: uuid.UUID
    ) -> None:
        found = finished(db, where, review)
        read = PdfReader(io.BytesIO(rendering.pdf_of(loading.load(db, where.academy, review), found)))
        assert len(read.pages) <= 2
        text = " ".join(" ".join(page.extract_text() for page in read.pages).split())
        for words in (
            "A Student",
            "Knee first then foot",
            "give or take",
            "Chamber holds at the wall",
            "no medical or safety device",
        ):
            assert words in text
        sizes = {image.image.size for page in read.pages for image in page.images if image.image is not None}
        assert sizes == {(480, 270), (960, 540)}
        assert read.pages[0].mediabox.width == pytest.approx(595.3, abs=1)

    def test_a_picture_that_is_gone_leaves_the_sheet_whole(
        self, db: Session, where: Hall, review: uuid.UUID, corrected: uuid.UUID
    ) -> None:
        found = finished(db, where, review)
        for picture in rendering.pictures_of(found):
            media().delete(rendering.picture_key(loading.load(db, where.academy, review), picture) or "")
        text = PdfReader(io.BytesIO(rendering.pdf_of(loading.load(db, where.academy, review), found))).pages[0].extract_text()
        assert "This picture is not there" in text

    @pytest.mark.parametrize(("words", "why"), [({"note": "x" * 2001}, "longer than 2000"), ({"next_on": "soon"}, "no day")])
    def test_words_that_cannot_be_kept_are_refused(
        self, db: Session, where: Hall, review: uuid.UUID, words: dict[str, str], why: str
    ) -> None:
        with pytest.raises(BadInput, match=why):
            finishing.change_words(db, where.academy, review, read_words(words))

    def test_markup_in_words_and_cues_is_shown_as_it_was_typed(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        cue = "<script>alert(1)</script>"
        label = Mark(kind="words", spots=(Spot(x=50, y=50),), words="<b>here</b>")
        correct.draw(db, where.academy, rep, drawing(cue=cue, marks=(label,)))
        finishing.change_words(db, where.academy, review, read_words({"note": "<img src=x onerror=alert(2)>"}))
        html = page(finished(db, where, review), lambda _: "/picture")
        assert "<script" not in html
        assert "<img" not in html
        assert "<b>here" not in html
        assert "&lt;script&gt;" in html


def test_what_another_student_did_in_the_same_clip_is_not_taken_home(
    db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truths: dict[str, Any]
) -> None:
    other = people.create_student(db, where.academy, "B Student").id
    second = cut(db, where, review, truths["constant"]["reps"][0])
    default_of_rep(db, where, second)
    reviewing.overrule(db, where.academy, rep, "thigh_lifted", "met", "high enough")
    reviewing.change_rep(db, where.academy, second, RepChanges.model_validate({"student_id": other}))
    db.commit()
    db.expire_all()
    with pytest.raises(BadInput, match="nothing to mark"):
        marked_clip.ask(db, where.academy, review)
    found = finished(db, where, review)
    assert found.reps == 1
    assert "thigh_lifted" not in {fix.checkpoint for fix in found.fixes}
    assert rendering.pictures_of(found) == []


class TestRevisions:
    def test_a_change_makes_a_revision_that_says_what_changed_and_the_first_is_kept(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        first = finished(db, where, review)
        missed = select(func.count()).where(JudgementRow.review_id == review, JudgementRow.verdict == "missed")
        before = db.scalar(missed)
        finishing.reopen(db, where.academy, review, "the knee was high enough after all")
        db.commit()
        assert db.scalar(missed) == before
        assert sheet.latest(db, where.academy, review)[1].sheet == first
        reviewing.overrule(db, where.academy, rep, "thigh_lifted", "met", "seen from the other side")
        default_of_rep(db, where, rep, "quick_return")
        finished(db, where, review)
        second, kept = finishing.revisions(db, review)
        assert (second.number, second.why) == (2, "the knee was high enough after all")
        assert "Rep 1, thigh lifted: missed became met." in second.changes
        assert "A correction of quick return was drawn." in second.changes
        assert kept.sheet == first
        assert kept.record.reps[0].verdict_of("thigh_lifted") == "missed"
        assert db.scalar(missed) == (before or 0) - 1

    def test_a_rep_taken_away_or_cut_anew_and_other_words_are_told(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        finished(db, where, review)
        first, last = (getattr(loading.load(db, where.academy, review).reps[0], end) for end in ("first_frame", "last_frame"))
        finishing.reopen(db, where.academy, review, "cut too wide")
        reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"last_frame": last - 1}))
        finishing.change_words(db, where.academy, review, read_words({"good": "You asked a good question."}))
        found = finished(db, where, review)
        changes = finishing.revisions(db, review)[0].changes
        assert f"Rep 1 was cut anew: frames {first}–{last}, now {first}–{last - 1}." in changes
        assert "The words on the sheet were changed." in changes
        assert found.good == ("You asked a good question.",)

    def test_what_was_left_when_it_was_finished_all_the_same_is_kept(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        reviewing.set_proposals(db, where.academy, review, [(2, 3)])
        view = view_of(loading.load(db, where.academy, review)).reps[0]
        unanswered = {one.checkpoint for one in view.left if one.kind == "answer"}
        assert unanswered
        finished(db, where, review)
        kept = finishing.revisions(db, review)[0].record
        assert {one.kind for one in kept.left} >= {"answer", "cut"}
        told = left_in_words(kept)
        assert "frames 2–3 were proposed and not cut" in told
        technique = view.technique
        for name in unanswered:
            asked = technique.checkpoint(name or "")
            assert asked is not None and f"Rep 1: not answered: {asked.ask}" in told
        # Other words are another revision of the same review; what was left stays so.
        finishing.change_words(db, where.academy, review, read_words({"good": "You asked a good question."}))
        assert finishing.revisions(db, review)[0].record.left == kept.left

    def test_it_is_opened_only_when_finished_and_with_a_reason(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        with pytest.raises(Conflict, match="open already"):
            finishing.reopen(db, where.academy, review, "why")
        with pytest.raises(NotFound, match="not been finished"):
            sheet.latest(db, where.academy, review)
        finished(db, where, review)
        with pytest.raises(BadInput, match="reason is missing"):
            finishing.reopen(db, where.academy, review, " ")


def tone(path: Path, seconds: float, hz: float = 440.0) -> bytes:
    """What a browser records: Opus in WebM."""
    with av.open(str(path), "w", format="webm") as out:
        stream = out.add_stream("libopus", rate=SAMPLE_HZ, layout="mono")
        time = np.arange(int(seconds * SAMPLE_HZ)) / SAMPLE_HZ
        samples = (0.5 * np.sin(2 * np.pi * hz * time)).astype(np.float32)
        for first in range(0, samples.size, 960):
            block = samples[None, first : first + 960]
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), format="flt", layout="mono")
            frame.sample_rate, frame.pts, frame.time_base = SAMPLE_HZ, first, Fraction(1, SAMPLE_HZ)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path.read_bytes()


def made(db: Session, where: Hall, review: uuid.UUID) -> Review:
    marked_clip.ask(db, where.academy, review)
    unqueue(db)
    db.commit()
    tasks.make_marked_clip(str(review))
    db.expire_all()
    return loading.load(db, where.academy, review)


def decoded(key: str) -> tuple[list[Any], list[float], Any]:
    with media().as_local(key) as path, av.open(str(path)) as container:
        frames = [(frame.time, frame.to_ndarray(format="rgb24")) for frame in container.decode(video=0)]
        sounds = [stream for stream in container.streams if stream.type == "audio"]
    with media().as_local(key) as path, av.open(str(path)) as container:
        sound = np.concatenate([f.to_ndarray().reshape(-1) for f in container.decode(audio=0)]) if sounds else None
    return [picture for _, picture in frames], [time for time, _ in frames], sound


class TestMarkedClip:
    def test_one_that_shows_a_rep_which_is_deleted_while_it_is_made_goes_too(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        one = default_of_rep(db, where, rep).id
        clip = loading.load(db, where.academy, review).clip_id

        def deleted_meanwhile(*args: Any) -> None:
            write_marked(*args)
            correct.delete(db, where.academy, one)
            db.commit()

        monkeypatch.setattr("lacertus.jobs.make_marked_clip.write_marked", deleted_meanwhile)
        assert made(db, where, review).marked is None
        assert not {marked_key(clip), captions_key(clip)} & set(media().files("clips"))

    def test_the_marks_colour_is_at_its_place_on_its_frames_and_nowhere_else(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        push = Mark(kind="force", spots=(Spot(x=100, y=60), Spot(x=200, y=60)))
        ready = default_of_rep(db, where, rep)
        frames = {"frame": ready.frame, "first": ready.first_frame, "last": ready.last_frame}
        correct.draw(db, where.academy, rep, drawing(marks=(push,), **frames), ready.id)
        found = made(db, where, review)
        assert found.marked is not None
        pictures, times, sound = decoded(marked_key(found.clip_id))
        assert sound is None
        plan = marked_clip.plan(found).plan
        (spoken,) = plan.spoken
        assert times[-1] == pytest.approx(plan.length_s, abs=0.05)
        orange = [bool((np.abs(p[55:65, 120:180].astype(int) - (0xFF, 0x8A, 0x66)).sum(axis=2) < 120).any()) for p in pictures]
        shown = [spoken.from_s <= time + 1e-6 < spoken.to_s for time in times]
        assert sum(a != b for a, b in zip(orange, shown, strict=True)) <= 1
        assert sum(shown) > 60
        # While it stands the picture does not change, and the cue is on the band at its foot.
        still = [p for p, time in zip(pictures, times, strict=True) if spoken.stops_s + 0.2 < time < spoken.stops_s + 1.5]
        assert np.abs(still[0].astype(int) - still[-1].astype(int)).mean() < 2
        assert (still[0][-20:].min(axis=2) > 200).any()

    def test_its_captions_say_the_cue_while_it_stands(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        default_of_rep(db, where, rep)
        found = made(db, where, review)
        (spoken,) = marked_clip.plan(found).plan.spoken
        with media().as_local(captions_key(found.clip_id)) as path:
            (caption,) = webvtt.from_string(path.read_text())
        assert caption.text == "Knee first then foot"
        assert caption.start_in_seconds == int(spoken.from_s)

    def test_a_voice_note_is_heard_from_where_the_picture_stops(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, tmp_path: Path
    ) -> None:
        one = default_of_rep(db, where, rep)
        correct.keep_voice(db, where.academy, one.id, tone(tmp_path / "voice.webm", 4.0), 4.0)
        db.commit()
        found = made(db, where, review)
        _, times, sound = decoded(marked_key(found.clip_id))
        (spoken,) = marked_clip.plan(found).plan.spoken
        assert times[-1] > spoken.stops_s + 4.0
        loud = np.abs(sound) > 0.1
        first, last = np.nonzero(loud)[0][[0, -1]] / SAMPLE_HZ
        assert first == pytest.approx(spoken.stops_s, abs=0.1)
        assert last - first == pytest.approx(4.0, abs=0.15)

    def test_a_torn_voice_note_leaves_the_clip_without_it_and_says_so(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        one = default_of_rep(db, where, rep)
        correct.keep_voice(db, where.academy, one.id, b"\x1aE\xdf\xa3 torn", 2.0)
        db.commit()
        found = made(db, where, review)
        assert found.marked is not None
        assert found.marked.lost == ("Knee first then foot",)

    def test_without_corrections_there_is_nothing_to_make_and_it_can_be_stopped(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        with pytest.raises(BadInput, match="nothing to mark"):
            marked_clip.ask(db, where.academy, review)
        default_of_rep(db, where, rep)
        marked_clip.ask(db, where.academy, review)
        job = jobs.listing(db, where.academy)[0].job
        jobs.stop(db, where.academy, job.id)
        db.commit()
        tasks.make_marked_clip(str(review))
        with pytest.raises(NotFound, match="not been made"):
            marked_clip.marked_file(loading.load(db, where.academy, review))
        with pytest.raises(Conflict, match="ended already"):
            jobs.stop(db, where.academy, job.id)
