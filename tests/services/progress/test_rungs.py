"""Rungs from finished reviews: where a student stands, what is recommended, falls first, and what the coach decided."""

from __future__ import annotations

from typing import Any

import httpx
import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.progress.rungs import Advice
from lacertus.library import shipped, shipped_technique
from lacertus.library.falls import falls, falls_for
from lacertus.services.errors import NotFound
from lacertus.services.people import accounts, people
from lacertus.services.progress import rungs
from lacertus.store.tables import Student
from tests.halls import Hall
from tests.services.progress.rung_reps import TODAY, done


def stand(db: Session, where: Hall, technique: str) -> rungs.Standing:
    return rungs.standing(db, where.academy, where.student, technique, TODAY)


@pytest.fixture
def ready(db: Session, where: Hall) -> None:
    """A front kick that holds on its first rung."""
    for days_ago in (20, 10):
        done(db, where, "front-kick", "solo", ["met"] * 6, days_ago)
    rungs.say_sure(db, where.academy, where.student, "front-kick", "performer", True, TODAY)
    db.commit()


def test_the_next_rung_is_recommended_with_the_number_that_decided(db: Session, where: Hall, ready: None) -> None:
    here = stand(db, where, "front-kick")
    assert (here.rung, here.recommendation.advice, here.reps) == ("solo", Advice.ADVANCE, 12)
    assert here.recommendation.because == "every core checkpoint holds, the least in 100 %"
    assert here.sure == {"performer": True}


def test_what_was_decided_is_kept_with_its_reason_and_moves_the_rung(db: Session, where: Hall, ready: None) -> None:
    made = rungs.decide(db, where.academy, where.student, "front-kick", "advance", "", None, TODAY)
    assert (made.from_rung, made.to_rung, made.advice) == ("solo", "static_partner", "advance")
    db.commit()
    here = stand(db, where, "front-kick")
    assert (here.rung, here.recommendation.advice) == ("static_partner", Advice.HOLD)
    assert here.recommendation.because.endswith("10 reps over 2 sessions are asked for")
    with pytest.raises(BadInput, match="say why"):
        rungs.decide(db, where.academy, where.student, "front-kick", "step_back", " ", None, TODAY)
    rungs.decide(db, where.academy, where.student, "front-kick", "step_back", "not steady yet", None, TODAY)
    db.commit()
    assert [(d.decision, d.why) for d in stand(db, where, "front-kick").decisions] == [
        ("step_back", "not steady yet"),
        ("advance", ""),
    ]
    with pytest.raises(BadInput, match="first rung"):
        rungs.decide(db, where.academy, where.student, "front-kick", "step_back", "again", None, TODAY)


def test_only_reps_on_the_rung_within_sixty_days_count(db: Session, where: Hall) -> None:
    done(db, where, "front-kick", "moving", ["met"] * 3, 5)
    done(db, where, "front-kick", "solo", ["met"] * 3, 4)
    done(db, where, "front-kick", "solo", ["met"] * 3, 61)
    here = stand(db, where, "front-kick")
    assert (here.rung, here.reps) == ("solo", 3)


def test_a_throw_is_withheld_until_a_classmate_has_passed_a_fall_that_fits(db: Session, where: Hall) -> None:
    done(db, where, "outer-reap", "static_partner", ["met"] * 6, 10)
    here = stand(db, where, "outer-reap")
    assert here.withheld
    assert here.falls == ("back-fall", "side-fall", "moving-backward-fall")
    other = people.create_student(db, where.academy, "Ana").id
    wrong = people.create_student(db, where.academy, "Bo").id
    for who, fall, rung in ((other, "back-fall", "standing"), (wrong, "front-fall", "together")):
        done(db, where, fall, rung, ["met"], 5, who)
        rungs.decide(db, where.academy, who, fall, "advance", "watched on the mat", None, TODAY)
    here = stand(db, where, "outer-reap")
    assert (here.withheld, here.may_be_thrown) == (False, ("Ana",))
    assert rungs.as_partner(db, where.academy, other).rungs == ("static_partner",)
    assert rungs.as_partner(db, where.academy, where.student) == rungs.AsPartner(passed=(), rungs=())
    rungs.decide(db, where.academy, other, "back-fall", "step_back", "the head went back", None, TODAY)
    assert rungs.as_partner(db, where.academy, other).rungs == ()
    assert stand(db, where, "outer-reap").withheld, "who was sent back has not passed the fall any more"


def test_nobody_is_sent_to_a_rung_on_which_nobody_can_be_thrown(db: Session, where: Hall) -> None:
    for days_ago in (20, 10):
        done(db, where, "outer-reap", "solo", ["met"] * 6, days_ago)
    rungs.say_sure(db, where.academy, where.student, "outer-reap", "performer", True, TODAY)
    here = stand(db, where, "outer-reap")
    assert here.recommendation.advice is Advice.HOLD
    says = "falls first: nobody has passed a back fall at “standing” or a side fall at “ordinary pace”"
    assert here.recommendation.because.startswith(says)


def test_the_last_rung_of_a_fall_can_be_passed(db: Session, where: Hall) -> None:
    done(db, where, "back-fall", "moving", ["met"], 5)
    made = rungs.decide(db, where.academy, where.student, "back-fall", "advance", "thrown ten times", None, TODAY)
    assert (made.from_rung, made.to_rung) == ("moving", "moving")


def test_safety_misses_step_back(db: Session, where: Hall) -> None:
    done(db, where, "back-fall", "low_squat", ["missed", "missed", "met"], 5)
    here = stand(db, where, "back-fall")
    assert here.recommendation.advice is Advice.STEP_BACK
    assert "safety misses in the last session" in here.recommendation.because


def test_every_throw_has_falls_that_are_there_and_nothing_else_asks_for_one() -> None:
    fits = {throw for fall in falls() for throw in shipped_technique(fall).fits}
    assert fits <= {technique.id for technique in shipped() if technique.family == "throw"}
    assert len({shipped_technique(fall).ladder for fall in falls()}) == len(falls()), "each fall has its own ladder"
    asked = {technique.id: falls_for(technique) for technique in shipped()}
    assert all(asked[technique.id] for technique in shipped() if technique.family == "throw")
    assert not any(asked[technique.id] for technique in shipped() if technique.family in ("kick", "fall", "submission"))


class TestOverHttp:
    @pytest.fixture
    def path(self, client: httpx.Client, db: Session) -> str:
        student = db.scalars(select(Student)).one()
        done(db, Hall(academy=student.academy_id, student=student.id), "front-kick", "solo", ["met"] * 3, 0)
        return f"/api/students/{student.id}/rungs"

    def test_feelings_and_decisions_are_kept_and_told(self, client: httpx.Client, path: str) -> None:
        (here,) = client.get(path).json()
        assert (here["rung"], here["sure"], here["advice"]) == ("solo", {"performer": None}, "hold")
        here = client.put(f"{path}/front-kick/sure", json={"who": "performer", "sure": True}).json()
        assert here["sure"] == {"performer": True}
        refused = client.post(f"{path}/front-kick/decision", json={"decision": "advance"})
        assert (refused.status_code, "say why" in refused.json()["message"]) == (400, True)
        here = client.post(f"{path}/front-kick/decision", json={"decision": "advance", "why": "seen live"}).json()
        assert (here["rung"], here["decisions"][0]["why"]) == ("static_partner", "seen live")

    @pytest.mark.parametrize(
        ("method", "way", "body"),
        [
            ("PUT", "front-kick/sure", {"who": "nobody", "sure": True}),
            ("POST", "front-kick/decision", {"decision": "jump"}),
            ("POST", "no-such/decision", {"decision": "hold"}),
        ],
    )
    def test_what_makes_no_sense_is_refused(self, client: httpx.Client, path: str, method: str, way: str, body: Any) -> None:
        assert client.request(method, f"{path}/{way}", json=body).status_code in (400, 404, 422)
        assert client.get(path).json()[0]["decisions"] == []


def test_nobody_elses_students_are_shown(db: Session, where: Hall) -> None:
    other = accounts.create_academy(db, "Elsewhere").id
    with pytest.raises(NotFound, match="There is no such student in your"):
        rungs.standings(db, other, where.student, TODAY)
