"""Notes from the floor, rounds, and private calendars."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta

import icalendar
import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.plan.rounds import Tap
from lacertus.core.techniques.practice import Dose
from lacertus.outputs.calendar import feed_calendar
from lacertus.services.classes import calendar, feeds, floor, rounds
from lacertus.services.classes.calendar import WeeklyWish
from lacertus.services.classes.floor import Noted
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import people
from lacertus.services.practice import known, prescriptions
from lacertus.services.practice.prescriptions import Wish
from lacertus.services.transfer import forget
from lacertus.store.tables import Account, FloorNote, JudgementRow, RepRow, Round
from tests import watch
from tests.halls import Hall
from tests.services.progress.rung_reps import done

NOW = datetime.now(UTC)
TODAY = NOW.date()


def noted(where: Hall, kind: object = "fault", **more: object) -> Noted:
    given: dict[str, object] = {
        "kind": kind, "students": (where.student,), "key": uuid.uuid4(), "at": NOW, "technique": "front-kick",
        "checkpoint": "chamber_height",
    }  # fmt: skip
    return Noted(**given | more)  # type: ignore[arg-type]


def checkpoint_of(db: Session) -> str:
    from lacertus.library import shipped_technique

    return shipped_technique("front-kick").checkpoints[0].id


def test_a_note_is_kept_once_and_is_no_exposure(db: Session, where: Hall) -> None:
    done(db, where, "front-kick", "solo", ["missed"] * 3, 3)
    before = known.of_student(db, where.academy, people.student(db, where.academy, where.student)).faults
    verdicts = db.scalar(select(func.count()).select_from(JudgementRow))
    one = noted(where, checkpoint=checkpoint_of(db), unit="technique:front-kick")
    for _ in range(3):
        floor.note(db, where.academy, one, None)
    floor.note(db, where.academy, noted(where, "good", checkpoint=checkpoint_of(db)), None)
    assert [(shown.row.kind, bool(shown.ask)) for shown in floor.of_student(db, where.academy, where.student)] in (
        [("fault", True), ("good", True)],
        [("good", True), ("fault", True)],
    )
    assert floor.seen_lately(db, where.student, NOW - timedelta(days=30)) == {("front-kick", checkpoint_of(db)): 1}
    assert known.of_student(db, where.academy, people.student(db, where.academy, where.student)).faults == before
    assert db.scalar(select(func.count()).select_from(JudgementRow)) == verdicts


@pytest.mark.parametrize(
    ("changed", "match"),
    [
        ({"kind": "remark", "checkpoint": "", "technique": ""}, "write a word"),
        ({"checkpoint": "", "technique": ""}, "choose what was good"),
        ({"technique": ""}, "of which technique"),
        ({"students": ()}, "whom"),
        ({"at": NOW + timedelta(hours=1)}, "in the future"),
        ({"at": NOW - timedelta(days=15)}, "two weeks back"),
    ],
)
def test_a_note_that_says_nothing_or_comes_from_nowhen_is_refused(
    db: Session, where: Hall, changed: dict[str, object], match: str
) -> None:
    with pytest.raises(BadInput, match=match):
        floor.note(db, where.academy, noted(where, **{"kind": "fault", "checkpoint": checkpoint_of(db)} | changed), None)
    assert db.scalars(select(FloorNote)).all() == []


def test_a_note_about_another_academy_is_refused_whole(db: Session, where: Hall) -> None:
    with pytest.raises(NotFound, match="no such student"):
        floor.note(
            db, where.academy, noted(where, "remark", students=(where.student, uuid.uuid4()), checkpoint="", words="Good day"), None
        )
    db.rollback()
    assert db.scalars(select(FloorNote)).all() == []
    with pytest.raises(NotFound, match="no such checkpoint"):
        floor.note(db, where.academy, noted(where, checkpoint="no_such"), None)


def test_a_wish_to_film_stands_until_it_is_fulfilled(db: Session, where: Hall) -> None:
    (row,) = floor.note(db, where.academy, noted(where, "film", checkpoint="", words="From the side, please"), None)
    assert [one.words for one in floor.wishes(db, where.student)] == ["From the side, please"]
    floor.settle(db, where.academy, row.id, True)
    assert floor.wishes(db, where.student) == []


# --- rounds ----------------------------------------------------------------------------------------


def game(db: Session, where: Hall, **more: object) -> Round:
    other = people.create_student(db, where.academy, "Another").id
    values: dict[str, object] = {
        "objective": "A step out scores", "student": where.student, "other": other, "seconds": 60, "rounds": 2, "rest_s": 30,
        "held_on": TODAY,
    }  # fmt: skip
    return rounds.add(db, where.academy, rounds.Wish(**values | more), None)  # type: ignore[arg-type]


def tap(key: str, by: uuid.UUID, number: int = 1) -> Tap:
    return Tap(key=key, round=number, at_s=3.0, by=str(by), side="left")


def test_a_tally_counts_a_tap_once_and_takes_it_back(db: Session, where: Hall) -> None:
    row = game(db, where)
    assert row.other_id is not None
    for _ in range(2):
        rounds.tap(db, where.academy, row.id, [tap("a", where.student), tap("b", row.other_id), tap("c", where.student, 2)])
    rounds.tap(db, where.academy, row.id, [], ["b", "no-such"])
    shown = rounds.one(db, where.academy, row.id)
    assert shown.game is not None
    assert shown.game.wins == {str(where.student): 2, str(row.other_id): 0}
    with pytest.raises(BadInput, match="nobody in this round"):
        rounds.tap(db, where.academy, row.id, [tap("d", uuid.uuid4())])


def test_the_clock_of_a_game_goes_through_rounds_and_rests(db: Session, where: Hall) -> None:
    row = game(db, where)
    assert rounds.lengths_s(row) == [60, 30, 60]
    rounds.run(db, where.academy, row.id, "start")
    assert row.clock.since is not None
    assert rounds.now_in(row, row.clock.since + 70).unit == 1


def test_a_round_needs_two_people_and_numbers_that_can_be(db: Session, where: Hall) -> None:
    with pytest.raises(BadInput, match="one and the same"):
        game(db, where, other=where.student)
    with pytest.raises(BadInput, match="1 to 60 rounds"):
        game(db, where, rounds=99)


@watch.paused()
def test_attempts_that_were_cut_in_a_clip_are_counted(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
    cut = db.get_one(RepRow, rep)
    cut.outcome = "completed"
    db.commit()
    from lacertus.services.review import loading

    clip = loading.load(db, where.academy, review).clip
    last = len(clip.pts_s or []) - 1
    row = rounds.add(
        db, where.academy,
        rounds.Wish(objective="A kick that lands", student=where.student, other=None, seconds=1, held_on=clip.filmed_on,
                    clip=clip.id, first_frame=0, last_frame=last),
        None,
    )  # fmt: skip
    shown = rounds.one(db, where.academy, row.id)
    summary = shown.summaries["A Student"]
    assert (summary.over_all.attempts, summary.over_all.completed) == (1, 1)
    assert row.seconds == pytest.approx((clip.pts_s or [0])[-1])
    with pytest.raises(Conflict, match="has no clock"):
        rounds.run(db, where.academy, row.id, "start")
    with pytest.raises(BadInput, match=f"frames 0 to {last}"):
        rounds.add(
            db, where.academy,
            rounds.Wish(objective="x", student=where.student, other=None, seconds=1, held_on=TODAY, clip=clip.id, first_frame=5,
                        last_frame=last + 1),
            None,
        )  # fmt: skip


# --- calendars -------------------------------------------------------------------------------------


def events(db: Session, token: str) -> list[icalendar.Event]:
    found = feeds.read(db, token)
    made = feed_calendar(found.name, found.time_zone, found.entries, NOW)
    return list(icalendar.Calendar.from_ical(made).walk("VEVENT"))


def test_a_students_calendar_holds_their_classes_rechecks_and_practice_alone(db: Session, where: Hall) -> None:
    wish = WeeklyWish(name="Evening", weekday=TODAY.weekday(), at=18 * 60, minutes=90, mats=5, since=TODAY)
    mine = calendar.add(db, where.academy, wish)
    calendar.add(db, where.academy, WeeklyWish(**vars(wish) | {"name": "Other"}))
    calendar.set_members(db, where.academy, mine.id, [where.student])
    fault = "low-chamber"
    row = Wish(technique="front-kick", faults=(fault,), dose=Dose(reps=10), name="Wall drill")
    prescriptions.prescribe(db, where.academy, where.student, row, None, TODAY)
    token = feeds.of_student(db, where.academy, where.student)
    found = events(db, token)
    names = {str(one["summary"]) for one in found}
    assert names == {"Evening", "Practise: Wall drill"}
    assert sum(str(one["summary"]) == "Practise: Wall drill" for one in found) == 12
    first = next(one for one in found if str(one["summary"]) == "Evening")
    assert (first["dtstart"].dt, first["dtend"].dt - first["dtstart"].dt) == (
        datetime.combine(TODAY, datetime.min.time(), UTC) + timedelta(hours=18),
        timedelta(minutes=90),
    )


def test_a_renewed_address_shuts_the_old_one_and_a_made_up_one_tells_nothing(db: Session, where: Hall) -> None:
    account = db.scalars(select(Account.id).where(Account.academy_id == where.academy)).one()
    old = feeds.of_coach(db, where.academy, account)
    assert feeds.of_coach(db, where.academy, account) == old
    new = feeds.renew_coach(db, where.academy, account)
    assert feeds.read(db, new).name == "Hall: A Coach"
    for token in (old, new + "x", "", new[:-1] + ("A" if new[-1] != "A" else "B")):
        with pytest.raises(NotFound, match="no calendar at this address"):
            feeds.read(db, token)


def test_a_recheck_moves_to_the_students_next_class(db: Session, where: Hall) -> None:
    class_day = TODAY + timedelta(days=5)
    wish = WeeklyWish(name="Evening", weekday=class_day.weekday(), at=18 * 60, minutes=90, mats=5, since=TODAY)
    row = calendar.add(db, where.academy, wish)
    days = calendar.TrainingDays(db, where.academy, TODAY)
    assert days.due(where.student, TODAY.toordinal() + 1) == TODAY.toordinal() + 1
    calendar.set_members(db, where.academy, row.id, [where.student])
    days = calendar.TrainingDays(db, where.academy, TODAY)
    assert (days.due(where.student, TODAY.toordinal() + 1), days.next(where.student)) == (class_day.toordinal(), class_day)
    # What is overdue stays overdue.
    assert days.due(where.student, TODAY.toordinal() - 3) == TODAY.toordinal() - 3
    calendar.except_on(db, where.academy, row.id, class_day, None, None, "holiday")
    days = calendar.TrainingDays(db, where.academy, TODAY)
    assert days.due(where.student, TODAY.toordinal() + 1) == class_day.toordinal() + 7


def test_all_of_it_goes_with_a_student(db: Session, where: Hall) -> None:
    row = calendar.add(db, where.academy, WeeklyWish(name="Evening", weekday=0, at=0, minutes=90, mats=5, since=date(2026, 1, 5)))
    calendar.set_members(db, where.academy, row.id, [where.student])
    floor.note(db, where.academy, noted(where, "remark", checkpoint="", words="Good day"), None)
    game(db, where)
    feeds.of_student(db, where.academy, where.student)
    forget.forget(db, where.academy, where.student)
    assert db.scalars(select(FloorNote)).all() == [] and db.scalars(select(Round)).all() == []


def test_two_students_in_the_same_class_are_joined(db: Session, where: Hall) -> None:
    other = people.create_student(db, where.academy, "Double").id
    row = calendar.add(db, where.academy, WeeklyWish(name="Evening", weekday=0, at=0, minutes=90, mats=5, since=date(2026, 1, 5)))
    calendar.set_members(db, where.academy, row.id, [where.student, other])
    from lacertus.services.classes import partners

    partners.set_rule(db, where.academy, where.student, other, "apart", "", None)
    floor.note(db, where.academy, noted(where, "remark", students=(other,), checkpoint="", words="Good day"), None)
    forget.join(db, where.academy, where.student, other)
    assert [one.student_id for one in calendar.weekly_class(db, where.academy, row.id).members] == [where.student]
    assert [one.row.words for one in floor.of_student(db, where.academy, where.student)] == ["Good day"]
    assert partners.rules(db, where.academy) == []
