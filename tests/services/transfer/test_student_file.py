"""A student's ZIP: out, in again, the same; and whatever else such a file may hold is refused with nothing stored."""

from __future__ import annotations

import json
import re
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.jobs import tasks
from lacertus.services.corrections import correct
from lacertus.services.people import accounts, people
from lacertus.services.progress import follow_up
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepChanges
from lacertus.services.sheets import sheet
from lacertus.services.techniques import catalogue
from lacertus.services.transfer import student_in, student_out
from lacertus.store.media import media, original_key
from lacertus.store.tables import Clip, JudgementRow, RepRow, Review, Student
from tests.halls import Hall
from tests.services.progress.rung_reps import done
from tests.services.transfer.student_files import UUID, changed, clips_with_files, first, rows, written


@pytest.fixture
def whole(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truths: dict[str, Any], tmp_path: Path) -> Path:
    return written(db, where, review, rep, truths, tmp_path)


def nameless(path: Path) -> str:
    """The rows with every id named in order of its coming, so that two files can be compared."""
    known: dict[str, str] = {}
    data = rows(path)
    order = sorted(data["reps"], key=lambda r: (r["first_frame"], r["linked_to"] is None))
    revisions = sorted(data["revisions"], key=lambda r: int(r["number"]))
    text = json.dumps([data["student"], data["clips"], order, data["corrections"], revisions, data["techniques"]])
    return re.sub(UUID, lambda m: known.setdefault(m.group(), f"id-{len(known)}"), text)


def test_it_comes_back_in_another_academy_the_same(db: Session, where: Hall, whole: Path, tmp_path: Path) -> None:
    other = accounts.create_academy(db, "Elsewhere").id
    student, clips = student_in.read(db, other, whole)
    db.commit()
    assert (student.name, student.academy_id, len(clips)) == ("A Student", other, 1)
    tasks.read_clip(str(clips[0]))
    db.expire_all()
    again = tmp_path / "again.zip"
    student_out.write(db, other, student.id, again)
    assert nameless(again) == nameless(whole)
    both = ((where.academy, where.student), (other, student.id))
    before, after = ({row.history.fault: row.history.ledger.misses for row in follow_up.ledger_page(db, *of).faults} for of in both)
    assert before == after != {}
    (review,) = db.scalars(select(Review.id).where(Review.academy_id == other))
    assert sheet.latest(db, other, review)[1].number == 2
    (drawn,) = loading.load(db, other, review).corrections
    assert b"".join(media().read(correct.voice_file(db, other, drawn.id), 0, 99)) == b"sound"
    assert media().size(original_key(clips[0])) > 1000
    kick = catalogue.newest(db, other, "front-kick")
    assert kick.academy_id is None, "what is shipped here is not brought in again"


def test_the_same_clip_is_not_there_twice(db: Session, where: Hall, whole: Path) -> None:
    with pytest.raises(BadInput, match="in your academy already"):
        student_in.read(db, where.academy, whole)


BAD: dict[str, tuple[Callable[[dict[str, Any]], object], dict[str, bytes], str]] = {
    "a path out of the folder": (lambda d: None, {"media/../../evil": b"x"}, "no name of ours"),
    "an absolute path": (lambda d: None, {"/etc/passwd": b"x"}, "no name of ours"),
    "another name": (lambda d: None, {"readme.txt": b"x"}, "no name of ours"),
    "another version": (lambda d: d.update(lacertus_student=3), {}, "version 1 or 2"),
    "rows that are no list": (lambda d: d.update(reps={}), {}, "no list of rows"),
    "an unknown column": (lambda d: first(d, "reps", admin=True), {}, "other columns"),
    "a missing column": (lambda d: d["reps"][0].pop("side"), {}, "other columns"),
    "a wrong type": (lambda d: first(d, "reps", first_frame="x"), {}, "rep.first_frame in this file does not fit"),
    "a side that is none": (lambda d: first(d, "reps", side="up"), {}, "rep.side in this file"),
    "a value that the table refuses": (lambda d: first(d, "reps", first_frame=9, last_frame=3), {}, "do not fit each other"),
    "a rep outside its clip": (lambda d: first(d, "reps", last_frame=99_999), {}, "range"),
    "an event that the technique has not": (lambda d: first(d, "events", event="moonwalk"), {}, "none of its technique"),
    "another student": (lambda d: first(d, "reviews", student_id=str(uuid.uuid4())), {}, "another student"),
    "a technique that is not there": (lambda d: d.update(techniques=[]), {}, "does not hold"),
    "a technique that is none": (lambda d: first(d, "techniques", body={"lacertus_technique": 1}), {}, "missing"),
    "a mark that is none": (lambda d: first(d, "corrections", marks=[{"kind": "star"}]), {}, "correction.marks in this file"),
    "a sheet that is none": (lambda d: first(d, "revisions", sheet={"x": 1}), {}, "revision.sheet in this file"),
    "a record that is none": (lambda d: first(d, "revisions", record={"reps": 3}), {}, "revision.record in this file"),
    "a picture beside that is none": (lambda d: first(d, "corrections", beside={"x": 1}), {}, "correction.example in this file"),
    "a naming that is none": (lambda d: first(d, "clips", naming={"belt": "blue"}), {}, "clip.naming in this file"),
    "a height that is none": (
        lambda d: first(d, "reviews", heights_px={"performer": "tall"}),
        {},
        "review.heights_px in this file",
    ),
    "a review of a clip that is not there": (lambda d: first(d, "reviews", clip_id=str(uuid.uuid4())), {}, "do not fit"),
}


@pytest.mark.parametrize("name", ["events", "points", "judgements"])
def test_no_row_is_hung_on_somebody_elses_rep(db: Session, where: Hall, whole: Path, name: str) -> None:
    """The rep is there, in the academy that the file came from, but the file does not hold it."""
    known = set(db.scalars(select(RepRow.id)))
    done(db, where, "front-kick", "solo", ["met"], 5)
    (alien,) = set(db.scalars(select(RepRow.id))) - known
    other = accounts.create_academy(db, "Elsewhere").id
    db.commit()
    with pytest.raises(BadInput, match="do not fit each other"):
        student_in.read(db, other, changed(whole, lambda d: first(d, name, rep_id=str(alien))))


@pytest.mark.parametrize("case", BAD)
def test_what_does_not_fit_is_refused_and_nothing_is_stored(db: Session, where: Hall, whole: Path, case: str) -> None:
    change, extra, words = BAD[case]
    other = accounts.create_academy(db, "Elsewhere").id
    db.commit()

    def count() -> tuple[Any, ...]:
        tables = (Student, Clip, Review, JudgementRow)
        return *(db.scalar(select(func.count()).select_from(table)) for table in tables), clips_with_files()

    before = count()
    with pytest.raises(BadInput, match=words):
        student_in.read(db, other, changed(whole, change, extra))
    db.rollback()
    assert count() == before


@pytest.mark.parametrize("cut_off", [0, 10, 2000])
def test_a_torn_file_is_refused(db: Session, where: Hall, whole: Path, cut_off: int) -> None:
    torn = whole.with_name("torn.zip")
    torn.write_bytes(whole.read_bytes()[:cut_off])
    with pytest.raises(BadInput, match="no whole ZIP"):
        student_in.read(db, where.academy, torn)


def test_what_others_did_in_the_same_clip_stays_theirs(
    db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, tmp_path: Path
) -> None:
    other = people.create_student(db, where.academy, "B Student").id
    reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"student_id": other}))
    db.commit()
    target = tmp_path / "one.zip"
    student_out.write(db, where.academy, where.student, target)
    assert rows(target)["reps"] == []
    assert str(other) not in json.dumps(rows(target))


def test_an_older_version_of_a_technique_judges_the_old_reps_alone(db: Session, where: Hall, whole: Path) -> None:
    def older(data: dict[str, Any]) -> None:
        data["techniques"][0]["body"]["summary"] = "As it was taught once."

    other = accounts.create_academy(db, "Elsewhere").id
    student_in.read(db, other, changed(whole, older))
    db.commit()
    (review,) = db.scalars(select(Review.id).where(Review.academy_id == other))
    judged_by = loading.load(db, other, review).reps[0].technique_version
    assert catalogue.definition(judged_by).summary == "As it was taught once."
    assert catalogue.definition(catalogue.newest(db, other, "front-kick")).summary != "As it was taught once."
