"""Who may do what: the rights of each role, and the check that services do before anything else.

docs/rights.md says the same as a table, and a test holds it to this.
"""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum
from functools import wraps
from typing import Any, Literal, TypeVar, cast, get_args

from sqlalchemy.orm import Session

from lacertus.services.errors import NotAllowed

Role = Literal["owner", "coach", "assistant"]
ROLES: tuple[Role, ...] = get_args(Role)
_ACTOR = "lacertus.role"


class Right(StrEnum):
    """What is allowed or not, in words that finish “You may not …”."""

    NAME_CLIPS = "name clips"
    ADD_STUDENTS = "add students"
    NOTE = "write notes about students"
    CHANGE_STUDENTS = "change students"
    REVIEW = "review reps"
    FINISH = "finish reviews"
    ANSWER = "answer students"
    SHARE = "share sheets, or export what is kept of a student"
    TEACH = "change techniques, grades and rungs"
    PLAN = "plan classes or prescribe drills"
    FLOOR = "run a class, or note what is seen on the floor"
    DELETE_CLIPS = "delete clips"
    DELETE_STUDENTS = "delete students"
    PEOPLE = "invite people, or change what they may do"
    ACADEMY = "change the academy’s settings, or read its audit trail"


_EVERYBODY = frozenset({Right.NAME_CLIPS, Right.ADD_STUDENTS, Right.NOTE, Right.FLOOR})
_OWNERS_ALONE = frozenset({Right.DELETE_STUDENTS, Right.PEOPLE, Right.ACADEMY})
ALLOWED: dict[Role, frozenset[Right]] = {
    "owner": frozenset(Right),
    "coach": frozenset(Right) - _OWNERS_ALONE,
    "assistant": _EVERYBODY,
}
Service = TypeVar("Service", bound=Callable[..., Any])


def act_as(db: Session, role: Role) -> None:
    """From here on a session works for somebody with this role. One that works for nobody is the operator's, who may do all."""
    db.info[_ACTOR] = role


def check(db: Session, right: Right) -> None:
    """Raises NotAllowed where whoever the session works for does not have a right."""
    role = db.info.get(_ACTOR)
    if role is not None and right not in ALLOWED[role]:
        raise NotAllowed(f"You may not {right}: your role is “{role}”. Nothing was changed; ask an owner of the academy.")


def needs(right: Right) -> Callable[[Service], Service]:
    """A service that checks a right before it does anything; the database's session is its first argument."""

    def wrap(service: Service) -> Service:
        @wraps(service)
        def checked(db: Session, *args: Any, **kwargs: Any) -> Any:
            check(db, right)
            return service(db, *args, **kwargs)

        return cast(Service, checked)

    return wrap
