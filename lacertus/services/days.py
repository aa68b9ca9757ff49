"""Days that come from outside, and which day it is where an academy is."""

from __future__ import annotations

from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

from lacertus.core.errors import BadInput
from lacertus.store.tables import Academy

FIRST_DAY, LAST_DAY = date(1990, 1, 1), date(2100, 12, 31)
FIRST_TIME, LAST_TIME = datetime(1990, 1, 1, tzinfo=UTC), datetime(2100, 12, 31, tzinfo=UTC)


def checked_day(day: date, what: str) -> date:
    """The day itself.

    Raises:
        BadInput: it is a day on which nobody who is alive films or plans, and on which sums of days break.
    """
    if not FIRST_DAY <= day <= LAST_DAY:
        raise BadInput(f"{what}, {day.isoformat()}, lies outside {FIRST_DAY.year} to {LAST_DAY.year}")
    return day


def day_at(academy: Academy, moment: datetime | None = None) -> date:
    """Which day it is where an academy is, at a moment or now."""
    return (moment or datetime.now(UTC)).astimezone(ZoneInfo(academy.time_zone)).date()
