"""What there is around a review that most reviews do not have."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Beside:
    """What is worth being read of a review's surroundings."""

    tied: bool
    """Its clip is tied to another one."""
    adapted: bool
    """A technique was adapted to one of its performers."""
    starts: bool
    """The academy made starts of its own for one of its techniques."""
    said: bool
    """Its sheet was answered."""
    revisions: int
    """How often it was finished."""
