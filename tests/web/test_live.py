"""Measuring over the WebSocket: who may, what comes back, and that nothing is stored or broken by bad messages."""

from __future__ import annotations

import json
import uuid
from collections.abc import Iterator
from typing import Any

import httpx
import pytest
from sqlalchemy.orm import Session
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import ClientConnection, connect

from lacertus.services.review import review as reviewing
from lacertus.web.body import COOKIE
from tests.halls import cut, hall
from tests.place import Server


@pytest.fixture
def truth(truths: dict[str, Any]) -> dict[str, Any]:
    return dict(truths["constant"]["reps"][0])


@pytest.fixture
def rep(db: Session, where: Any, clip: uuid.UUID, truth: dict[str, Any]) -> uuid.UUID:
    review = reviewing.open_review(db, where.academy, clip).id
    return cut(db, where, review, truth)


def signed_in(server: Server) -> str:
    from tests.halls import EMAIL, PASSWORD

    with httpx.Client(base_url=server.url, timeout=30) as client:
        client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        return client.cookies[COOKIE]


def line(server: Server, token: str | None, origin: str | None = None) -> ClientConnection:
    headers = {"Cookie": f"{COOKIE}={token}"} if token else {}
    return connect(server.url.replace("http", "ws") + "/api/live", additional_headers=headers, origin=origin)  # type: ignore[arg-type]


@pytest.fixture
def socket(server: Server, rep: uuid.UUID) -> Iterator[ClientConnection]:
    with line(server, signed_in(server)) as found:
        yield found


def asked(socket: ClientConnection, message: Any) -> dict[str, Any]:
    socket.send(message if isinstance(message, str) else json.dumps(message))
    return dict(json.loads(socket.recv(timeout=10)))


def place(rep: uuid.UUID, truth: dict[str, Any], up: float = 0.0) -> dict[str, Any]:
    frame = truth["events"]["full_reach"][0]
    ankle = truth["bodies"]["performer"]["landmarks"]["right_ankle"][frame]
    return {"rep": str(rep), "body": "performer", "landmark": "right_ankle", "frame": frame, "x": ankle["x"], "y": ankle["y"] - up}


def value(answer: dict[str, Any]) -> float:
    return float(next(j["value"] for j in answer["judgements"] if j["id"] == "leg_straight"))


def test_a_dragged_point_is_judged_and_nothing_is_stored(socket: ClientConnection, rep: uuid.UUID, truth: dict[str, Any]) -> None:
    still = asked(socket, place(rep, truth) | {"turn": 3, "fresh": True})
    moved = asked(socket, place(rep, truth, up=40) | {"turn": 4})
    assert (still["turn"], moved["turn"]) == (3, 4)
    assert abs(value(still) - value(moved)) > 3
    assert abs(value(asked(socket, place(rep, truth) | {"fresh": True})) - value(still)) < 1e-9


def test_each_place_is_answered_in_turn(socket: ClientConnection, rep: uuid.UUID, truth: dict[str, Any]) -> None:
    values = []
    for turn in range(20):
        answer = asked(socket, place(rep, truth, up=2 * turn) | {"turn": turn})
        assert answer["turn"] == turn
        values.append(value(answer))
    assert len(set(values)) == 20


@pytest.mark.parametrize(
    "message",
    ["", "no json", "[]", '{"rep": 1}', "x" * 5000, '{"rep": "3f1f2f6e-5d1e-4e5b-8e57-0c8f1a7c1d11"}'],
    ids=["empty", "text", "list", "bad rep", "long", "half"],
)
def test_a_bad_message_is_told_and_the_line_goes_on(
    socket: ClientConnection, rep: uuid.UUID, truth: dict[str, Any], message: str
) -> None:
    assert asked(socket, message)["message"]
    assert asked(socket, place(rep, truth))["message"] is None


@pytest.mark.parametrize(
    "change",
    [{"landmark": "tail"}, {"body": "dog"}, {"frame": 99_999}, {"rep": str(uuid.UUID(int=7))}],
    ids=lambda c: next(iter(c)),
)
def test_what_is_not_there_is_told(socket: ClientConnection, rep: uuid.UUID, truth: dict[str, Any], change: dict[str, Any]) -> None:
    answer = asked(socket, place(rep, truth) | change)
    assert answer["message"] and answer["judgements"] == []


@pytest.mark.parametrize("who", ["nobody", "a stranger", "another site"])
def test_a_line_from_elsewhere_is_refused(server: Server, rep: uuid.UUID, who: str) -> None:
    token = {"nobody": None, "a stranger": "made-up"}.get(who, signed_in(server))
    origin = "https://elsewhere.example" if who == "another site" else server.url
    with pytest.raises((InvalidStatus, ConnectionClosed), match=r"403|4403"), line(server, token, origin) as socket:
        socket.recv(timeout=5)


def test_a_rep_of_another_academy_is_not_measured(server: Server, db: Session, rep: uuid.UUID, truth: dict[str, Any]) -> None:
    hall(db, "Other", "other@example.test")
    with httpx.Client(base_url=server.url, timeout=30) as client:
        from tests.halls import PASSWORD

        client.post("/api/session", json={"email": "other@example.test", "password": PASSWORD}).raise_for_status()
        token = client.cookies[COOKIE]
    with line(server, token) as socket:
        assert "no such rep" in asked(socket, place(rep, truth))["message"]
