"""What is known of a clip besides its frames: its filmstrip, how its camera moved, how fast it was filmed, where reps may be."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field

from lacertus.core import bounds
from lacertus.core.measuring.timebase import check_capture_rate
from lacertus.core.model import Record


class Level(Record):
    """One zoom of a filmstrip: a picture every `step` frames, `pictures` of them, in `sheets` files of 10 × 10."""

    step: int
    pictures: int
    sheets: int


class Film(Record):
    """A clip's filmstrip: size of a picture in pixels, and its levels from fine to coarse."""

    width: int
    height: int
    levels: tuple[Level, ...]


class CameraSummary(Record):
    """Whether the camera stood still, what is left of the background's motion (displayed pixels), and where it was lost."""

    still: bool
    residual_px: float | None
    lost: tuple[tuple[int, int], ...]

    def is_known(self, first: int, last: int) -> bool:
        """Whether the camera's own motion was registered all through a stretch of frames."""
        return not any(begin <= last and end >= first for begin, end in self.lost)


def _checked(rates: tuple[tuple[int, float], ...]) -> tuple[tuple[int, float], ...]:
    check_capture_rate(rates)
    return rates


CaptureRate = Annotated[
    tuple[tuple[Annotated[int, Field(ge=0, le=bounds.MOST_FRAMES)], bounds.Rate], ...],
    Field(max_length=100),
    AfterValidator(_checked),
]
"""From which frame on how many seconds of the file are one of reality."""
ProposedCuts = Annotated[
    tuple[tuple[Annotated[int, Field(ge=0, le=bounds.MOST_FRAMES)], Annotated[int, Field(ge=0, le=bounds.MOST_FRAMES)]], ...],
    Field(max_length=5000),
]
"""First and last frame of each stretch that may be a rep."""
