"""A browser for all tests, an academy for the test, and signed-in pages; what goes wrong inside one fails the test."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from playwright.sync_api import Browser, Page, ViewportSize, expect

from tests.browser import walk
from tests.halls import EMAIL, PASSWORD, Hall
from tests.place import Server

# A slow machine is no failure.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="package")
def browser() -> Iterator[Browser]:
    with walk.chromium() as found:
        yield found


@contextmanager
def signed_in(browser: Browser, server: Server, size: ViewportSize) -> Iterator[Page]:
    context = browser.new_context(viewport=size)
    found = context.new_page()
    wrong: list[str] = []
    found.on("pageerror", lambda error: wrong.append(str(error)))
    # The form has a test of its own.
    context.request.post(f"{server.url}/api/session", data={"email": EMAIL, "password": PASSWORD})
    found.goto(f"{server.url}/#/clips")
    expect(found.get_by_role("heading", name="Clips")).to_be_visible()
    yield found
    context.close()
    assert wrong == []


@pytest.fixture
def page(browser: Browser, server: Server, where: Hall) -> Iterator[Page]:
    """A laptop at the mat's edge."""
    with signed_in(browser, server, {"width": 1280, "height": 800}) as found:
        yield found


@pytest.fixture
def phone(browser: Browser, server: Server, where: Hall) -> Iterator[Page]:
    with signed_in(browser, server, {"width": 390, "height": 844}) as found:
        yield found
