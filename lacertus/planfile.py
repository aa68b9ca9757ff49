"""The files of `lacertus plan`: the coach's queue, and a class to be paired (docs/formats.md)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import date
from pathlib import Path
from typing import Annotated, Any, TypeVar

from pydantic import BeforeValidator, Field, ValidationError

from lacertus.core.errors import BadInput
from lacertus.core.model import Record, problems_of
from lacertus.core.plan.pairs import Class, Pair, Pairing, Trainee, pair_of
from lacertus.core.plan.queue import Item, Queue
from lacertus.jsonfile import parse_json

MOST_ITEMS = 5000
MOST_STUDENTS = 300
MOST_MINUTES = 24 * 60.0

_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")


def _day(value: Any) -> Any:
    """Only a day as it is written, and no number that might be a time."""
    if not isinstance(value, str) or not _DAY.fullmatch(value):
        raise ValueError("a day is written year-month-day")
    return value


Id = Annotated[str, Field(min_length=1, max_length=200)]
Day = Annotated[date, BeforeValidator(_day)]
YesNo = Annotated[bool, Field(strict=True)]
Codes = Annotated[tuple[Annotated[str, Field(max_length=200)], ...], Field(max_length=500)]
PairOfIds = tuple[Id, Id]
File = TypeVar("File", bound=Record)


class _Item(Record):
    id: Id
    severity: float = Field(ge=0, le=1e6, strict=True)
    since: Day
    minutes: float = Field(ge=0, le=MOST_MINUTES, strict=True)
    safety: YesNo = False


class QueueFile(Record):
    """What a coach may do on a day."""

    on: Day
    items: Annotated[tuple[_Item, ...], Field(max_length=MOST_ITEMS)]


class _Student(Record):
    id: Id
    adult: YesNo = True
    weight_kg: float | None = Field(default=None, gt=0, le=1000, strict=True)
    height_cm: float | None = Field(default=None, gt=0, le=1000, strict=True)
    falls: Codes = ()
    clean: Codes = ()
    misses: Codes = ()
    safety: Codes = ()


class _Together(Record):
    pair: PairOfIds
    classes_ago: int = Field(ge=1, le=1_000_000, strict=True)


class PairsFile(Record):
    """A class to be paired."""

    throw: str | None = None
    fits: dict[str, Codes] = {}
    students: Annotated[tuple[_Student, ...], Field(max_length=MOST_STUDENTS)]
    together: Annotated[tuple[_Together, ...], Field(max_length=100_000)] = ()
    apart: Annotated[tuple[PairOfIds, ...], Field(max_length=100_000)] = ()
    allowed: Annotated[tuple[PairOfIds, ...], Field(max_length=100_000)] = ()


def _read(path: Path, model: type[File]) -> File:
    try:
        content = path.read_bytes()
    except OSError as error:
        raise BadInput(f"{path}: {error.strerror or 'cannot be read'}") from error
    try:
        return model.model_validate(parse_json(content, path.name))
    except ValidationError as error:
        raise BadInput(f"{path.name}: " + "; ".join(str(problem) for problem in problems_of(error))) from error


def read_queue(path: Path) -> tuple[tuple[Item, ...], int]:
    """The items of a queue, and the day (its ordinal).

    Raises:
        BadInput: the file cannot be read, something in it does not fit, or an id stands there twice.
    """
    file = _read(path, QueueFile)
    items = tuple(
        Item(id=one.id, severity=one.severity, since=one.since.toordinal(), minutes=one.minutes, safety=one.safety)
        for one in file.items
    )
    _check_once(item.id for item in items)
    return items, file.on.toordinal()


def _check_once(ids: Iterable[str]) -> None:
    seen: set[str] = set()
    for one in ids:
        if one in seen:
            raise BadInput(f"items: “{one}” stands there twice")
        seen.add(one)


def checked_minutes(minutes: float | None) -> float | None:
    """Minutes at hand; raises BadInput where there are none such."""
    if minutes is not None and not 0 <= minutes <= MOST_MINUTES:
        raise BadInput(f"minutes are 0 to {MOST_MINUTES:g}, not {minutes:g}")
    return minutes


def queue_json(queue: Queue) -> dict[str, Any]:
    return {
        "chosen": [item.id for item in queue.chosen],
        "left": [item.id for item in queue.left],
        "minutes": queue.minutes,
        "priority": queue.priority,
    }


def read_class(path: Path) -> Class:
    """A class to be paired.

    Raises:
        BadInput: the file cannot be read, something in it does not fit, or an id is double or nobody's.
    """
    file = _read(path, PairsFile)
    trainees = tuple(
        Trainee(
            id=one.id, adult=one.adult, weight_kg=one.weight_kg, height_cm=one.height_cm, falls=frozenset(one.falls),
            clean=frozenset(one.clean), misses=frozenset(one.misses), safety=frozenset(one.safety),
        )
        for one in file.students
    )  # fmt: skip
    together: dict[Pair, int] = {}
    for one in file.together:
        pair = pair_of(*one.pair)
        # Of two that say when, the later class counts.
        together[pair] = min(one.classes_ago, together.get(pair, one.classes_ago))
    return Class(
        trainees=trainees,
        throw=file.throw,
        fits={throw: frozenset(falls) for throw, falls in file.fits.items()},
        together=together,
        apart=frozenset(pair_of(*pair) for pair in file.apart),
        allowed=frozenset(pair_of(*pair) for pair in file.allowed),
    ).checked()


def pairs_json(found: Pairing) -> dict[str, Any]:
    return {
        "pairs": [{"pair": list(pair), "score": score} for pair, score in found.pairs],
        "thirds": [{"student": student, "pair": list(pair)} for student, pair in found.thirds],
        "alone": [{"student": one.student, "why": one.why} for one in found.alone],
        "score": found.score,
    }
