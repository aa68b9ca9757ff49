"""The other acts of a coach in the browser: taking back, a clip without film, phone pages, deleting, empty states."""

from __future__ import annotations

import re
from datetime import date
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from playwright.sync_api import Locator, Page, expect
from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import rep_files
from lacertus.store.tables import Account, EyeAnswer
from tests import eyes
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


def _answer(page: Page, question: Locator) -> None:
    """Answer what is asked, however it is asked, by keys."""
    kind = question.get_attribute("data-kind")
    if kind == "angle":
        page.get_by_label("Degrees", exact=True).fill("100")
        page.keyboard.press("Enter")
        if page.get_by_test_id("eye-wanted").count():
            page.keyboard.press("Enter")
    else:
        page.keyboard.press("Enter" if kind == "frame" else "1")
    expect(page.get_by_test_id("eye-result")).to_be_visible()


def test_a_set_for_the_eye_by_keys_alone(page: Page, db: Session, where: Hall) -> None:
    """From the menu to what one's own eye is like; after each answer it says what is so."""
    eyes.put_in(db)
    page.get_by_role("link", name="Eye", exact=True).click()
    expect(page.get_by_test_id("own-eye")).to_contain_text("Nothing yet")
    page.get_by_role("button", name="Begin").click()
    question = page.get_by_test_id("eye-question")
    count = 0
    kinds = set()
    while True:
        expect(question.or_(page.get_by_test_id("eye-done"))).to_be_visible()
        if page.get_by_test_id("eye-done").is_visible():
            break
        expect(question).to_have_attribute("aria-label", re.compile(f"^Question {count + 1} of"))
        kinds.add(question.get_attribute("data-kind"))
        _answer(page, question)
        page.keyboard.press("Enter")
        count += 1
    assert count >= 3 and len(kinds) >= 2
    expect(page.get_by_test_id("eye-done")).to_contain_text(f"of {count} right")
    expect(page.get_by_test_id("eye-rates")).to_be_visible()
    answers = db.scalars(sa.select(EyeAnswer)).all()
    assert len(answers) == count
    by_name = page.get_by_role("checkbox", name="Show my eye by name to those who teach here")
    expect(by_name).not_to_be_checked()
    page.get_by_text("Show my eye by name").click()
    expect(by_name).to_be_checked()
    expect(page.get_by_text("shown only together with those of at least two others")).to_have_count(0)
    db.expire_all()
    assert db.scalars(sa.select(Account.eye_named)).one()


def test_the_frame_that_is_marked_is_the_one_on_the_screen_and_the_truth_is_drawn(page: Page, db: Session, where: Hall) -> None:
    eyes.put_in(db)
    page.goto(page.url.split("#")[0] + "#/eye")
    page.get_by_role("combobox", name="Question").select_option("frame")
    page.get_by_role("button", name="Begin").click()
    film = page.get_by_test_id("eye-film")
    expect(film).to_be_visible()
    first = int(film.get_attribute("data-frame") or -1)
    for _ in range(7):
        page.keyboard.press("ArrowRight")
    expect(film).to_have_attribute("data-frame", str(first + 7))
    page.get_by_role("button", name="This frame").click()
    expect(page.get_by_test_id("eye-result")).to_contain_text(re.compile(r"early|late|On the frame"))
    answer = db.scalars(sa.select(EyeAnswer)).one()
    assert answer.given.frame == first + 7
    true = first + 7 - (answer.frames or 0)
    expect(film).to_have_attribute("data-frame", str(true))


def test_on_a_phone_without_a_connection_answers_are_kept_and_sent_later(phone: Page, db: Session, where: Hall) -> None:
    eyes.put_in(db)
    phone.goto(phone.url.split("#")[0] + "#/eye")
    phone.get_by_role("combobox", name="Question").select_option("missed")
    phone.get_by_role("button", name="Begin").click()
    question = phone.get_by_test_id("eye-question")
    expect(question).to_be_visible()
    expect(question).to_have_attribute("data-fetched", "true")
    phone.context.set_offline(True)
    question.get_by_role("button", name=re.compile("None of these")).click()
    expect(phone.get_by_text("Your answer is kept in this browser")).to_be_visible()
    assert db.scalar(sa.select(sa.func.count()).select_from(EyeAnswer)) == 0
    while phone.get_by_test_id("eye-done").count() == 0:
        phone.get_by_role("button", name=re.compile("^(Next|See how it went)")).click()
        if phone.get_by_test_id("eye-question").count():
            phone.get_by_test_id("eye-answers").get_by_role("button").last.click()
    expect(phone.get_by_text(re.compile("kept in this browser until the server can be reached"))).to_be_visible()
    phone.context.set_offline(False)
    expect(phone.get_by_test_id("eye-sent")).to_contain_text("kept")
    expect(phone.get_by_test_id("eye-rates")).to_be_visible()
    assert (db.scalar(sa.select(sa.func.count()).select_from(EyeAnswer)) or 0) >= 1
