"""Classes from the week to the booking: attendance, units, pairs, clock, and what is written afterwards."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.plan.clock import Clock
from lacertus.core.plan.lesson import PlannedPair, PlannedPairs, Teach, Unit
from lacertus.core.techniques.practice import Dose
from lacertus.services.classes import calendar, curriculum, lessons, partners
from lacertus.services.classes.calendar import WeeklyWish
from lacertus.services.classes.lessons import Change
from lacertus.services.errors import Conflict, NotAllowed, NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import act_as
from lacertus.services.practice import prescriptions
from lacertus.services.practice.prescriptions import Wish
from lacertus.store.tables import (
    Attendance,
    Lesson,
    PracticeLog,
    RungDecision,
    Taught,
    TrainedWith,
    WeeklyClass,
)
from tests.halls import Hall
from tests.services.progress.rung_reps import done

TODAY = datetime.now(UTC).date()
MONDAY = TODAY - timedelta(days=TODAY.weekday())


def weekly(db: Session, where: Hall, **more: object) -> WeeklyClass:
    day = TODAY
    values: dict[str, object] = {
        "name": "Evening", "weekday": day.weekday(), "at": 18 * 60, "minutes": 60, "mats": 10, "since": day - timedelta(days=70),
    }  # fmt: skip
    return calendar.add(db, where.academy, WeeklyWish(**values | more))  # type: ignore[arg-type]


def group(db: Session, where: Hall, size: int, passed: int = 0) -> list[uuid.UUID]:
    """Students, the first `passed` of whom have passed a back fall."""
    found = [people.create_student(db, where.academy, f"Student {n:02}").id for n in range(size)]
    for student in found[:passed]:
        for rung, after in (("kneeling", "squatting"), ("squatting", "standing"), ("standing", "standing")):
            db.add(
                RungDecision(
                    student_id=student, technique="back-fall", from_rung=rung, to_rung=after, decision="advance", advice="advance",
                    because="", decided_on=TODAY,
                )
            )  # fmt: skip
    db.commit()
    return found


def fall_passed(db: Session, where: Hall, students: list[uuid.UUID]) -> None:
    """All of the ladder of the back fall is passed."""
    ladder = curriculum.find_technique(db, where.academy, "back-fall").ladder
    for student in students:
        for rung, after in zip(ladder, [*ladder[1:], ladder[-1]], strict=True):
            db.add(
                RungDecision(
                    student_id=student, technique="back-fall", from_rung=rung, to_rung=after, decision="advance", advice="advance",
                    because="", decided_on=TODAY,
                )
            )  # fmt: skip
    db.commit()


def planned(db: Session, where: Hall, students: list[uuid.UUID], technique: str = "outer-reap", **more: object) -> Lesson:
    row = weekly(db, where, **more)
    calendar.set_members(db, where.academy, row.id, students)
    found = lessons.plan_weekly(db, where.academy, row.id, TODAY, None)
    layer = curriculum.find_technique(db, where.academy, technique).layers[0].id
    return lessons.change(db, where.academy, found.id, found.version, Change(teach=(Teach(technique=technique, layer=layer),)))


def test_a_class_begins_with_its_members_and_later_with_those_who_came_last_time(db: Session, where: Hall) -> None:
    some = group(db, where, 4)
    row = weekly(db, where)
    calendar.set_members(db, where.academy, row.id, some[:3])
    before = lessons.plan_weekly(db, where.academy, row.id, TODAY - timedelta(days=7), None)
    assert {one.student_id for one in before.attendance} == set(some[:3])
    lessons.book(db, where.academy, before.id, [some[0], some[3]], [], None)
    now = lessons.plan_weekly(db, where.academy, row.id, TODAY, None)
    assert {one.student_id for one in now.attendance} == {some[0], some[3]}
    assert lessons.plan_weekly(db, where.academy, row.id, TODAY, None).id == now.id
    with pytest.raises(BadInput, match="is not held on"):
        lessons.plan_weekly(db, where.academy, row.id, TODAY + timedelta(days=1), None)


def test_a_moved_class_is_planned_on_its_new_day(db: Session, where: Hall) -> None:
    row = weekly(db, where)
    calendar.except_on(db, where.academy, row.id, TODAY, TODAY + timedelta(days=2), 600)
    found = lessons.plan_weekly(db, where.academy, row.id, TODAY, None)
    assert (found.held_on, found.at, found.planned_on) == (TODAY + timedelta(days=2), 600, TODAY)
    assert [one.lesson for one in lessons.on_days(db, where.academy, TODAY, TODAY + timedelta(days=3))] == [found.id]
    with pytest.raises(BadInput, match="not held on"):
        calendar.except_on(db, where.academy, row.id, TODAY + timedelta(days=1), None, None)


def test_the_plan_fills_the_minutes_falls_first_and_keeps_what_is_locked(db: Session, where: Hall) -> None:
    some = group(db, where, 4)
    row = planned(db, where, some)
    row = lessons.make(db, where.academy, row.id, row.version)
    assert sum(unit.minutes for unit in row.units) == 60
    assert [unit.kind for unit in row.units][:2] == ["fall", "technique"] and row.units[-1].kind == "closing"
    assert all(unit.cautions for unit in row.units if unit.kind in ("fall", "technique"))
    layer = curriculum.find_technique(db, where.academy, "outer-reap").layers[0]
    assert [one.checkpoint for one in row.units[1].watch] == list(layer.checkpoints)[:2]
    locked = row.units[1].model_copy(update={"locked": True, "name": "As I want it"})
    at = row.units[0].minutes
    row = lessons.change(db, where.academy, row.id, row.version, Change(units=(row.units[0], locked, *row.units[2:]), minutes=75))
    row = lessons.make(db, where.academy, row.id, row.version)
    assert sum(unit.minutes for unit in row.units) == 75
    kept = next(unit for unit in row.units if unit.locked)
    before = sum(unit.minutes for unit in row.units[: row.units.index(kept)])
    assert (kept.name, kept.minutes, before) == ("As I want it", locked.minutes, at)


def test_students_with_the_same_fault_have_a_station_with_its_drill(db: Session, where: Hall) -> None:
    some = group(db, where, 3)
    for student in some[:2]:
        done(db, where, "front-kick", "solo", ["missed"] * 4, 2, student)
    row = planned(db, where, some, "front-kick")
    row = lessons.make(db, where.academy, row.id, row.version)
    stations = next(unit for unit in row.units if unit.key == "stations").stations
    assert [sorted(station.students) for station in stations] == [sorted(some[:2])]
    assert stations[0].dose is not None and stations[0].drill


def test_what_is_for_grown_ups_is_not_taught_to_children(db: Session, where: Hall) -> None:
    row = planned(db, where, group(db, where, 2), "arm-in-head-choke", for_children=True)
    with pytest.raises(BadInput, match="not for a class of children"):
        lessons.make(db, where.academy, row.id, row.version)


def test_who_changes_what_somebody_else_changed_meanwhile_is_told(db: Session, where: Hall) -> None:
    row = planned(db, where, group(db, where, 2))
    lessons.change(db, where.academy, row.id, row.version, Change(minutes=90))
    with pytest.raises(Conflict, match="changed this class meanwhile"):
        lessons.change(db, where.academy, row.id, 1, Change(minutes=30))
    assert lessons.lesson(db, where.academy, row.id).minutes == 90


def test_nobody_is_thrown_before_a_fall_is_passed_whatever_the_coach_allows(db: Session, where: Hall) -> None:
    some = group(db, where, 5)
    fall_passed(db, where, some[:4])
    partners.set_rule(db, where.academy, some[0], some[4], "allowed", "", None)
    partners.set_rule(db, where.academy, some[0], some[1], "apart", "they do not get on", None)
    row = planned(db, where, some)
    row = lessons.pair(db, where.academy, row.id, row.version)
    assert row.pairs is not None
    assert row.pairs.throw == "outer-reap"
    assert {frozenset(pair.students) for pair in row.pairs.pairs} in (
        {frozenset((some[0], some[2])), frozenset((some[1], some[3]))},
        {frozenset((some[0], some[3])), frozenset((some[1], some[2]))},
    )
    assert [(alone.student, "has not passed a fall" in alone.why) for alone in row.pairs.alone] == [(some[4], True)]
    by_hand = PlannedPairs(throw="outer-reap", pairs=(PlannedPair(students=(some[0], some[4])),))
    with pytest.raises(BadInput, match="Student 04: has passed no fall"):
        lessons.change(db, where.academy, row.id, row.version, Change(pairs=by_hand))
    swapped = PlannedPairs(throw="outer-reap", pairs=(PlannedPair(students=(some[0], some[1])),))
    row = lessons.change(db, where.academy, row.id, row.version, Change(pairs=swapped))
    assert row.pairs == swapped
    # Pairs of somebody who does not come any more are no pairs.
    row = lessons.change(db, where.academy, row.id, row.version, Change(coming=tuple(some[1:])))
    assert row.pairs is None


def test_the_clock_runs_on_the_server_and_a_skip_sent_twice_skips_once(db: Session, where: Hall) -> None:
    row = planned(db, where, group(db, where, 2))
    row = lessons.make(db, where.academy, row.id, row.version)
    act_as(db, "assistant")
    lessons.run(db, where.academy, row.id, "start")
    assert lessons.now_in(row).running
    lessons.run(db, where.academy, row.id, "skip", 0)
    lessons.run(db, where.academy, row.id, "skip", 0)
    assert lessons.now_in(row).unit == 1
    with pytest.raises(NotAllowed, match="plan classes"):
        lessons.book(db, where.academy, row.id, [], [], None)


def test_booking_writes_who_came_what_was_taught_and_everyones_practice(db: Session, where: Hall) -> None:
    some = group(db, where, 4)
    fall_passed(db, where, some)
    drill = Wish(technique="outer-reap", faults=("late-reap",), dose=Dose(sets=2, reps=5), name="Reap at the wall")
    fault = curriculum.find_technique(db, where.academy, "outer-reap").checkpoints[0].fault.code
    row = planned(db, where, some)
    prescribed = prescriptions.prescribe(
        db, where.academy, some[0], Wish(**vars(drill) | {"faults": (fault,)}), None, TODAY - timedelta(days=1)
    ).row
    row = lessons.make(db, where.academy, row.id, row.version)
    own = Unit(key="own:1", kind="drill", name="Reap at the wall", minutes=5, technique="outer-reap", dose=Dose(sets=2, reps=5))
    row = lessons.change(db, where.academy, row.id, row.version, Change(units=(*row.units, own)))
    row = lessons.pair(db, where.academy, row.id, row.version)
    for _ in range(2):
        row = lessons.book(db, where.academy, row.id, some[:3], [unit.key for unit in row.units], None)
    came = {one.student_id: one.came for one in db.scalars(select(Attendance).where(Attendance.lesson_id == row.id))}
    assert came == {some[0]: True, some[1]: True, some[2]: True, some[3]: False}
    assert {one.technique for one in db.scalars(select(Taught).where(Taught.taught_on == TODAY))} == {"outer-reap"}
    logged = list(db.scalars(select(PracticeLog).where(PracticeLog.name == "Reap at the wall")))
    assert sorted((one.student_id, one.prescription_id, one.amount) for one in logged) == sorted(
        (student, prescribed.id if student == some[0] else None, 10) for student in some[:3]
    )
    assert len(list(db.scalars(select(TrainedWith)))) == 1
    assert prescriptions.page(db, where.academy, some[0], TODAY).adherence is not None
    # Whoever trained together is not put together again at once.
    (together,) = db.scalars(select(TrainedWith))
    again = lessons.plan_once(db, where.academy, "Extra", TODAY, 600, 60, 10, None)
    lessons.change(db, where.academy, again.id, 1, Change(coming=tuple(some)))
    again = lessons.pair(db, where.academy, again.id, 2)
    assert again.pairs is not None
    assert {together.student_id, together.other_id} not in [set(pair.students) for pair in again.pairs.pairs]


def test_a_booking_that_is_deleted_takes_back_what_it_wrote(db: Session, where: Hall) -> None:
    some = group(db, where, 2)
    row = planned(db, where, some, "front-kick")
    row = lessons.make(db, where.academy, row.id, row.version)
    lessons.book(db, where.academy, row.id, some, [unit.key for unit in row.units], None)
    assert db.scalars(select(PracticeLog)).all() and db.scalars(select(Taught)).all()
    lessons.remove(db, where.academy, row.id)
    assert not db.scalars(select(PracticeLog)).all() and not db.scalars(select(Taught)).all()


def test_a_class_of_tomorrow_is_not_booked(db: Session, where: Hall) -> None:
    row = lessons.plan_once(db, where.academy, "Tomorrow", TODAY + timedelta(days=1), 600, 60, 10, None)
    with pytest.raises(BadInput, match="not been held yet"):
        lessons.book(db, where.academy, row.id, [], [], None)


def test_the_next_layer_is_proposed_once_enough_hold_the_one_before(db: Session, where: Hall) -> None:
    some = group(db, where, 3)
    row = planned(db, where, some, "front-kick")
    technique = curriculum.find_technique(db, where.academy, "front-kick")
    row = lessons.make(db, where.academy, row.id, row.version)
    lessons.book(db, where.academy, row.id, some, [unit.key for unit in row.units], None)
    taught = curriculum.taught_layers(db, where.academy, ["front-kick"])["front-kick"]
    assert [layer for layer, _ in taught] == [technique.layers[0].id]

    def told() -> tuple[str | None, bool]:
        everybody = [people.student(db, where.academy, one) for one in some]
        held = curriculum.held_layers(db, [technique], everybody, TODAY)
        found = curriculum.next_of(technique, taught, {str(one): held.get((one, "front-kick"), set()) for one in some})
        return found.layer, found.is_new

    assert told() == (technique.layers[0].id, False)
    for student in some:
        curriculum.say_holds(db, where.academy, student, "front-kick", technique.layers[0].id, True, None, TODAY)
    assert told() == (technique.layers[1].id, True)
    curriculum.say_holds(db, where.academy, some[0], "front-kick", technique.layers[0].id, None, None, TODAY)
    assert told() == (technique.layers[0].id, False)


def test_the_clock_survives_what_is_stored(db: Session, where: Hall) -> None:
    row = lessons.plan_once(db, where.academy, "Extra", TODAY, 600, 60, 10, None)
    row.units = (Unit(key="a", kind="own", name="A", minutes=1), Unit(key="b", kind="own", name="B", minutes=2))
    row.clock = Clock(unit=0, left_s=60, since=1000.0, running=True)
    db.commit()
    db.expire_all()
    found = lessons.now_in(lessons.lesson(db, where.academy, row.id), 1090.0)
    assert (found.unit, found.left_s, found.all_left_s) == (1, 90.0, 90.0)


def test_a_class_of_another_academy_is_not_there(db: Session, where: Hall) -> None:
    row = lessons.plan_once(db, where.academy, "Extra", TODAY, 600, 60, 10, None)
    with pytest.raises(NotFound, match="no such class"):
        lessons.lesson(db, uuid.uuid4(), row.id)
