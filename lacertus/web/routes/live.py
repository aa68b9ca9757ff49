"""Measuring while a point is dragged, over a WebSocket: a place in, the judgements out, nothing stored."""

from __future__ import annotations

import uuid
from typing import Any

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from lacertus.core.errors import LacertusError
from lacertus.services import live, people
from lacertus.services.live import LiveRep
from lacertus.services.review import Spot
from lacertus.store import database
from lacertus.web import bench_schemas as ben
from lacertus.web.guard import COOKIE, same_host

router = APIRouter()
REFUSED = 4403
"""Close code for a connection that comes from elsewhere or from nobody."""
LARGEST_MESSAGE = 2000


@router.websocket("/live")
async def measure_live(socket: WebSocket) -> None:
    """Answers `{rep, body, landmark, frame, x, y, turn}` with the rep's judgements as if the point lay there.

    `turn` comes back with the answer, so that the sender knows which place it belongs to; `fresh: true` reads the
    rep anew. What is wrong is answered with `message`.
    """
    academy = _academy(socket)
    if academy is None:
        await socket.close(REFUSED)
        return
    await socket.accept()
    held: dict[uuid.UUID, LiveRep] = {}
    try:
        while True:
            await socket.send_text(_answered(await socket.receive_text(), academy, held))
    except WebSocketDisconnect:
        return


def _academy(socket: WebSocket) -> uuid.UUID | None:
    """Whose reps may be measured: browsers send cookies with a socket from any page, so where it comes from counts."""
    if not same_host(socket.headers.get("origin"), socket.headers.get("host")):
        return None
    try:
        with database.session() as db:
            return people.signed_in(db, socket.cookies.get(COOKIE)).academy_id
    except LacertusError:
        return None


def _answered(text: str, academy: uuid.UUID, held: dict[uuid.UUID, LiveRep]) -> str:
    turn: Any = None
    try:
        if len(text) > LARGEST_MESSAGE:
            raise ValueError("the message is too long")
        asked = ben.LiveIn.model_validate_json(text)
        turn = asked.turn
        if asked.fresh or asked.rep not in held:
            with database.session() as db:
                held.clear()
                held[asked.rep] = live.live_rep(db, academy, asked.rep)
        spot = Spot(body=asked.body, landmark=asked.landmark, frame=asked.frame)
        judgements = held[asked.rep].with_point(spot, asked.x, asked.y)
        return ben.LiveOut(turn=turn, judgements=[ben.JudgementOut.model_validate(j) for j in judgements]).model_dump_json()
    except (LacertusError, ValidationError, ValueError) as error:
        message = str(error) if isinstance(error, LacertusError) else "this message cannot be read"
        return ben.LiveOut(turn=turn, judgements=[], message=message).model_dump_json()
