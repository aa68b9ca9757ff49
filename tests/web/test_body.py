"""A body that stops coming, or drips: it is waited for so long and no longer."""

from __future__ import annotations

import asyncio
from collections.abc import Callable

import pytest
from starlette.types import Message

from lacertus.web import body
from lacertus.web.body import BodyRefused, CountedBody


async def read(counted: CountedBody) -> bytes:
    found = b""
    while True:
        message = await counted()
        found += message.get("body", b"")
        if not message.get("more_body"):
            return found


def sending(pieces: list[bytes], gap_s: float = 0.0) -> Callable[[], object]:
    left = list(pieces)

    async def receive() -> Message:
        if not left:
            await asyncio.sleep(60)
        await asyncio.sleep(gap_s)
        return {"type": "http.request", "body": left.pop(0), "more_body": True}

    return receive


def test_a_sender_who_falls_silent_is_not_waited_for(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(body, "IDLE_S", 0.05)
    with pytest.raises(BodyRefused, match="did not arrive") as refused:
        asyncio.run(read(CountedBody(sending([b"half"]), 100, 60.0)))  # type: ignore[arg-type]
    assert refused.value.status_code == 408


def test_a_body_that_drips_has_to_be_whole_in_time(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(body, "IDLE_S", 5.0)
    with pytest.raises(BodyRefused, match="did not arrive"):
        asyncio.run(read(CountedBody(sending([b"x"] * 1000, 0.02), 10_000, 0.2)))  # type: ignore[arg-type]


def test_more_than_is_taken_is_refused_at_the_piece_that_is_too_much() -> None:
    with pytest.raises(BodyRefused, match="64 kB") as refused:
        asyncio.run(read(CountedBody(sending([b"x" * 40_000] * 9), body.MOST_BYTES, 60.0)))  # type: ignore[arg-type]
    assert refused.value.status_code == 413
