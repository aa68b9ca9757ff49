"""Measuring while a point is dragged, over a WebSocket: a place in, the judgements out, nothing stored."""

from __future__ import annotations

import uuid
from typing import Any

from fastapi import APIRouter, WebSocket
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from lacertus.core.errors import LacertusError
from lacertus.services.errors import NotSignedIn, SecondFactorLacking
from lacertus.services.people import accounts
from lacertus.services.review import live
from lacertus.services.review.live import LiveRep
from lacertus.services.review.review import Spot
from lacertus.web.body import COOKIE
from lacertus.web.guard import same_host
from lacertus.web.review import schemas as ben
from lacertus.web.session import transaction

router = APIRouter()
REFUSED = 4403
"""Close code for a connection that comes from elsewhere or from nobody, or whose coach has signed out."""
LARGEST_MESSAGE = 2000


@router.websocket("/live")
async def measure_live(socket: WebSocket) -> None:
    """Answers `{rep, body, landmark, frame, x, y, turn}` with the rep's judgements as if the point lay there.

    `turn` comes back with the answer, so that the sender knows which place it belongs to; `fresh: true` reads the
    rep anew. What is wrong is answered with `message`. Whoever signs out elsewhere is put out at the next message.
    """
    token = socket.cookies.get(COOKIE)
    if not same_host(socket.headers.get("origin"), socket.headers.get("host")):
        await socket.close(REFUSED)
        return
    held = _Held(token)
    if not await run_in_threadpool(held.is_signed_in):
        await socket.close(REFUSED)
        return
    await socket.accept()
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            return
        try:
            await socket.send_text(await run_in_threadpool(held.answer, message.get("text")))
        except (NotSignedIn, SecondFactorLacking):
            await socket.close(REFUSED)
            return


class _Held:
    """The rep that a socket's coach drags a point of."""

    def __init__(self, token: str | None) -> None:
        self._token = token
        self._reps: dict[uuid.UUID, LiveRep] = {}

    def is_signed_in(self) -> bool:
        try:
            with transaction() as db:
                accounts.fully_signed_in(db, self._token)
        except (NotSignedIn, SecondFactorLacking):
            return False
        return True

    def answer(self, text: str | None) -> str:
        """The answer to a message; None is one that was no text.

        Raises:
            NotSignedIn: the coach has signed out since.
        """
        turn: Any = None
        try:
            if text is None or len(text) > LARGEST_MESSAGE:
                raise ValueError("no text, or too long")
            asked = ben.LiveIn.model_validate_json(text)
            turn = asked.turn
            rep = self._rep(asked)
            judgements = rep.with_point(Spot(body=asked.body, landmark=asked.landmark, frame=asked.frame), asked.x, asked.y)
            return ben.LiveOut(turn=turn, judgements=[ben.JudgementOut.model_validate(j) for j in judgements]).model_dump_json()
        except (NotSignedIn, SecondFactorLacking):
            raise
        except (LacertusError, ValidationError, ValueError) as error:
            message = str(error) if isinstance(error, LacertusError) else "this message cannot be read"
            return ben.LiveOut(turn=turn, judgements=[], message=message).model_dump_json()

    def _rep(self, asked: ben.LiveIn) -> LiveRep:
        with transaction() as db:
            academy = accounts.fully_signed_in(db, self._token).academy_id
            if asked.fresh or asked.rep not in self._reps:
                self._reps.clear()
                self._reps[asked.rep] = live.live_rep(db, academy, asked.rep)
        return self._reps[asked.rep]
