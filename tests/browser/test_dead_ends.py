"""Where a coach could get stuck or lose something, each tried as it happened: what the line says is enough to go on."""

from __future__ import annotations

import re
import uuid
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepCut
from lacertus.store.tables import Account, EventMark, PointRow, RepRow, Review, SignIn
from tests.browser import walk
from tests.halls import PASSWORD, Hall, read_in


@pytest.fixture
def begun(page: Page, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> dict[str, Any]:
    """The bench on a rep that is cut, with nothing marked in it."""
    truth = dict(truths["constant"]["reps"][0])
    clip = read_in(db, where, clips["constant"], tmp_path)
    review = reviewing.open_review(db, where.academy, clip, db.scalars(select(Account.id)).one()).id
    facts = {"first_frame": truth["range"][0], "last_frame": truth["range"][1], "side": "right"}
    reviewing.cut_rep(db, where.academy, review, "front-kick", RepCut.model_validate(facts))
    db.commit()
    page.goto(page.url.split("#")[0] + f"#/bench/{clip}")
    expect(page.get_by_test_id("frame")).to_be_visible()
    walk.first_picture(page)
    return truth | {"review": review}


def events(db: Session) -> dict[str, list[int]]:
    db.expire_all()
    return {mark.event: list(mark.frames) for mark in db.scalars(select(EventMark))}


def line(page: Page) -> Any:
    return page.get_by_test_id("next-event")


def test_the_line_says_what_is_next_and_enter_does_it(page: Page, db: Session, begun: dict[str, Any]) -> None:
    expect(line(page)).to_contain_text("Next: foot off")
    expect(line(page)).to_contain_text("Step to it with the arrow keys")
    # Nothing is marked by Enter before the coach has gone anywhere.
    page.keyboard.press("Enter")
    for event in ("foot_off", "knee_top"):
        walk.go_to(page, begun["events"][event][0])
        expect(line(page)).to_contain_text(f"mark it at frame {begun['events'][event][0]}")
        page.keyboard.press("Enter")
        walk.saved(page)
    assert events(db) == {event: begun["events"][event] for event in ("foot_off", "knee_top")}
    # An event that is not in this rep is left for later, or said not to have happened, by what the line offers.
    line(page).get_by_role("button", name="Later").click()
    expect(line(page)).to_contain_text("Next: folded")
    line(page).get_by_role("button", name="did not happen").click()
    walk.saved(page)
    assert events(db)["folded"] == []


def test_marks_made_after_the_sign_in_ran_out_are_kept_and_sent_in_place(page: Page, db: Session, begun: dict[str, Any]) -> None:
    first, second = begun["events"]["foot_off"][0], begun["events"]["knee_top"][0]
    walk.go_to(page, first)
    db.execute(delete(SignIn))
    db.commit()
    page.keyboard.press("1")
    again = page.get_by_role("alertdialog", name="Sign in again")
    expect(again).to_contain_text("is kept here")
    expect(again.get_by_label("E-mail")).to_have_value(re.compile("@"))
    expect(again.get_by_label("Password")).to_be_focused()
    assert events(db) == {}
    again.get_by_label("Password").fill(PASSWORD)
    again.get_by_role("button", name="Sign in").click()
    expect(again).to_have_count(0)
    walk.saved(page)
    # The bench is where it was, and goes on.
    expect(page.get_by_test_id("frame")).to_have_text(str(first))
    walk.go_to(page, second)
    page.keyboard.press("2")
    walk.saved(page)
    assert events(db) == {"foot_off": [first], "knee_top": [second]}


def test_what_another_window_changes_shows_and_nothing_is_overwritten_unseen(
    page: Page, db: Session, begun: dict[str, Any]
) -> None:
    other = page.context.new_page()
    other.goto(page.url)
    walk.first_picture(other)
    frame = begun["events"]["foot_off"][0]
    walk.go_to(other, frame)
    other.keyboard.press("1")
    walk.saved(other)
    # It shows by itself, with whose it is.
    expect(page.locator('[data-peg="foot_off"]')).to_have_attribute("data-frame", str(frame), timeout=4_000)
    expect(page.get_by_test_id("others")).to_contain_text("A Coach")
    # One that does not learn of it, as it lies in the background, is asked before it saves over it.
    page.evaluate("Object.defineProperty(document, 'hidden', { value: true })")
    walk.go_to(other, frame + 2)
    other.keyboard.press("1")
    walk.saved(other)
    walk.go_to(page, frame + 4)
    page.keyboard.press("1")
    asked = page.get_by_role("alertdialog", name="Changed meanwhile")
    expect(asked).to_contain_text("A Coach changed the same meanwhile")
    assert events(db) == {"foot_off": [frame + 2]}
    asked.get_by_role("button", name="Cancel").click()
    expect(page.locator('[data-peg="foot_off"]')).to_have_attribute("data-frame", str(frame + 2))
    walk.go_to(other, frame + 3)
    other.keyboard.press("1")
    walk.saved(other)
    page.keyboard.press("1")
    asked.get_by_role("button", name="Save mine").click()
    walk.saved(page)
    assert events(db) == {"foot_off": [frame + 4]}


def test_a_click_places_what_is_asked_for_also_on_top_of_another_point(page: Page, db: Session, begun: dict[str, Any]) -> None:
    top = begun["events"]["knee_top"][0]
    walk.go_to(page, top)
    page.keyboard.press("2")
    walk.saved(page)
    walk.row(page, "thigh_lifted").click()
    page.keyboard.press("p")
    hip = walk.landmark_on_screen(page, begun, "right_hip", top)
    for _ in range(2):
        page.mouse.click(*hip)
        walk.saved(page)
    placed = {(row.landmark, round(row.x)) for row in db.scalars(select(PointRow))}
    assert len(placed) == 2
    assert len({x for _, x in placed}) == 1
    # With Ctrl one that lies there is taken instead of placing the next.
    page.keyboard.down("Control")
    page.mouse.move(*hip)
    page.mouse.down()
    page.mouse.move(hip[0] + 30, hip[1], steps=3)
    page.mouse.up()
    page.keyboard.up("Control")
    walk.saved(page)
    db.expire_all()
    assert len(db.scalars(select(PointRow)).all()) == 2


def test_points_are_placed_and_a_review_finished_by_keyboard_alone(page: Page, db: Session, begun: dict[str, Any]) -> None:
    top = begun["events"]["knee_top"][0]
    walk.go_to(page, top)
    page.keyboard.press("2")
    walk.saved(page)
    for _ in range(12):
        if walk.row(page, "thigh_lifted").get_attribute("aria-selected") == "true":
            break
        page.keyboard.press("ArrowDown")
    page.keyboard.press("p")
    expect(line(page)).to_contain_text("Click the performer’s")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("cross")).to_be_visible()
    before = page.get_by_test_id("cross").locator("path").last.get_attribute("d")
    page.keyboard.press("Alt+ArrowRight")
    expect(page.get_by_test_id("cross").locator("path").last).not_to_have_attribute("d", str(before))
    page.keyboard.press("Enter")
    walk.saved(page)
    assert [row.frame for row in db.scalars(select(PointRow))] == [top]
    page.keyboard.press("Escape")
    # Tab is the browser's: it reaches every button, and Enter presses the one that has the focus.
    finish = page.get_by_role("button", name="Finish review")
    for _ in range(200):
        if finish.evaluate("button => button === document.activeElement"):
            break
        page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    left = page.get_by_role("dialog", name="Finish the review")
    expect(left).to_contain_text("Questions without an answer")
    # What cannot be finished says why, where it was asked for.
    page.keyboard.press("Enter")
    expect(left.get_by_role("alert")).to_contain_text("Nothing has been judged yet")
    # A key goes to what is left: the first question, which is answered by another.
    questions = left.get_by_role("button", name=re.compile("Both hands stay above"))
    questions.focus()
    page.keyboard.press("Enter")
    expect(left).to_have_count(0)
    page.keyboard.press("y")
    walk.saved(page)
    finish.focus()
    page.keyboard.press("Enter")
    expect(left.get_by_role("button", name="Finish anyway")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Sheet for A Student")).to_be_visible()
    # What was left is kept with the revision.
    was_left = page.get_by_test_id("was-left")
    was_left.locator("summary").click()
    expect(was_left).to_contain_text("not answered")
    db.expire_all()
    assert db.get_one(Review, uuid.UUID(str(begun["review"]))).finished_at is not None


def test_a_cut_that_is_too_short_is_extended_by_marking_outside_of_it(page: Page, db: Session, begun: dict[str, Any]) -> None:
    last = begun["range"][1]
    walk.go_to(page, last + 2)
    page.keyboard.press("5")
    expect(line(page)).to_contain_text(f"Frame {last + 2} lies outside rep 1")
    page.keyboard.press("Escape")
    assert events(db) == {}
    page.keyboard.press("5")
    page.keyboard.press("Enter")
    walk.saved(page)
    assert events(db) == {"foot_down": [last + 2]}
    assert db.scalars(select(RepRow.last_frame)).one() == last + 2


def test_tracking_with_nothing_placed_asks_for_points_first(page: Page, db: Session, begun: dict[str, Any]) -> None:
    walk.go_to(page, begun["events"]["knee_top"][0])
    page.keyboard.press("k")
    expect(line(page)).to_contain_text("Click the performer’s")
    expect(page.get_by_role("status").filter(has_text="a handful is enough, then K tracks the body")).to_be_visible()


def test_a_verdict_that_an_act_moved_is_named(page: Page, db: Session, begun: dict[str, Any]) -> None:
    walk.row(page, "hands_up").click()
    page.keyboard.press("y")
    walk.saved(page)
    expect(page.get_by_test_id("changed")).to_contain_text("not seen → met")
    expect(walk.row(page, "hands_up")).to_have_class(re.compile(r"\bmoved\b"))


def test_a_line_is_drawn_by_hand_and_a_note_spoken_by_one_key_each(page: Page, db: Session, begun: dict[str, Any]) -> None:
    walk.row(page, "hands_up").click()
    page.keyboard.press("n")
    walk.saved(page)
    walk.row(page, "hands_up").click()
    page.keyboard.press("Shift+C")
    expect(page.get_by_test_id("correction")).to_be_visible()
    box = page.locator("video").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 9):
        page.mouse.move(x + 12 * step, y - 6 * step)
    page.mouse.up()
    walk.saved(page)
    expect(page.get_by_test_id("correction")).to_contain_text("line by hand")
    page.keyboard.press("Escape")
    walk.row(page, "hands_up").click()
    page.keyboard.press("Shift+V")
    record = page.get_by_test_id("record")
    expect(record).to_contain_text("recording")
    page.wait_for_timeout(600)
    record.click()
    expect(page.get_by_role("button", name="Delete voice note")).to_be_visible()
