"""The strand and the picture: proposed cuts, the filmstrip and its zoom, the loop, the magnified picture, the keys."""

from __future__ import annotations

from datetime import date
from itertools import pairwise
from pathlib import Path

import pytest
from playwright.sync_api import FloatRect, Page, expect
from sqlalchemy.orm import Session

from lacertus.local.academy import SHIPPED
from tests.browser import walk
from tests.halls import Hall, read_in


@pytest.fixture
def kicks(page: Page, db: Session, where: Hall, tmp_path: Path) -> Page:
    """The bench on a clip of two kicks with calls before them."""
    clip = read_in(db, where, SHIPPED / "front-kick-push-left.mp4", tmp_path, date(2026, 5, 4))
    db.commit()
    page.goto(page.url.split("#")[0] + f"#/bench/{clip}")
    expect(page.locator("[data-proposal]")).to_have_count(2)
    walk.pick(page, "technique", "Front kick")
    return page


def middle(box: FloatRect, share_x: float = 0.5, share_y: float = 0.5) -> tuple[float, float]:
    return box["x"] + share_x * box["width"], box["y"] + share_y * box["height"]


def test_proposed_cuts_are_dragged_accepted_dropped_and_taken_back(kicks: Page) -> None:
    first = kicks.locator('[data-proposal="0"]')
    before = int(first.get_attribute("data-first") or 0)
    edge = first.locator("rect").nth(1).bounding_box()
    assert edge is not None
    kicks.mouse.move(*middle(edge))
    kicks.mouse.down()
    kicks.mouse.move(edge["x"] - 25, edge["y"] + 8, steps=5)
    kicks.mouse.up()
    expect(first).not_to_have_attribute("data-first", str(before))
    moved = int(first.get_attribute("data-first") or 0)
    assert moved < before
    expect(kicks.get_by_test_id("frame")).to_have_text(str(moved))
    walk.saved(kicks)
    kicks.keyboard.press("a")
    expect(kicks.get_by_role("button", name="Rep 1")).to_be_visible()
    walk.saved(kicks)
    kicks.keyboard.press("r")
    expect(kicks.locator("[data-proposal]")).to_have_count(1)
    kicks.keyboard.press("d")
    expect(kicks.locator("[data-proposal]")).to_have_count(0)
    walk.saved(kicks)
    kicks.keyboard.press("Control+z")
    expect(kicks.locator("[data-proposal]")).to_have_count(1)
    kicks.keyboard.press("Control+z")
    expect(kicks.get_by_role("button", name="Rep 1")).to_have_count(0)
    expect(kicks.locator("[data-proposal]")).to_have_count(2)
    walk.saved(kicks)
    kicks.keyboard.press("Shift+A")
    expect(kicks.get_by_role("button", name="Rep 2")).to_be_visible()
    walk.saved(kicks)
    kicks.reload()
    expect(kicks.get_by_role("button", name="Rep 2")).to_be_visible()
    expect(kicks.locator("[data-proposal]")).to_have_count(0)


def test_the_filmstrip_traces_and_onsets_lie_under_the_cuts_and_follow_the_zoom(kicks: Page) -> None:
    expect(kicks.locator("[data-onset]")).to_have_count(4)
    pictures = kicks.locator("[data-film]")
    whole = [int(found.get_attribute("data-film") or 0) for found in pictures.all()]
    assert whole == sorted(whole)
    assert whole[-1] > 120
    walk.go_to(kicks, 60)
    for _ in range(2):
        kicks.keyboard.press("f")
    expect(kicks.locator("[data-onset]")).not_to_have_count(4)
    near = [int(found.get_attribute("data-film") or 0) for found in pictures.all()]
    assert max(near) - min(near) < (whole[-1] - whole[0]) / 3
    assert min(near) <= 60 <= max(near) + 8
    kicks.keyboard.press("e")
    expect(kicks.locator("[data-onset]")).to_have_count(4)


def test_a_rep_plays_in_a_loop(kicks: Page) -> None:
    cut = kicks.locator('[data-proposal="0"]')
    first, last = (int(cut.get_attribute(f"data-{end}") or 0) for end in ("first", "last"))
    kicks.keyboard.press("a")
    walk.saved(kicks)
    kicks.keyboard.press("l")
    # From a quarter of the speed by an eighth to the whole.
    kicks.keyboard.press("s")
    kicks.keyboard.press("s")
    walk.go_to(kicks, last - 8)
    kicks.keyboard.press("Space")
    seen = []
    for _ in range(30):
        kicks.wait_for_timeout(60)
        seen.append(walk.shown_frame(kicks))
    kicks.keyboard.press("Space")
    assert any(after < before - 20 for before, after in pairwise(seen))
    assert first <= min(seen)
    assert max(seen) <= last + 1


def test_a_held_key_runs_and_stops_when_it_is_let_go(kicks: Page) -> None:
    kicks.keyboard.down("ArrowRight")
    # The browser repeats a key that is held.
    for _ in range(12):
        kicks.keyboard.down("ArrowRight")
        kicks.wait_for_timeout(40)
    kicks.keyboard.up("ArrowRight")
    kicks.wait_for_timeout(400)
    there = walk.settled_frame(kicks)
    assert there > 5
    kicks.wait_for_timeout(300)
    assert walk.shown_frame(kicks) == there
    walk.picture_true(kicks)


def test_the_picture_is_magnified_and_moved_and_never_lost(kicks: Page) -> None:
    frame = kicks.locator("video").bounding_box()
    assert frame is not None
    kicks.keyboard.press("=")
    kicks.keyboard.press("=")
    larger = kicks.locator("video").bounding_box()
    assert larger is not None
    assert larger["width"] > 2 * frame["width"]
    kicks.keyboard.press("Control+ArrowLeft")
    moved = kicks.locator("video").bounding_box()
    assert moved is not None
    assert moved["x"] > larger["x"]
    for _ in range(30):
        kicks.keyboard.press("Control+ArrowLeft")
    far = kicks.locator("video").bounding_box()
    assert far is not None
    assert far["x"] <= frame["x"] + 1
    kicks.keyboard.press("0")
    assert kicks.locator("video").bounding_box() == frame


def test_every_key_of_the_bench_is_on_its_card(kicks: Page) -> None:
    kicks.keyboard.press("?")
    card = kicks.get_by_role("dialog", name="Keys")
    for words in ("loop", "speed", "closer", "accept", "second view", "frame"):
        expect(card).to_contain_text(words, ignore_case=True)
