"""What an academy is called and how it wants to work."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta
from typing import Literal
from zoneinfo import available_timezones

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.model import Record
from lacertus.core.texts import checked_name
from lacertus.outputs.languages import LANGUAGES
from lacertus.services.days import day_at
from lacertus.services.errors import Conflict
from lacertus.services.people import audit
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import Academy, Account

SHORTEST_DAYS, LONGEST_DAYS = 14, 3650
TOLD_DAYS = 14
"""A film that is about to be deleted is told so many days beforehand."""


class Wishes(Record):
    """An academy's settings."""

    name: str
    time_zone: str = "UTC"
    sheet_language: str = "en"
    units: Literal["metric", "imperial"] = "metric"
    needs_second_factor: bool = False
    needs_consent: bool = False
    keeps_films_days: int | None = None


def check(wishes: Wishes) -> None:
    """Raises BadInput where a name, a time zone or a language is none."""
    checked_name(wishes.name, "the academy’s name", 100)
    if wishes.time_zone not in available_timezones():
        raise BadInput(f"“{wishes.time_zone[:60]}” is no time zone, such as Europe/Berlin or UTC")
    days = wishes.keeps_films_days
    if days is not None and not SHORTEST_DAYS <= days <= LONGEST_DAYS:
        raise BadInput(f"films are kept for {SHORTEST_DAYS} to {LONGEST_DAYS} days, or for good; nothing was changed")
    if wishes.sheet_language not in LANGUAGES:
        raise BadInput(f"sheets are written in {', '.join(LANGUAGES.values())}")


def apply(academy: Academy, wishes: Wishes) -> None:
    """Take settings over; raises as `check`."""
    check(wishes)
    academy.name = checked_name(wishes.name, "the academy’s name", 100)
    academy.time_zone, academy.sheet_language, academy.units = wishes.time_zone, wishes.sheet_language, wishes.units
    academy.needs_second_factor, academy.needs_consent = wishes.needs_second_factor, wishes.needs_consent
    if wishes.keeps_films_days != academy.keeps_films_days:
        # Whoever makes the rule shorter is told of each film two weeks before it goes.
        academy.keeps_films_days = wishes.keeps_films_days
        academy.films_go_from = datetime.now(UTC).date() + timedelta(days=TOLD_DAYS)


def wishes_of(db: Session, academy: uuid.UUID) -> Wishes:
    return Wishes.model_validate(db.get_one(Academy, academy), from_attributes=True)


def name_of(db: Session, academy: uuid.UUID | None) -> str:
    return "" if academy is None else db.get_one(Academy, academy).name


@needs(Right.ACADEMY)
def change(db: Session, academy: uuid.UUID, wishes: Wishes, by: uuid.UUID) -> None:
    """Change the academy's settings.

    Raises:
        BadInput: as `check`.
        Conflict: a second factor is asked of everybody, and whoever asks for it has none: they would lock themselves out.
    """
    found = db.get_one(Academy, academy)
    asks_now = wishes.needs_second_factor and not found.needs_second_factor
    own = select(func.count()).where(Account.id == by, Account.totp_secret.is_not(None))
    if asks_now and not db.scalar(own):
        raise Conflict("Turn on your own second factor first, on your account’s page. Nothing was changed.")
    apply(found, wishes)
    audit.write(db, academy, "settings changed")


def today(db: Session, academy: uuid.UUID) -> date:
    """Which day it is where an academy is."""
    return day_at(db.get_one(Academy, academy))
