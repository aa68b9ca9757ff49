"""Which faults are common among an academy's students, and where so many share one that the teaching may be its cause."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from lacertus.core.progress.ledger import HIT_MISSES, HIT_RATE, wilson

LEAST_SHARING = 3
"""So many students at the least share what is asked of the teaching: two may be chance. A convention."""
MOST_SHARE = 0.5


class StudentCounts(NamedTuple):
    """In how many of so many reps a student missed something."""

    student: str
    exposures: int
    misses: int


class FaultCounts(NamedTuple):
    """What students' reps of a while show of a fault.

    `asked` students did it `HIT_MISSES` times or more, so that it can be told whether they share it. `students` are those who
    missed it so often; `exposures` and `misses` are everybody's.
    """

    technique: str
    fault: str
    family: str
    safety: bool
    asked: int
    exposures: int
    misses: int
    students: Sequence[StudentCounts]


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


def common_faults(counts: Iterable[FaultCounts]) -> tuple[Common, ...]:
    """Faults that at least one student missed: those shared by most first, then by how many share it, then by misses."""
    found = [_common(one) for one in counts if one.misses]
    return tuple(sorted(found, key=lambda one: (not one.teaching, -len(one.sharing), -one.misses, one.technique, one.fault)))


def _common(of: FaultCounts) -> Common:
    # Missed often enough to count is what makes a block of the ledger a hit.
    sharing = [student for student, n, m in of.students if m >= HIT_MISSES and m >= HIT_RATE * n]
    return Common(
        technique=of.technique,
        fault=of.fault,
        family=of.family,
        safety=of.safety,
        asked=of.asked,
        sharing=tuple(sorted(sharing)),
        interval=wilson(len(sharing), of.asked) if of.asked else (0.0, 1.0),
        exposures=of.exposures,
        misses=of.misses,
    )
