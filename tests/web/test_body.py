"""A body that stops coming, or drips: it is waited for so long and no longer."""

from __future__ import annotations

import asyncio
from collections.abc import Callable

import pytest
from starlette.types import Message

from lacertus.web import body
from lacertus.web.body import BodyRefused, CountedBody, SpooledBody


async def read(counted: CountedBody | SpooledBody) -> bytes:
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


def test_a_file_is_read_again_as_it_came_however_large(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(body, "IN_MEMORY_BYTES", 10)
    monkeypatch.setattr(body, "PIECE_BYTES", 7)
    sent = [b"x" * 5, b"", b"y" * 20, b"z"]

    async def receive() -> Message:
        return {"type": "http.request", "body": sent.pop(0), "more_body": bool(sent)}

    async def whole() -> bytes:
        spooled = SpooledBody(receive)
        await spooled.read()
        try:
            return await read(spooled)
        finally:
            spooled.close()

    assert asyncio.run(whole()) == b"x" * 5 + b"y" * 20 + b"z"


def test_a_file_that_breaks_off_is_no_whole_one() -> None:
    messages: list[Message] = [{"type": "http.request", "body": b"half", "more_body": True}, {"type": "http.disconnect"}]

    async def receive() -> Message:
        return messages.pop(0)

    async def told() -> list[str]:
        spooled = SpooledBody(receive)
        await spooled.read()
        return [(await spooled())["type"], (await spooled())["type"]]

    assert asyncio.run(told()) == ["http.request", "http.disconnect"]
