"""What a coach does on the bench, as steps for browser tests."""

from __future__ import annotations

import io
import os
import re
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

from lacertus.studio.picture.stamp import read_stamp
from tests.halls import EMAIL, PASSWORD

KICK_EVENTS = ["foot_off", "knee_top", "full_reach", "folded", "foot_down"]
CHROMIUM = "/usr/bin/chromium"
FLAGS = (
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
    # A microphone that beeps, given without asking.
    "--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream",
)  # fmt: skip


@contextmanager
def chromium() -> Iterator[Browser]:
    with freed_when_stuck(), sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
        yield browser
        browser.close()


@contextmanager
def freed_when_stuck() -> Iterator[None]:
    """Meanwhile a watcher frees Chromium's processes where they are stuck in the kernel.

    When two of them end at the same moment on different cores, Linux 6.18 can spin for ever in taking them off /proc
    (shrink_dcache_parent): they cannot be killed, and the machine stands. Put on one core they take turns, and end. They are
    not kept on one core from the start: its scheduler then starves what waits beside a process that yields in a loop.
    """
    done = threading.Event()
    watcher = threading.Thread(target=_watch, args=(done,), daemon=True)
    watcher.start()
    try:
        yield
    finally:
        done.set()
        watcher.join(WATCH_EVERY_S)


WATCH_EVERY_S = 15.0
STUCK_SHARE = 0.6


def _watch(done: threading.Event) -> None:
    before: dict[int, tuple[int, int]] = {}
    while not done.wait(WATCH_EVERY_S):
        now = _chromium_ticks()
        most = STUCK_SHARE * WATCH_EVERY_S * os.sysconf("SC_CLK_TCK")
        in_kernel = [task for task, (user, kernel) in now.items() if task in before and user == before[task][0]]
        if any(now[task][1] - before[task][1] > most for task in in_kernel):
            for task in now:
                with suppress(OSError):
                    os.sched_setaffinity(task, {0})
        before = now


def _chromium_ticks() -> dict[int, tuple[int, int]]:
    """Ticks in user and kernel of every thread of Chromium."""
    found = {}
    for stat in Path("/proc").glob("[0-9]*/task/[0-9]*/stat"):
        with suppress(OSError):
            name, _, rest = stat.read_text().rpartition(")")
            if "hrom" in (stat.parents[2] / "comm").read_text():
                fields = rest.split()
                found[int(name.split(" ", 1)[0])] = int(fields[11]), int(fields[12])
    return found


def sign_in(page: Page, url: str, password: str = PASSWORD, email: str = EMAIL) -> None:
    # Whoever signs in sees the day; these steps begin at the clips.
    page.goto(f"{url.rstrip('/')}/#/clips")
    page.get_by_label("E-mail").fill(email)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()


def shown_frame(page: Page) -> int:
    return int(page.get_by_test_id("frame").inner_text())


def settled_frame(page: Page) -> int:
    """The frame on the screen, once the one that was asked for has come."""
    expect(page.get_by_test_id("frame")).to_have_attribute("aria-busy", "false")
    return shown_frame(page)


def stamped_frame(page: Page) -> int | None:
    """The number read out of the picture on the screen."""
    picture = Image.open(io.BytesIO(page.locator("video").first.screenshot()))
    return read_stamp(np.asarray(picture.convert("RGB")))


def picture_true(page: Page) -> None:
    """The picture on the screen carries the number shown; a screenshot may catch the repaint before, so a few are allowed."""
    seen = [stamped_frame(page)]
    while seen[-1] != shown_frame(page) and len(seen) < 5:
        seen.append(stamped_frame(page))
    assert seen[-1] == shown_frame(page), f"the number says {shown_frame(page)}, the picture {seen}"


def first_picture(page: Page) -> None:
    """Wait until the browser has painted the first frame; a busy machine takes its time over the first one only."""
    for _ in range(100):
        if stamped_frame(page) == shown_frame(page):
            return
        page.wait_for_timeout(100)
    raise AssertionError("the first frame was not painted within ten seconds")


def first_shown(page: Page) -> None:
    """Wait until the film has its first picture, whatever it shows."""
    for _ in range(300):
        if page.locator("video").first.evaluate("video => video.readyState") >= 2:
            return
        page.wait_for_timeout(20)
    raise AssertionError("the film had no picture within six seconds")


def go_to(page: Page, frame: int) -> None:
    """Step to a frame with the arrow keys, tens first."""
    start = settled_frame(page)
    tens, ones = divmod(abs(frame - start), 10)
    key = "ArrowRight" if frame > start else "ArrowLeft"
    for _ in range(tens):
        page.keyboard.press(f"Shift+{key}")
    for _ in range(ones):
        page.keyboard.press(key)
    expect(page.get_by_test_id("frame")).to_have_text(str(frame))


def saved(page: Page) -> None:
    expect(page.get_by_test_id("saved")).to_contain_text("All saved", timeout=10_000)


def finish(page: Page) -> None:
    """Finish the review, whatever the list of what is left says."""
    page.get_by_role("button", name="Finish review").click()
    page.get_by_role("dialog", name="Finish the review").get_by_role("button", name=re.compile("^Finish")).click()


def on_screen(page: Page, truth: dict[str, Any], x: float, y: float) -> tuple[float, float]:
    """A place in the picture, in screen pixels."""
    box = page.locator("video").bounding_box()
    assert box is not None
    return box["x"] + x / truth["size"][0] * box["width"], box["y"] + y / truth["size"][1] * box["height"]


def landmark_on_screen(page: Page, truth: dict[str, Any], name: str, frame: int) -> tuple[float, float]:
    body, _, landmark = name.rpartition(".")
    entry = truth["bodies"][body or "performer"]["landmarks"][landmark][frame]
    return on_screen(page, truth, entry["x"], entry["y"])


def pick(page: Page, testid: str, name: str) -> None:
    """Search in a field for one of many, and choose it."""
    field = page.get_by_test_id(testid)
    field.click()
    field.fill(name)
    page.get_by_role("option", name=name, exact=True).click()
    expect(field).to_have_value(name)
    # The keyboard is the bench's again.
    expect(field).not_to_be_focused()


def segment(page: Page, testid: str, name: str) -> None:
    """Choose one of a few that stand side by side."""
    page.get_by_test_id(testid).get_by_text(name, exact=True).click()


def answer(page: Page, button: str) -> None:
    """Answer the question that is asked before something is done for good."""
    page.get_by_role("alertdialog").get_by_role("button", name=button).click()


def cut_rep(page: Page, truth: dict[str, Any]) -> None:
    first, last = truth["range"]
    go_to(page, first)
    page.keyboard.press("BracketLeft")
    go_to(page, last)
    page.keyboard.press("BracketRight")
    saved(page)


def mark_events(page: Page, truth: dict[str, Any], order: list[str]) -> None:
    """Mark every event with its own number key."""
    for event, frames in sorted(truth["events"].items(), key=lambda item: item[1]):
        go_to(page, frames[0])
        page.keyboard.press(f"Digit{order.index(event) + 1}")
        expect(page.locator(f'[data-peg="{event}"]')).to_have_attribute("data-frame", str(frames[0]))
    saved(page)


def mark_height(page: Page, truth: dict[str, Any]) -> None:
    """Mark the performer's standing height, crown to sole, on the frame on screen."""
    frame = settled_frame(page)
    page.keyboard.press("h")
    page.mouse.click(*landmark_on_screen(page, truth, "head_top", frame))
    page.mouse.click(*landmark_on_screen(page, truth, "left_heel", frame))
    saved(page)


def row(page: Page, checkpoint: str) -> Locator:
    return page.locator(f'[data-checkpoint="{checkpoint}"]')


def place_points(page: Page, truth: dict[str, Any], checkpoint: str, landmarks: list[str], frame: int) -> None:
    """Place what the checkpoint asks for, in the order that it asks."""
    row(page, checkpoint).click()
    expect(page.get_by_test_id("frame")).to_have_text(str(frame))
    page.keyboard.press("p")
    for landmark in landmarks:
        if page.locator(f'[data-point="performer.{landmark}"]').count() == 0:
            page.mouse.click(*landmark_on_screen(page, truth, landmark, frame))
            saved(page)
    page.keyboard.press("Escape")


PANES = """
() => {
  window.stampOf = (video) => {
    const canvas = document.createElement('canvas')
    canvas.width = video.videoWidth; canvas.height = video.videoHeight
    const pen = canvas.getContext('2d', { willReadFrequently: true })
    pen.drawImage(video, 0, 0)
    const cell = canvas.height / 45
    const lit = Array.from({ length: 19 }, (_, i) => {
      const [r, g, b] = pen.getImageData(Math.round((i + 1.5) * cell), Math.round(1.5 * cell), 1, 1).data
      return r + g + b > 384
    })
    const bits = lit.slice(1, 17)
    if (!lit[0] || lit[18] || lit[17] !== (bits.filter(Boolean).length % 2 === 1)) return null
    return bits.reduce((number, bit) => number * 2 + (bit ? 1 : 0), 0)
  }
  window.panes = () => [...document.querySelectorAll('[data-pane]')].map((pane) => ({
    stamp: window.stampOf(pane.querySelector('video')), wanted: Number(pane.dataset.wanted), shown: Number(pane.dataset.frame),
  }))
}
"""
"""Makes `window.panes()`: of each pane of a comparison the number in its picture, the frame that is due and the one told."""


# --- from the clips to the bench ----------------------------------------------------------------------


def send(page: Page, *files: Path) -> None:
    pick(page, "student", "A Student")
    page.get_by_test_id("files").set_input_files(list(files))


def open_bench(page: Page, clip: Path) -> None:
    send(page, clip)
    line = page.locator(f'[data-clip="{clip.name}"]')
    line.get_by_role("link", name="Review").click(timeout=60_000)
    expect(page.get_by_test_id("frame")).to_have_text("0")
    expect(page.locator("[data-checkpoint]").first).to_be_visible()
    first_picture(page)
