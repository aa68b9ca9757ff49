"""How the film of a comparison runs: which frame each side shows on each picture; it stands still at the event for a moment."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from lacertus.core.errors import BadInput

FPS = 30
HOLD_S = 1.5
"""So long it stands still where the sides are locked. A convention, as is the next."""
LONGEST_S = 60.0


@dataclass(frozen=True, kw_only=True)
class FilmSide:
    """A side's frames from `first` on, with the time of the common clock of each, seconds, rising."""

    first: int
    clock_s: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class FilmPlan:
    """For each picture, FPS a second, the frame that each side shows."""

    pictures: tuple[tuple[int, ...], ...]

    @property
    def length_s(self) -> float:
        return len(self.pictures) / FPS


def film_plan(sides: Sequence[FilmSide], speed: float) -> FilmPlan:
    """Plan a film over everything that the sides show, `speed` times as fast as the clock.

    A side that has not begun yet shows its first frame, one that is over its last.

    Raises:
        BadInput: it would take longer than LONGEST_S.
    """
    start, end = min(side.clock_s[0] for side in sides), max(side.clock_s[-1] for side in sides)
    if (end - start) / speed > LONGEST_S:
        raise BadInput(f"the film would be longer than {LONGEST_S:.0f} seconds: compare shorter reps, or play it faster")
    step = speed / FPS
    count = int((end - start) / step) + 1
    pictures: list[tuple[int, ...]] = []
    has_held = not start <= 0 <= end
    for number in range(count):
        now = start + number * step
        if not has_held and now >= 0:
            pictures += [_frames(sides, 0.0)] * round(HOLD_S * FPS)
            has_held = True
        pictures.append(_frames(sides, now))
    return FilmPlan(pictures=tuple(pictures))


def _frames(sides: Sequence[FilmSide], now: float) -> tuple[int, ...]:
    # A frame is on the screen from its own time until that of the next one; times are kept to a hundredth of a millisecond.
    return tuple(side.first + max(0, bisect_right(side.clock_s, now + 1e-5) - 1) for side in sides)
