"""Measuring on the bench: a number while a point is dragged, points tracked, verdicts overruled, the frame of reference."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.services.review import reference
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepCut
from lacertus.services.review.review import Spot
from lacertus.store.tables import Account
from tests.browser import walk
from tests.browser.walk import KICK_EVENTS
from tests.halls import Hall, read_in

LEG = ["right_hip", "right_knee", "right_ankle"]


@pytest.fixture
def measured(
    page: Page, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
) -> dict[str, Any]:
    """The bench on a rep that is cut, its events marked and the kicking leg placed at full reach, where it stands."""
    truth = dict(truths["constant"]["reps"][0])
    clip = read_in(db, where, clips["constant"], tmp_path)
    review = reviewing.open_review(db, where.academy, clip, db.scalars(select(Account.id)).one()).id
    body = truth["bodies"]["performer"]
    reference.set_height(db, where.academy, review, "performer", body["height_px"])
    facts = {"first_frame": truth["range"][0], "last_frame": truth["range"][1], "side": "right"}
    rep = reviewing.cut_rep(db, where.academy, review, "front-kick", RepCut.model_validate(facts)).id
    for event, frames in truth["events"].items():
        reviewing.mark_event(db, where.academy, rep, event, frames)
    frame = truth["events"]["full_reach"][0]
    for landmark in LEG:
        entry = body["landmarks"][landmark][frame]
        reviewing.place_point(
            db, where.academy, rep, Spot(body="performer", landmark=landmark, frame=frame), entry["x"], entry["y"]
        )
    db.commit()
    page.goto(page.url.split("#")[0] + f"#/bench/{clip}/{rep}/leg_straight")
    expect(page.get_by_test_id("frame")).to_have_text(str(frame))
    walk.first_picture(page)
    return truth


def value(page: Page, checkpoint: str) -> float:
    return float(walk.row(page, checkpoint).locator(".num").last.inner_text().split()[0])


def settled_value(page: Page, checkpoint: str, fits: Callable[[float], bool]) -> float:
    """The value once it fits and no answer to an earlier place is under way any more."""
    last = math.nan
    for _ in range(200):
        now = value(page, checkpoint)
        if now == last and fits(now):
            return now
        last = now
        page.wait_for_timeout(100)
    raise AssertionError(f"the value stays at {last}")


def test_the_number_follows_a_dragged_point_and_a_dropped_one_is_kept(page: Page, measured: dict[str, Any]) -> None:
    before = value(page, "leg_straight")
    x, y = walk.landmark_on_screen(page, measured, "right_ankle", measured["events"]["full_reach"][0])
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 10, y - 20)
    page.mouse.move(x - 20, y - 40, steps=4)
    dragged = settled_value(page, "leg_straight", lambda now: abs(now - before) > 3)
    # Nothing is kept while it is dragged.
    expect(page.get_by_test_id("saved")).to_have_text("Saved as you go")
    page.mouse.up()
    walk.saved(page)
    assert value(page, "leg_straight") == pytest.approx(dragged, abs=0.6)
    page.keyboard.press("Control+z")
    walk.saved(page)
    expect(walk.row(page, "leg_straight")).to_contain_text(f"{before:.1f}")


def test_placed_points_are_tracked_and_drawn_as_such(page: Page, measured: dict[str, Any]) -> None:
    page.keyboard.press("k")
    frame = measured["events"]["full_reach"][0]
    walk.go_to(page, frame + 1)
    tracked = page.locator('[data-point="performer.right_hip"] rect')
    # The worker may have other jobs first.
    expect(tracked.first).to_be_visible(timeout=120_000)
    walk.go_to(page, frame)
    expect(page.locator('[data-point="performer.right_hip"] rect')).to_have_count(0)
    expect(page.locator('[data-point="performer.right_hip"] circle').first).to_be_visible()
    walk.go_to(page, frame + 1)
    page.get_by_role("button", name="Remove tracked points").click()
    walk.saved(page)
    expect(page.locator("[data-point]")).to_have_count(0)


def test_a_verdict_is_overruled_with_a_reason_and_taken_back(page: Page, measured: dict[str, Any]) -> None:
    row = walk.row(page, "leg_straight")
    before = row.get_attribute("data-verdict")
    page.keyboard.press("o")
    form = page.get_by_label("Overrule", exact=True)
    choice = "missed" if before != "missed" else "met"
    form.get_by_label("Your verdict").select_option(label=choice)
    form.get_by_label("Why").fill("seen from the other side of the mat")
    form.get_by_role("button", name="Overrule").click()
    walk.saved(page)
    expect(row).to_have_attribute("data-verdict", choice)
    expect(page.get_by_test_id("overruled")).to_contain_text("seen from the other side of the mat")
    page.keyboard.press("Control+z")
    walk.saved(page)
    expect(row).to_have_attribute("data-verdict", str(before))


def test_the_vertical_is_marked_on_a_door_frame_and_a_still_frame_named(page: Page, measured: dict[str, Any]) -> None:
    page.keyboard.press("i")
    card = page.get_by_label("This clip")
    card.get_by_role("tab", name="Reference").click()
    card.get_by_role("button", name="Mark a door frame").click()
    page.mouse.click(*walk.on_screen(page, measured, 200, 200))
    page.mouse.click(*walk.on_screen(page, measured, 207, 100))
    walk.saved(page)
    page.keyboard.press("i")
    expect(card).to_contain_text("turned by 4.0°")
    expect(walk.row(page, "leg_straight")).to_be_visible()
    card.get_by_role("button", name=f"Square in frame {measured['events']['full_reach'][0]}").first.click()
    expect(card).to_contain_text(f"read off frame {measured['events']['full_reach'][0]}")
    card.get_by_role("button", name="clear").first.click()
    expect(card).to_contain_text("taken as the picture’s")


def test_rep_facts_are_said_in_one_line(page: Page, measured: dict[str, Any]) -> None:
    page.keyboard.press("b")
    line = page.get_by_test_id("rep-facts")
    line.get_by_label("Starts at").select_option(label="starts at extension")
    walk.saved(page)
    expect(walk.row(page, "thigh_lifted")).to_have_attribute("data-verdict", "not_asked")
    line.get_by_label("Outcome").select_option(label="completed")
    walk.saved(page)
    page.reload()
    expect(page.locator("[data-checkpoint]").first).to_be_visible()
    page.keyboard.press("b")
    expect(page.get_by_test_id("rep-facts").get_by_label("Outcome")).to_have_value("completed")
    # The bench still fits its window.
    assert page.evaluate("document.documentElement.scrollHeight <= window.innerHeight")


def test_a_rep_is_marked_again_blind_and_the_scatter_is_told(page: Page, measured: dict[str, Any]) -> None:
    page.keyboard.press("b")
    page.get_by_role("button", name="mark again blind").click()
    panel = page.get_by_test_id("blind")
    expect(panel).to_contain_text(f"Points 0 of {len(LEG)}")
    expect(page.locator("[data-peg]")).to_have_count(0)
    expect(page.locator("[data-checkpoint]")).to_have_count(0)
    for event, (frame,) in measured["events"].items():
        walk.go_to(page, frame)
        page.keyboard.press(f"Digit{KICK_EVENTS.index(event) + 1}")
        walk.saved(page)
    panel.get_by_role("button", name="Place the next point").click()
    frame = measured["events"]["full_reach"][0]
    expect(page.get_by_test_id("frame")).to_have_text(str(frame))
    for landmark in LEG:
        x, y = walk.landmark_on_screen(page, measured, landmark, frame)
        page.mouse.click(x + 4, y)
        walk.saved(page)
    panel.get_by_role("button", name="Compare the two markings").click()
    expect(page.get_by_test_id("scatter")).to_contain_text("from 3")
    expect(page.get_by_test_id("scatter")).to_contain_text("0.0 frames")
    panel.get_by_role("button", name="Cancel").click()
    walk.saved(page)
    expect(walk.row(page, "leg_straight")).to_be_visible()
    expect(page.get_by_role("button", name="Rep 1 again, blind")).to_have_count(0)


def test_the_mat_is_seen_from_above_with_the_feet_on_it_and_the_frames_around_an_event(
    page: Page, measured: dict[str, Any]
) -> None:
    page.keyboard.press("x")
    expect(page.get_by_test_id("plan")).to_contain_text("No foot has heel and toe yet")
    page.keyboard.press("x")
    expect(page.get_by_test_id("plan")).to_have_count(0)
    first = min(frame for (frame,) in measured["events"].values())
    walk.go_to(page, first)
    page.keyboard.press(f"Digit{KICK_EVENTS.index('foot_off') + 1}")
    walk.saved(page)
    around = page.get_by_test_id("neighbours").get_by_role("button")
    expect(around).to_have_count(5)
    around.nth(3).click()
    expect(page.get_by_test_id("frame")).to_have_text(str(first + 1))


def test_the_coach_chooses_what_is_fixed_first_and_says_why(page: Page, measured: dict[str, Any]) -> None:
    panel = page.get_by_label("Fix first", exact=True)
    for checkpoint in ("hands_up", "lands_by_choice"):
        walk.row(page, checkpoint).click()
        page.keyboard.press("n")
        walk.saved(page)
    walk.row(page, "lands_by_choice").click()
    recommended = panel.get_by_role("listitem").all_inner_texts()
    panel.get_by_role("button", name="this one first").click()
    page.keyboard.type("a grading is near")
    page.keyboard.press("Enter")
    walk.saved(page)
    expect(panel.get_by_role("listitem").first).to_contain_text("your choice: a grading is near")
    expect(panel).to_contain_text("Recommended was")
    panel.get_by_role("button", name="as recommended").click()
    walk.saved(page)
    expect(panel.get_by_role("listitem")).to_have_count(len(recommended))
    expect(panel).not_to_contain_text("your choice")


def test_depth_is_told_by_one_click_on_the_figure_in_space(page: Page, measured: dict[str, Any]) -> None:
    page.get_by_role("button", name="The bodies in space").click()
    space = page.get_by_test_id("space")
    expect(space.get_by_text("nearer to the camera than")).to_be_visible()
    for word, other in (("farther", "nearer"), ("nearer", "farther")):
        space.get_by_role("button", name=word, exact=True).click()
        expect(space.get_by_text("you said so")).to_be_visible()
        expect(space.get_by_role("button", name=word, exact=True)).to_have_attribute("aria-pressed", "true")
        expect(space.get_by_role("button", name=other, exact=True)).to_have_attribute("aria-pressed", "false")
    page.reload()
    page.get_by_role("button", name="The bodies in space").click()
    expect(space.get_by_text("nearer to the camera than")).to_be_visible()
    page.keyboard.press("x")
    expect(space).to_have_count(0)
