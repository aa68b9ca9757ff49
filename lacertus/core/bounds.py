"""How large a number from outside may be: far beyond what anybody films, and far below where sums and squares break."""

from __future__ import annotations

from calendar import monthrange
from typing import Annotated, Any

from pydantic import AfterValidator, Field

LARGEST = 1e6
"""Of any number in a definition."""
MOST_FRAMES = 200_000
MOST_POINTS = 2_000_000

Coordinate = Annotated[float, Field(ge=-1e6, le=1e6)]
"""Pixels; a point may lie a little outside its picture."""
Length = Annotated[float, Field(gt=0, le=1e6)]
"""Pixels."""
Side = Annotated[int, Field(gt=0, le=100_000)]
"""Of a picture, pixels."""
Seconds = Annotated[float, Field(ge=0, le=1e6)]
Rate = Annotated[float, Field(gt=0, le=1000)]
"""How many seconds of a file are one of reality."""
FrameNumber = Annotated[int, Field(ge=0, le=10_000_000, strict=True)]
Degrees = Annotated[float, Field(ge=-360, le=360)]
Metres = Annotated[float, Field(ge=-1000, le=1000)]
Word = Annotated[str, Field(max_length=200)]
FIRST_YEAR, LAST_YEAR = 1990, 2100


def _day(text: str) -> str:
    if text:
        year, month, day = (int(part) for part in text.split("-"))
        if not (FIRST_YEAR <= year <= LAST_YEAR and 1 <= month <= 12 and 1 <= day <= monthrange(year, month)[1]):
            raise ValueError(f"{text} is not a day")
    return text


IsoDay = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$"), AfterValidator(_day)]
"""A day, like 2026-05-04."""
IsoDayOrNone = Annotated[str, Field(pattern=r"^(\d{4}-\d{2}-\d{2})?$"), AfterValidator(_day)]
"""A day, or empty."""


def has_absurd_number(value: Any) -> bool:
    """Whether a tree of lists and dicts holds a number beyond `LARGEST`."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            waiting += one.values()
        elif isinstance(one, list | tuple):
            waiting += one
        elif isinstance(one, int | float) and not isinstance(one, bool) and not abs(one) <= LARGEST:
            return True
    return False
