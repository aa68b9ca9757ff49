"""Stations: who works on the same fault together while the rest does the main technique."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

MOST_STATIONS = 3
LEAST_AT = 2


@dataclass(frozen=True, kw_only=True)
class FirstFix:
    """What somebody is to fix first: the fault of a technique, and its family."""

    student: str
    technique: str
    fault: str
    family: str


@dataclass(frozen=True, kw_only=True)
class Shared:
    """Some students with one thing to fix: the same fault of a technique, or else faults of the same family (`fault` empty)."""

    technique: str
    fault: str
    family: str
    students: tuple[str, ...]


def stations_of(fixes: Iterable[FirstFix], most: int = MOST_STATIONS) -> tuple[Shared, ...]:
    """At most so many stations of two at least: first those of the same fault, then of the same family, the largest first.

    Who is at no station does the main technique. Nobody is at two.
    """
    left = {fix.student: fix for fix in sorted(fixes, key=lambda fix: fix.student)}
    chosen: list[Shared] = []
    for same in (_by_fault, _by_family):
        groups: dict[tuple[str, str, str], list[str]] = {}
        for fix in left.values():
            groups.setdefault(same(fix), []).append(fix.student)
        enough = [Shared(technique=key[0], fault=key[1], family=key[2], students=tuple(own)) for key, own in groups.items()]
        ordered = sorted(enough, key=lambda one: (-len(one.students), one.technique, one.fault, one.family))
        taken = [one for one in ordered if len(one.students) >= LEAST_AT][: most - len(chosen)]
        chosen += taken
        for one in taken:
            for student in one.students:
                del left[student]
    return tuple(chosen)


def _by_fault(one: FirstFix) -> tuple[str, str, str]:
    return one.technique, one.fault, one.family


def _by_family(one: FirstFix) -> tuple[str, str, str]:
    return "", "", one.family
