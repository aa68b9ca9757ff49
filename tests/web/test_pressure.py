"""A server that has more to do than it can says so, and goes on."""

from __future__ import annotations

import asyncio
import socket
import time
from collections.abc import Iterator
from contextlib import ExitStack

import httpx
import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from lacertus.store import database
from lacertus.store.tables import Student
from lacertus.web import pressure
from tests.halls import EMAIL, PASSWORD, Hall, one_app
from tests.place import Server

CROWD = 260


@pytest.fixture
def coach(db: Session, where: Hall) -> Iterator[TestClient]:
    with TestClient(one_app()) as found:
        found.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        yield found


def test_what_could_only_wait_is_told_to_come_again_and_changes_nothing(
    coach: TestClient, db: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pressure, "waiting", lambda: pressure.MOST_WAITING)
    answer = coach.post("/api/students", json={"name": "Never Stored"})
    assert (answer.status_code, answer.headers["Retry-After"], answer.json()["code"]) == (503, "2", "busy")
    assert "try again" in answer.json()["message"]
    assert db.scalar(sa.select(sa.func.count()).where(Student.name == "Never Stored")) == 0
    # Whoever watches the site is answered all the same.
    assert coach.get("/api/health").status_code == 200
    monkeypatch.undo()
    assert coach.post("/api/students", json={"name": "Stored"}).is_success


def test_those_that_wait_for_a_turn_are_counted(monkeypatch: pytest.MonkeyPatch) -> None:
    """Three more than have a turn: three wait, and the next would be sent away."""
    monkeypatch.setattr(pressure, "MOST_WAITING", 3)

    async def crowd() -> tuple[int, bool, bool, int]:
        go = asyncio.Event()

        async def one() -> None:
            async with pressure.turn():
                await go.wait()

        work = [asyncio.create_task(one()) for _ in range(pressure.AT_ONCE + 3)]
        await asyncio.sleep(0.05)
        found = pressure.waiting(), pressure.is_full("/api/students"), pressure.is_full("/api/health")
        go.set()
        await asyncio.gather(*work)
        return *found, pressure.waiting()

    assert asyncio.run(crowd()) == (3, True, False, 0)


def test_a_crowd_is_answered_and_leaves_the_server_as_it_was(server: Server, client: httpx.Client) -> None:
    """More at once than there are threads and connections: none waits for what another one holds."""

    async def crowd() -> list[int]:
        limits = httpx.Limits(max_connections=None)
        async with httpx.AsyncClient(base_url=server.url, cookies=client.cookies, timeout=60, limits=limits) as many:
            answers = await asyncio.gather(*(many.get("/api/students") for _ in range(CROWD)))
        return [one.status_code for one in answers]

    codes = asyncio.run(crowd())
    assert len(codes) == CROWD and set(codes) <= {200, 503}
    assert codes.count(200) > pressure.MOST_WAITING // 2
    assert client.get("/api/students", timeout=5).status_code == 200


def test_files_that_come_slowly_keep_nobody_waiting(server: Server, client: httpx.Client) -> None:
    """More slow senders than there are turns: all others are answered, and so is the sender once the file is whole."""
    body = ("name\n" + "A Slow Student\n").encode()
    cookie = "; ".join(f"{name}={value}" for name, value in client.cookies.items())
    head = f"POST /api/students/list HTTP/1.1\r\nHost: x\r\nCookie: {cookie}\r\n"
    head += f"Content-Type: text/csv\r\nContent-Length: {len(body)}\r\n\r\n"
    with ExitStack() as lines:
        slow = []
        for _ in range(pressure.AT_ONCE + 4):
            line = lines.enter_context(socket.create_connection(("127.0.0.1", server.port), timeout=20))
            line.sendall(head.encode() + body[:4])
            slow.append(line)
        time.sleep(0.3)
        assert client.get("/api/students", timeout=5).status_code == 200
        slow[0].sendall(body[4:])
        assert slow[0].recv(64).startswith(b"HTTP/1.1 201")


def test_a_pool_without_a_free_connection_is_told_as_ours(monkeypatch: pytest.MonkeyPatch, db: Session) -> None:
    def none_free(*_args: object) -> None:
        raise sa.exc.TimeoutError("QueuePool limit reached")

    def work() -> None:
        with database.session() as current:
            monkeypatch.setattr(current, "execute", none_free)
            current.execute(sa.text("select 1"))

    with pytest.raises(database.DatabaseBusy, match="All connections"):
        work()
