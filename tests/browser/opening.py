"""From the clips to the bench, as a coach goes."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser import walk

KICK_EVENTS = ["foot_off", "knee_top", "full_reach", "folded", "foot_down"]


def send(page: Page, *files: Path) -> None:
    walk.pick(page, "student", "A Student")
    page.get_by_test_id("files").set_input_files(list(files))


def open_bench(page: Page, clip: Path) -> None:
    send(page, clip)
    line = page.locator(f'[data-clip="{clip.name}"]')
    line.get_by_role("link", name="Review").click(timeout=60_000)
    expect(page.get_by_test_id("frame")).to_have_text("0")
    expect(page.locator("[data-checkpoint]").first).to_be_visible()
    walk.first_picture(page)
