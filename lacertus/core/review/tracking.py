"""What a coach is told of tracked points."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from lacertus.core.model import Record


class Tracked(Record):
    """A rep's points were tracked; `lost` says in sentences where one was lost."""

    lost: Annotated[tuple[str, ...], Field(max_length=200)] = ()
