"""Every main screen by axe: nothing serious or critical against WCAG 2.2 AA, light and dark, and enlarged to twice its size."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, Literal

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.library import shipped_technique
from lacertus.services.classes import calendar
from lacertus.services.classes.calendar import WeeklyWish
from lacertus.services.people import accounts, people
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish as finishing
from lacertus.services.students import links as own_links
from lacertus.store.tables import Lesson, Review
from tests import eyes
from tests.browser import walk
from tests.halls import EMAIL, PASSWORD, Hall, bring, cut, read_in
from tests.place import Server

AXE = Path(__file__).parents[2] / "ui" / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
RUN = """(tags) => axe.run(document, { runOnly: { type: 'tag', values: tags } }).then((found) => found.violations)"""
SCREENS = (
    "/", "/clips", "/inbox", "/students", "/classes", "/curriculum", "/rounds", "/techniques", "/techniques/front-kick",
    "/techniques/front-kick/edit", "/techniques/new/edit", "/grades", "/academy", "/people", "/account", "/eye",
)  # fmt: skip
LOOKS: dict[str, tuple[Literal["light", "dark"], int, int]] = {
    "light": ("light", 1280, 800),
    "dark": ("dark", 1280, 800),
    "enlarged": ("light", 640, 400),
}
"""Enlarged to 200 %, a screen has half the room."""


def serious(page: Page) -> list[str]:
    """What axe finds that is serious or critical: the rule, and where."""
    page.evaluate(AXE.read_text(encoding="utf-8"))
    found: list[dict[str, Any]] = page.evaluate(RUN, RULES)
    return [
        f"{one['id']} at {[node['target'] for node in one['nodes'][:4]]}: {one['help']}"
        for one in found
        if one["impact"] in ("serious", "critical")
    ]


@pytest.fixture(params=LOOKS)
def looked(request: pytest.FixtureRequest, browser: Browser, server: Server, where: Hall) -> Iterator[Page]:
    scheme, width, height = LOOKS[request.param]
    context = browser.new_context(
        viewport={"width": width, "height": height}, color_scheme=scheme, reduced_motion="reduce", bypass_csp=True
    )
    page = context.new_page()
    context.request.post(f"{server.url}/api/session", data={"email": EMAIL, "password": PASSWORD})
    page.goto(f"{server.url}/#/clips")
    expect(page.get_by_role("heading", name="Clips")).to_be_visible()
    yield page
    context.close()


def test_every_screen(looked: Page, server: Server, db: Session, where: Hall) -> None:
    bring(db, where, 2, [{"toes": False, "how": {"side": "left"}}] * 3)
    bring(db, where, 1, [{"toes": False, "how": {"side": "left"}}] * 3, finish=False)
    wrong: dict[str, list[str]] = {}
    for path in (*SCREENS, f"/students/{where.student}"):
        looked.goto(f"{server.url}/#{path}")
        expect(looked.get_by_role("heading").first).to_be_visible()
        looked.wait_for_load_state("networkidle")
        wrong[path] = serious(looked)
    assert {path: found for path, found in wrong.items() if found} == {}


def test_a_technique_in_each_of_its_steps(looked: Page, server: Server) -> None:
    looked.goto(f"{server.url}/#/techniques/front-kick/edit")
    wrong: dict[str, list[str]] = {}
    for step in ("Movement", "Checkpoints", "Drills"):
        looked.get_by_role("button", name=re.compile(rf"^\d {step}")).click()
        looked.wait_for_load_state("networkidle")
        wrong[step] = serious(looked)
    looked.get_by_role("radiogroup", name="How to write it").get_by_text("as text").click()
    expect(looked.get_by_test_id("editor")).to_be_visible()
    wrong["text"] = serious(looked)
    assert {step: found for step, found in wrong.items() if found} == {}


def test_the_bench_in_each_of_its_states(
    looked: Page, server: Server, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
) -> None:
    clip = read_in(db, where, clips["constant"], tmp_path)
    review = reviewing.open_review(db, where.academy, clip).id
    db.commit()
    looked.goto(f"{server.url}/#/bench/{clip}")
    walk.first_shown(looked)
    wrong = {"nothing cut": serious(looked)}
    cut(db, where, review, truths["constant"]["reps"][0])
    looked.reload()
    walk.first_shown(looked)
    walk.row(looked, "leg_straight").click()
    wrong["a rep"] = serious(looked)
    states: dict[str, Callable[[], None]] = {
        "facts": lambda: looked.keyboard.press("b"),
        "points": lambda: looked.keyboard.press("p"),
        "curve": lambda: (looked.keyboard.press("Escape"), looked.keyboard.press("Shift+G"))[-1],
        "keys": lambda: looked.keyboard.press("?"),
        "clip": lambda: (looked.keyboard.press("Escape"), looked.keyboard.press("i"))[-1],
        "finish": lambda: (looked.keyboard.press("Escape"), looked.get_by_role("button", name="Finish review").click())[-1],
    }
    for name, reach in states.items():
        reach()
        looked.wait_for_timeout(400)
        wrong[name] = serious(looked)
    assert {name: found for name, found in wrong.items() if found} == {}


def test_signing_in_and_the_sheet(looked: Page, server: Server, db: Session, where: Hall) -> None:
    bring(db, where, 1, [{"toes": False, "how": {"side": "left"}}] * 3)
    looked.goto(f"{server.url}/#/sheet/{db.scalars(select(Review.id)).one()}")
    expect(looked.get_by_role("heading", name="Sheet for A Student")).to_be_visible()
    wrong = {"sheet": serious(looked)}
    looked.get_by_role("button", name="Sign out").click()
    expect(looked.get_by_label("Password")).to_be_visible()
    wrong["sign in"] = serious(looked)
    assert {name: found for name, found in wrong.items() if found} == {}


def test_comparing_two_reps_and_a_second_opinion(
    looked: Page, server: Server, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
) -> None:
    other = accounts.create_account(db, where.academy, "second@example.test", "Second Coach", PASSWORD).id
    reps = []
    for name in ("constant", "long_gop"):
        review = reviewing.open_review(db, where.academy, read_in(db, where, clips[name], tmp_path), other).id
        reps.append(cut(db, where, review, truths[name]["reps"][0]))
    finishing.finish(db, where.academy, review, other)
    db.commit()
    looked.goto(f"{server.url}/#/compare/rep.{reps[0]}?side=rep.{reps[1]}&anchor=full_reach")
    expect(looked.locator("[data-pane]")).to_have_count(2)
    looked.wait_for_load_state("networkidle")
    wrong = {"compare": serious(looked)}
    looked.goto(f"{server.url}/#/second/{review}")
    expect(looked.get_by_role("heading", name="Second opinion")).to_be_visible()
    wrong["second opinion"] = serious(looked)
    assert {name: found for name, found in wrong.items() if found} == {}


def test_a_class_from_plan_to_mat_and_a_live_round(looked: Page, server: Server, db: Session, where: Hall) -> None:
    today = datetime.now(UTC).date()
    wish = WeeklyWish(
        name="Evening class", weekday=today.weekday(), at=18 * 60, minutes=60, mats=6, since=today - timedelta(days=30)
    )
    row = calendar.add(db, where.academy, wish)
    who = [people.create_student(db, where.academy, name).id for name in ("Bela Novak", "Cleo Arrow")]
    calendar.set_members(db, where.academy, row.id, [where.student, *who])
    db.commit()
    looked.goto(f"{server.url}/#/")
    # A page believes what it was told of the students for two seconds, and these have come since.
    looked.reload()
    looked.get_by_label("Classes").get_by_role("button", name="Plan it").first.click()
    expect(looked.get_by_role("heading", name="Evening class")).to_be_visible()
    walk.pick(looked, "teach", "Front kick")
    looked.get_by_role("button", name="Make the plan").click()
    expect(looked.get_by_test_id("filled")).to_have_text("60 of 60 minutes")
    wrong = {"plan": serious(looked)}
    looked.goto(f"{server.url}/#/classes/{db.scalars(select(Lesson.id)).one()}/run")
    looked.get_by_role("button", name="Start").click()
    expect(looked.get_by_role("button", name="Pause")).to_be_visible()
    wrong["at the mat"] = serious(looked)
    looked.goto(f"{server.url}/#/rounds")
    looked.get_by_label("What scores").fill("A step out")
    walk.pick(looked, "one", "A Student")
    walk.pick(looked, "other", "Cleo Arrow")
    looked.get_by_role("button", name="Begin").click()
    expect(looked.get_by_role("heading", name="A step out")).to_be_visible()
    wrong["live round"] = serious(looked)
    assert {name: found for name, found in wrong.items() if found} == {}


def test_the_students_own_page(looked: Page, server: Server, db: Session, where: Hall) -> None:
    bring(db, where, 1, [{"toes": False, "how": {"side": "left"}}] * 3)
    made = own_links.make(db, where.academy, where.student, None, "student")
    db.commit()
    looked.goto(f"{server.url}/me/{made.token}")
    expect(looked.get_by_role("heading", name="A Student")).to_be_visible()
    assert serious(looked) == []
    eyes.put_in(db)
    looked.get_by_role("link", name="Begin").click()
    looked.get_by_role("button", name="Begin").click()
    expect(looked.get_by_test_id("eye-question")).to_be_visible()
    assert serious(looked) == []


def test_the_list_is_read_in_the_order_of_work_and_says_what_stands_where(
    looked: Page, server: Server, db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path
) -> None:
    """A screen reader hears the checkpoints phase by phase, each by its name with its verdict in words; nothing moves by itself."""
    clip = read_in(db, where, clips["constant"], tmp_path)
    review = reviewing.open_review(db, where.academy, clip).id
    cut(db, where, review, truths["constant"]["reps"][0])
    looked.goto(f"{server.url}/#/bench/{clip}")
    walk.first_shown(looked)
    expect(looked.locator("[data-checkpoint]").first).to_be_visible()
    kick = shipped_technique("front-kick")
    heard = re.findall(r'- option "(.+?)"', looked.get_by_role("listbox", name="Checkpoints in order").aria_snapshot())
    asked = [one.ask for one in kick.in_phase_order]
    assert len(heard) == len(asked)
    for option, ask in zip(heard, asked, strict=True):
        assert option.startswith(ask)
        assert re.search(r"\b(met|missed|borderline|not seen|not asked)\b", option), option
    # The line that leads is told as it changes, and an act flashes nothing where motion is not wanted.
    expect(looked.get_by_test_id("next-event").locator("[aria-live=polite]")).not_to_be_empty()
    looked.keyboard.press("y")
    walk.saved(looked)
    assert looked.evaluate("document.getAnimations().filter((one) => one.playState === 'running').length") == 0
