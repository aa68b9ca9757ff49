"""The student's side on a phone: from an empty machine to a reviewed clip that a student sent; and a bad connection."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from playwright.sync_api import Browser, BrowserContext, Page, expect
from sqlalchemy.orm import Session

from lacertus.services.people import links
from lacertus.services.students import links as own_links
from lacertus.store.tables import EyeAnswer, InboxRow, Student
from tests import eyes
from tests.browser import walk
from tests.browser.walk import KICK_EVENTS
from tests.halls import Hall
from tests.place import Server

SECRET = "ember-sickle-nine"
PHONE = {"width": 390, "height": 844}


@pytest.fixture
def phones(browser: Browser) -> Iterator[list[BrowserContext]]:
    opened: list[BrowserContext] = []
    yield opened
    for one in opened:
        one.close()


def new(browser: Browser, opened: list[BrowserContext], small: bool = False) -> Page:
    context = browser.new_context(viewport=PHONE if small else {"width": 1280, "height": 800})  # type: ignore[arg-type]
    opened.append(context)
    return context.new_page()


def joined(owner: Page, page: Page, url: str, name: str, role: str) -> None:
    """Invite somebody, who joins in a browser of their own."""
    owner.goto(f"{url}/#/people")
    form = owner.get_by_label("Invite somebody")
    form.get_by_label("Name").fill(name)
    form.get_by_label("E-mail").fill(f"{name.split()[0].lower()}@example.test")
    form.get_by_text(role, exact=True).click()
    form.get_by_role("button", name="Invite").click()
    expect(owner.get_by_text(f"The link for {name}")).to_be_visible()
    token = owner.get_by_test_id("made-link").input_value().rsplit("/", 1)[1]
    page.goto(f"{url}/#/welcome/{token}")
    page.get_by_label("A password").fill(SECRET)
    page.get_by_role("button", name="Join").click()
    expect(page.get_by_role("heading", name="Today")).to_be_visible()


def test_from_an_empty_machine_to_a_reviewed_clip_that_a_student_sent(
    db: Session, server: Server, browser: Browser, phones: list[BrowserContext], clips: dict[str, Path], truths: dict[str, Any]
) -> None:
    token = links.setup(db).token
    db.commit()
    owner, coach, helper = new(browser, phones), new(browser, phones), new(browser, phones, small=True)
    owner.goto(f"{server.url}/#/welcome/{token}")
    owner.get_by_label("Name of the academy").fill("River Hall")
    owner.get_by_label("Your name").fill("An Owner")
    owner.get_by_label("Your e-mail").fill("owner@example.test")
    owner.get_by_label("A password").fill(SECRET)
    owner.get_by_role("button", name="Open the academy").click()
    expect(owner.get_by_role("heading", name="Today")).to_be_visible()
    joined(owner, coach, server.url, "Dara Quill", "Coach")
    joined(owner, helper, server.url, "Bo Lind", "Assistant")

    # The assistant adds a student; nobody may film her yet.
    helper.goto(f"{server.url}/#/students")
    helper.get_by_role("button", name="Add a student").click()
    helper.get_by_label("Student", exact=True).get_by_label("Name").fill("Ines Barrow")
    helper.get_by_role("button", name="Add", exact=True).click()
    helper.get_by_role("link", name="Ines Barrow").click()
    expect(helper.get_by_role("heading", name="Ines Barrow")).to_be_visible()
    expect(helper.get_by_label("Own page")).to_have_count(0)

    # A coach makes the link, and the student agrees on her own page.
    coach.goto(f"{server.url}/#/students")
    coach.get_by_role("link", name="Ines Barrow").click()
    expect(coach.locator('[data-consent="filming"]')).to_contain_text("not agreed")
    coach.get_by_role("button", name="Make a link for Ines").click()
    address = coach.locator("[data-own-link=student]").get_by_label("Link").input_value()
    student = new(browser, phones, small=True)
    student.goto(address)
    expect(student.get_by_text("no clip can be sent")).to_be_visible()
    student.get_by_role("button", name="I agree").first.click()
    expect(student.get_by_text("Agreed by Ines Barrow")).to_be_visible()

    # She sends a clip with a question; it arrives named.
    student.get_by_label("Film it now, or choose a film").set_input_files(clips["constant"])
    student.get_by_label("Technique").select_option(label="Front kick")
    student.locator("#send-clip").get_by_label("right").check()
    student.get_by_label("Your question, if you have one").fill("Is my knee too low?")
    student.get_by_role("button", name="Send the clip").click()
    expect(student.get_by_text("Your clip has arrived")).to_be_visible()
    assert student.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]

    coach.goto(f"{server.url}/#/inbox")
    item = coach.locator("[data-item=clip]")
    expect(item).to_contain_text("Is my knee too low?")
    expect(coach.get_by_test_id("inbox-waiting")).to_be_visible()
    coach.goto(f"{server.url}/#/clips")
    coach.locator("[data-clip]").get_by_role("link", name="Review").click(timeout=60_000)

    # The question stands above the checkpoints; the review is made and finished.
    truth = truths["constant"]["reps"][0]
    walk.first_picture(coach)
    expect(coach.get_by_test_id("question")).to_contain_text("Is my knee too low?")
    walk.cut_rep(coach, truth)
    walk.mark_events(coach, truth, KICK_EVENTS)
    expect(walk.row(coach, "quick_return")).to_contain_text("ms")
    coach.get_by_role("button", name="Reply").click()
    coach.get_by_label("Reply", exact=True).fill("No, but the return is slow.")
    coach.get_by_role("button", name="Send the reply").click()
    expect(coach.get_by_test_id("question")).to_have_count(0)
    walk.saved(coach)
    # The assistant may look at it, and is offered nothing that would be refused.
    helper.goto(coach.url)
    expect(helper.get_by_text("You may look.")).to_be_visible()
    expect(helper.get_by_role("button", name="Finish review")).to_have_count(0)
    walk.finish(coach)
    expect(coach.get_by_role("heading", name="Sheet for Ines Barrow")).to_be_visible()

    # She sees what to work on, the reply, and her sheet.
    student.goto(address)
    expect(student.locator("[data-fix]").first).to_be_visible()
    expect(student.get_by_text("No, but the return is slow.")).to_be_visible()
    student.get_by_label("Your sheets").get_by_role("link").click()
    expect(student.get_by_role("heading", name="With care")).to_be_visible()
    student.get_by_role("link", name="Back to your page").click()
    expect(student.get_by_role("heading", name="Ines Barrow")).to_be_visible()

    # The owner sees that the link was opened, and who recorded what.
    owner.reload()
    expect(owner.get_by_label("Audit trail")).to_contain_text("consent recorded: filming")


@pytest.fixture
def own_page(db: Session, where: Hall, server: Server) -> str:
    made = own_links.make(db, where.academy, where.student, None, "student")
    db.commit()
    return f"{server.url}/me/{made.token}"


def test_what_is_written_without_a_connection_is_sent_later_once(
    db: Session, browser: Browser, phones: list[BrowserContext], own_page: str
) -> None:
    phone = new(browser, phones, small=True)
    phone.goto(own_page)
    phone.wait_for_function("navigator.serviceWorker.ready.then(() => navigator.serviceWorker.controller !== null)")
    # What the worker keeps is what was fetched through it.
    phone.reload()
    expect(phone.get_by_role("heading", name="A Student")).to_be_visible()
    phone.context.set_offline(True)
    phone.reload()
    expect(phone.get_by_role("heading", name="A Student")).to_be_visible()
    phone.get_by_label("Your question", exact=True).fill("Does it wait?")
    phone.locator('form:has(input[value="question"])').get_by_role("button", name="Send to your coach").click()
    expect(phone.get_by_text("it is kept on this phone")).to_be_visible()
    asked = sa.select(InboxRow.words).where(InboxRow.kind == "question")
    assert db.scalars(asked).all() == []

    # The page is closed and opened again before the connection is back.
    phone.reload()
    phone.context.set_offline(False)
    expect(phone.locator("#waiting")).to_have_text("Sent.")
    phone.reload()
    expect(phone.get_by_text("Does it wait?")).to_be_visible()
    db.rollback()
    assert db.scalars(asked).all() == ["Does it wait?"]


# A page may be too wide for a single picture, while a chart finds its new size.
WIDEST = """() => {
  window.widest = 0
  const look = () => {
    window.widest = Math.max(window.widest, document.documentElement.scrollWidth)
    requestAnimationFrame(look)
  }
  look()
}"""


def test_a_student_trains_the_eye_on_a_phone_in_their_language_also_without_a_connection(
    db: Session, browser: Browser, phones: list[BrowserContext], own_page: str, where: Hall
) -> None:
    eyes.put_in(db)
    db.execute(sa.update(Student).where(Student.id == where.student).values(language="de"))
    db.commit()
    phone = new(browser, phones, small=True)
    phone.goto(own_page)
    expect(phone.get_by_role("heading", name="Das Auge schulen")).to_be_visible()
    phone.get_by_role("link", name="Anfangen").click()
    expect(phone.get_by_test_id("own-eye")).to_contain_text("Noch nichts")
    phone.evaluate(WIDEST)
    phone.get_by_role("combobox", name="Frage").select_option("missed")
    phone.get_by_role("button", name="Anfangen").click()
    question = phone.get_by_test_id("eye-question")
    expect(question).to_have_attribute("data-fetched", "true")
    expect(question).to_contain_text("Was davon fehlte?")
    answers = phone.get_by_test_id("eye-answers")
    expect(answers).to_contain_text("Nichts davon")
    answers.get_by_role("button").first.click()
    expect(phone.get_by_test_id("eye-result")).to_contain_text(re.compile("Richtig|Falsch"))
    phone.get_by_role("button", name=re.compile("Weiter|Ergebnis")).click()

    expect(phone.get_by_test_id("eye-rates")).to_be_visible()
    expect(phone.get_by_test_id("eye-too-few")).to_contain_text("sobald mindestens 3 andere geantwortet haben")
    expect(phone.get_by_test_id("eye-named")).to_have_count(0)
    phone.get_by_role("combobox", name="Frage").select_option("frame")
    phone.get_by_role("button", name="Noch eine Übung").click()
    expect(question).to_have_attribute("data-fetched", "true")
    phone.context.set_offline(True)
    while phone.get_by_test_id("eye-done").count() == 0:
        phone.get_by_role("button", name="Dieses Bild").click()
        expect(phone.get_by_text("Deine Antwort bleibt in diesem Browser")).to_be_visible()
        phone.get_by_role("button", name=re.compile("Weiter|Ergebnis")).click()
    expect(phone.get_by_text(re.compile("bis der Server erreichbar ist"))).to_be_visible()
    assert db.scalar(sa.select(sa.func.count()).select_from(EyeAnswer)) == 1
    db.rollback()
    phone.context.set_offline(False)
    expect(phone.get_by_test_id("eye-sent")).to_be_visible()
    rows = db.scalars(sa.select(EyeAnswer)).all()
    assert len(rows) >= 2 and {row.student_id for row in rows} == {where.student}
    assert 0 < phone.evaluate("window.widest") <= 390
    phone.get_by_role("link", name=re.compile("^← A Student")).click()
    expect(phone.get_by_role("heading", name="A Student")).to_be_visible()
