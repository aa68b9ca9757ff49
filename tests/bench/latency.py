"""From a dragged point to the value from Python on the screen, and one arrow key on a bench full of points."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from playwright.sync_api import Page
from rich.console import Console

from lacertus.local.postgres import free_port
from lacertus.services.review import review as reviewing
from lacertus.store import database
from lacertus.studio.clips import record
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of
from tests.browser import walk
from tests.halls import cut, hall, read_in
from tests.place import Server, place

SCRIPT = {"lacertus_script": 1, "id": "drag", "technique": "front-kick", "reps": [{}], "recording": {"fps": 60}}
MOVES = 200
EVERY_MS = 50
WATCH = """(cell) => {
  window.lags = []
  let moved = 0
  window.addEventListener('pointermove', () => (moved = performance.now()), true)
  new MutationObserver(() => requestAnimationFrame(() => moved && window.lags.push(performance.now() - moved)))
    .observe(cell, { subtree: true, characterData: true, childList: true })
}"""


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        script = read_script(SCRIPT | {"camera": {"size": [1280, 720]}})
        shot = shots_of(script)[0]
        clip, told = folder / "drag.mp4", truth(shot)["reps"][0]
        record(shot, clip, script.recording)
        with place(folder / "place") as environment:
            server = Server(free_port(), environment, folder / "log")
            with database.session() as db:
                where = hall(db)
                clip_id = read_in(db, where, clip, folder)
                review = reviewing.open_review(db, where.academy, clip_id).id
                cut(db, where, review, told)
            with walk.chromium() as browser:
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                walk.sign_in(page, server.url)
                page.get_by_role("heading", name="Clips").wait_for()
                page.goto(f"{server.url}#/bench/{clip_id}")
                lags = dragged(page, told)
            server.stop()
    shown = np.percentile(lags, (50, 95))
    Console().print(
        f"dragged point → value from Python painted: median {shown[0]:.0f} ms, 95 % {shown[1]:.0f} ms (to reach: 40), n {len(lags)}"
    )


def dragged(page: Page, told: dict[str, object]) -> list[float]:
    """Drag the kicking ankle about at full reach; milliseconds from each move to the frame that shows its value."""
    page.get_by_test_id("frame").wait_for()
    row = walk.row(page, "leg_straight")
    row.click()
    page.wait_for_timeout(1500)
    x, y = walk.landmark_on_screen(page, told, "right_ankle", told["events"]["full_reach"][0])  # type: ignore[index]
    row.evaluate(WATCH)
    page.mouse.move(x, y)
    page.mouse.down()
    for move in range(MOVES):
        page.mouse.move(x + 20 * np.sin(move / 9), y + 25 * np.cos(move / 7) - 25)
        page.wait_for_timeout(EVERY_MS)
    found: list[float] = page.evaluate("window.lags")
    page.mouse.up()
    return found
