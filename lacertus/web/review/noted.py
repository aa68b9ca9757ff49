"""Every change of a review is noted before it is made, with the window that it comes from and the points that this window holds."""

from __future__ import annotations

import uuid
from typing import Annotated

from fastapi import Header, Request

from lacertus.services.review import changed
from lacertus.services.review.changed import Sender
from lacertus.web.session import Db, SignedIn

Window = Annotated[str, Header(alias="X-Window", max_length=64)]
Held = Annotated[str, Header(alias="X-Points", max_length=16_000, description="`points_version`s that the page holds, with commas")]
Seen = Annotated[int | None, Header(alias="X-Seen", ge=0, lt=2**31)]
MOST_SIGNS = 400
ABOUT = ("review_id", "rep_id", "correction_id")


_HELD = "points_held"


def noted(request: Request, coach: SignedIn, db: Db, window: Window = "", seen: Seen = None, points: Held = "") -> None:
    """Refuse a change of what another window changed since `X-Seen`; note it otherwise. What only reads is not noted."""
    db.info[_HELD] = frozenset(points.split(","))
    if request.method == "GET":
        return
    about = {name: key for name in ABOUT if (key := _key(request.path_params.get(name))) is not None}
    if about:
        sender = Sender(account=coach.id, window=_kept(window), seen=seen)
        changed.note(db, coach.academy_id, about, _kept(request.url.path), sender)


def points_held(db: Db) -> frozenset[str]:
    """The versions of reps' points that the page holds that asked: they need not be told again."""
    held: frozenset[str] = db.info.get(_HELD, frozenset())
    return held


def _kept(text: str) -> str:
    """A text from outside as it can be stored: this is read before the route has checked the names in its address."""
    return "".join(sign for sign in text if sign.isprintable())[:MOST_SIGNS]


def _key(text: str | None) -> uuid.UUID | None:
    try:
        return None if text is None else uuid.UUID(text)
    except ValueError:
        return None
