"""From an empty machine to a class list: set up by a link, invite, join on another device, students added, joined and deleted."""

from __future__ import annotations

import time
from collections.abc import Iterator

import pyotp
import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy.orm import Session

from lacertus.services.people import links
from tests.browser import walk
from tests.halls import EMAIL, PASSWORD, Hall
from tests.place import Server

SECRET = "ember-sickle-nine"


@pytest.fixture
def visitor(browser: Browser, server: Server) -> Iterator[Page]:
    """A browser in which nobody is signed in."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url)
    yield context.new_page()
    context.close()


def test_an_owner_sets_up_an_academy_and_an_assistant_joins_on_a_phone(
    db: Session, server: Server, browser: Browser, visitor: Page
) -> None:
    token = links.setup(db).token
    db.commit()
    visitor.goto(f"{server.url}/#/welcome/{token}")
    visitor.get_by_label("Name of the academy").fill("River Hall")
    visitor.get_by_label("Your name").fill("An Owner")
    visitor.get_by_label("Your e-mail").fill("owner@example.test")
    visitor.get_by_label("A password").fill("short")
    visitor.get_by_role("button", name="Open the academy").click()
    expect(visitor.get_by_role("heading", name="Set up your academy")).to_be_visible()
    visitor.get_by_label("A password").fill(SECRET)
    visitor.get_by_role("button", name="Open the academy").click()
    expect(visitor.get_by_text("adding your students")).to_be_visible()

    visitor.get_by_role("link", name="invite your coaches").click()
    form = visitor.get_by_label("Invite somebody")
    form.get_by_label("Name").fill("Dara Quill")
    form.get_by_label("E-mail").fill("dara@example.test")
    form.get_by_text("Assistant", exact=True).click()
    form.get_by_role("button", name="Invite").click()
    link = visitor.get_by_test_id("made-link").input_value()
    assert "/#/welcome/" in link

    phone = browser.new_context(viewport={"width": 390, "height": 844}).new_page()
    phone.goto(f"{server.url}/#/welcome/{link.rsplit('/', 1)[1]}")
    expect(phone.get_by_role("heading", name="Join River Hall")).to_be_visible()
    phone.get_by_label("A password").fill(SECRET)
    phone.get_by_role("button", name="Join").click()
    expect(phone.get_by_role("heading", name="Today")).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    # An assistant adds students and changes nobody.
    phone.goto(f"{server.url}/#/students")
    phone.get_by_role("button", name="Add a student").click()
    phone.get_by_label("Student", exact=True).get_by_label("Name").fill("Ines Barrow")
    phone.get_by_role("button", name="Add", exact=True).click()
    phone.get_by_role("link", name="Ines Barrow").click()
    expect(phone.get_by_role("heading", name="Ines Barrow")).to_be_visible()
    expect(phone.get_by_role("button", name="Edit")).to_have_count(0)
    phone.context.close()

    visitor.reload()
    person = visitor.locator('[data-person="Dara Quill"]')
    person.get_by_text("Coach", exact=True).click()
    expect(visitor.get_by_label("Audit trail")).to_contain_text("made coach")
    person.get_by_role("button", name="End account").click()
    visitor.get_by_role("button", name="End the account").click()
    expect(visitor.locator('[data-person="Dara Quill"]')).to_contain_text("left")


def test_a_used_link_says_so_and_leads_to_signing_in(server: Server, visitor: Page) -> None:
    visitor.goto(f"{server.url}/#/welcome/{'x' * 43}")
    expect(visitor.get_by_role("alert")).to_contain_text("was used before, has expired or was withdrawn")
    visitor.get_by_role("link", name="Go to signing in").click()
    expect(visitor.get_by_label("Password")).to_be_visible()


def test_students_are_added_once_edited_joined_and_deleted(page: Page, where: Hall) -> None:
    page.goto(page.url.split("#")[0] + "#/students")
    page.get_by_role("button", name="Add a student").click()
    form = page.get_by_label("Student", exact=True)
    form.get_by_label("Name").fill("A Studant")
    form.get_by_label("Born on").fill("2014-05-04")
    form.get_by_label("Height, cm").fill("151.5")
    form.get_by_label("Groups").fill("Tuesday, kids")
    form.get_by_role("button", name="Add", exact=True).click()
    expect(form.get_by_role("alert")).to_contain_text("There is already “A Student”")
    form.get_by_role("button", name="Add anyway").click()
    row = page.locator('[data-student="A Studant"]')
    expect(row).to_contain_text("child · Tuesday, kids")
    expect(row).to_contain_text("no fall passed")

    row.get_by_role("link").click()
    page.get_by_role("button", name="Edit").click()
    form.get_by_label("Name").fill("Ines Barrow")
    expect(form.get_by_label("Height, cm")).to_have_value("151.5")
    form.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="Ines Barrow")).to_be_visible()

    page.get_by_role("button", name="Archive").click()
    expect(page.get_by_role("button", name="Restore")).to_be_visible()
    page.goto(page.url.split("#")[0] + "#/students")
    expect(page.locator("[data-student]")).to_have_count(1)
    page.get_by_text("Archived too").click()
    expect(page.locator("[data-student]")).to_have_count(2)

    page.get_by_role("link", name="A Student", exact=True).click()
    page.get_by_role("button", name="Join with…").click()
    walk.pick(page, "join-student", "Ines Barrow")
    page.get_by_role("button", name="Join into A Student").click()
    page.get_by_role("button", name="Join", exact=True).click()
    expect(page.get_by_text("12, child")).to_be_visible()

    page.get_by_role("button", name="Delete…").click()
    expect(page.get_by_role("alertdialog")).to_contain_text("0 clips")
    confirm = page.get_by_role("button", name="Delete everything")
    expect(confirm).to_be_disabled()
    page.get_by_label("Type the name to confirm").fill("A Student")
    confirm.click()
    expect(page.get_by_text("No students yet")).to_be_visible()


def test_a_second_factor_is_turned_on_and_asked_for(page: Page, server: Server, visitor: Page) -> None:
    page.goto(page.url.split("#")[0] + "#/account")
    page.get_by_role("button", name="Set it up").click()
    address = page.get_by_role("link", name="open it in one").get_attribute("href")
    totp = pyotp.parse_uri(address or "")
    assert isinstance(totp, pyotp.TOTP)
    page.get_by_label("Six digits").fill(totp.now())
    page.get_by_role("button", name="Turn it on").click()
    expect(page.get_by_text("On: signing in asks for the six digits")).to_be_visible()

    visitor.goto(server.url)
    visitor.get_by_label("E-mail").fill(EMAIL)
    visitor.get_by_label("Password").fill(PASSWORD)
    visitor.get_by_role("button", name="Sign in").click()
    code = visitor.get_by_label("The six digits that your app shows")
    code.fill("000000")
    visitor.get_by_role("button", name="Sign in").click()
    expect(visitor.get_by_role("alert")).to_contain_text("This code is wrong")
    # The code of the next half minute: a phone's clock may be that far ahead.
    code.fill(totp.at(int(time.time()), counter_offset=1))
    visitor.get_by_role("button", name="Sign in").click()
    expect(visitor.get_by_role("heading", name="Today")).to_be_visible()


def test_the_new_screens_fit_a_phone(page: Page) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    for screen in ("students", "people", "account"):
        page.goto(page.url.split("#")[0] + f"#/{screen}")
        expect(page.locator("h1").first).to_be_visible()
        page.wait_for_timeout(300)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, screen
