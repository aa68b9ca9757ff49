"""Changes of a review are told to whoever has it open, by the server that they are connected to, as they are saved."""

from __future__ import annotations

import json
import time
import uuid
from collections.abc import Iterator
from typing import Any

import httpx
import psycopg
import pytest
from sqlalchemy.orm import Session
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import ClientConnection, connect

from lacertus.services.review import review as reviewing
from lacertus.settings import settings
from lacertus.store import notices
from lacertus.web.body import COOKIE
from tests.faults.acting import until
from tests.halls import EMAIL, PASSWORD, cut, hall
from tests.place import Server, owner


class Page:
    """A coach's window at a running server."""

    def __init__(self, server: Server, review: uuid.UUID, window: str, email: str = EMAIL) -> None:
        self.server, self.review, self.window = server, review, window
        self.client = httpx.Client(base_url=server.url, timeout=30, headers={"X-Window": window})
        self.client.post("/api/session", json={"email": email, "password": PASSWORD}).raise_for_status()

    def follow(self, origin: str | None = None) -> ClientConnection:
        address = f"{self.server.url.replace('http', 'ws')}/api/reviews/{self.review}/changes?window={self.window}"
        headers = {"Cookie": f"{COOKIE}={self.client.cookies[COOKIE]}"}
        return connect(address, additional_headers=headers, origin=origin)  # type: ignore[arg-type]

    def mark(self, rep: uuid.UUID, frame: int) -> None:
        self.client.put(f"/api/reps/{rep}/events/knee_top", json={"frames": [frame]}).raise_for_status()


@pytest.fixture
def review(db: Session, where: Any, clip: uuid.UUID) -> uuid.UUID:
    return reviewing.open_review(db, where.academy, clip).id


@pytest.fixture
def rep(db: Session, where: Any, review: uuid.UUID, truths: dict[str, Any]) -> uuid.UUID:
    found = cut(db, where, review, truths["constant"]["reps"][0])
    db.commit()
    return found


@pytest.fixture
def left(server: Server, review: uuid.UUID, rep: uuid.UUID) -> Iterator[Page]:
    yield Page(server, review, "left")


def told(line: ClientConnection, within_s: float = 2.0) -> dict[str, Any]:
    return dict(json.loads(line.recv(timeout=within_s)))


def test_a_change_of_another_window_is_told_at_once_and_with_its_coach(server: Server, left: Page, rep: uuid.UUID) -> None:
    right = Page(server, left.review, "right")
    with left.follow() as line:
        before = told(line, 10)["revision"]
        right.mark(rep, 40)
        assert told(line) == {"revision": before + 1, "by": "A Coach"}
        left.mark(rep, 41)
        assert told(line) == {"revision": before + 2, "by": None}


def test_what_is_refused_is_told_to_nobody(server: Server, left: Page, rep: uuid.UUID) -> None:
    with left.follow() as line:
        before = told(line, 10)["revision"]
        assert left.client.put(f"/api/reps/{rep}/events/no_such", json={"frames": [3]}).status_code == 400
        with pytest.raises(TimeoutError, match="timed out"):
            line.recv(timeout=1)
        left.mark(rep, 41)
        assert told(line)["revision"] == before + 1


def test_it_is_told_again_after_the_database_ended_the_connection(server: Server, left: Page, rep: uuid.UUID) -> None:
    with left.follow() as line:
        before = told(line, 10)["revision"]
        with owner() as connection:
            listening = "select pg_terminate_backend(pid, 5000) from pg_stat_activity where query = %s"
            assert until(lambda: connection.execute(listening, (f"listen {notices.CHANNEL}",)).rowcount >= 1, 10)
        left.mark(rep, 40)
        assert told(line, 10)["revision"] == before + 1
        left.mark(rep, 42)
        assert told(line, 10)["revision"] == before + 2


def test_others_are_told_nothing(server: Server, db: Session, left: Page) -> None:
    hall(db, "Other hall", "other@example.test")
    stranger = Page(server, left.review, "x", "other@example.test")
    with pytest.raises(InvalidStatus, match="403"):
        stranger.follow()
    with pytest.raises(InvalidStatus, match="403"):
        left.follow(origin="https://elsewhere.example")
    left.client.cookies.clear()
    left.client.cookies[COOKIE] = "made-up"
    with pytest.raises(InvalidStatus, match="403"):
        left.follow()


def test_it_ends_when_its_coach_signs_out_and_when_the_page_talks(left: Page, rep: uuid.UUID, server: Server) -> None:
    other = Page(server, left.review, "other")
    with left.follow() as line:
        told(line, 10)
        left.client.delete("/api/session").raise_for_status()
        other.mark(rep, 40)
        with pytest.raises(ConnectionClosed, match="4403"):
            line.recv(timeout=5)
    with other.follow() as line:
        told(line, 10)
        line.send("hello")
        with pytest.raises(ConnectionClosed, match="4403"):
            line.recv(timeout=5)


class TestNotices:
    def test_followers_are_counted_and_the_listener_ends_with_the_last(self, db: Session, monkeypatch: pytest.MonkeyPatch) -> None:
        monkeypatch.setattr(notices, "MOST_FOLLOWERS", 1)
        found = notices.Notices()
        with found.follow(uuid.uuid4(), lambda: None):
            with pytest.raises(notices.TooManyFollow, match="Too many pages"):
                found.follow(uuid.uuid4(), lambda: None).__enter__()
            thread = found._thread
            assert thread is not None
        thread.join(10)
        assert not thread.is_alive()

    def test_a_notice_that_names_no_review_wakes_nobody(self, db: Session) -> None:
        found, woken = notices.Notices(), []
        review = uuid.uuid4()
        with found.follow(review, lambda: woken.append(time.monotonic())):
            deadline = time.monotonic() + 10
            while not woken and time.monotonic() < deadline:
                time.sleep(0.01)
            woken.clear()
            with psycopg.connect(settings().database_url, autocommit=True) as connection:
                for payload in ("", "no id", str(uuid.uuid4())):
                    connection.execute("select pg_notify(%s, %s)", (notices.CHANNEL, payload))
                connection.execute("select pg_notify(%s, %s)", (notices.CHANNEL, str(review)))
            while not woken and time.monotonic() < deadline:
                time.sleep(0.01)
            assert len(woken) == 1
