"""Makes a current picture of each main view from the demo's data. Run by script/screenshots."""

from __future__ import annotations

import io
import re
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from PIL import Image
from playwright.sync_api import Browser, Locator, Page, expect

from lacertus.local.demo import Demo
from tests.browser import walk

ROOT = Path(__file__).resolve().parent.parent.parent
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


def clips(page: Page) -> None:
    expect(page.locator("[data-clip]").first).to_be_visible()


def bench(page: Page) -> None:
    _read(page, "front-kick-low-and-late.mp4", "thigh_lifted")


def bench_throw(page: Page) -> None:
    _read(page, "foot-sweep-late.mp4", "leg_long")
    page.get_by_role("button", name="Rep 2").click()
    page.locator('[data-checkpoint="leg_long"]').click()


def _read(page: Page, clip: str, checkpoint: str) -> None:
    page.locator(f'[data-clip="{clip}"]').get_by_role("link").click()
    page.locator(f'[data-checkpoint="{checkpoint}"]').click()
    expect(page.get_by_test_id("frame")).not_to_have_text("0")


def correction(page: Page) -> None:
    """A finished review is opened again: its correction with the marks and the words."""
    sheet(page)
    page.get_by_role("button", name="Revise this review").click()
    page.get_by_placeholder("Why is it revised?").fill("to look at its marks")
    page.get_by_role("button", name="Open it again").click()
    page.locator('[data-checkpoint="thigh_lifted"]').click()
    page.keyboard.press("c")
    expect(page.locator("[data-handle]").first).to_be_visible()


def sheet(page: Page) -> None:
    _read(page, "front-kick-low-and-late.mp4", "thigh_lifted")
    page.get_by_role("link", name="Sheet").click()
    expect(page.frame_locator("iframe").locator("image").first).to_be_visible()


def sheet_phone(page: Page) -> None:
    """What the student sees when the link is opened."""
    page.goto(_link(page))
    page.evaluate("document.querySelector('[data-fix]').scrollIntoView()")


def _link(page: Page) -> str:
    clips(page)
    found = page.request.get("/api/clips").json()
    sweep = next(one["id"] for one in found if one["name"] == "foot-sweep-late.mp4")
    review = page.request.post(f"/api/clips/{sweep}/review").json()["id"]
    return str(page.request.post(f"/api/reviews/{review}/links", data={"days": 7}).json()["address"])


def students(page: Page) -> None:
    page.get_by_role("link", name="Students").click()
    # The clips' list names the students too, until it has gone.
    expect(page.get_by_role("heading", name="Students", exact=True)).to_be_visible()
    expect(page.get_by_text("Tomas Verhaal")).to_be_visible()


def student(page: Page) -> None:
    _student(page, "Tomas Verhaal")


def _student(page: Page, name: str) -> None:
    students(page)
    page.get_by_text(name).click()
    expect(page.get_by_role("heading", name=name)).to_be_visible()
    expect(page.get_by_label("Fix first")).to_be_visible()
    expect(page.get_by_label("Grade")).to_be_visible()


def before_after(page: Page) -> None:
    _student(page, "Ilse Marrane")
    row = page.locator('[data-fault="low-chamber"]')
    row.get_by_role("button").first.click()
    expect(page.get_by_test_id("before-after").locator("figure")).to_have_count(2)
    page.get_by_test_id("before-after").scroll_into_view_if_needed()
    page.wait_for_timeout(1500)


def grades(page: Page) -> None:
    page.get_by_role("link", name="Grades").click()
    expect(page.locator('[data-grade="Yellow"]')).to_be_visible()


def academy(page: Page) -> None:
    page.get_by_role("link", name="Academy", exact=True).click()
    expect(page.get_by_test_id("teaching")).to_be_visible()


def second_opinion(page: Page) -> None:
    academy(page)
    page.get_by_role("list", name="Reviews to judge again").get_by_role("link").click()
    page.locator('[data-checkpoint="thigh_lifted"]').get_by_role("button").first.click()
    page.keyboard.press("y")
    expect(page.locator('[data-checkpoint="thigh_lifted"]')).to_have_attribute("data-mine", "met")
    page.wait_for_timeout(1000)


def techniques(page: Page) -> None:
    page.get_by_role("link", name="Techniques", exact=True).click()
    expect(page.get_by_role("link", name="Front kick")).to_be_visible()


def checkpoint_of_lesson(page: Page, technique: str, checkpoint: str) -> Locator:
    """A checkpoint on a lesson card, opened, with its figure moving."""
    techniques(page)
    page.get_by_role("link", name=technique).first.click()
    line = page.locator(f'[data-lesson-checkpoint="{checkpoint}"]')
    line.get_by_role("button", name="More").click()
    expect(line.get_by_test_id("figure")).to_have_attribute("data-ready", "yes", timeout=30_000)
    line.scroll_into_view_if_needed()
    return line


def lesson(page: Page) -> None:
    checkpoint_of_lesson(page, "Front kick", "tight_chamber")


def compare(page: Page) -> None:
    """A low knee beside the next rep and the studio's move, locked on the top of the knee, with their curves."""
    _read(page, "front-kick-low-and-late.mp4", "thigh_lifted")
    page.get_by_role("link", name="Compare").click()
    expect(page.locator("[data-pane]")).to_have_count(2)
    page.get_by_role("button", name="Add a rep").click()
    page.locator('[data-key="studio.right"]').click()
    expect(page.locator("[data-pane]")).to_have_count(3)
    page.get_by_role("button", name="Add a rep").click()
    page.wait_for_timeout(4000)


def student_side(page: Page) -> Image.Image:
    """The inbox, and beside it a student's own page as it is on a phone."""
    clips(page)
    found = page.request.get("/api/students").json()
    ilse = next(one["id"] for one in found if one["name"] == "Ilse Marrane")
    address = page.request.get(f"/api/students/{ilse}/own-links").json()[0]["address"]
    page.get_by_role("link", name="Inbox").click()
    expect(page.locator("[data-item=pain]")).to_be_visible()
    parts = [page.screenshot()]
    page.set_viewport_size({"width": PHONE["width"], "height": DESK["height"]})
    page.goto(address)
    expect(page.locator("[data-fix]").first).to_be_visible()
    page.wait_for_timeout(1000)
    parts.append(page.screenshot())
    return _side_by_side(parts)


def today(page: Page) -> None:
    page.get_by_role("link", name="Today", exact=True).click()
    expect(page.get_by_test_id("chosen").locator("[data-task]").first).to_be_visible()


def a_class(page: Page) -> Image.Image:
    """Tomorrow's class as it is planned, and beside it as it runs on a phone at the mat."""
    today(page)
    page.get_by_label("Classes").get_by_role("link", name="Plan of").first.click()
    expect(page.get_by_test_id("pairs")).to_be_visible()
    expect(page.locator("[data-teach]").get_by_label("Layer")).to_be_visible()
    parts = [page.screenshot()]
    page.set_viewport_size({"width": PHONE["width"], "height": DESK["height"]})
    page.get_by_role("link", name="Run it").click()
    expect(page.get_by_test_id("left")).to_be_visible()
    page.wait_for_timeout(600)
    parts.append(page.screenshot())
    return _side_by_side(parts)


def _side_by_side(parts: list[bytes]) -> Image.Image:
    pictures = [Image.open(io.BytesIO(part)).convert("RGB") for part in parts]
    whole = Image.new("RGB", (sum(one.width for one in pictures) + 16, DESK["height"]), "#1D262B")
    whole.paste(pictures[0], (0, 0))
    whole.paste(pictures[1], (pictures[0].width + 16, 0))
    return whole


def eye(page: Page) -> None:
    """An angle that was said, with what is so drawn over it. The worker makes films while nothing else waits."""
    page.get_by_role("link", name="Eye", exact=True).click()
    page.get_by_role("combobox", name="Question").select_option("angle")
    question = page.get_by_test_id("eye-question")
    for _ in range(60):
        page.get_by_role("button", name="Begin").click()
        page.wait_for_timeout(5000)
        if question.count():
            break
    page.get_by_label("Degrees", exact=True).fill("95")
    page.keyboard.press("Enter")
    if page.get_by_test_id("eye-wanted").is_visible():
        page.keyboard.press("Enter")
    expect(page.get_by_test_id("eye-result")).to_be_visible()


def editor(page: Page) -> None:
    techniques(page)
    page.get_by_role("link", name="Outer reap").click()
    page.get_by_role("link", name="Make our own version").click()
    page.get_by_role("button", name=re.compile(r"^\d Checkpoints")).click()
    page.get_by_label("Checkpoints").get_by_role("button").nth(2).click()
    expect(page.get_by_test_id("pose")).to_be_visible()
    page.wait_for_timeout(1500)


VIEWS: tuple[tuple[str, dict[str, int], Callable[[Page], None]], ...] = (
    ("today", DESK, today),
    ("clips", DESK, clips),
    ("bench", DESK, bench),
    ("bench-throw", DESK, bench_throw),
    ("compare", DESK, compare),
    ("sheet", DESK, sheet),
    ("sheet-phone", PHONE, sheet_phone),
    ("eye", DESK, eye),
    ("student", DESK, student),
    ("before-after", DESK, before_after),
    ("grades", DESK, grades),
    ("academy", DESK, academy),
    ("second-opinion", DESK, second_opinion),
    ("techniques", DESK, techniques),
    ("lesson", DESK, lesson),
    ("technique-editor", DESK, editor),
    # Last, as it opens the review again.
    ("correction", DESK, correction),
)


def take(browser: Browser, address: str, sign_in: tuple[str, str], folder: Path) -> None:
    """Sign in anew for each view, go there, and keep its picture."""
    for name, size, go in VIEWS:
        context = browser.new_context(viewport={"width": size["width"], "height": size["height"]}, base_url=address)
        page = context.new_page()
        walk.sign_in(page, address, sign_in[1], sign_in[0])
        go(page)
        page.wait_for_timeout(600)
        page.screenshot(path=str(folder / f"{name}.png"))
        context.close()
    page = browser.new_context(viewport={"width": DESK["width"], "height": DESK["height"]}, base_url=address).new_page()
    walk.sign_in(page, address, sign_in[1], sign_in[0])
    page.goto(f"{address}/#/clips")
    student_side(page).save(folder / "student-side.png")
    page.set_viewport_size({"width": DESK["width"], "height": DESK["height"]})
    page.goto(f"{address}/#/clips")
    a_class(page).save(folder / "class.png")
    page.context.close()


def main(target: Path) -> None:
    target.mkdir(parents=True, exist_ok=True)
    (ROOT / ".run").mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory(dir=ROOT / ".run") as folder:
        demo = Demo(Path(folder), ROOT, print)
        try:
            demo.prepare()
            address = demo.start(None)
            email, password = demo.sign_in_file.read_text().splitlines()[:2]
            with walk.chromium() as browser:
                take(browser, address, (email, password), target)
        finally:
            demo.stop()
            demo.postgres.destroy()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
