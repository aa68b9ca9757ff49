"""Reps beside one another in the browser: locked by the numbers in the pictures, laid over, saved; and curves on the bench."""

from __future__ import annotations

import csv
import io
import uuid
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from lacertus.services.compare import comparison
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish as finishing
from lacertus.store.tables import RepRow, Review
from tests.browser import walk
from tests.halls import Hall, cut, read_in
from tests.place import Server


@pytest.fixture
def kicks(db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> tuple[uuid.UUID, uuid.UUID]:
    """The same kick at 60 and at 30 frames a second."""
    found = []
    for name in ("constant", "long_gop"):
        review = reviewing.open_review(db, where.academy, read_in(db, where, clips[name], tmp_path)).id
        found.append(cut(db, where, review, truths[name]["reps"][0]))
    db.commit()
    return found[0], found[1]


def opened(page: Page, server: Server, kicks: tuple[uuid.UUID, uuid.UUID], more: str = "") -> None:
    page.goto(f"{server.url}/#/compare/rep.{kicks[0]}?side=rep.{kicks[1]}&anchor=full_reach{more}")
    expect(page.locator("[data-pane]")).to_have_count(2)
    page.evaluate(walk.PANES)
    settled(page)


def settled(page: Page) -> list[dict[str, int]]:
    """What both pictures show, once they carry the numbers that were asked for."""
    for _ in range(120):
        seen: list[dict[str, int]] = page.evaluate("window.panes()")
        if all(one["stamp"] == one["wanted"] == one["shown"] for one in seen):
            return seen
        page.wait_for_timeout(100)
    raise AssertionError(f"the pictures never showed what was asked for: {seen}")


def test_both_show_the_event_and_step_together_whatever_their_frame_rates(
    page: Page, server: Server, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]
) -> None:
    found = comparison.compare(db, where.academy, [f"rep.{one}" for one in kicks], "full_reach")
    at = [side.events["full_reach"] for side in found.sides]
    opened(page, server, kicks)
    assert [one["stamp"] for one in settled(page)] == at
    for steps, key in ((6, "ArrowRight"), (14, "ArrowLeft")):
        for _ in range(steps):
            page.keyboard.press(key)
        fast, slow = (one["stamp"] for one in settled(page))
        # In real time: the slower picture is the one that had begun by then.
        behind = (fast - at[0]) / 60 - (slow - at[1]) / 30
        assert -1e-6 <= behind < 1 / 30 + 1e-6
    assert page.get_by_test_id("clock").inner_text() == "−0.133 s"

    # Stretched from event to event, every common event is met by both at once.
    page.get_by_test_id("mode").get_by_text("event to event").click()
    for event in found.anchors:
        page.get_by_test_id("anchor").select_option(value=event)
        expect(page.get_by_test_id("anchor")).to_have_value(event)
        page.wait_for_timeout(400)
        page.keyboard.press("Home")
        assert [one["stamp"] for one in settled(page)] == [side.events[event] for side in found.sides]


def test_while_they_play_no_picture_is_off_by_more_than_a_frame(
    page: Page, server: Server, kicks: tuple[uuid.UUID, uuid.UUID]
) -> None:
    opened(page, server, kicks)
    page.get_by_label("Speed").get_by_text("¼×").click()
    off: list[list[int]] = []
    # A machine that has no time for two films for a moment is no failure of the clock; one that never keeps them together is.
    # How they keep together at each pace is measured by `script/bench together`, and the rule itself tested in deck.test.ts.
    for _ in range(6):
        off.append(played(page))
        if sum(one <= 1 for one in off[-1]) / len(off[-1]) >= 0.9:
            break
    else:
        raise AssertionError(off)
    settled(page)


def played(page: Page) -> list[int]:
    """Play from before the event for 2.4 seconds: by how many frames each picture is off what is due, over and over."""
    page.keyboard.press("Home")
    page.keyboard.press("Shift+ArrowLeft")
    settled(page)
    page.keyboard.press(" ")
    seen = page.evaluate(
        """async () => {
          const seen = []
          for (let i = 0; i < 40; i++) {
            await new Promise((done) => setTimeout(done, 60))
            seen.push(window.panes())
          }
          return seen
        }"""
    )
    moved = page.get_by_test_id("clock").inner_text()
    page.keyboard.press(" ")
    assert moved not in ("+0.000 s", "−0.167 s"), "it plays"
    assert len({pair[0]["stamp"] for pair in seen}) >= 8, "the pictures move"
    # The first moments are the browser's own start of playing.
    off = [abs(one["stamp"] - one["wanted"]) for pair in seen[8:] for one in pair if one["stamp"] is not None]
    assert len(off) >= 30
    return off


def test_one_lies_over_the_other_by_feet_and_height(
    page: Page, server: Server, kicks: tuple[uuid.UUID, uuid.UUID], truths: dict[str, Any]
) -> None:
    opened(page, server, kicks)
    page.get_by_test_id("layout").get_by_text("one over the other").click()
    expect(page.get_by_test_id("laid")).to_be_visible()
    boxes = [page.locator("[data-pane]").nth(i).bounding_box() for i in range(2)]
    places = []
    for box, name in zip(boxes, ("constant", "long_gop"), strict=True):
        assert box is not None
        rep = truths[name]["reps"][0]
        frame, marks = rep["events"]["full_reach"][0], rep["bodies"]["performer"]["landmarks"]
        scale = box["width"] / rep["size"][0]
        for mark in ("head_top", "left_heel"):
            entry = next(one for one in marks[mark] if one["frame"] == frame)
            places.append((box["x"] + entry["x"] * scale, box["y"] + entry["y"] * scale))
    tall = truths["constant"]["reps"][0]["bodies"]["performer"]["height_px"] * boxes[0]["width"] / 480  # type: ignore[index]
    for one, two in zip(places[:2], places[2:], strict=True):
        assert abs(one[0] - two[0]) <= 0.01 * tall
        assert abs(one[1] - two[1]) <= 0.01 * tall


def test_what_differs_is_told_and_picture_and_curves_are_saved(
    page: Page, server: Server, db: Session, kicks: tuple[uuid.UUID, uuid.UUID]
) -> None:
    opened(page, server, kicks, "&checkpoint=thigh_lifted")
    table = page.get_by_test_id("differences")
    expect(table.locator('[data-row="thigh_lifted"]')).to_contain_text("too near to say")
    table.get_by_role("button", name="all checkpoints").click()
    assert table.locator("tbody tr").count() >= 8
    expect(page.get_by_test_id("timing").locator('[data-event="folded"]')).to_contain_text("ms")
    with page.expect_download() as waiting:
        page.get_by_role("button", name="Curves as CSV").click()
    rows = list(csv.reader(io.StringIO(Path(waiting.value.path()).read_text(encoding="utf-8"))))
    assert rows[0][:3] == ["side", "frame", "seconds from full_reach"]
    assert len({row[0] for row in rows[1:]}) == 2
    assert any(row[3] for row in rows[1:])
    with page.expect_download() as waiting:
        page.get_by_role("button", name="Save picture").click()
    picture = Image.open(waiting.value.path())
    assert picture.format == "PNG"
    assert picture.height == 544
    # Films are in it, not two dark fields.
    assert len(picture.convert("RGB").resize((60, 40)).getcolors(10_000) or ()) > 200

    # The studio's move is put beside them.
    page.get_by_role("button", name="Add a rep").click()
    page.locator('[data-key="studio.right"]').click()
    expect(page.locator("[data-pane]")).to_have_count(3)
    expect(table.locator('[data-row="thigh_lifted"] .real').first).to_be_visible()


def test_a_curve_stands_under_the_strand_and_steps_the_clip(
    page: Page, server: Server, db: Session, kicks: tuple[uuid.UUID, uuid.UUID]
) -> None:
    clip = db.get_one(Review, db.get_one(RepRow, kicks[0]).review_id).clip_id
    page.goto(f"{server.url}/#/bench/{clip}")
    page.locator('[data-checkpoint="thigh_lifted"]').click()
    page.keyboard.press("Shift+G")
    curve = page.get_by_test_id("curve")
    expect(curve.locator("[data-part=read]")).to_have_count(1)
    expect(curve.locator("[data-part=wanted]")).to_have_count(1)
    assert curve.locator("[data-part=line]").get_attribute("d")
    before = walk.settled_frame(page)
    box = curve.get_by_role("img").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.8, box["y"] + 40)
    assert walk.settled_frame(page) > before
    with page.expect_download() as waiting:
        curve.get_by_role("button", name="PNG").click()
    assert Image.open(waiting.value.path()).format == "PNG"
    page.locator('[data-checkpoint="quick_return"]').click()
    expect(page.get_by_test_id("no-curve")).to_contain_text("a time between two events")
    page.keyboard.press("Shift+G")
    expect(curve).to_have_count(0)


def test_a_comparison_goes_onto_the_sheet_as_a_film(
    page: Page, server: Server, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]
) -> None:
    review = db.get_one(RepRow, kicks[0]).review_id
    opened(page, server, kicks)
    page.get_by_role("button", name="Film", exact=True).click()
    films = page.get_by_test_id("films")
    films.get_by_role("button", name="Put a film on the sheet").click()
    expect(films.get_by_role("alert")).to_contain_text("finish this review first")
    finishing.finish(db, where.academy, review)
    db.commit()
    page.get_by_label("Speed").get_by_text("1×").click()
    films.get_by_label("Words under the film").fill("Left quick, right slow")
    films.get_by_role("button", name="Put a film on the sheet").click()
    link = films.get_by_role("link", name="Left quick, right slow")
    expect(link).to_be_visible(timeout=60_000)
    expect(films).to_contain_text("on the sheet and the student’s page")

    # The sheet tells of it, and so does what the link to the sheet opens; what is missed leads to a comparison.
    page.goto(f"{server.url}/#/sheet/{review}")
    expect(page.get_by_test_id("films").get_by_role("link", name="Left quick, right slow")).to_be_visible()
    page.get_by_role("button", name="Make a link").click()
    page.goto(page.get_by_test_id("link").first.get_attribute("href") or "")
    section = page.get_by_role("region", name="Beside one another")
    expect(section).to_contain_text("Left quick, right slow")
    assert page.evaluate("(film) => new Promise((done) => { if (film.readyState) done(film.duration);"
                         " film.addEventListener('loadedmetadata', () => done(film.duration)) })",
                         section.locator("video").element_handle()) > 1  # fmt: skip
    page.goto(f"{server.url}/#/sheet/{review}")
    page.get_by_test_id("films").get_by_role("button", name="Delete the film").click()
    expect(page.get_by_test_id("films").get_by_role("listitem")).to_have_count(0)


def test_the_lesson_leads_to_a_rep_beside_the_studios_move(
    page: Page, server: Server, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]
) -> None:
    finishing.finish(db, where.academy, db.get_one(RepRow, kicks[0]).review_id)
    db.commit()
    page.goto(f"{server.url}/#/techniques/front-kick")
    page.get_by_role("region", name="Reps of this technique").get_by_role("link").first.click()
    expect(page.locator("[data-pane]")).to_have_count(2)
    expect(page.locator('[data-pane="studio.right"]')).to_be_visible()
