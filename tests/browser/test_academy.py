"""The academy in the browser: a second opinion is given and told, grades are asked for and lacking, what is common is seen."""

from __future__ import annotations

import re
import uuid
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from lacertus.services.people import accounts, people
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish as finishing
from tests.browser import walk
from tests.halls import PASSWORD, Hall, bring, cut, read_in

TODAY = date.today()


def go(page: Page, name: str) -> None:
    page.get_by_role("link", name=name, exact=True).click()
    expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()


@pytest.fixture
def second(db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> uuid.UUID:
    """A kick that another coach has judged: its chamber is low, its toes were not drawn back."""
    other = accounts.create_account(db, where.academy, "second@example.test", "Second Coach", PASSWORD).id
    clip = read_in(db, where, clips["constant"], tmp_path, on=TODAY)
    review = reviewing.open_review(db, where.academy, clip, other).id
    rep = cut(db, where, review, truths["constant"]["reps"][0])
    reviewing.answer(db, where.academy, rep, "toes_back", False)
    finishing.finish(db, where.academy, review, other)
    db.commit()
    return review


def test_a_second_opinion_is_given_blind_by_keys_and_agreement_is_told(page: Page, second: uuid.UUID) -> None:
    go(page, "Academy")
    expect(page.get_by_text("No rep was judged by two coaches yet")).to_be_visible()
    page.get_by_role("list", name="Reviews to judge again").get_by_role("link").click()
    expect(page.get_by_role("heading", name="Second opinion")).to_be_visible()
    expect(page.get_by_role("list", name="Checkpoints")).not_to_contain_text("Second Coach")
    row = page.locator('[data-checkpoint="thigh_lifted"]')
    row.get_by_role("button").first.click()
    walk.first_picture(page)
    page.keyboard.press("n")
    expect(row).to_have_attribute("data-mine", "missed")
    # The next one is at hand.
    expect(page.locator('[aria-current="true"][data-checkpoint]')).not_to_have_attribute("data-checkpoint", "thigh_lifted")
    page.locator('[data-checkpoint="toes_back"]').get_by_role("button").first.click()
    page.locator('[data-checkpoint="toes_back"]').get_by_role("button", name="as it should be").click()
    expect(page.locator('[data-checkpoint="toes_back"]')).to_have_attribute("data-mine", "met")
    page.reload()
    expect(row).to_have_attribute("data-mine", "missed")
    page.get_by_role("button", name="Submit").click()
    walk.answer(page, "Submit")
    expect(row).to_contain_text("Second Coach: missed")
    expect(page.locator('[data-checkpoint="toes_back"]')).to_contain_text("missed")
    go(page, "Academy")
    table = page.get_by_role("table", name="Agreement")
    expect(table).to_contain_text("A Coach and Second Coach")
    expect(table.get_by_role("row").nth(1)).to_contain_text("50 %")
    expect(page.get_by_test_id("agreement-chart").get_by_role("img").first).to_have_attribute(
        "aria-label", re.compile("All 50.% the same")
    )
    expect(page.get_by_role("list", name="Where they differ most")).to_contain_text("Toes drawn back")
    expect(page.get_by_role("list", name="Reviews to judge again")).to_have_count(0)


def test_a_fault_that_most_share_and_who_was_not_seen(page: Page, db: Session, where: Hall) -> None:
    for name in ("Ana", "Bo", "Cai"):
        student = people.create_student(db, where.academy, name).id
        bring(db, Hall(academy=where.academy, student=student), 1, [{"toes": False, "how": {}}] * 3)
    people.create_student(db, where.academy, "Never Filmed")
    bring(db, where, 6, [{"toes": False, "how": {}}] * 3)
    go(page, "Academy")
    row = page.locator('[data-common="toes-forward"]')
    expect(row).to_have_attribute("data-teaching", "true")
    expect(row).to_contain_text("3 of 3")
    expect(page.get_by_test_id("teaching")).to_contain_text("toes forward (Front kick)")
    expect(page.get_by_text("A student shares a fault")).to_contain_text("in at least 2 reps and in 30 % of them or more")
    months = page.get_by_test_id("months")
    expect(months.locator("[data-line^='toes forward']")).to_have_count(1)
    months.get_by_text("The same as a table").click()
    expect(months.get_by_role("table")).to_contain_text("100 %")
    unseen = page.get_by_role("list", name="Not seen").get_by_role("listitem")
    expect(unseen.first).to_contain_text("Never Filmed")
    expect(unseen.last).to_contain_text("42 days ago")
    walk.segment(page, "days", "90 days")
    expect(row).to_contain_text("4 of 4")
    row.get_by_role("link", name="Bo").click()
    expect(page.get_by_role("heading", name="Bo")).to_be_visible()


def test_a_grade_is_made_and_what_is_lacking_is_told_and_passed(page: Page, db: Session, where: Hall) -> None:
    bring(db, where, 1, [{"toes": True, "how": {"rung": "solo"}}] * 3)
    go(page, "Grades")
    expect(page.get_by_text("No grades yet")).to_be_visible()
    page.get_by_label("New grade").fill("Yellow")
    page.get_by_role("button", name="Add", exact=True).click()
    grade = page.locator('[data-grade="Yellow"]')
    grade.get_by_role("button", name="Add a technique").click()
    walk.pick(page, "grade-technique", "Front kick")
    grade.locator("form").get_by_label("Rung").select_option("solo")
    grade.get_by_role("button", name="Add").click()
    asked = grade.locator('[data-asked="front-kick"]')
    asked.get_by_role("button", name="mark as taught today").click()
    expect(asked).to_contain_text("today")

    page.goto(page.url.split("#")[0] + f"#/students/{where.student}")
    page.get_by_test_id("grade").select_option(label="Yellow")
    held = page.locator('[data-held="front-kick"]')
    expect(held).to_contain_text("lacking: no rung yet")
    rung = page.locator('[data-rungs="front-kick"]')
    rung.get_by_role("button").first.click()
    rung.get_by_label("Why").fill("seen live")
    rung.get_by_role("button", name="advance").click()
    expect(held).to_have_attribute("data-passed", "true")
    expect(page.get_by_text("nothing is lacking")).to_be_visible()
    go(page, "Grades")
    expect(asked).to_contain_text("nobody")


def test_before_and_after_stand_side_by_side_and_notes_are_kept(
    page: Page, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
) -> None:
    """The film of the first low chamber at its own frame, and a later rep without a film as what was measured."""
    clip = read_in(db, where, clips["constant"], tmp_path, on=TODAY - timedelta(days=9))
    review = reviewing.open_review(db, where.academy, clip).id
    rep = cut(db, where, review, truths["constant"]["reps"][0])
    reviewing.answer(db, where.academy, rep, "toes_back", False)
    finishing.finish(db, where.academy, review)
    bring(db, where, 1, [{"toes": True, "how": {"side": truths["constant"]["reps"][0]["side"]}}] * 2)
    page.goto(page.url.split("#")[0] + f"#/students/{where.student}")
    page.locator('[data-fault="toes-forward"]').get_by_role("button").first.click()
    both = page.get_by_test_id("before-after")
    expect(both.locator("figure")).to_have_count(2)
    expect(both.locator("figure").first).to_contain_text("missed")
    expect(both.locator("figure").last).to_contain_text("met")
    link = both.locator("figure").first.get_by_role("link")
    frame = int(link.inner_text().rsplit(" ", 1)[1])
    for _ in range(100):
        if walk.stamped_frame(page) == frame:
            break
        page.wait_for_timeout(100)
    assert walk.stamped_frame(page) == frame
    page.get_by_label("Note for today").fill("Lands tired")
    page.get_by_role("button", name="Note").click()
    page.reload()
    expect(page.get_by_label("Notes")).to_contain_text("Lands tired")


def test_what_to_fix_first_over_the_history_is_told_and_chosen_otherwise(page: Page, db: Session, where: Hall) -> None:
    for weeks_ago in (5, 3):
        bring(db, where, weeks_ago, [{"toes": False, "how": {"side": "left"}}] * 3)
    page.goto(page.url.split("#")[0] + f"#/students/{where.student}")
    fix = page.get_by_label("Fix first")
    expect(fix.locator("[data-fix]").first).to_contain_text("keeps coming back: missed in 6 of 6 reps over 2 sessions")
    fix.get_by_role("button", name="Choose others").click()
    fix.get_by_label("Why").fill("before the grading")
    fix.get_by_role("button", name="Save").click()
    expect(fix).to_contain_text("Chosen: “before the grading”")
    page.reload()
    expect(fix).to_contain_text("your choice of")
    fix.get_by_role("button", name="As recommended").click()
    expect(fix).not_to_contain_text("before the grading")
