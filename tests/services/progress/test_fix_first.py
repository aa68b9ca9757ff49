"""Fix first over a student's whole history, from finished reviews; the coach's choice is remembered; before and after; notes."""

from __future__ import annotations

import uuid
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import httpx
import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.progress.fix_first import FaultChoice
from lacertus.services.corrections import before_after
from lacertus.services.errors import NotFound
from lacertus.services.people import accounts, notes
from lacertus.services.progress import fix_first
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish as finishing
from lacertus.services.techniques import adaptations
from lacertus.store.tables import Clip, Student
from tests.halls import Hall, cut, read_in
from tests.services.progress.sessions import START, session

BAD, GOOD = {"toes": False, "side": "left"}, {"toes": True, "side": "left"}


def weeks(db: Session, where: Hall, *sessions: list[dict[str, Any]]) -> None:
    for number, reps in enumerate(sessions):
        session(db, where, number, [dict(rep) for rep in reps])


def faults(page: fix_first.FixFirstPage) -> list[str]:
    return [one.fault for one in page.first]


def test_it_looks_over_the_whole_history_and_says_why(db: Session, where: Hall) -> None:
    weeks(db, where, [BAD] * 3, [BAD] * 3, [GOOD] * 2 + [BAD])
    page = fix_first.page(db, where.academy, where.student)
    toes = next(one for one in page.first if one.fault == "toes-forward")
    assert toes.reason.startswith("a safety point · keeps coming back: missed in 7 of 9 reps over 3 sessions")
    assert (toes.checkpoint, toes.cue, page.recommended, page.chosen_on) == ("toes_back", "Toes to your nose", (), None)


def test_of_nothing_there_is_nothing_to_fix(db: Session, where: Hall) -> None:
    assert fix_first.page(db, where.academy, where.student) == fix_first.FixFirstPage(
        first=(), recommended=(), links=(), chosen_on=None
    )


def chosen(technique: str, fault: str) -> FaultChoice:
    return FaultChoice(technique=technique, fault=fault)


class TestChoosing:
    def test_the_coachs_choice_is_remembered_and_taken_back(self, db: Session, where: Hall) -> None:
        weeks(db, where, [BAD] * 3, [BAD] * 3)
        before = fix_first.page(db, where.academy, where.student)
        (other,) = [code for code in self.made(db, where) if code != "toes-forward"][:1] or ["toes-forward"]
        page = fix_first.choose(
            db, where.academy, where.student, [FaultChoice(technique="front-kick", fault=other)], " grading ", START
        )
        db.commit()
        db.expire_all()
        assert page == fix_first.page(db, where.academy, where.student)
        assert (faults(page), page.first[0].why, page.chosen_on) == ([other], "grading", START)
        assert page.recommended == before.first
        assert fix_first.choose(db, where.academy, where.student, [], "", START) == before

    @staticmethod
    def made(db: Session, where: Hall) -> list[str]:
        return faults(fix_first.page(db, where.academy, where.student))

    @pytest.mark.parametrize(
        ("choices", "why", "words"),
        [
            ([chosen("front-kick", "no-such")], "x", "never missed"),
            ([chosen("no-such", "toes-forward")], "x", "never missed"),
            ([chosen("front-kick", "toes-forward")] * 2, "x", "at most 2 different"),
            ([chosen("front-kick", "toes-forward")], "  ", "the reason is missing"),
        ],
    )
    def test_what_cannot_be_chosen_changes_nothing(
        self, db: Session, where: Hall, choices: list[FaultChoice], why: str, words: str
    ) -> None:
        weeks(db, where, [BAD] * 3)
        with pytest.raises(BadInput, match=words):
            fix_first.choose(db, where.academy, where.student, choices, why, START)
        assert fix_first.page(db, where.academy, where.student).chosen_on is None

    def test_what_is_not_asked_of_the_student_is_not_fixed(self, db: Session, where: Hall) -> None:
        weeks(db, where, [BAD] * 3)
        off = {"checkpoint": "toes_back", "action": "off", "reason": "a broken toe"}
        adaptations.adapt(db, where.academy, where.student, "front-kick", off)
        assert "toes-forward" not in faults(fix_first.page(db, where.academy, where.student))


def test_nobody_elses_student_is_shown(db: Session, where: Hall) -> None:
    other = accounts.create_academy(db, "Elsewhere").id
    for look in (
        lambda: fix_first.page(db, other, where.student),
        lambda: before_after.pictures(db, other, where.student, "front-kick", "toes-forward"),
        lambda: notes.notes(db, other, where.student),
        lambda: notes.add(db, other, where.student, "x", None, START),
    ):
        with pytest.raises(NotFound, match="There is no such student in your"):
            look()


class TestBeforeAndAfter:
    def test_the_first_rep_that_was_wrong_and_the_last_that_was_right(self, db: Session, where: Hall) -> None:
        weeks(db, where, [GOOD], [BAD, GOOD], [GOOD], [GOOD, BAD])
        before, after = before_after.pictures(db, where.academy, where.student, "front-kick", "toes-forward") or (None, None)
        assert before is not None and after is not None
        assert (before.filmed_on, before.verdict) == (START + timedelta(weeks=1), "missed")
        assert (after.filmed_on, after.verdict, after.side) == (START + timedelta(weeks=3), "met", "left")
        assert before.shapes != [] and before.has_film is False

    def test_where_it_was_never_right_again_the_last_is_shown(self, db: Session, where: Hall) -> None:
        weeks(db, where, [GOOD], [BAD], [BAD])
        before, after = before_after.pictures(db, where.academy, where.student, "front-kick", "toes-forward") or (None, None)
        assert before is not None and after is not None
        assert [(one.filmed_on - START).days for one in (before, after)] == [7, 14]
        assert after.verdict == "missed"

    def test_the_other_side_is_no_after(self, db: Session, where: Hall) -> None:
        weeks(db, where, [BAD], [{"toes": True, "side": "right"}])
        found = before_after.pictures(db, where.academy, where.student, "front-kick", "toes-forward")
        assert found is not None and found[1] is None

    def test_where_it_was_never_wrong_there_is_none(self, db: Session, where: Hall) -> None:
        weeks(db, where, [GOOD])
        assert before_after.pictures(db, where.academy, where.student, "front-kick", "toes-forward") is None

    def test_a_rep_with_its_film_goes_before_one_without(
        self, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
    ) -> None:
        weeks(db, where, [BAD])
        clip = read_in(db, where, clips["constant"], tmp_path, on=START + timedelta(weeks=9))
        review = reviewing.open_review(db, where.academy, clip).id
        rep = cut(db, where, review, truths["constant"]["reps"][0])
        reviewing.answer(db, where.academy, rep, "toes_back", False)
        finishing.finish(db, where.academy, review)
        db.commit()
        before, _ = before_after.pictures(db, where.academy, where.student, "front-kick", "toes-forward") or (None, None)
        assert before is not None
        times = db.scalar(select(Clip.pts_s).where(Clip.id == clip))
        assert times is not None
        assert (before.clip, before.rep, before.has_film) == (clip, rep, True)
        assert times[before.frame] < before.time_s < times[before.frame + 1]


class TestOverHttp:
    @pytest.fixture
    def path(self, client: httpx.Client, db: Session) -> str:
        student = db.scalars(select(Student)).one()
        weeks(db, Hall(academy=student.academy_id, student=student.id), [BAD] * 3, [GOOD] * 3)
        return f"/api/students/{student.id}"

    def test_what_to_fix_is_told_chosen_and_taken_back(self, client: httpx.Client, path: str) -> None:
        first = client.get(f"{path}/fix-first").json()["first"]
        assert {"toes-forward"} <= {one["fault"] for one in first}
        body = {"choices": [{"technique": "front-kick", "fault": "toes-forward"}], "why": "grading"}
        chosen = client.put(f"{path}/fix-first", json=body).json()
        assert (chosen["first"][0]["why"], chosen["first"][0]["technique_name"]) == ("grading", "Front kick")
        assert client.put(f"{path}/fix-first", json={"choices": []}).json()["first"] == first
        refused = client.put(f"{path}/fix-first", json=body | {"why": ""})
        assert refused.status_code == 400

    def test_before_and_after_are_told(self, client: httpx.Client, path: str) -> None:
        found = client.get(f"{path}/before-after", params={"of": "front-kick", "fault": "toes-forward"}).json()
        assert (found["before"]["verdict"], found["after"]["verdict"]) == ("missed", "met")
        none = client.get(f"{path}/before-after", params={"of": "front-kick", "fault": "no-such"}).json()
        assert none == {"before": None, "after": None}

    def test_notes_are_kept_newest_first_and_deleted(self, client: httpx.Client, path: str) -> None:
        client.post(f"{path}/notes", json={"words": "Tired today."})
        written = client.post(f"{path}/notes", json={"words": "Knee taped."}).json()
        assert [(one["words"], one["by"], one["noted_on"]) for one in written] == [
            ("Knee taped.", "A Coach", date.today().isoformat()),
            ("Tired today.", "A Coach", date.today().isoformat()),
        ]
        assert client.post(f"{path}/notes", json={"words": "  "}).status_code == 400
        left = client.delete(f"{path}/notes/{written[0]['id']}").json()
        assert [one["words"] for one in left] == ["Tired today."]
        assert client.delete(f"{path}/notes/{uuid.uuid4()}").status_code == 404
