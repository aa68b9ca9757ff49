"""Taking clips in, as a coach does: dropped, sent on after a break, named by keyboard, told when something is off."""

from __future__ import annotations

import random
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from lacertus.services.clips import intake
from lacertus.services.people import people
from tests.browser import walk
from tests.halls import Hall
from tests.place import Server


def row(page: Page, name: str):  # type: ignore[no-untyped-def]
    return page.locator(f'[data-clip="{name}"]')


def choose(page: Page, *files: Path) -> None:
    page.get_by_test_id("files").set_input_files(list(files))


def line(page: Page):  # type: ignore[no-untyped-def]
    return page.get_by_role("textbox", name=re.compile("Who and what"))


def test_many_clips_are_named_by_keyboard_alone(page: Page, db: Session, where: Hall, clips: dict[str, Path]) -> None:
    """Three sent at once: two get one line together, the third its own with a new student; nothing but keys."""
    people.create_student(db, where.academy, "Tomas Verhaal")
    db.commit()
    choose(page, *clips.values())
    expect(page.locator("[data-clip]")).to_have_count(3, timeout=60_000)
    expect(page.get_by_role("heading", name=re.compile("To be named"))).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("x")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("x")
    expect(page.get_by_text("2 selected")).to_be_visible()
    page.keyboard.press("n")
    page.keyboard.type("tom")
    expect(page.get_by_test_id("naming").get_by_role("option", name="Tomas Verhaal")).to_be_visible()
    page.keyboard.press("Tab")
    expect(line(page)).to_have_value("Tomas Verhaal, ")
    page.keyboard.type("front k")
    expect(page.get_by_role("option", name="Front kick")).to_be_visible()
    page.keyboard.press("Tab")
    page.keyboard.type("left, slow, sol")
    expect(page.get_by_role("option", name="solo")).to_be_visible()
    page.keyboard.press("Tab")
    page.keyboard.type('"Do I lean back?"')
    expect(page.locator('[data-part="question"]')).to_contain_text("Do I lean back?")
    page.keyboard.press("Enter")
    # The next that has no name is at hand, with nothing typed but what its name suggests.
    expect(page.get_by_text("Tomas Verhaal, Front kick, left, slow, solo")).to_have_count(2)
    expect(page.get_by_text("“Do I lean back?”")).to_have_count(2)
    expect(line(page)).to_be_focused()
    page.keyboard.type("+Wen Odair, advancing foot sweep, rihgt")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("naming").get_by_role("alert").first).to_contain_text("“rihgt” is no student")
    for _ in "rihgt":
        page.keyboard.press("Backspace")
    page.keyboard.type("right")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Wen Odair, Advancing foot sweep, right")).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("To be named"))).to_have_count(0)
    # From there to the bench, which starts with what was said.
    expect(page.locator("[data-clip]").get_by_role("link", name="Review")).to_have_count(3, timeout=60_000)
    page.keyboard.press("r")
    expect(page.get_by_test_id("technique")).to_have_attribute("data-value", re.compile("front-kick|advancing-foot-sweep"))


DROP = """
([names, contents]) => {
  const data = new DataTransfer()
  names.forEach((name, k) => {
    const bytes = Uint8Array.from(atob(contents[k]), (c) => c.charCodeAt(0))
    data.items.add(new File([bytes], name, { type: 'video/mp4' }))
  })
  for (const kind of ['dragover', 'drop'])
    window.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: data }))
}
"""


def test_dropped_files_are_taken_in_and_the_same_file_twice_is_noticed(page: Page, clips: dict[str, Path]) -> None:
    import base64

    content = base64.b64encode(clips["constant"].read_bytes()).decode()
    page.evaluate(DROP, [["kick.mp4"], [content]])
    expect(row(page, "kick.mp4")).to_be_visible(timeout=30_000)
    page.evaluate(DROP, [["IMG_0412.mp4"], [content]])
    again = page.locator('[data-upload="IMG_0412.mp4"]')
    expect(again.get_by_role("status")).to_contain_text("is here already as “kick.mp4”", timeout=30_000)
    again.get_by_role("button", name="Dismiss").click()
    expect(again).to_have_count(0)
    expect(page.locator("[data-clip]")).to_have_count(1)


def test_a_dropped_folder_and_its_name_suggest_whose_clips_these_are(page: Page, clips: dict[str, Path], tmp_path: Path) -> None:
    folder = tmp_path / "A Student"
    folder.mkdir()
    (folder / "front kick slow.mp4").write_bytes(clips["constant"].read_bytes())
    page.get_by_test_id("folder").set_input_files(str(folder))
    expect(row(page, "front kick slow.mp4")).to_contain_text("A Student, Front kick, slow?", timeout=30_000)


def large(path: Path, clip: Path, megabytes: int = 24) -> Path:
    """A clip with so much beside it that sending it takes a while: an MP4 box that no reader looks into."""
    filler = random.Random(3).randbytes(megabytes * 1_000_000)
    path.write_bytes(clip.read_bytes() + (len(filler) + 8).to_bytes(4, "big") + b"free" + filler)
    return path


def slowly(page: Page, bytes_a_second: int) -> None:
    """A gym's Wi-Fi."""
    wire = page.context.new_cdp_session(page)
    wire.send(
        "Network.emulateNetworkConditions",
        {"offline": False, "latency": 20, "downloadThroughput": -1, "uploadThroughput": bytes_a_second},
    )


SENT = """
([name, least, again]) => {
  const row = document.querySelector(`[data-upload="${name}"]`)
  const retry = [...(row?.querySelectorAll('button') ?? [])].find((button) => button.textContent.trim() === 'Try again')
  if (again && retry) retry.click()
  return parseFloat(row?.querySelector('.num')?.textContent ?? '0') >= least
}
"""


def wait_for_sent(page: Page, name: str, megabytes: float, *, again: bool = False) -> None:
    """Wait until so much of a file is sent; `again` presses “Try again” where the page has given up."""
    page.wait_for_function(SENT, arg=[name, megabytes, again], polling=50, timeout=60_000)


def test_an_upload_goes_on_after_the_connection_broke_the_server_died_and_the_page_was_closed(
    page: Page, server: Server, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path
) -> None:
    file = large(tmp_path / "round of sparring.mp4", clips["constant"])
    slowly(page, 6_000_000)
    sent: list[int] = []
    page.on("request", lambda request: sent.append(len(request.post_data_buffer or b"")) if request.method == "PATCH" else None)
    choose(page, file)
    wait_for_sent(page, file.name, 5)
    expect(page.locator(f'[data-upload="{file.name}"]')).to_contain_text(re.compile(r"MB/s · \d+ s left"))

    # The connection breaks off for a moment.
    page.context.set_offline(True)
    page.wait_for_function("() => !navigator.onLine")
    page.context.set_offline(False)
    page.wait_for_function("() => navigator.onLine")
    slowly(page, 6_000_000)
    wait_for_sent(page, file.name, 9)

    # The server is killed within a piece, and started again. The page tries again by itself a few times; a slow machine may take
    # longer to start the server than that, and then it is asked to.
    server.kill_web()
    server.start_web()
    wait_for_sent(page, file.name, 14, again=True)

    # The page is closed; opened again, it says what is not sent yet, and goes on from there.
    page.reload()
    earlier = page.locator(f'[data-unfinished="{file.name}"]')
    expect(earlier).to_contain_text("Choose the same file again")
    before = sum(sent)
    choose(page, file)
    expect(row(page, file.name)).to_be_visible(timeout=60_000)
    expect(earlier).to_have_count(0)
    assert sum(sent) - before < file.stat().st_size - 8_000_000
    (clip,) = intake.clips(db, where.academy)
    assert clip.size_bytes == file.stat().st_size
    assert clip.sha256 == intake.sha256_of(file)
    expect(row(page, file.name).get_by_role("button", name="Name it")).to_be_visible(timeout=60_000)


def test_a_cancelled_upload_is_forgotten_here_and_there(page: Page, clips: dict[str, Path], tmp_path: Path) -> None:
    file = large(tmp_path / "wrong.mp4", clips["constant"])
    slowly(page, 4_000_000)
    choose(page, file)
    wait_for_sent(page, file.name, 4)
    with page.expect_response(lambda answer: answer.request.method == "DELETE"):
        page.locator(f'[data-upload="{file.name}"]').get_by_role("button", name="Cancel").click()
    expect(page.locator("[data-upload]")).to_have_count(0)
    page.reload()
    expect(page.get_by_role("heading", name="Clips")).to_be_visible()
    expect(page.locator("[data-unfinished]")).to_have_count(0)
    expect(page.locator("[data-clip]")).to_have_count(0)


def test_without_a_server_an_upload_says_so_and_is_tried_again_by_hand(page: Page, clips: dict[str, Path]) -> None:
    page.route("**/api/uploads/**", lambda route: route.abort())
    choose(page, clips["variable"])
    upload = page.locator('[data-upload="variable.mp4"]')
    expect(upload.get_by_role("alert")).to_contain_text("The connection was lost. What was uploaded is kept.", timeout=40_000)
    page.unroute("**/api/uploads/**")
    upload.get_by_role("button", name="Try again").click()
    expect(row(page, "variable.mp4")).to_be_visible(timeout=30_000)


def test_slow_motion_is_asked_for_where_only_the_name_speaks_of_it(page: Page, clips: dict[str, Path], tmp_path: Path) -> None:
    file = tmp_path / "kick slowmo.mp4"
    file.write_bytes(clips["long_gop"].read_bytes())
    choose(page, file)
    found = row(page, file.name)
    expect(found).to_contain_text("Was this filmed in slow motion?", timeout=60_000)
    found.get_by_role("button", name="Set the rate").click()
    found.get_by_role("button", name="8× slowed").click()
    expect(found).to_contain_text("8× slowed")
    expect(found.get_by_text("Was this filmed")).to_have_count(0)


def test_from_a_phone_a_clip_is_sent_and_named(phone: Page, clips: dict[str, Path]) -> None:
    choose(phone, clips["long_gop"])
    expect(row(phone, "long_gop.mp4")).to_be_visible(timeout=30_000)
    row(phone, "long_gop.mp4").get_by_test_id("line").click()
    line(phone).fill("A Student, front kick")
    phone.get_by_role("button", name="Save").click()
    expect(row(phone, "long_gop.mp4")).to_contain_text("A Student, Front kick")
    assert phone.evaluate("document.querySelector('main').scrollWidth") <= 390
    expect(row(phone, "long_gop.mp4").get_by_role("link", name="Review")).to_be_visible(timeout=60_000)


def test_reading_is_stopped_and_begun_again(page: Page, clips: dict[str, Path], server: Server) -> None:
    server.kill_worker()
    try:
        walk_student(page)
        choose(page, clips["constant"])
        found = row(page, "constant.mp4")
        expect(found).to_contain_text("waiting to be read", timeout=30_000)
        found.get_by_role("button", name="Stop").click()
        expect(found).to_contain_text("Stopped. The original is kept.")
        found.get_by_role("button", name="Read again").click()
        expect(found).to_contain_text("waiting to be read")
    finally:
        server.start_worker()
    expect(found.get_by_role("link", name="Review")).to_be_visible(timeout=60_000)


def walk_student(page: Page) -> None:
    walk.pick(page, "student", "A Student")


def test_two_views_are_tied_and_step_together(page: Page, clips: dict[str, Path]) -> None:
    walk_student(page)
    choose(page, clips["constant"], clips["long_gop"])
    expect(page.get_by_role("link", name="Review")).to_have_count(2, timeout=90_000)
    row(page, "constant.mp4").get_by_role("link", name="Review").click()
    expect(page.get_by_test_id("frame")).to_have_text("0")
    page.keyboard.press("i")
    card = page.get_by_role("dialog", name="This clip")
    card.get_by_role("tab", name="Second view").click()
    card.get_by_role("button", name="Show beside").click()
    walk.go_to(page, 20)
    for _ in range(5):
        page.keyboard.press("Shift+>")
    expect(page.get_by_test_id("second-frame")).to_have_text("5")
    page.keyboard.press("t")
    expect(page.get_by_test_id("second-view")).to_contain_text("tied")
    # The frame stays where it was.
    page.wait_for_timeout(500)
    expect(page.get_by_test_id("frame")).to_have_text("20")
    walk.picture_true(page)
    # 60 and 30 frames a second: two steps here are one there.
    walk.go_to(page, 40)
    expect(page.get_by_test_id("second-frame")).to_have_text("15")
    page.reload()
    expect(page.get_by_test_id("second-view")).to_contain_text("tied")

    # As large as the first one, swapped, moved and hidden; how they lie is kept with the browser.
    def widths() -> tuple[float, float]:
        boxes = [page.get_by_test_id(name).bounding_box() for name in ("first-view", "second-view")]
        assert boxes[0] is not None and boxes[1] is not None
        return boxes[0]["width"], boxes[1]["width"]

    small = widths()
    assert small[1] < 0.5 * small[0]
    before = page.get_by_test_id("second-view").bounding_box()
    page.get_by_role("button", name="Move to the next corner").click()
    after = page.get_by_test_id("second-view").bounding_box()
    assert before is not None and after is not None
    assert after["x"] < before["x"] - 100
    page.mouse.move(after["x"] + after["width"] / 2, after["y"] - 2)
    page.mouse.down()
    page.mouse.move(after["x"] + after["width"] / 2 + 120, after["y"] - 60, steps=4)
    page.mouse.up()
    dragged = page.get_by_test_id("second-view").bounding_box()
    assert dragged is not None
    assert dragged["x"] == pytest.approx(after["x"] + 120, abs=3)
    page.get_by_role("button", name="Swap the two views").click()
    assert widths() == pytest.approx((small[1], small[0]), abs=2)
    page.get_by_role("button", name="Both views as large").click()
    one, two = widths()
    assert one == pytest.approx(two, abs=2)
    walk.picture_true(page)
    page.keyboard.press("Shift+T")
    expect(page.get_by_test_id("second-view")).to_have_count(0)
    page.reload()
    page.get_by_role("button", name="Second view").click()
    expect(page.get_by_test_id("second-view")).to_contain_text("tied")
