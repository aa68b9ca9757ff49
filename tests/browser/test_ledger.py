"""The student's page in the browser: what keeps coming back, the reps behind a cell, filters, rungs; a new review is seen in it."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from tests.browser import walk
from tests.halls import Hall, bring


@pytest.fixture
def told(page: Page, db: Session, where: Hall) -> Page:
    """The toes were wrong on the left twice; a third review is open still."""
    left, right = {"side": "left", "rung": "solo"}, {"side": "right", "rung": "solo"}
    for weeks_ago in (5, 3):
        bring(db, where, weeks_ago, [{"toes": False, "how": left}] * 3 + [{"toes": True, "how": right}] * 2)
    bring(db, where, 1, [{"toes": False, "how": left}] * 3, finish=False)
    page.goto(page.url.split("#")[0] + f"#/students/{where.student}")
    return page


def test_what_keeps_coming_back_is_seen_and_every_cell_opens_its_reps(told: Page) -> None:
    row = told.locator('[data-fault="toes-forward"]')
    expect(row).to_have_attribute("data-state", "recurring")
    cells = row.locator("[data-date] button")
    expect(cells).to_have_count(2)
    expect(cells.last).to_have_text("3/5≡")
    row.get_by_role("button").first.click()
    apart = told.get_by_test_id("apart")
    expect(apart).to_contain_text("left 6/6")
    expect(apart).to_contain_text("right 0/4")
    chart = told.get_by_test_id("sides-and-pace").get_by_role("img").first
    expect(chart).to_have_attribute("aria-label", re.compile(r"left side 6 of 6, 100.% .*right side 0 of 4, 0.%"))
    # Judged by eye, and no film kept: words, not an empty picture.
    expect(apart.get_by_test_id("film-still").first).to_have_text("No picture: the video of this rep is not stored.")
    cells.last.click()
    reps = told.get_by_role("list", name="The reps of")
    expect(reps.get_by_role("listitem")).to_have_count(5)
    reps.get_by_role("link", name="frame").nth(1).click()
    expect(told.get_by_test_id("detail")).to_contain_text("Toes drawn back")
    expect(told.get_by_role("button", name="Rep 2")).to_have_attribute("aria-pressed", "true")


def test_filters_choose_the_reps_and_can_be_taken_off(told: Page) -> None:
    row = told.locator('[data-fault="toes-forward"]')
    walk.segment(told, "filter-side", "right")
    expect(row).to_have_count(0)
    walk.segment(told, "filter-side", "left")
    expect(row).to_contain_text("6/6")
    told.get_by_role("button", name="Clear filters").click()
    expect(row).to_contain_text("6/10")


def test_a_new_review_is_seen_in_ledger_fix_first_and_rung(told: Page, db: Session, where: Hall) -> None:
    bring(db, where, 2, [{"toes": True, "how": {"side": "left", "rung": "solo"}}] * 5)
    told.reload()
    row = told.locator('[data-fault="toes-forward"]')
    expect(row.locator("[data-date] button")).to_have_count(3)
    rung = told.locator('[data-rungs="front-kick"]')
    expect(rung).to_have_attribute("data-advice", "hold")

    # On the bench the fault that keeps coming back is to be fixed first, with its history.
    told.get_by_role("link", name="Clips").click()
    told.locator('[data-clip="kicks of 1 weeks ago"]').get_by_role("link").click()
    expect(told.get_by_label("Fix first")).to_contain_text("keeps coming back")
    walk.finish(told)
    expect(told.get_by_role("heading", name="Sheet for A Student")).to_be_visible()
    told.get_by_role("heading", name="Sheet for A Student").get_by_role("link").click()

    # Safety misses in the last session: one column more, and a step back is recommended.
    expect(row.locator("[data-date] button")).to_have_count(4)
    expect(row).to_contain_text("9/18")
    expect(rung).to_have_attribute("data-advice", "step_back")
    expect(rung).to_contain_text("safety misses in the last session")
    rung.get_by_role("button").first.click()
    rung.get_by_label("performer feels").select_option("no")
    expect(rung).to_contain_text("the performer does not feel sure")
    rung.get_by_role("button", name="hold").click()
    expect(told.get_by_role("alert")).to_contain_text("say why")
    rung.get_by_label("Why").fill("a week of drills first")
    rung.get_by_role("button", name="hold").click()
    expect(rung.get_by_role("list", name="What was decided")).to_contain_text("hold, solo: “a week of drills first”")
    expect(rung.get_by_role("list", name="What was decided")).to_contain_text("recommended: step back")


def test_on_a_phone_the_latest_sessions_fit_beside_the_faults(phone: Page, db: Session, where: Hall) -> None:
    for weeks_ago in range(1, 6):
        bring(db, where, weeks_ago, [{"toes": False, "how": {"side": "left"}}] * 3)
    phone.goto(phone.url.split("#")[0] + f"#/students/{where.student}")
    row = phone.locator('[data-fault="toes-forward"]')
    expect(row.locator("[data-date]")).to_have_count(3)
    expect(row.locator("[data-date]").last).to_be_in_viewport()
    walk_back = phone.get_by_role("button", name="2 earlier sessions").first
    walk_back.click()
    expect(row.locator("[data-date]")).to_have_count(5)
