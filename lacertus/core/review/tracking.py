"""What a coach is told of tracked points."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from lacertus.core.model import Record

LEAST_SEED_POINTS = 2
"""Points of a body on one frame from which it is found there."""


class Tracked(Record):
    """A rep's points were tracked; `lost` says in sentences where one was lost."""

    lost: Annotated[tuple[str, ...], Field(max_length=200)] = ()
