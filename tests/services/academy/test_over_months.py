"""The academy over months, from finished reviews; and cues as marks on a fault's time."""

from __future__ import annotations

from datetime import date, timedelta

from pytest import approx
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from lacertus.core.progress.ledger import wilson
from lacertus.services.academy import common_faults
from lacertus.services.academy.over_months import MOST_FAULTS, over_months
from lacertus.services.people import people
from lacertus.store.tables import Account, Review
from tests import watch
from tests.halls import Hall
from tests.services.progress.rung_reps import TODAY, done


def first_of(day: date) -> date:
    return day.replace(day=1)


def test_faults_are_told_month_by_month_and_agree_with_the_common_ones(db: Session, where: Hall) -> None:
    coach = db.scalars(select(Account.id).where(Account.academy_id == where.academy)).one()
    done(db, where, "front-kick", "solo", ["missed", "missed", "met"] * 3, 5)
    done(db, where, "front-kick", "solo", ["met", "met"], 70)
    done(db, where, "back-fall", "seated", ["met"] * 4, 40)
    found = over_months(db, where.academy, coach, TODAY)
    assert (len(found.months), found.months[-1]) == (12, first_of(TODAY))
    assert all(one.day == 1 for one in found.months) and list(found.months) == sorted(found.months)
    assert 1 <= len(found.faults) <= MOST_FAULTS
    low = next(one for one in found.faults if one.fault == "low-chamber")
    assert low.technique_name == "Front kick"
    told = [(date.fromordinal(point.month), point.misses, point.exposures) for point in low.points]
    old, new = first_of(TODAY - timedelta(days=70)), first_of(TODAY - timedelta(days=5))
    assert told == [(old, 0, 2), (new, 6, 9)]
    page = common_faults.page(db, where.academy, TODAY, 365)
    counted = next(one.common for one in page.common if one.common.fault == "low-chamber")
    assert (sum(point.misses for point in low.points), sum(point.exposures for point in low.points)) == (
        counted.misses,
        counted.exposures,
    )


def test_a_student_who_came_twice_in_a_month_counts_once_in_its_interval(db: Session, where: Hall) -> None:
    coach = db.scalars(select(Account.id).where(Account.academy_id == where.academy)).one()
    other = people.create_student(db, where.academy, "Other").id
    for who in (where.student, where.student, other):
        done(db, where, "front-kick", "solo", ["missed", "met", "met", "met", "met"], 0, who)
    low = next(one for one in over_months(db, where.academy, coach, TODAY).faults if one.fault == "low-chamber")
    # Two students with seven and a half reps each: 1 + 0.2 × 6.5.
    assert [point.interval for point in low.points] == [approx(wilson(3, 15, 2.3))]


def test_what_lies_before_the_months_and_other_academies_are_left_out(db: Session, where: Hall) -> None:
    coach = db.scalars(select(Account.id).where(Account.academy_id == where.academy)).one()
    done(db, where, "front-kick", "solo", ["missed"] * 3, 500)
    assert over_months(db, where.academy, coach, TODAY).faults == ()


def test_the_pace_is_of_the_coachs_own_reviews_whose_time_was_counted(db: Session, where: Hall) -> None:
    coach = db.scalars(select(Account.id).where(Account.academy_id == where.academy)).one()
    for _ in range(2):
        done(db, where, "front-kick", "solo", ["met"] * 4, 5)
    with watch.paused():
        db.execute(update(Review).values(account_id=coach, worked_s=0.0))
        one = db.scalars(select(Review.id).limit(1)).one()
        db.execute(update(Review).where(Review.id == one).values(worked_s=480.0))
    (point,) = over_months(db, where.academy, coach, TODAY).pace
    assert (point.reviews, point.minutes) == (1, 2.0)
