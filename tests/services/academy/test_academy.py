"""The academy at a glance, second opinions, and grades, from finished reviews."""

from __future__ import annotations

import uuid
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import httpx
import pytest
from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.academy import asked_opinions, common_faults, second_opinions, today
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.eye import progress as eye
from lacertus.services.eye.learner import Learner
from lacertus.services.people import accounts, people
from lacertus.services.progress import follow_up, grades, rungs
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish as finishing
from lacertus.store.tables import Account, Grade, JudgementRow, Opinion, RepRow, Review, Student, Tally
from tests import watch
from tests.halls import EMAIL, PASSWORD, Hall, cut, read_in
from tests.services.progress.rung_reps import TODAY, done


def students(db: Session, where: Hall, *names: str) -> list[uuid.UUID]:
    return [people.create_student(db, where.academy, name).id for name in names]


class TestCommonFaults:
    def test_a_fault_that_most_share_asks_about_the_teaching(self, db: Session, where: Hall) -> None:
        for who in (where.student, *students(db, where, "Two", "Three")):
            done(db, where, "front-kick", "solo", ["missed"] * 3, 5, who)
        page = common_faults.page(db, where.academy, TODAY)
        shown = next(one for one in page.common if one.common.fault == "low-chamber")
        assert (shown.common.teaching, shown.technique_name) == (True, "Front kick")
        assert [name for _, name in shown.students] == ["A Student", "Three", "Two"]
        assert (page.students, page.filmed, page.reps) == (3, 3, 9)

    @pytest.mark.parametrize(("days_ago", "counts"), [(29, True), (30, False), (0, True)])
    def test_only_the_last_days_count_today_with_them(self, db: Session, where: Hall, days_ago: int, counts: bool) -> None:
        done(db, where, "front-kick", "solo", ["missed"] * 3, days_ago)
        assert bool(common_faults.page(db, where.academy, TODAY).common) is counts

    def test_sql_and_the_ledger_agree(self, db: Session, where: Hall) -> None:
        done(db, where, "front-kick", "solo", ["missed", "borderline", "met", "not_seen"], 5)
        done(db, where, "back-fall", "seated", ["missed", "met", "borderline"], 3)
        faults = follow_up.ledger_page(db, where.academy, where.student).faults
        ledger = {(one.history.technique, one.history.fault): one.history.ledger for one in faults}
        common = {
            (one.common.technique, one.common.fault): one.common for one in common_faults.page(db, where.academy, TODAY).common
        }
        assert (
            {key: (one.misses, one.exposures) for key, one in ledger.items()}
            == {key: (one.misses, one.exposures) for key, one in common.items()}
            != {}
        )

    def test_what_a_student_did_in_several_reviews_is_added_up_before_it_is_weighed(self, db: Session, where: Hall) -> None:
        once, often, never = students(db, where, "Once", "Often", "Never")
        done(db, where, "front-kick", "solo", ["missed"], 9, once)
        done(db, where, "front-kick", "solo", ["missed", "met"], 9, often)
        done(db, where, "front-kick", "solo", ["missed"], 5, often)
        done(db, where, "front-kick", "solo", ["met"] * 3, 5, never)
        found = {one.common.fault: one for one in common_faults.page(db, where.academy, TODAY).common}
        low = found["low-chamber"]
        assert [name for _, name in low.students] == ["Often"]
        assert (low.common.asked, low.common.misses, low.common.exposures) == (2, 3, 7), "one rep is too little to tell"

    @watch.paused()
    def test_a_student_counts_once_though_the_fault_changed_its_family(self, db: Session, where: Hall) -> None:
        done(db, where, "front-kick", "solo", ["missed"] * 2, 9)
        done(db, where, "front-kick", "solo", ["missed"] * 2, 5)
        db.execute(update(JudgementRow).where(JudgementRow.filmed_on == TODAY - timedelta(days=9)).values(family="of old"))
        common = {one.common.fault: one.common for one in common_faults.page(db, where.academy, TODAY).common}
        assert (common["low-chamber"].asked, common["low-chamber"].misses) == (1, 4)

    @watch.paused()
    def test_demonstrations_do_not_count(self, db: Session, where: Hall) -> None:
        done(db, where, "front-kick", "solo", ["missed"] * 3, 5)
        for model in (RepRow, JudgementRow):
            db.execute(update(model).values(purpose="demonstration"))
        page = common_faults.page(db, where.academy, TODAY)
        assert (page.common, page.filmed, page.reps) == ((), 0, 0)

    def test_another_academy_is_not_counted(self, db: Session, where: Hall) -> None:
        done(db, where, "front-kick", "solo", ["missed"] * 3, 5)
        other = accounts.create_academy(db, "Elsewhere").id
        page = common_faults.page(db, other, TODAY)
        assert (page.common, page.unseen, page.students, page.reps) == ((), (), 0, 0)


def test_who_was_not_filmed_for_four_weeks_is_told_the_longest_first(db: Session, where: Hall) -> None:
    never, recent, long_ago, just = students(db, where, "Never", "Recent", "Long", "Just")
    for who, days_ago in ((where.student, 40), (recent, 27), (long_ago, 90), (just, 28)):
        done(db, where, "front-kick", "solo", ["met"], days_ago, who)
    unseen = common_faults.page(db, where.academy, TODAY).unseen
    assert [(one.name, one.last and (TODAY - one.last).days) for one in unseen] == [
        ("Never", None), ("Long", 90), ("A Student", 40), ("Just", 28),
    ]  # fmt: skip
    assert unseen[0].id == never


# --- second opinions ---------------------------------------------------------------------------------


def coach_of(db: Session) -> uuid.UUID:
    return db.scalars(select(Account.id).where(Account.email == EMAIL)).one()


@pytest.fixture
def second(db: Session, where: Hall) -> uuid.UUID:
    found = accounts.create_account(db, where.academy, "second@example.test", "Second Coach", PASSWORD).id
    db.commit()
    return found


@pytest.fixture
def judged(
    db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path, second: uuid.UUID
) -> tuple[uuid.UUID, uuid.UUID]:
    """A finished review of the first coach, of one rep: its chamber is low."""
    clip = read_in(db, where, clips["constant"], tmp_path)
    review = reviewing.open_review(db, where.academy, clip, coach_of(db)).id
    rep = cut(db, where, review, truths["constant"]["reps"][0])
    for checkpoint in ("hands_up", "toes_back"):
        reviewing.answer(db, where.academy, rep, checkpoint, checkpoint == "hands_up")
    finishing.finish(db, where.academy, review, coach_of(db))
    db.commit()
    return review, rep


class TestSecondOpinions:
    def test_it_is_given_without_seeing_the_first_and_then_both_are_shown(
        self, db: Session, where: Hall, second: uuid.UUID, judged: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        review, rep = judged
        (offer,) = second_opinions.offers(db, where.academy, second)
        assert (offer.review, offer.first, offer.begun) == (review, "A Coach", False)
        seen = second_opinions.look(db, where.academy, second, review)
        assert {point.first for one in seen.reps for point in one.checkpoints} == {None}
        for checkpoint, verdict in (("hands_up", "met"), ("toes_back", "met"), ("thigh_lifted", "missed")):
            second_opinions.give(db, where.academy, second, review, rep, checkpoint, verdict)
        assert second_opinions.offers(db, where.academy, second)[0].begun
        assert common_faults.page(db, where.academy, TODAY).agreeing.over_all is None, "it is not handed in yet"
        after = second_opinions.hand_in(db, where.academy, second, review)
        both = {point.id: (point.first, point.mine) for point in after.reps[0].checkpoints if point.mine}
        assert both == {"hands_up": ("met", "met"), "toes_back": ("missed", "met"), "thigh_lifted": ("missed", "missed")}
        assert second_opinions.offers(db, where.academy, second) == []

        agreeing = common_faults.page(db, where.academy, TODAY).agreeing
        assert agreeing.over_all is not None
        assert (agreeing.over_all.judged, agreeing.over_all.same) == (3, pytest.approx(2 / 3))
        assert [part.of for part in agreeing.pairs] == ["A Coach and Second Coach"]
        assert {part.of: part.agreement.judged for part in agreeing.ways} == {
            "by eye, by both": 2, "measured by one, by eye by the other": 1,
        }  # fmt: skip
        assert agreeing.checkpoints[0].of.startswith("Toes")
        # Of what was measured, the second coach saw the miss; what was answered by eye is no truth to hold it against.
        (told,) = eye.progress_of(db, Learner(academy=where.academy, account=second)).alarms
        assert (told[0], told[1].checkpoint, told[1].hits.n, told[1].hits.of) == ("front-kick", "thigh_lifted", 1, 1)
        assert told[1].false_alarms.of == 0

    def test_what_is_handed_in_stands_though_the_first_review_is_revised(
        self, db: Session, where: Hall, second: uuid.UUID, judged: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        review, rep = judged
        second_opinions.give(db, where.academy, second, review, rep, "toes_back", "met")
        second_opinions.hand_in(db, where.academy, second, review)
        before = common_faults.page(db, where.academy, TODAY).agreeing.over_all
        finishing.reopen(db, where.academy, review, "talked it over")
        reviewing.answer(db, where.academy, rep, "toes_back", True)
        finishing.finish(db, where.academy, review)
        db.expire_all()
        assert common_faults.page(db, where.academy, TODAY).agreeing.over_all == before
        with pytest.raises(Conflict, match="has been submitted"):
            second_opinions.give(db, where.academy, second, review, rep, "toes_back", "missed")

    def test_not_seen_is_kept_and_does_not_count(
        self, db: Session, where: Hall, second: uuid.UUID, judged: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        review, rep = judged
        second_opinions.give(db, where.academy, second, review, rep, "toes_back", "not_seen")
        second_opinions.give(db, where.academy, second, review, rep, "hands_up", "missed")
        second_opinions.give(db, where.academy, second, review, rep, "hands_up", None)
        second_opinions.hand_in(db, where.academy, second, review)
        assert [(one.checkpoint, one.verdict) for one in db.scalars(select(Opinion))] == [("toes_back", "not_seen")]
        assert common_faults.page(db, where.academy, TODAY).agreeing.over_all is None

    def test_it_goes_when_the_rep_goes(
        self, db: Session, where: Hall, second: uuid.UUID, judged: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        review, rep = judged
        second_opinions.give(db, where.academy, second, review, rep, "toes_back", "met")
        finishing.reopen(db, where.academy, review, "cut anew")
        reviewing.delete_rep(db, where.academy, rep)
        assert db.scalars(select(Opinion)).all() == []

    def test_a_coach_who_is_asked_by_name_has_it_in_the_day_until_it_is_given(
        self, db: Session, where: Hall, second: uuid.UUID, judged: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        review, rep = judged
        first = coach_of(db)
        (colleague,) = asked_opinions.colleagues(db, where.academy, review)
        assert (colleague.id, colleague.asked_on, colleague.given) == (second, None, False)
        for _ in range(2):
            asked_opinions.ask(db, where.academy, review, second, first, TODAY)
        (colleague,) = asked_opinions.colleagues(db, where.academy, review)
        assert (colleague.asked_on, colleague.asked_by) == (TODAY, "A Coach")
        for begun in (False, True):
            shown = [one.words for task in today.day(db, where.academy, second, None, TODAY).chosen for one in task.reasons]
            assert sum("A Coach asks for your second opinion" in words for words in shown) == 1, begun
            assert not any("Finish your second opinion" in words for words in shown)
            second_opinions.give(db, where.academy, second, review, rep, "toes_back", "met")
        assert asked_opinions.of_coach(db, where.academy, first) == []
        second_opinions.hand_in(db, where.academy, second, review)
        assert asked_opinions.of_coach(db, where.academy, second) == []
        with pytest.raises(Conflict, match="Second Coach has given"):
            asked_opinions.ask(db, where.academy, review, second, first, TODAY)

    def test_only_a_coach_who_did_not_judge_it_is_asked_and_the_asking_can_be_taken_back(
        self, db: Session, where: Hall, second: uuid.UUID, judged: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        review, _ = judged
        first = coach_of(db)
        helper = accounts.create_account(db, where.academy, "helper@example.test", "A Helper", PASSWORD, role="assistant").id
        for nobody in (helper, uuid.uuid4()):
            with pytest.raises(BadInput, match="choose a coach of your academy"):
                asked_opinions.ask(db, where.academy, review, nobody, first, TODAY)
        with pytest.raises(BadInput, match="your own second opinion"):
            asked_opinions.ask(db, where.academy, review, first, first, TODAY)
        asked_opinions.ask(db, where.academy, review, second, first, TODAY)
        asked_opinions.take_back(db, where.academy, review, second)
        assert asked_opinions.of_coach(db, where.academy, second) == []
        with pytest.raises(NotFound, match="was not asked"):
            asked_opinions.take_back(db, where.academy, review, second)
        finishing.reopen(db, where.academy, review, "look again")
        with pytest.raises(Conflict, match="finished review"):
            asked_opinions.ask(db, where.academy, review, second, first, TODAY)

    def test_what_cannot_be_judged_a_second_time_is_refused(
        self, db: Session, where: Hall, second: uuid.UUID, judged: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        review, rep = judged
        with pytest.raises(Conflict, match="your own"):
            second_opinions.look(db, where.academy, coach_of(db), review)
        with pytest.raises(BadInput, match="nothing is judged yet"):
            second_opinions.hand_in(db, where.academy, second, review)
        for odd, checkpoint in ((rep, "no-such"), (uuid.uuid4(), "toes_back")):
            with pytest.raises(BadInput, match="no such rep and checkpoint"):
                second_opinions.give(db, where.academy, second, review, odd, checkpoint, "met")
        other = accounts.create_academy(db, "Elsewhere").id
        with pytest.raises(NotFound, match="There is no such review in your"):
            second_opinions.look(db, other, second, review)
        finishing.reopen(db, where.academy, review, "once more")
        with pytest.raises(Conflict, match="is open"):
            second_opinions.look(db, where.academy, second, review)
        assert second_opinions.offers(db, where.academy, second) == []

    def test_over_http(
        self, client: httpx.Client, db: Session, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
    ) -> None:
        student = db.scalars(select(Student)).one()
        where = Hall(academy=student.academy_id, student=student.id)
        other = accounts.create_account(db, where.academy, "second@example.test", "Second Coach", PASSWORD).id
        clip = read_in(db, where, clips["constant"], tmp_path)
        review = reviewing.open_review(db, where.academy, clip, other).id
        rep = cut(db, where, review, truths["constant"]["reps"][0])
        finishing.finish(db, where.academy, review, other)
        db.commit()
        (offer,) = client.get("/api/academy").json()["offers"]
        assert offer["first"] == "Second Coach"
        path = f"/api/reviews/{review}/second"
        assert client.put(f"{path}/{rep}/thigh_lifted", json={"verdict": "borderline"}).status_code == 422
        shown = client.put(f"{path}/{rep}/thigh_lifted", json={"verdict": "missed"}).json()
        assert (shown["handed_in"], shown["first_coach"]) == (False, "Second Coach")
        assert client.post(path).json()["handed_in"] is True
        assert client.get("/api/academy", params={"days": 365}).json()["agreement"]["judged"] == 1


# --- grades ------------------------------------------------------------------------------------------


@pytest.fixture
def yellow(db: Session, where: Hall) -> Grade:
    """A grade that asks for two techniques, and towards which the student works."""
    made = grades.add(db, where.academy, "Yellow")
    grades.require(db, where.academy, made.id, "front-kick", "solo")
    grades.require(db, where.academy, made.id, "back-fall", "standing")
    grades.work_towards(db, where.academy, where.student, made.id)
    db.commit()
    return made


def held(db: Session, where: Hall) -> dict[str, grades.Held]:
    found = grades.progress(db, where.academy, where.student)
    assert found is not None
    return {one.technique.id: one for one in found[1]}


class TestGrades:
    def test_what_is_lacking_last_taught_and_last_filmed(self, db: Session, where: Hall, yellow: Grade) -> None:
        done(db, where, "front-kick", "solo", ["met"] * 3, 9)
        grades.note_taught(db, where.academy, "back-fall", TODAY - timedelta(days=3), None, TODAY)
        grades.note_taught(db, where.academy, "back-fall", TODAY - timedelta(days=8), None, TODAY)
        rungs.decide(db, where.academy, where.student, "front-kick", "advance", "seen live", None, TODAY)
        found = held(db, where)
        assert list(found) == ["back-fall", "front-kick"], "what is lacking comes first"
        kick, fall = found["front-kick"], found["back-fall"]
        assert (kick.passed, kick.passed_to, kick.last_taught, kick.last_filmed) == (True, "solo", None, TODAY - timedelta(days=9))
        assert (fall.passed, fall.passed_to, fall.last_taught) == (False, None, TODAY - timedelta(days=3))
        (shown,) = grades.curriculum(db, where.academy)
        assert {one.technique.id: one.lacking for one in shown.asked} == {"back-fall": ("A Student",), "front-kick": ()}

    def test_who_is_sent_back_has_not_passed_it_any_more(self, db: Session, where: Hall, yellow: Grade) -> None:
        for decision in ("advance", "step_back"):
            rungs.decide(db, where.academy, where.student, "front-kick", decision, "seen live", None, TODAY)
            db.flush()
        assert not held(db, where)["front-kick"].passed

    def test_a_higher_rung_holds_the_lower_ones(self, db: Session, where: Hall, yellow: Grade) -> None:
        done(db, where, "back-fall", "moving", ["met"], 2)
        rungs.decide(db, where.academy, where.student, "back-fall", "advance", "seen live", None, TODAY)
        assert (held(db, where)["back-fall"].passed, held(db, where)["back-fall"].passed_to) == (True, "moving")

    def test_they_are_named_moved_and_deleted(self, db: Session, where: Hall, yellow: Grade) -> None:
        green = grades.add(db, where.academy, "Green")
        assert [one.name for one in grades.grades(db, where.academy)] == ["Yellow", "Green"]
        grades.change(db, where.academy, green.id, up=True)
        grades.change(db, where.academy, green.id, name="First green", up=True)
        assert [one.name for one in grades.grades(db, where.academy)] == ["First green", "Yellow"]
        grades.change(db, where.academy, green.id, up=False)
        assert [one.name for one in grades.grades(db, where.academy)] == ["Yellow", "First green"]
        grades.remove(db, where.academy, yellow.id)
        db.commit()
        assert grades.progress(db, where.academy, where.student) is None
        assert [one.name for one in grades.grades(db, where.academy)] == ["First green"]

    def test_what_makes_no_sense_is_refused(self, db: Session, where: Hall, yellow: Grade) -> None:
        with pytest.raises(BadInput, match="no rung “thrown”"):
            grades.require(db, where.academy, yellow.id, "front-kick", "thrown")
        with pytest.raises(NotFound, match="There is no technique"):
            grades.require(db, where.academy, yellow.id, "no-such", "solo")
        with pytest.raises(NotFound, match="does not ask"):
            grades.require(db, where.academy, yellow.id, "triangle", None)
        with pytest.raises(Conflict, match="already"):
            grades.add(db, where.academy, " Yellow ")
        with pytest.raises(BadInput, match="on its day or later"):
            grades.note_taught(db, where.academy, "front-kick", TODAY + timedelta(days=1), None, TODAY)
        other = accounts.create_academy(db, "Elsewhere").id
        with pytest.raises(NotFound, match="There is no such grade in your"):
            grades.require(db, other, yellow.id, "front-kick", "solo")
        with pytest.raises(NotFound, match="There is no such student in your"):
            grades.work_towards(db, other, where.student, yellow.id)

    def test_over_http(self, client: httpx.Client, db: Session) -> None:
        student = db.scalars(select(Student.id)).one()
        (made,) = client.post("/api/grades", json={"name": "Yellow"}).json()
        path = f"/api/grades/{made['id']}"
        assert client.put(f"{path}/techniques/front-kick", json={"rung": "thrown"}).status_code == 400
        (asked,) = client.put(f"{path}/techniques/front-kick", json={"rung": "solo"}).json()[0]["asked"]
        assert (asked["name"], asked["rung"], asked["lacking"]) == ("Front kick", "solo", [])
        assert client.get(f"/api/students/{student}/grade").json() is None
        client.put(f"/api/students/{student}/grade", json={"grade": made["id"]}).raise_for_status()
        today = date.today().isoformat()
        client.put(f"/api/taught/front-kick/{today}").raise_for_status()
        found = client.get(f"/api/students/{student}/grade").json()
        assert [(one["technique"], one["passed"], one["last_taught"]) for one in found["held"]] == [("front-kick", False, today)]
        assert client.delete(f"/api/taught/front-kick/{today}").json()[0]["asked"][0]["last_taught"] is None
        assert client.delete(f"/api/taught/front-kick/{today}").status_code == 404
        assert client.patch(path, json={"name": "Gold", "up": True}).json()[0]["name"] == "Gold"
        assert client.delete(f"{path}/techniques/front-kick").json()[0]["asked"] == []
        assert client.delete(path).json() == []


class TestTally:
    """What the database adds up stays what the verdicts say, whatever happens to them."""

    def tallied(self, db: Session) -> dict[tuple[object, ...], tuple[int, int]]:
        db.flush()
        rows = db.execute(select(Tally.review_id, Tally.technique, Tally.fault, Tally.exposures, Tally.misses))
        return {tuple(row[:3]): (row[3], row[4]) for row in rows}

    def judged(self, db: Session) -> dict[tuple[object, ...], tuple[int, int]]:
        found: dict[tuple[object, ...], tuple[int, int]] = {}
        for row in db.scalars(select(JudgementRow)):
            missed = row.verdict == "missed" or (row.verdict == "borderline" and row.safety)
            if row.purpose != "demonstration" and (missed or row.verdict == "met"):
                key = (row.review_id, row.technique, row.fault)
                n, m = found.get(key, (0, 0))
                found[key] = n + 1, m + missed
        return found

    @watch.paused()
    def test_it_follows_what_comes_changes_and_goes(self, db: Session, where: Hall) -> None:
        done(db, where, "front-kick", "solo", ["missed", "met", "not_seen", "borderline"], 5)
        done(db, where, "back-fall", "seated", ["borderline", "met"], 3)
        assert self.tallied(db) == self.judged(db) != {}
        for change in (
            update(JudgementRow).where(JudgementRow.verdict == "met").values(verdict="missed"),
            update(JudgementRow).where(JudgementRow.technique == "back-fall").values(purpose="demonstration"),
            delete(RepRow).where(RepRow.first_frame == 0),
            update(JudgementRow).values(purpose="attempt"),
        ):
            before = self.tallied(db)
            db.execute(change.execution_options(synchronize_session=False))
            db.expire_all()
            assert self.tallied(db) == self.judged(db) != before
        db.execute(delete(Review).execution_options(synchronize_session=False))
        assert self.tallied(db) == {}

    def test_it_is_of_the_students_academy_and_day(self, db: Session, where: Hall) -> None:
        done(db, where, "front-kick", "solo", ["missed"], 5)
        rows = db.execute(select(Tally.academy_id, Tally.student_id, Tally.filmed_on).distinct()).all()
        assert [tuple(row) for row in rows] == [(where.academy, where.student, TODAY - timedelta(days=5))]
