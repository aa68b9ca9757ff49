"""Every error that the rules raise, in one tree.

LacertusError
├── BadInput              what was handed in cannot be used; nothing was stored
│   ├── BadRep            a rep file or a rep's data
│   ├── BadDefinition     a file that people write (carries every Problem found)
│   │   ├── BadTechnique  a technique definition
│   │   └── BadScript     a studio script
│   └── Coincident        points that must differ do not
└── Unreadable            a checkpoint cannot be told from what there is
    ├── NotSeen           something is missing, or the picture does not show it
    ├── DidNotHappen      an event was looked for and did not happen
    └── WrongAnswer       another answer was given than one that counts, or none
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


class LacertusError(Exception):
    """Something went wrong, and the message says what, what was kept and what to do."""

    def __init__(self, message: str | None = None) -> None:
        super().__init__(message or (self.__doc__ or "").strip())


class BadInput(LacertusError):
    """What was handed in cannot be used. Nothing was stored."""


class BadRep(BadInput):
    """This rep cannot be read. Nothing was stored."""


@dataclass(frozen=True, kw_only=True)
class Problem:
    """One thing wrong in a definition: where (a path of keys and indices) and what."""

    path: tuple[str | int, ...]
    message: str
    line: int | None = None

    def __str__(self) -> str:
        where = ".".join(str(part) for part in self.path) or "the file"
        return f"line {self.line}: {where}: {self.message}" if self.line else f"{where}: {self.message}"


class BadDefinition(BadInput):
    """This file cannot be used. Nothing was stored."""

    def __init__(self, problems: Sequence[Problem], source: str = "file") -> None:
        self.problems = tuple(problems)
        lines = "; ".join(str(problem) for problem in problems)
        super().__init__(f"{source}: {lines}")


class BadTechnique(BadDefinition):
    """This technique definition cannot be used. Nothing was stored."""


class BadScript(BadDefinition):
    """This studio script cannot be used. Nothing was written."""


class Coincident(BadInput):
    """Points that must differ lie on the same spot, so no direction can be told."""


class Unreadable(LacertusError):
    """A checkpoint cannot be told from what there is."""


class NotSeen(Unreadable):
    """A checkpoint cannot be told: the reason, and what would mend it."""


class DidNotHappen(Unreadable):
    """An event was looked for and did not happen."""

    def __init__(self, event: str) -> None:
        self.event = event
        super().__init__(f"“{event}” did not happen")


class WrongAnswer(Unreadable):
    """Another answer was given than one that counts, or none in time."""
