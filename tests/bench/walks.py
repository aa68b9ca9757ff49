"""Two counted walks over the bench: a newcomer who presses only what the leading line names, and a coach with a set of five.

Time is taken as 1.3 s an act (what a look and a press take; a convention) and what is waited for, measured: uploads, reading,
tracking, saving. Reading text takes longer and differs from person to person; it is not in it.
"""

from __future__ import annotations

import re
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect
from rich.console import Console
from rich.table import Table

from lacertus.library import shipped_technique
from lacertus.local.postgres import free_port
from lacertus.store import database
from lacertus.studio.clips import record
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of
from tests.browser import walk
from tests.halls import hall
from tests.place import Server, place

ACT_S = 1.3
MOST_ACTS = 400
EYE = [one.id for one in shipped_technique("front-kick").in_phase_order if one.kind == "seen"]
SIDE = {"lacertus_script": 1, "technique": "front-kick", "camera": {"size": [640, 360]}, "recording": {"fps": 30}}
FIRST = SIDE | {"id": "first", "reps": [{}, {"faults": {"low-chamber": 57.0}}], "seed": 5}
SET = SIDE | {
    "id": "set", "seed": 2, "scatter": 0.1,
    "reps": [{}, {"faults": {"low-chamber": 57.0}}, {}, {"faults": {"no-return": 260}}, {"faults": {"low-chamber": 54.0}}],
}  # fmt: skip


class Walker:
    """Acts and waits of one walk."""

    def __init__(self, page: Page) -> None:
        self.page, self.acts, self.waited_s = page, 0, 0.0
        self.log: dict[str, int] = {}

    def act(self, what: str, do: Callable[[], object]) -> None:
        self.acts += 1
        self.log[what] = self.log.get(what, 0) + 1
        do()

    def press(self, key: str, what: str) -> None:
        self.act(what, lambda: self.page.keyboard.press(key))

    def wait(self, until: Callable[[], object]) -> None:
        started = time.perf_counter()
        until()
        self.waited_s += time.perf_counter() - started

    def saved(self) -> None:
        self.wait(lambda: walk.saved(self.page))

    @property
    def seconds(self) -> float:
        return self.acts * ACT_S + self.waited_s


def main() -> None:
    table = Table("walk", "acts", "waits, s", "in all, s", "to reach, s", "acts by what they are for", title="walks over the bench")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        films = {script["id"]: _filmed(script, folder) for script in (FIRST, SET)}
        with place(folder / "place") as environment:
            with database.session() as db:
                hall(db)
            server = Server(free_port(), environment, folder / "log")
            try:
                for title, goal, run, film in (
                    ("newcomer, two kicks", 300, newcomer, films["first"]),
                    ("coach, five kicks × 12 checkpoints", 180, coach, films["set"]),
                ):
                    with walk.chromium() as browser:
                        page = browser.new_page(viewport={"width": 1280, "height": 800})
                        walk.sign_in(page, server.url)
                        found = Walker(page)
                        run(found, *film)
                        told = ", ".join(f"{what} {count}" for what, count in found.log.items())
                        table.add_row(title, str(found.acts), f"{found.waited_s:.0f}", f"{found.seconds:.0f}", str(goal), told)
            finally:
                server.stop()
    Console(width=160).print(table)


def _filmed(data: dict[str, Any], folder: Path) -> tuple[Path, dict[str, Any]]:
    script = read_script(data)
    shot = shots_of(script)[0]
    path = folder / f"{script.id}.mp4"
    record(shot, path, script.recording)
    return path, truth(shot)


def _open(found: Walker, clip: Path) -> None:
    """From the clips to the bench: whose film, which file, open it, which technique and side."""
    page = found.page
    page.get_by_role("heading", name="Clips").wait_for()
    found.act("send", lambda: walk.pick(page, "student", "A Student"))
    found.act("send", lambda: page.get_by_test_id("files").set_input_files([clip]))
    review = page.locator(f'[data-clip="{clip.name}"]').get_by_role("link", name="Review")
    found.wait(lambda: review.wait_for(timeout=60_000))
    found.act("send", review.click)
    found.wait(lambda: walk.first_shown(page))
    found.acts += 1  # A choice is a click and a press.
    found.act("technique and side", lambda: walk.pick(page, "technique", "Front kick"))
    found.act("technique and side", lambda: walk.segment(page, "side", "right"))
    found.wait(lambda: expect(page.locator("[data-proposal]").first).to_be_visible())


# --- the newcomer -------------------------------------------------------------------------------------


def newcomer(found: Walker, clip: Path, told: dict[str, Any]) -> None:
    """Do what the line says until the sheet is there."""
    _open(found, clip)
    page = found.page
    while not page.get_by_role("heading", name=re.compile("^Sheet for")).is_visible():
        if found.acts > MOST_ACTS:
            raise AssertionError(f"no end after {MOST_ACTS} acts: {_line(page)}")
        _next(found, told)


def _line(page: Page) -> str:
    return page.get_by_test_id("next-event").inner_text().replace("\n", " ")


def _rep(page: Page, told: dict[str, Any]) -> dict[str, Any]:
    pressed = page.get_by_role("group", name="Reps").locator('button[aria-pressed="true"]').first.inner_text()
    return dict(told["reps"][int(re.findall(r"\d+", pressed)[0]) - 1])


def _next(found: Walker, told: dict[str, Any]) -> None:
    page = found.page
    if page.get_by_role("dialog", name="Finish the review").is_visible():
        found.press("Enter", "finish")
        found.wait(lambda: page.get_by_role("heading", name=re.compile("^Sheet for")).wait_for(timeout=30_000))
        return
    line = _line(page)
    if "being tracked" in line and "Enter" not in line:
        found.wait(lambda: expect(page.get_by_test_id("next-event")).not_to_contain_text("being tracked", timeout=120_000))
    elif line.startswith("Click the sole"):
        _click(found, told, "left_heel", "height")
    elif line.startswith("Click the crown"):
        _click(found, told, "head_top", "height")
    elif click := re.match(r"Click the (performer|partner)’s ([a-z ]+?) Or place", line):
        _click(found, told, click[2].replace(" ", "_"), "points")
    elif "Step to it with the arrow keys" in line:
        event = re.findall(r"Next: ([a-z ]+?) (?:First|Last) frame", line)[0].replace(" ", "_")
        _go(found, _rep(page, told)["events"][event][0])
    elif "Enter" in line:
        proposed = re.search(r"mark all \d+ proposed", line)
        found.press("Shift+Q" if proposed else "Enter", _for(line))
    else:
        found.press("y", "answers")
    page.wait_for_timeout(30)
    if page.get_by_test_id("saved").is_visible():
        found.saved()


def _for(line: str) -> str:
    """What an act of the line is for, by its first words."""
    for words, what in (
        ("cut", "cuts"), ("Next:", "events"), ("height", "height"), ("Place", "points"), ("Track", "tracking"),
        ("Find the", "tracking"),
        ("correction", "correction"), ("rep is done", "next rep"), ("reps are done", "finish"), ("points of this", "points"),
    ):  # fmt: skip
        if words in line[:60]:
            return what
    return "answers"


def _click(found: Walker, told: dict[str, Any], landmark: str, what: str) -> None:
    frame = walk.settled_frame(found.page)
    x, y = walk.landmark_on_screen(found.page, _rep(found.page, told), landmark, frame)
    found.act(what, lambda: found.page.mouse.click(x, y))


def _go(found: Walker, frame: int) -> None:
    """To a frame: near to it by tens, then frame by frame, as the arrow keys do."""
    here = walk.settled_frame(found.page)
    tens, ones = divmod(abs(frame - here), 10)
    key = "ArrowRight" if frame > here else "ArrowLeft"
    for _ in range(tens):
        found.press(f"Shift+{key}", "stepping")
    for _ in range(ones):
        found.press(key, "stepping")
    found.wait(lambda: expect(found.page.get_by_test_id("frame")).to_have_text(str(frame)))


# --- the coach ----------------------------------------------------------------------------------------


def coach(found: Walker, clip: Path, told: dict[str, Any]) -> None:
    """Keys that a coach at home knows: all cuts, height and points once, then for each rep track, mark what is proposed, answer."""
    _open(found, clip)
    page = found.page
    found.wait(lambda: expect(page.locator("[data-proposal]")).to_have_count(len(told["reps"])))
    found.press("Shift+A", "cuts")
    found.saved()
    for number in range(len(told["reps"])):
        if number > 0:
            found.press("Shift+ArrowDown", "next rep")
        if number == 0:
            _seed(found, told)
        found.press("k", "tracking")
        found.wait(lambda: _tracked(page))
        found.press("Shift+Q", "events")
        found.saved()
        while any(walk.row(page, one).get_attribute("data-verdict") != "met" for one in EYE):
            found.press("y", "answers")
            found.saved()
    found.act("finish", page.get_by_role("button", name="Finish review").click)
    found.press("Enter", "finish")
    found.wait(lambda: page.get_by_role("heading", name=re.compile("^Sheet for")).wait_for(timeout=30_000))


def _tracked(page: Page) -> None:
    tracking = page.get_by_test_id("tracking")
    expect(tracking).to_be_visible()
    expect(tracking).to_have_count(0, timeout=120_000)
    expect(page.locator("[data-proposed]")).not_to_have_count(0)


def _seed(found: Walker, told: dict[str, Any]) -> None:
    found.press("h", "height")
    for landmark in ("head_top", "left_heel"):
        _click(found, told, landmark, "height")
    found.saved()
    found.press("p", "points")
    for _ in range(4):
        words = found.page.get_by_role("status").filter(has_text="Click the performer").inner_text()
        _click(found, told, words.split("’s ")[1].split(";")[0].replace(" ", "_"), "points")
        found.saved()
    found.press("Escape", "points")
