"""What was worked out of students, kept in the database while its stamp is the same, so that a start need not begin anew."""

from __future__ import annotations

import hashlib
import time
import uuid
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any, Generic, TypeVar

from cachetools import LRUCache
from pydantic import TypeAdapter
from sqlalchemy import or_, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.store.tables import StudentState

MOST_KEPT = 4000
"""So many students are kept at hand in memory at most, for each part."""
T = TypeVar("T")


@dataclass(frozen=True, kw_only=True)
class Worked(Generic[T]):
    """What was worked out, and the first day on which it no longer holds by itself; None where days do not matter."""

    value: T
    until: date | None = None


class Budget:
    """So much time for what is to be worked out anew; the first of all is always worked out."""

    def __init__(self, seconds: float) -> None:
        self._seconds, self._begun = seconds, None if seconds else 0.0

    @property
    def is_over(self) -> bool:
        """Begins to count when it is first asked."""
        if self._begun is None:
            self._begun = time.monotonic()
        return time.monotonic() - self._begun >= self._seconds


class States(Generic[T]):
    """One part of what is worked out of students: at hand in memory, else in the database, else worked out and kept in both."""

    def __init__(self, part: str, kind: type[T]) -> None:
        self._part = part
        self._adapter: TypeAdapter[list[T]] = TypeAdapter(list[kind])  # type: ignore[valid-type]
        self._kept: LRUCache[tuple[uuid.UUID, str], Worked[T]] = LRUCache(MOST_KEPT)

    def of(
        self,
        db: Session,
        stamps: Mapping[uuid.UUID, str],
        work: Callable[[uuid.UUID], Worked[T]],
        on: date,
        budget: Budget | None = None,
    ) -> dict[uuid.UUID, T]:
        """What is known of students. Those for whom the budget did not suffice are left out.

        Args:
            db: the session.
            stamps: for each student a text that changes with anything that is worked out from.
            work: works one student out.
            on: the day.
            budget: time for what is to be worked out; None is as much as it takes.
        """
        short = {student: hashlib.blake2b(stamp.encode(), digest_size=16).hexdigest() for student, stamp in stamps.items()}
        found = {student: kept for student, stamp in short.items() if (kept := self._at_hand(student, stamp, on)) is not None}
        found |= self._stored(db, {student: stamp for student, stamp in short.items() if student not in found}, on)
        fresh: dict[uuid.UUID, Worked[T]] = {}
        for student in (student for student in short if student not in found):
            if budget is not None and fresh and budget.is_over:
                break
            fresh[student] = work(student)
        self._store(db, fresh, short)
        return {student: one.value for student, one in (found | fresh).items()}

    def forget(self) -> None:
        """Drop what is in memory, as a start does."""
        self._kept.clear()

    def _at_hand(self, student: uuid.UUID, stamp: str, on: date) -> Worked[T] | None:
        kept = self._kept.get((student, stamp))
        return kept if kept is not None and (kept.until is None or on < kept.until) else None

    def _stored(self, db: Session, wanted: Mapping[uuid.UUID, str], on: date) -> dict[uuid.UUID, Worked[T]]:
        if not wanted:
            return {}
        rows = select(StudentState).where(
            StudentState.part == self._part,
            StudentState.student_id.in_(list(wanted)),
            StudentState.stamp.in_(sorted(set(wanted.values()))),
            or_(StudentState.until.is_(None), StudentState.until > on),
        )
        found: dict[uuid.UUID, Worked[T]] = {}
        for row in db.scalars(rows):
            if row.stamp == wanted[row.student_id]:
                found[row.student_id] = Worked(value=self._adapter.validate_python(row.body)[0], until=row.until)
                self._kept[row.student_id, row.stamp] = found[row.student_id]
        return found

    def _store(self, db: Session, fresh: Mapping[uuid.UUID, Worked[T]], stamps: Mapping[uuid.UUID, str]) -> None:
        if not fresh:
            return
        rows: list[dict[str, Any]] = []
        # In one order, so that two who keep the same students wait for each other.
        for student in sorted(fresh):
            one = fresh[student]
            self._kept[student, stamps[student]] = one
            body = self._adapter.dump_python([one.value], mode="json")
            rows.append({"student_id": student, "part": self._part, "stamp": stamps[student], "until": one.until, "body": body})
        put = insert(StudentState)
        changes = {name: getattr(put.excluded, name) for name in ("stamp", "until", "body")}
        db.execute(put.on_conflict_do_update(index_elements=["student_id", "part"], set_=changes), rows)
