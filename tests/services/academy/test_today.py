"""The coach's day, gathered from an academy."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.clips.naming import Naming
from lacertus.core.errors import BadInput
from lacertus.core.plan.today import Kind
from lacertus.core.techniques.practice import Dose
from lacertus.services.academy import decisions, today, working_time
from lacertus.services.classes import calendar, floor
from lacertus.services.errors import NotAllowed
from lacertus.services.people import inbox, people
from lacertus.services.people.rights import Right, act_as
from lacertus.services.practice import known, prescriptions
from lacertus.services.practice.prescriptions import Wish
from lacertus.services.sheets import finish
from lacertus.store.tables import Account, Clip, Review
from tests import watch
from tests.halls import Hall
from tests.services.progress.rung_reps import TODAY, done


def coach(db: Session, where: Hall) -> uuid.UUID:
    return db.scalars(select(Account.id).where(Account.academy_id == where.academy)).one()


def day(db: Session, where: Hall, minutes: float | None = None, on: date = TODAY) -> today.Day:
    return today.day(db, where.academy, coach(db, where), minutes, on)


def kinds(found: today.Day) -> list[list[str]]:
    return [[reason.reason.kind.value for reason in task.reasons] for task in found.chosen]


def clip(db: Session, where: Hall, days_ago: int, **more: object) -> Clip:
    values: dict[str, object] = {
        "academy_id": where.academy, "student_id": where.student, "name": f"clip {days_ago}", "state": "ready",
        "filmed_on": TODAY - timedelta(days=days_ago),
        "created_at": datetime(2026, 6, 1, 12, tzinfo=UTC) - timedelta(days=days_ago),
    }  # fmt: skip
    row = Clip(**values | more)
    db.add(row)
    db.commit()
    return row


def test_a_new_academy_has_nothing_to_do(db: Session, where: Hall) -> None:
    found = day(db, where)
    assert (found.chosen, found.left, found.minutes, found.classes) == ((), (), 0.0, ())


def test_a_safety_fault_comes_first_from_its_recheck_day_on(db: Session, where: Hall) -> None:
    done(db, where, "outer-reap", "static_partner", ["missed"] * 3, 10)
    early = day(db, where, on=TODAY - timedelta(days=9))
    assert "safety" not in [kind for own in kinds(early) for kind in own]
    found = day(db, where)
    assert kinds(found)[0][0] == "safety"
    assert found.chosen[0].overdue_days == 7
    assert found.chosen[0].path == f"/students/{where.student}"


def test_rechecks_and_a_waiting_clip_of_the_technique_are_one_item(db: Session, where: Hall) -> None:
    done(db, where, "front-kick", "solo", ["missed"] * 4, 20)
    waiting = clip(db, where, 2, naming=Naming(technique="front-kick"), proposals=((0, 9), (10, 19), (20, 29)))
    (task,) = [one for one in day(db, where).chosen if "review" in [reason.reason.kind for reason in one.reasons]]
    assert {reason.reason.kind for reason in task.reasons} == {Kind.SAFETY, Kind.RECHECK, Kind.REVIEW}
    assert task.task.item.severity == 6
    # 2 + 0.6 × 3 minutes, rounded up.
    assert (task.task.item.minutes, task.path) == (4.0, f"/bench/{waiting.id}")
    assert "3 reps" in " ".join(reason.words for reason in task.reasons)


def test_what_fits_into_the_minutes_is_chosen_and_the_rest_stands_below(db: Session, where: Hall) -> None:
    clip(db, where, 2, naming=Naming(technique="front-kick"), proposals=((0, 9),) * 10)
    clip(db, where, 1, student_id=None, name="nobody.mp4")
    found = day(db, where, 2)
    assert (kinds(found), found.minutes) == ([["name"]], 1.0)
    assert [task.reasons[0].reason.kind for task in found.left] == [Kind.REVIEW]
    with pytest.raises(BadInput, match="0 to 1440"):
        day(db, where, -1)


def test_pain_and_questions_wait_in_the_queue_until_they_are_dealt_with(db: Session, where: Hall) -> None:
    student = people.student(db, where.academy, where.student)
    hurts, _ = inbox.put(db, student, inbox.Item(kind="pain", words="my knee"))
    inbox.put(db, student, inbox.Item(kind="question", words="Which foot first?"))
    now = datetime.now(UTC)
    (asked,) = floor.note(
        db, where.academy,
        floor.Noted(kind="question", students=(where.student,), key=uuid.uuid4(), at=now, words="Why bend?"), None,
    )  # fmt: skip
    found = day(db, where, on=now.date())
    assert kinds(found) == [["pain"], ["question"], ["question"]]
    assert found.chosen[0].task.item.safety and found.chosen[0].path == "/inbox"
    inbox.settle(db, where.academy, hurts.id, True, coach(db, where))
    floor.settle(db, where.academy, asked.id, True)
    assert kinds(day(db, where, on=now.date())) == [["question"]]


def test_a_relapse_asks_for_a_prescription_until_there_is_one(db: Session, where: Hall) -> None:
    for days in (120, 115):
        done(db, where, "front-kick", "solo", ["missed"] * 5, days)
    for days in (100, 90, 80, 70, 60, 50):
        done(db, where, "front-kick", "solo", ["met"] * 8, days)
    done(db, where, "front-kick", "solo", ["missed"] * 5, 1)
    found = [one for one in day(db, where).chosen if one.reasons[0].reason.kind is Kind.RELAPSE]
    assert found
    fault = found[0].task.item.id.rsplit(":", 1)[1]
    wish = Wish(technique="front-kick", faults=(fault,), dose=Dose(reps=10), name="Wall drill")
    prescriptions.prescribe(db, where.academy, where.student, wish, None, TODAY)
    left = [one.task.item.id for one in day(db, where).chosen if one.reasons[0].reason.kind is Kind.RELAPSE]
    assert found[0].task.item.id not in left and len(left) == len(found) - 1


def test_a_rung_that_is_ready_waits_for_the_coachs_word(db: Session, where: Hall) -> None:
    for days in (9, 5, 2):
        done(db, where, "front-kick", "solo", ["met"] * 6, days)
    from lacertus.services.progress import rungs

    rungs.say_sure(db, where.academy, where.student, "front-kick", "performer", True, TODAY)
    (task,) = [one for one in day(db, where).chosen if one.reasons[0].reason.kind is Kind.RUNG]
    assert "decide whether to advance" in task.reasons[0].words
    rungs.decide(db, where.academy, where.student, "front-kick", "advance", "", None, TODAY)
    assert Kind.RUNG not in [one.reasons[0].reason.kind for one in day(db, where).chosen]


def test_rungs_of_many_are_looked_at_little_by_little_and_said(db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(today, "WORK_OUT_S", 0.0)
    other = people.create_student(db, where.academy, "Another").id
    for student in (where.student, other):
        done(db, where, "front-kick", "solo", ["met"] * 3, 2, student)
    assert [day(db, where).looking for _ in range(2)] == [1, 0]
    # What was worked out is kept in the database: a new start begins with it.
    known._states.forget()
    decisions._states.forget()
    assert day(db, where).looking == 0
    # A review that is finished later is worked out anew.
    done(db, where, "front-kick", "solo", ["missed"] * 3, 1, other)
    assert any(reason.student == "Another" for task in day(db, where).chosen for reason in task.reasons)


def test_who_was_not_filmed_for_four_weeks_is_told_and_who_left_is_not(db: Session, where: Hall) -> None:
    clip(db, where, 28, naming=Naming(drill="Wall drill"))
    (task,) = day(db, where).chosen
    assert (task.reasons[0].reason.kind, task.overdue_days) == (Kind.UNSEEN, 0)
    assert day(db, where, on=TODAY - timedelta(days=1)).chosen == ()
    people.archive(db, where.academy, where.student, True)
    assert day(db, where).chosen == ()


def test_the_classes_of_two_days_stand_beside_the_queue(db: Session, where: Hall) -> None:
    for ahead in (0, 1, 2):
        weekday = (TODAY + timedelta(days=ahead)).weekday()
        wish = calendar.WeeklyWish(name=f"In {ahead}", weekday=weekday, at=600, minutes=60, mats=4, since=TODAY)
        calendar.add(db, where.academy, wish)
    assert [one.name for one in day(db, where).classes] == ["In 0", "In 1"]


@watch.paused()
def test_the_coachs_own_pace_is_learnt_from_the_time_on_the_bench(
    db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
) -> None:
    assert working_time.change(db, where.academy, review, 90) == 90
    assert working_time.change(db, where.academy, review, 30) == 120
    assert working_time.change(db, where.academy, review, total_s=600) == 600
    finish.finish(db, where.academy, review)
    db.get_one(Review, review).account_id = coach(db, where)
    db.commit()
    clip(db, where, 0, naming=Naming(technique="front-kick"), proposals=((0, 9), (10, 19)))
    minutes = [one.task.item.minutes for one in day(db, where).chosen if one.path.startswith("/bench")]
    assert minutes == [20.0]
    act_as(db, "assistant")
    with pytest.raises(NotAllowed, match=str(Right.REVIEW)):
        working_time.change(db, where.academy, review, 1)
