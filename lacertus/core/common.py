"""Which faults are common among an academy's students, and where so many share one that the teaching may be its cause."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import NamedTuple

from lacertus.core.ledger import HIT_MISSES, HIT_RATE, wilson

LEAST_SHARING = 3
"""So many students at the least share what is asked of the teaching: two may be chance. A convention."""
MOST_SHARE = 0.5


class StudentCount(NamedTuple):
    """What a student's reps of a while show of a fault."""

    student: str
    technique: str
    fault: str
    family: str
    safety: bool
    exposures: int
    misses: int

    @property
    def shares(self) -> bool:
        """Missed often enough to count: by what makes a block of the ledger a hit."""
        return self.misses >= HIT_MISSES and self.misses >= HIT_RATE * self.exposures


@dataclass(frozen=True, kw_only=True)
class Common:
    """A fault among students: whose reps were enough to tell, who shares it (sorted), and all reps together.

    `interval` is Wilson's of the share of students.
    """

    technique: str
    fault: str
    family: str
    safety: bool
    asked: int
    sharing: tuple[str, ...]
    interval: tuple[float, float]
    exposures: int
    misses: int

    @property
    def teaching(self) -> bool:
        """Shared by most: what they were all taught may be the cause."""
        return len(self.sharing) >= LEAST_SHARING and len(self.sharing) > MOST_SHARE * self.asked


def common_faults(counts: Iterable[StudentCount]) -> tuple[Common, ...]:
    """Faults that at least one student missed: those shared by most first, then by how many share it, then by misses."""
    groups: dict[tuple[str, str], list[StudentCount]] = {}
    missed: set[tuple[str, str]] = set()
    for count in counts:
        key = (count.technique, count.fault)
        groups.setdefault(key, []).append(count)
        if count.misses:
            missed.add(key)
    found = [_common(groups[key]) for key in missed]
    return tuple(sorted(found, key=lambda one: (not one.teaching, -len(one.sharing), -one.misses, one.technique, one.fault)))


def _common(own: list[StudentCount]) -> Common:
    enough = [count for count in own if count.exposures >= HIT_MISSES]
    sharing = sorted(count.student for count in enough if count.shares)
    return Common(
        technique=own[0].technique,
        fault=own[0].fault,
        family=own[0].family,
        safety=any(count.safety for count in own),
        asked=len(enough),
        sharing=tuple(sharing),
        interval=wilson(len(sharing), len(enough)) if enough else (0.0, 1.0),
        exposures=sum([count.exposures for count in own]),
        misses=sum([count.misses for count in own]),
    )
