"""From a finished review to the next class: prescribe, plan, run it on a phone, book it, and see the day change."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from lacertus.services.classes import calendar, lessons
from lacertus.services.classes.calendar import WeeklyWish
from lacertus.services.people import accounts, people
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish
from lacertus.store.tables import Account, Clip, FloorNote, Lesson, PracticeLog, Prescription, Review, Round
from tests import watch
from tests.browser import walk
from tests.browser.conftest import signed_in
from tests.drawn import default_of_rep
from tests.halls import PASSWORD, Hall, cut
from tests.place import Server


@pytest.fixture
def waiting(db: Session, where: Hall, clip: Any, truths: dict[str, Any]) -> Any:
    """A clip whose rep is judged and not finished yet."""
    review = reviewing.open_review(db, where.academy, clip).id
    rep = cut(db, where, review, truths["constant"]["reps"][0])
    default_of_rep(db, where, rep)
    db.commit()
    return clip


def held_today(db: Session, where: Hall, names: tuple[str, ...]) -> Any:
    today = datetime.now(UTC).date()
    wish = WeeklyWish(
        name="Evening class", weekday=today.weekday(), at=18 * 60, minutes=60, mats=6, since=today - timedelta(days=30)
    )
    row = calendar.add(db, where.academy, wish)
    who = [people.create_student(db, where.academy, name).id for name in names]
    calendar.set_members(db, where.academy, row.id, [where.student, *who])
    db.commit()
    return row.id


def test_from_a_finished_review_to_a_booked_class(
    page: Page, browser: Browser, server: Server, db: Session, where: Hall, waiting: Any
) -> None:
    held_today(db, where, ("Bela Novak", "Cleo Arrow", "Dora Finch"))
    page.goto(f"{server.url}/#/")
    first = page.get_by_test_id("chosen").locator("[data-task]").first
    expect(first).to_contain_text("A Student")
    expect(first).to_contain_text("1 rep")

    # One key opens the next item where the work is; finishing leads to what to practise.
    page.keyboard.press("n")
    walk.finish(page)
    practice = page.get_by_label("Practice", exact=True)
    expect(practice).to_be_visible()
    practice.get_by_role("button", name="Prescribe").first.click()
    expect(practice.get_by_role("button", name="Prescribed").first).to_be_disabled()
    assert len(db.scalars(select(Prescription)).all()) == 1

    # Today no longer asks for the review, and offers the class to be planned.
    page.get_by_role("link", name="Today", exact=True).click()
    expect(page.get_by_test_id("chosen").locator('[data-task^="clip:"]')).to_have_count(0)
    page.get_by_label("Classes").get_by_role("button", name="Plan it").first.click()
    expect(page.get_by_role("heading", name="Evening class")).to_be_visible()
    walk.pick(page, "teach", "Front kick")
    expect(page.locator('[data-teach="front-kick"]')).to_be_visible()
    page.get_by_role("button", name="Make the plan").click()
    expect(page.get_by_test_id("filled")).to_have_text("60 of 60 minutes")
    page.get_by_role("button", name="Make pairs").click()
    expect(page.get_by_test_id("pairs").locator("li")).to_have_count(2)

    # What is locked stays when the plan is made again; a unit is moved by its key.
    units = page.get_by_test_id("units").locator("li")
    last = units.last
    expect(last).to_have_attribute("data-unit", "closing")
    last.get_by_role("button", name="Lock: Closing").click()
    expect(last).to_have_attribute("data-locked", "true")
    page.get_by_role("button", name="Make it again").click()
    expect(units.last).to_have_attribute("data-locked", "true")
    expect(page.get_by_test_id("filled")).to_have_text("60 of 60 minutes")

    # At the mat, on a phone: the clock is the server's, over a reload too.
    lesson = db.scalars(select(Lesson.id)).one()
    with signed_in(browser, server, {"width": 390, "height": 844}) as phone:
        phone.goto(f"{server.url}/#/classes/{lesson}/run")
        expect(phone.get_by_test_id("unit")).to_contain_text("Front kick")
        before = phone.get_by_test_id("left").inner_text()
        phone.get_by_role("button", name="Start").click()
        expect(phone.get_by_test_id("left")).not_to_have_text(before)
        phone.reload()
        expect(phone.get_by_role("button", name="Pause")).to_be_visible()
        assert phone.evaluate("document.querySelector('main').scrollWidth") <= 390
        phone.get_by_role("button", name="Skip to the next unit").click()
        expect(phone.get_by_test_id("unit")).to_contain_text("Rounds")

        # Without a connection a note is kept, and sent once when it is back.
        phone.context.set_offline(True)
        phone.get_by_label("Whom it is about").select_option(label="Cleo Arrow")
        phone.get_by_label("Remark").fill("Chin stays in")
        phone.get_by_role("button", name="Remark").click()
        expect(phone.get_by_test_id("floor-waiting")).to_contain_text("1")
        phone.context.set_offline(False)
        expect(phone.get_by_test_id("floor-waiting")).to_have_count(0, timeout=40_000)
    db.expire_all()
    assert [note.words for note in db.scalars(select(FloorNote))] == ["Chin stays in"]

    # Booked: the practice of everyone present is written, and Today says so.
    page.get_by_role("button", name="Book it").click()
    page.get_by_role("dialog").get_by_label("Dora Finch").uncheck()
    page.get_by_role("dialog").get_by_role("button", name="Book it").click()
    expect(page.get_by_text("booked", exact=True)).to_be_visible()
    page.get_by_role("link", name="Today", exact=True).click()
    expect(page.get_by_label("Classes").get_by_role("link", name="Booked")).to_be_visible()
    db.expire_all()
    assert len({row.student_id for row in db.scalars(select(PracticeLog))}) == 3
    assert loading.load(db, where.academy, db.scalars(select(Prescription)).one().review_id).finished_at is not None  # type: ignore[arg-type]


def test_a_new_week_is_set_up_by_hand(page: Page, db: Session, where: Hall) -> None:
    page.get_by_role("link", name="Classes", exact=True).click()
    expect(page.get_by_text("No class yet")).to_be_visible()
    page.get_by_role("button", name="Add a class").click()
    form = page.get_by_role("dialog")
    form.get_by_label("Name").fill("Juniors")
    form.get_by_label("Begins at").fill("17:30")
    form.get_by_role("button", name="Save").click()
    weekly = page.locator('[data-weekly="Juniors"]')
    expect(weekly).to_contain_text("17:30")
    weekly.get_by_role("button", name="Members").click()
    page.get_by_role("dialog").get_by_label("A Student").check()
    page.get_by_role("dialog").get_by_role("button", name="Save").click()
    expect(weekly).to_contain_text("1 member,")
    page.locator('[data-class="Juniors"]').last.get_by_role("button", name="Move or call off").click()
    page.get_by_role("button", name="Call off", exact=True).click()
    expect(page.get_by_text("called off")).to_be_visible()
    page.get_by_role("button", name="Show the address").click()
    address = page.get_by_label("Address of the calendar").input_value()
    assert page.request.get(address).text().startswith("BEGIN:VCALENDAR")


def test_a_live_round_is_tallied_by_tap(page: Page, db: Session, where: Hall) -> None:
    people.create_student(db, where.academy, "Cleo Arrow")
    db.commit()
    page.reload()
    page.get_by_role("link", name="Classes", exact=True).click()
    page.get_by_role("link", name="Rounds and games").click()
    page.get_by_label("What scores").fill("A step out")
    walk.pick(page, "one", "A Student")
    walk.pick(page, "other", "Cleo Arrow")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("heading", name="A step out")).to_be_visible()
    page.get_by_role("button", name="Start").click()
    page.get_by_role("button", name="left").first.click()
    page.get_by_role("button", name="left").first.click()
    page.get_by_role("button", name="right").last.click()
    expect(page.get_by_test_id("wins")).to_contain_text("A Student won 1")
    page.get_by_role("button", name="Take the last tap back").click()
    expect(page.get_by_test_id("wins")).to_contain_text("points by round: 0, 0, 0")


def test_the_running_class_of_another_academy_is_not_shown(page: Page, server: Server, db: Session, where: Hall) -> None:
    other = lessons.plan_once(db, where.academy, "Extra", datetime.now(UTC).date(), 600, 60, 4, None)
    db.commit()
    page.goto(f"{server.url}/#/classes/{other.id}")
    expect(page.get_by_role("heading", name="Extra")).to_be_visible()
    page.goto(f"{server.url}/#/classes/00000000-0000-4000-8000-000000000007")
    expect(page.get_by_role("alert")).to_contain_text("no such class")


def test_a_round_is_cut_out_of_a_long_clip_by_two_thumbs(
    page: Page, server: Server, db: Session, where: Hall, waiting: Any
) -> None:
    page.goto(f"{server.url}/#/rounds")
    page.get_by_label("What scores").fill("Foot on the pad")
    walk.pick(page, "one", "A Student")
    page.get_by_label("From").select_option(value=str(waiting))
    begins = page.get_by_role("slider", name="The round begins")
    begins.focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    page.get_by_role("slider", name="The round ends").focus()
    page.keyboard.press("ArrowLeft")
    page.get_by_role("button", name="Read the round").click()
    expect(page.locator('[data-round="Foot on the pad"]')).to_be_visible()
    row = db.scalars(select(Round)).one()
    frames = db.get_one(Clip, waiting).frames_done
    assert (row.first_frame, row.last_frame) == (3, frames - 2)


def test_a_colleague_who_is_asked_for_a_second_opinion_finds_it_in_the_day(
    page: Page, browser: Browser, server: Server, db: Session, where: Hall, waiting: Any
) -> None:
    review = db.scalars(select(Review.id)).one()
    with watch.paused():
        db.execute(update(Review).values(account_id=db.scalars(select(Account.id)).one()))
    finish.finish(db, where.academy, review)
    accounts.create_account(db, where.academy, "second@example.test", "Second Coach", PASSWORD)
    db.commit()
    page.goto(f"{server.url}/#/sheet/{review}")
    asked = page.get_by_label("Second opinion", exact=True)
    asked.get_by_role("button", name="Ask Second Coach").click()
    expect(asked.get_by_text("asked on")).to_be_visible()
    with browser.new_context() as context:
        other = context.new_page()
        walk.sign_in(other, server.url, email="second@example.test")
        other.get_by_role("link", name="Today", exact=True).click()
        task = other.get_by_test_id("chosen").locator("[data-task]").filter(has_text="asks for your second opinion")
        task.get_by_role("link").click()
        expect(other.get_by_role("heading", name="Second opinion")).to_be_visible()
