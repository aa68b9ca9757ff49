"""The other acts of a coach in the browser: taking back, a clip without film, phone pages, deleting, empty states."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import rep_files
from tests.browser import walk
from tests.browser.walk import KICK_EVENTS, open_bench, send
from tests.core.build import points, rep_data
from tests.halls import Hall


def brought_in(db: Session, where: Hall, *, finish: bool) -> None:
    """A missed knee angle and two by-eye answers, without a film."""
    body = {"performer": {"height_px": 500, "landmarks": points(sigma=None, ankle=(400.0, 400.0))}}
    rep = read_rep(rep_data(bodies=body, seen={"toes_back": {"coach": False}, "hands_up": {"coach": True}}))
    review = rep_files.bring_in(db, where.academy, where.student, "kicks of May", date(2026, 5, 4), [rep])
    if finish:
        finishing.finish(db, where.academy, review.id)
    db.commit()


def test_an_academy_without_clips_says_what_to_do(page: Page) -> None:
    expect(page.get_by_text("No clips yet. Choose or drop a video")).to_be_visible()
    page.get_by_role("link", name="Students").click()
    page.get_by_text("A Student", exact=True).click()
    expect(page.get_by_text("Nothing has been missed in a finished review yet")).to_be_visible()


def test_a_clip_without_film_is_stepped_and_judged(page: Page, db: Session, where: Hall) -> None:
    brought_in(db, where, finish=False)
    page.reload()
    line = page.locator('[data-clip="kicks of May"]')
    expect(line).to_contain_text("measures only, film not kept")
    line.get_by_role("link", name="Resume").click()
    expect(page.get_by_text("The video of this clip is not stored here")).to_be_visible()
    walk.row(page, "leg_straight").click()
    expect(page.get_by_test_id("frame")).to_have_text("44")
    expect(page.locator("[data-point]")).to_have_count(3)
    expect(walk.row(page, "leg_straight")).to_have_attribute("data-verdict", "missed")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_test_id("frame")).to_have_text("45")
    expect(page.locator("[data-point]")).to_have_count(0)


def test_marks_are_taken_back_and_made_again(page: Page, clips: dict[str, Path], truths: dict[str, Any]) -> None:
    truth = truths["long_gop"]["reps"][0]
    open_bench(page, clips["long_gop"])
    walk.pick(page, "technique", "Front kick")
    walk.cut_rep(page, truth)
    top = truth["events"]["knee_top"][0]
    walk.go_to(page, top)
    page.keyboard.press(f"Digit{KICK_EVENTS.index('knee_top') + 1}")
    peg = page.locator('[data-peg="knee_top"]')
    expect(peg).to_have_attribute("data-frame", str(top))
    walk.saved(page)
    page.keyboard.press("Control+z")
    expect(peg).to_have_count(0)
    page.keyboard.press("Control+Shift+Z")
    expect(peg).to_have_attribute("data-frame", str(top))
    page.keyboard.press("ArrowRight")
    expect(page.get_by_test_id("frame")).to_have_text(str(top + 1))
    page.keyboard.press(f"Digit{KICK_EVENTS.index('knee_top') + 1}")
    expect(peg).to_have_attribute("data-frame", str(top + 1))


def test_a_clip_is_deleted_with_all_that_was_made_from_it(page: Page, db: Session, where: Hall) -> None:
    brought_in(db, where, finish=True)
    page.reload()
    page.get_by_role("link", name="Students").click()
    page.get_by_text("A Student", exact=True).click()
    expect(page.locator('[data-fault="bent-reach"]')).to_contain_text("1/1")
    page.get_by_role("link", name="Clips").click()
    page.get_by_role("button", name="Delete kicks of May").click()
    walk.answer(page, "Delete")
    expect(page.locator('[data-clip="kicks of May"]')).to_have_count(0)
    page.get_by_role("link", name="Students").click()
    page.get_by_text("A Student", exact=True).click()
    expect(page.locator("[data-fault]")).to_have_count(0)


@pytest.mark.parametrize("place", ["#/clips", "#/students", "student"])
def test_pages_fit_a_phone(phone: Page, db: Session, where: Hall, place: str) -> None:
    brought_in(db, where, finish=True)
    phone.goto(phone.url.split("#")[0] + (f"#/students/{where.student}" if place == "student" else place))
    phone.reload()
    shown = phone.locator("[data-clip]") if place == "#/clips" else phone.locator("main").get_by_text("A Student", exact=True)
    expect(shown.first).to_be_visible()
    phone.wait_for_timeout(300)
    assert phone.evaluate("document.querySelector('main').scrollWidth") <= 390


def test_sent_twice_by_a_double_click_is_cut_once(page: Page, clips: dict[str, Path], truths: dict[str, Any]) -> None:
    send(page, clips["constant"])
    line = page.locator(f'[data-clip="{clips["constant"].name}"]')
    line.get_by_role("link", name="Review").dblclick(timeout=60_000)
    walk.pick(page, "technique", "Front kick")
    walk.cut_rep(page, truths["constant"]["reps"][0])
    expect(page.get_by_role("button", name="Rep 1")).to_be_visible()
    expect(page.get_by_role("button", name="Rep 2")).to_have_count(0)


def test_signed_out_means_the_sign_in_page(page: Page) -> None:
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_label("Password")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Password")).to_be_visible()
