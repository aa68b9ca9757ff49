"""From missed checkpoint to opened link: corrections drawn, changed, copied, spoken over, sent, and answered on a phone."""

from __future__ import annotations

import re
import uuid
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.corrections.marks import Spot
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.store.tables import Correction
from tests.browser import walk
from tests.halls import Hall, cut, read_in


@pytest.fixture
def kicks(
    page: Page, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
) -> tuple[Page, uuid.UUID]:
    """The bench on a clip with the same low kick cut twice, measured."""
    clip = read_in(db, where, clips["constant"], tmp_path)
    review = reviewing.open_review(db, where.academy, clip).id
    for _ in range(2):
        cut(db, where, review, truths["constant"]["reps"][0])
    page.goto(page.url.split("#")[0] + f"#/bench/{clip}")
    walk.row(page, "thigh_lifted").click()
    return page, review


def corrections(db: Session, review: uuid.UUID) -> list[Correction]:
    db.rollback()
    db.expire_all()
    return list(db.scalars(select(Correction).where(Correction.review_id == review).order_by(Correction.created_at)))


def test_a_correction_is_made_changed_copied_spoken_over_and_taken_back(
    kicks: tuple[Page, uuid.UUID], db: Session, truths: dict[str, Any]
) -> None:
    page, review = kicks
    truth = truths["constant"]["reps"][0]
    page.keyboard.press("c")
    card = page.get_by_test_id("correction")
    expect(card).to_contain_text("wanted angle")
    expect(page.locator("[data-handle]")).to_have_count(3)
    walk.saved(page)
    (made,) = corrections(db, review)
    top = made.frame

    # A mark by pointer: pressed near the knee it hangs on the knee.
    page.get_by_role("radio", name="+ push or pull").click()
    knee = walk.landmark_on_screen(page, truth, "right_knee", top)
    page.mouse.click(knee[0] + 3, knee[1] + 2)
    page.mouse.click(knee[0], knee[1] - 60)
    expect(card).to_contain_text("push or pull")
    walk.saved(page)
    (made,) = corrections(db, review)
    assert made.marks[1].spots[0] == Spot(body="performer", landmark="right_knee")
    assert made.marks[1].spots[1].x is not None
    expect(page.locator('[data-shapes] [data-role="push"]').first).to_be_attached()

    # Its free end is dragged; that is undone, and done again.
    before = made.marks[1].spots[1]
    page.mouse.move(knee[0], knee[1] - 60)
    page.mouse.down()
    page.mouse.move(knee[0] + 40, knee[1] - 90, steps=4)
    page.mouse.up()
    walk.saved(page)
    (made,) = corrections(db, review)
    assert (made.marks[1].spots[1].x or 0) > (before.x or 0) + 5
    page.keyboard.press("Control+z")
    walk.saved(page)
    (made,) = corrections(db, review)
    assert made.marks[1].spots[1] == before

    # Its stretch of frames, its wanted angle, the same done right beside it, the coach's voice.
    page.keyboard.press("ArrowRight")
    page.get_by_role("button", name="up to here").click()
    walk.saved(page)
    page.get_by_role("spinbutton").fill("85")
    page.get_by_role("spinbutton").blur()
    walk.saved(page)
    page.get_by_test_id("example").select_option("reference")
    walk.saved(page)
    page.get_by_test_id("record").click()
    page.wait_for_timeout(1200)
    page.get_by_test_id("record").click()
    expect(card).to_contain_text(re.compile(r"voice \d+ s"))
    (made,) = corrections(db, review)
    assert (made.last_frame, made.marks[0].wanted) == (top + 1, 85)
    assert made.example is not None
    assert (made.voice_s or 0) > 0.5

    # The other rep gets the same by one key; deleting and undoing brings all of it back.
    page.keyboard.press("z")
    walk.saved(page)
    assert [one.cue for one in corrections(db, review)] == ["Knee first then foot"] * 2
    page.get_by_role("button", name="delete", exact=True).click()
    walk.saved(page)
    assert len(corrections(db, review)) == 1
    page.keyboard.press("Control+z")
    walk.saved(page)
    again = next(one for one in corrections(db, review) if one.id == made.id)
    assert (again.marks, again.voice_s, again.example is not None) == (made.marks, made.voice_s, True)


def test_from_the_missed_checkpoint_to_the_opened_link_on_a_phone(
    kicks: tuple[Page, uuid.UUID], db: Session, where: Hall, browser: Any
) -> None:
    page, review = kicks
    page.keyboard.press("c")
    expect(page.get_by_test_id("cue")).to_have_value("Knee first then foot")
    page.keyboard.press("Enter")
    walk.saved(page)
    walk.finish(page)
    expect(page.get_by_role("heading", name="Sheet for A Student")).to_be_visible()
    page.get_by_label("What was good").fill("Hands stayed up.")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Saved as a new revision")).to_be_visible()
    page.get_by_role("button", name="Make the marked clip").click()
    expect(page.get_by_role("link", name="Marked clip")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Make a link").click()
    address = page.get_by_test_id("link").get_attribute("href")
    assert address is not None

    context = browser.new_context(viewport={"width": 390, "height": 844})
    phone = context.new_page()
    phone.goto(address)
    expect(phone.get_by_text("“Knee first then foot”")).to_be_visible()
    expect(phone.get_by_text("Hands stayed up.")).to_be_visible()
    expect(phone.locator("figure svg image")).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    video = phone.locator("video")
    video.scroll_into_view_if_needed()
    video.evaluate("film => film.play()")
    expect(video).not_to_have_js_property("currentTime", 0)
    fix = phone.locator('[data-fix="thigh_lifted"]')
    fix.get_by_label("I thought it was right").check()
    fix.get_by_label("unsure").check()
    fix.get_by_label("A word to your coach").fill("It felt high")
    fix.get_by_role("button", name="Send to your coach").click()
    expect(phone.get_by_text("You answered about")).to_contain_text("I thought it was right; unsure; “It felt high”")

    # The coach sees it opened, and the answer beside the verdict; revoked, the link opens nothing.
    page.reload()
    expect(page.locator("[data-link]")).to_contain_text("opened")
    expect(page.get_by_text("thought it was right; unsure; “It felt high”")).to_be_visible()
    page.get_by_role("link", name="To the bench").click()
    walk.row(page, "thigh_lifted").click()
    expect(page.get_by_test_id("said")).to_contain_text("“It felt high”")
    page.go_back()
    page.get_by_role("button", name="revoke").click()
    expect(page.locator("[data-link]")).to_contain_text("revoked")
    phone.goto(address)
    expect(phone.get_by_role("heading", name="Nothing opens here")).to_be_visible()
    context.close()

    # Revised: the reason is asked for, and what changed is told.
    page.get_by_role("button", name="Revise this review").click()
    page.get_by_placeholder("Why is it revised?").fill("looked again")
    page.get_by_role("button", name="Open it again").click()
    walk.row(page, "hands_up").click()
    page.keyboard.press("n")
    walk.saved(page)
    walk.finish(page)
    expect(page.get_by_text("Rep 1, hands up: not seen became missed.")).to_be_visible()
    assert loading.load(db, where.academy, review).finished_at is not None
