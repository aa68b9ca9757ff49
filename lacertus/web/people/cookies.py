"""The cookies by which a browser is signed in, and known again."""

from __future__ import annotations

from fastapi import Request, Response

from lacertus.services.people import accounts
from lacertus.services.people.accounts import Opened
from lacertus.settings import settings
from lacertus.web import schemas as s
from lacertus.web.body import COOKIE
from lacertus.web.guard import is_tls
from lacertus.web.session import Db

DEVICE_COOKIE = "lacertus_device"
DEVICE_DAYS = 400
"""The longest that browsers keep a cookie."""


def open_session(db: Db, request: Request, response: Response, opened: Opened) -> s.CoachOut:
    """Put the cookies of a session that was just opened on the answer."""
    coach = accounts.signed_in(db, opened.token)
    _set_cookie(request, response, COOKIE, opened.token, settings().session_hours * 3600)
    _set_cookie(request, response, DEVICE_COOKIE, opened.device, DEVICE_DAYS * 86_400)
    return s.CoachOut.model_validate(coach)


def _set_cookie(request: Request, response: Response, name: str, value: str, seconds: int) -> None:
    """A cookie that no script reads and no other site sends; behind TLS it never goes without."""
    secure = settings().secure_cookies or is_tls(request.scope)
    response.set_cookie(name, value, max_age=seconds, httponly=True, samesite="strict", secure=secure, path="/")


def device_word(request: Request) -> str:
    """What kind of device it is, in a word: enough to tell a lost phone from the laptop at the mat."""
    agent = request.headers.get("user-agent", "")
    if not agent.startswith("Mozilla/"):
        return "program"
    return "phone or tablet" if "Mobi" in agent or "Tablet" in agent or "iPad" in agent else "computer"
