"""What a coach does on the bench about the choice, the partner's reaction, a layer and a start."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.services.people import people
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepCut
from lacertus.store.tables import Account, RepRow
from tests.browser import walk
from tests.halls import Hall, read_in

Open = Callable[[str], None]


@pytest.fixture
def drag(page: Page, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path) -> Open:
    """A rep of an arm drag with its hand on marked; called with a checkpoint, it is opened on the bench."""
    clip = read_in(db, where, clips["constant"], tmp_path)
    review = reviewing.open_review(db, where.academy, clip, db.scalars(select(Account.id)).one()).id
    facts = {"first_frame": 0, "last_frame": 40, "side": "right", "partner": "person"}
    rep = reviewing.cut_rep(db, where.academy, review, "arm-drag", RepCut.model_validate(facts)).id
    reviewing.mark_event(db, where.academy, rep, "hand_on", [4])
    reviewing.mark_event(db, where.academy, rep, "arm_caught", [8])
    db.commit()

    def open_at(checkpoint: str) -> None:
        page.goto(page.url.split("#")[0] + f"#/bench/{clip}/{rep}/{checkpoint}")
        walk.first_picture(page)

    return open_at


def test_an_attempt_that_was_not_open_is_told_apart(page: Page, drag: Open) -> None:
    drag("weight_on_the_hand")
    expect(page.get_by_test_id("choice")).to_contain_text("cannot be told yet")
    expect(walk.row(page, "weight_on_the_hand")).to_contain_text("was it open?")
    page.keyboard.press("n")
    walk.saved(page)
    expect(page.get_by_test_id("choice")).to_contain_text("Wrong choice")
    # An answer goes on to what is next, here a measured checkpoint that needs points; to change it one goes back.
    walk.row(page, "weight_on_the_hand").click()
    page.keyboard.press("y")
    walk.saved(page)
    expect(page.get_by_test_id("choice")).to_have_count(0)


def test_a_partners_reaction_is_answered_in_time_too_early_or_not_at_all(page: Page, drag: Open) -> None:
    drag("partner_turns_in")
    row = walk.row(page, "partner_turns_in")
    expect(row).to_contain_text("partner")
    marks = page.get_by_role("group", name="Mark at this frame")
    walk.go_to(page, 10)
    marks.get_by_role("button", name=re.compile("turns in$")).click()
    walk.saved(page)
    # Whether it was answered is open until an answer is marked, or said not to have come.
    expect(row).to_have_attribute("data-verdict", "not_seen")
    marks.get_by_role("button", name="circles on did not happen").click()
    marks.get_by_role("button", name="drags again did not happen").click()
    walk.saved(page)
    expect(row).to_have_attribute("data-verdict", "missed")
    walk.go_to(page, 14)
    marks.get_by_role("button", name=re.compile("^circles on: no$")).click()
    walk.saved(page)
    expect(row).to_have_attribute("data-verdict", "met")
    expect(page.get_by_text(re.compile(r"circles on after \d+ ms"))).to_be_visible()
    # The same frame again takes the answer away; one before the reaction is none.
    marks.get_by_role("button", name=re.compile("^circles on 14$")).click()
    walk.go_to(page, 9)
    marks.get_by_role("button", name=re.compile("^circles on$")).click()
    walk.saved(page)
    expect(row).to_have_attribute("data-verdict", "missed")
    marks.get_by_role("button", name="turns in did not happen").click()
    walk.saved(page)
    expect(row).to_have_attribute("data-verdict", "not_asked")


def test_a_rep_is_judged_in_a_layer_and_a_frame_becomes_a_start(page: Page, drag: Open) -> None:
    drag("weight_on_the_hand")
    page.keyboard.press("b")
    facts = page.get_by_test_id("rep-facts")
    expect(walk.row(page, "hips_stay_on")).not_to_have_attribute("data-verdict", "not_asked")
    facts.get_by_label("Layer").select_option(label="only: The clearing circle")
    walk.saved(page)
    expect(walk.row(page, "hips_stay_on")).to_have_attribute("data-verdict", "not_asked")
    expect(walk.row(page, "small_circle")).not_to_have_attribute("data-verdict", "not_asked")
    starts = facts.get_by_label(re.compile("^Start(?!s)")).locator("option")
    before = starts.count()
    walk.go_to(page, 8)
    page.keyboard.press("Shift+S")
    walk.saved(page)
    expect(starts).to_have_count(before + 1)


def test_the_partner_of_a_rep_is_named_and_taken_back(page: Page, drag: Open, db: Session, where: Hall) -> None:
    partner = people.create_student(db, where.academy, "Bela Novak").id
    db.commit()
    # The list of students may have been read before this one was there.
    page.reload()
    drag("weight_on_the_hand")
    bar = page.get_by_role("button", name=re.compile("^How it was done"))
    expect(bar).to_contain_text("with a partner")
    page.keyboard.press("b")
    walk.pick(page, "partner", "Bela Novak")
    walk.saved(page)
    expect(bar).to_contain_text("with Bela Novak")
    assert db.scalars(select(RepRow.partner_student_id)).one() == partner
    page.keyboard.press("Control+z")
    walk.saved(page)
    expect(bar).to_contain_text("with a partner")
    walk.pick(page, "partner", "Bela Novak")
    page.get_by_test_id("partner").click()
    page.get_by_role("option", name="partner not named").click()
    walk.saved(page)
    expect(bar).to_contain_text("with a partner")
    # A bag has no name.
    page.get_by_test_id("rep-facts").get_by_label(re.compile(r"^Partner\b(?!’| resists)")).select_option(label="bag")
    expect(page.get_by_test_id("partner")).to_have_count(0)


def test_a_lesson_shows_layers_reactions_and_drills(page: Page) -> None:
    page.goto(page.url.split("#")[0] + "#/techniques/arm-drag")
    expect(page.get_by_role("heading", name="Arm drag")).to_be_visible()
    for part in ("When the partner reacts", "Drills", "Drilled from"):
        expect(page.get_by_role("heading", name=re.compile(part))).to_be_visible()
    outside = re.compile(r"\bout\b")
    hips, circle = (page.locator(f'[data-lesson-checkpoint="{name}"]') for name in ("hips_stay_on", "small_circle"))
    expect(hips).not_to_have_class(outside)
    page.get_by_role("button", name=re.compile("The clearing circle")).click()
    expect(hips).to_have_class(outside)
    expect(circle).not_to_have_class(outside)
    expect(page.get_by_role("status")).to_contain_text("not asked with this choice")
