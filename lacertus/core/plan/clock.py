"""The clock of a running class: which unit runs and how long it still takes, from stored moments and not from ticks.

Times are seconds since the epoch as the server tells them. A page that slept or was loaded again asks for the clock and works
the rest out from the time that is now, as `where` does.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from lacertus.core.errors import BadInput
from lacertus.core.model import Record

Act = Literal["start", "pause", "skip", "back", "stop"]
_Moment = Annotated[float, Field(ge=0, le=1e11)]


class Clock(Record):
    """Unit `unit` had `left_s` seconds left at `since`; from then on the time runs, or stands still.

    A clock that has not been started has no `since`; `over` is a class that was stopped.
    """

    unit: Annotated[int, Field(ge=0, le=1000)] = 0
    left_s: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    since: _Moment | None = None
    running: bool = False
    over: bool = False


class Where(Record):
    """Where a class is: the unit (as many as there are units once all is over), seconds left of it, and of everything."""

    unit: int
    left_s: float
    all_left_s: float
    running: bool
    over: bool


def where(clock: Clock, lengths_s: Sequence[float], now: float) -> Where:
    """Where the class is now. Units follow each other by themselves while the time runs.

    Args:
        clock: as it was stored.
        lengths_s: how long each unit takes, in order.
        now: the time that it is.
    """
    if clock.since is None:
        left = lengths_s[0] if lengths_s else 0.0
        return Where(unit=0, left_s=left, all_left_s=sum(lengths_s), running=False, over=clock.over)
    unit, left = clock.unit, clock.left_s
    # A clock of another machine may be a little ahead: no time runs backwards for that.
    elapsed = max(0.0, now - clock.since) if clock.running else 0.0
    while unit < len(lengths_s) and elapsed >= left:
        elapsed -= left
        unit += 1
        left = lengths_s[unit] if unit < len(lengths_s) else 0.0
    if unit >= len(lengths_s):
        return Where(unit=len(lengths_s), left_s=0.0, all_left_s=0.0, running=False, over=True)
    left -= elapsed
    later = sum(lengths_s[unit + 1 :])
    return Where(unit=unit, left_s=left, all_left_s=left + later, running=clock.running, over=clock.over)


def after(clock: Clock, act: Act, lengths_s: Sequence[float], now: float) -> Clock:
    """The clock after an act: start or go on, pause, skip to the next unit, back to the beginning of this one or the one before.

    To pause what stands still, or to start what runs, changes nothing: an act that is sent twice is done once.

    Raises:
        BadInput: there is no unit, or the class is over.
    """
    if not lengths_s:
        raise BadInput("this class has no units yet; plan it first")
    here = where(clock, lengths_s, now)
    if here.over:
        raise BadInput("this class is over; nothing was changed")
    if act == "stop":
        return Clock(unit=here.unit, left_s=here.left_s, since=now, over=True)
    if act == "skip":
        if here.unit + 1 >= len(lengths_s):
            return Clock(unit=here.unit, left_s=0.0, since=now, over=True)
        return Clock(unit=here.unit + 1, left_s=lengths_s[here.unit + 1], since=now, running=here.running)
    if act == "back":
        unit = here.unit if lengths_s[here.unit] - here.left_s > BACK_S else max(0, here.unit - 1)
        return Clock(unit=unit, left_s=lengths_s[unit], since=now, running=here.running)
    runs = act == "start"
    if clock.since is not None and here.running == runs:
        return clock
    return Clock(unit=here.unit, left_s=here.left_s, since=now, running=runs)


BACK_S = 5.0
"""Back within so many seconds of a unit's beginning goes to the unit before. A convention."""


class InRounds(Record):
    """Where a unit of rounds is: the round (from 1), whether it is rest, and seconds left of the round or the rest."""

    round: int
    of: int
    rest: bool
    left_s: float


def in_rounds(elapsed_s: float, rounds: int, seconds: float, rest_s: float) -> InRounds | None:
    """Which round runs so many seconds after the first began; None before it and after the last."""
    if elapsed_s < 0:
        return None
    number, within = divmod(elapsed_s, seconds + rest_s)
    if number >= rounds or (number == rounds - 1 and within >= seconds):
        return None
    rest = within >= seconds
    left = seconds + rest_s - within if rest else seconds - within
    return InRounds(round=int(number) + 1, of=rounds, rest=rest, left_s=left)
