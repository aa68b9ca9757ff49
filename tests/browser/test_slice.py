"""From a clip to a recorded fault, on the real interface, as a newcomer would."""

from __future__ import annotations

import random
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser import walk
from tests.browser.walk import KICK_EVENTS, open_bench, send
from tests.halls import Hall
from tests.place import Server

SWEEP_EVENTS = ["partner_steps", "pull_starts", "foot_lands", "sole_meets", "legs_crossed", "back_on_mat"]


def test_a_wrong_password_is_told_twice_and_the_right_one_still_works(browser: Browser, server: Server, where: Hall) -> None:
    page = browser.new_page()
    for _ in range(2):
        walk.sign_in(page, server.url, "wrong-password")
        expect(page.get_by_role("alert")).to_contain_text("E-mail or password is wrong")
    walk.sign_in(page, server.url)
    expect(page.get_by_role("heading", name="Clips")).to_be_visible()
    page.close()


def test_bad_files_are_told_and_leave_nothing(page: Page, tmp_path: Path, clips: dict[str, Path]) -> None:
    empty, text, half = (tmp_path / name for name in ("empty.mp4", "text.mp4", "half.mp4"))
    empty.touch()
    text.write_text("no film " * 400)
    half.write_bytes(clips["constant"].read_bytes()[:30_000])
    send(page, empty)
    expect(page.locator('[data-upload="empty.mp4"]')).to_contain_text("is empty")
    send(page, text, half)
    for name in ("text.mp4", "half.mp4"):
        line = page.locator(f'[data-clip="{name}"]')
        expect(line.get_by_role("alert")).to_contain_text("send the original file from the phone again", timeout=30_000)
        expect(line.get_by_role("link")).to_have_count(0)


@pytest.mark.parametrize("kind", ["constant", "variable", "long_gop"])
def test_the_frame_whose_number_is_shown_is_the_one_on_the_screen(page: Page, clips: dict[str, Path], kind: str) -> None:
    """Stepped by key, forwards and back, by ones and tens, to the very ends, and at random on the strand."""
    open_bench(page, clips[kind])
    chance = random.Random(7)
    for _ in range(24):
        key = chance.choice(["ArrowRight", "ArrowRight", "ArrowLeft", "Shift+ArrowRight", "Shift+ArrowLeft"])
        before = walk.settled_frame(page)
        page.keyboard.press(key)
        step = (10 if key.startswith("Shift") else 1) * (1 if key.endswith("Right") else -1)
        expect(page.get_by_test_id("frame")).to_have_text(str(max(before + step, 0)))
        walk.picture_true(page)
    strand = page.get_by_role("slider", name="Frames")
    last = int(strand.get_attribute("aria-valuemax") or 0)
    for key, frame in (("End", last), ("Home", 0)):
        page.keyboard.press(key)
        expect(page.get_by_test_id("frame")).to_have_text(str(frame))
        walk.picture_true(page)
    box = strand.bounding_box()
    assert box is not None
    for _ in range(12):
        page.mouse.click(box["x"] + chance.uniform(20, box["width"] - 20), box["y"] + 60)
        page.wait_for_timeout(250)
        walk.picture_true(page)


def test_played_and_stopped_the_number_is_still_true(page: Page, clips: dict[str, Path]) -> None:
    open_bench(page, clips["constant"])
    page.keyboard.press("Space")
    page.wait_for_timeout(900)
    page.keyboard.press("Space")
    page.wait_for_timeout(400)
    assert walk.settled_frame(page) > 3
    walk.picture_true(page)


def expect_verdict(page: Page, checkpoint: str, verdict: str) -> None:
    expect(walk.row(page, checkpoint)).to_have_attribute("data-verdict", verdict)


def test_from_clip_to_recorded_fault(page: Page, clips: dict[str, Path], truths: dict[str, Any]) -> None:
    truth = truths["constant"]["reps"][0]
    top, full = truth["events"]["knee_top"][0], truth["events"]["full_reach"][0]
    return_ms = (truth["events"]["folded"][0] - full) * 1000 / 60
    open_bench(page, clips["constant"])

    # Technique and side, one rep, events by one key each.
    walk.pick(page, "technique", "Front kick")
    walk.segment(page, "side", "right")
    walk.cut_rep(page, truth)
    expect_verdict(page, "thigh_lifted", "not_seen")
    walk.mark_events(page, truth, KICK_EVENTS)
    expect(page.get_by_test_id("next-event")).to_contain_text("Mark the performer’s height")
    expect_verdict(page, "quick_return", "missed")
    expect(walk.row(page, "quick_return")).to_contain_text(f"{return_ms:.0f} ±14 ms")

    # Points by click; what is missing is said.
    walk.go_to(page, truth["range"][0])
    walk.mark_height(page, truth)
    walk.row(page, "thigh_lifted").click()
    expect(page.get_by_test_id("reason")).to_contain_text(f"right knee has no point; place it at frame {top}")
    walk.place_points(page, truth, "thigh_lifted", ["right_shoulder", "right_hip", "right_knee"], top)
    expect_verdict(page, "thigh_lifted", "missed")
    expect(page.get_by_test_id("detail")).to_contain_text(re.compile(rf"seen 1\d\d° ±.*Read at frame {top}"))

    # Dragged, nudged, undone: the value follows.
    value = walk.row(page, "thigh_lifted").locator(".num").last
    before = value.inner_text()
    knee = walk.landmark_on_screen(page, truth, "right_knee", top)
    page.mouse.move(*knee)
    page.mouse.down()
    page.mouse.move(knee[0] + 10, knee[1] - 60, steps=4)
    page.mouse.up()
    expect_verdict(page, "thigh_lifted", "met")
    walk.saved(page)
    dragged = value.inner_text()
    page.keyboard.press("Alt+ArrowDown")
    expect(value).not_to_have_text(dragged)
    walk.saved(page)
    page.keyboard.press("Control+z")
    expect(value).to_have_text(dragged)
    page.keyboard.press("Control+z")
    expect(value).to_have_text(before)
    expect_verdict(page, "thigh_lifted", "missed")

    # By eye, by one key.
    walk.row(page, "hands_up").click()
    page.keyboard.press("n")
    expect_verdict(page, "hands_up", "missed")
    walk.row(page, "toes_back").click()
    page.keyboard.press("y")
    expect_verdict(page, "toes_back", "met")
    walk.row(page, "leg_straight").click()
    expect(page.get_by_test_id("frame")).to_have_text(str(full))

    # What was marked survives a reload.
    walk.saved(page)
    page.reload()
    expect_verdict(page, "thigh_lifted", "missed")

    # One key makes the usual correction, words included.
    walk.row(page, "thigh_lifted").click()
    expect(page.get_by_test_id("frame")).to_have_text(str(top))
    page.keyboard.press("c")
    expect(page.get_by_test_id("cue")).to_have_value("Knee first then foot")
    expect(page.locator('[data-shapes] [data-role="wanted"]').first).to_be_attached()
    page.get_by_test_id("cue").fill("Show me the knee")
    page.keyboard.press("Enter")
    walk.saved(page)
    expect(page.get_by_text("1 correction drawn")).to_be_visible()
    expect(page.get_by_label("Fix first")).to_contain_text("Thigh lifted")

    # Finished: the sheet is there, and the student's page has the fault with its count, and the correction with its picture.
    walk.finish(page)
    expect(page.get_by_role("heading", name="Sheet for A Student")).to_be_visible()
    expect(page.frame_locator("iframe").get_by_text("“Show me the knee”")).to_be_visible()
    page.get_by_role("heading", name="Sheet for A Student").get_by_role("link").click()
    expect(page.get_by_role("heading", name="A Student")).to_be_visible()
    low = page.locator('[data-fault="low-chamber"]')
    expect(low).to_contain_text("1/1")
    expect(page.locator('[data-fault="hands-drop"]')).to_contain_text("1/1")
    expect(page.get_by_text("“Show me the knee”")).to_be_visible()
    picture = page.locator("figure img")
    expect(picture).to_be_visible(timeout=20_000)
    expect(picture).to_have_js_property("naturalWidth", 480)
    expect(page.locator('figure [data-role="wanted"]').first).to_be_attached()
    expect(page.get_by_label("Cautions")).to_contain_text("supervision")


def test_a_partners_landmarks_are_placed_on_the_partner(page: Page, clips: dict[str, Path], truths: dict[str, Any]) -> None:
    """The variable-rate clip: a throw, its timing judged from events, and the two bodies told apart."""
    truth = truths["variable"]["reps"][0]
    open_bench(page, clips["variable"])
    walk.pick(page, "technique", "Advancing foot sweep")
    walk.cut_rep(page, truth)
    walk.mark_events(page, truth, SWEEP_EVENTS)
    expect_verdict(page, "swept_in_time", "missed")
    walk.row(page, "leg_long").click()
    page.keyboard.press("p")
    meets = truth["events"]["sole_meets"][0]
    for landmark in ("right_hip", "right_knee", "right_ankle"):
        page.mouse.click(*walk.landmark_on_screen(page, truth, landmark, meets))
        walk.saved(page)
    expect(page.locator("[data-point]")).to_have_count(3)
    # No standing height is known yet, so nothing is invented.
    expect(page.get_by_test_id("reason")).to_contain_text("standing height")


def test_what_is_marked_without_a_connection_is_sent_when_it_is_back(
    page: Page, clips: dict[str, Path], truths: dict[str, Any]
) -> None:
    truth = truths["long_gop"]["reps"][0]
    open_bench(page, clips["long_gop"])
    walk.pick(page, "technique", "Front kick")
    walk.cut_rep(page, truth)
    page.route("**/api/reps/**", lambda route: route.abort())
    walk.go_to(page, truth["events"]["knee_top"][0])
    page.keyboard.press("Digit2")
    expect(page.get_by_test_id("saved")).to_contain_text("Not saved yet: 1 kept here")
    page.unroute("**/api/reps/**")
    walk.saved(page)
    page.reload()
    expect(page.locator('[data-peg="knee_top"]')).to_be_visible()


def test_everything_fits_without_scrolling_at_1280_by_800(page: Page, clips: dict[str, Path]) -> None:
    open_bench(page, clips["long_gop"])
    over = "(e) => e.scrollHeight - e.clientHeight"
    assert page.locator("html").evaluate(over) <= 0
    assert page.locator("main").evaluate(over) <= 0
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
