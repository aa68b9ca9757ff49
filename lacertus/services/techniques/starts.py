"""Starts that an academy made from frames of its own reps, beside those of the technique files."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Mapping, Sequence
from functools import lru_cache

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.practice import Start
from lacertus.core.texts import checked_text
from lacertus.services.errors import NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import MadeStart

LONGEST_NAME = 120
MOST_STARTS = 200


def made(db: Session, academy: uuid.UUID, techniques: Collection[str]) -> dict[str, list[MadeStart]]:
    """The academy's own starts by technique, the oldest first; those too that are no longer offered."""
    own = select(MadeStart).where(MadeStart.academy_id == academy, MadeStart.technique.in_(techniques))
    found: dict[str, list[MadeStart]] = {}
    for row in db.scalars(own.order_by(MadeStart.created_at, MadeStart.id)):
        found.setdefault(row.technique, []).append(row)
    return found


def with_made(technique: Technique, rows: Sequence[MadeStart]) -> Technique:
    """A technique with the academy's own starts; one that does not fit it (any more) is left out."""
    own = tuple((row.name, row.phase, row.says, row.resists_from, row.resistance) for row in rows)
    return _merged(_Same(technique), own) if own else technique


class _Same:
    """A technique that is looked up as the object that it is: definitions are kept, and are never changed."""

    def __init__(self, technique: Technique) -> None:
        self.technique = technique

    def __hash__(self) -> int:
        return id(self.technique)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.technique is self.technique


_Row = tuple[str, str, str, str | None, str]


@lru_cache(maxsize=256)
def _merged(same: _Same, own: tuple[_Row, ...]) -> Technique:
    technique = same.technique
    starts = [
        Start.model_validate({"id": name, "phase": phase, "says": says, "resists_from": resists_from, "resistance": resistance})
        for name, phase, says, resists_from, resistance in own
        if phase in technique.phases and (resists_from is None or resists_from in technique.events)
    ]
    return technique.model_copy(update={"starts": (*technique.starts, *starts)})


def make(
    db: Session, academy: uuid.UUID, technique: Technique, rep: uuid.UUID, frame: int, events: Mapping[str, Sequence[int]]
) -> MadeStart:
    """Make a start from a frame of a rep; once more gives the same one, and offers it again.

    It begins at the phase of the last event that is marked by that frame, else at the first phase.

    Raises:
        BadInput: the academy has too many starts.
    """
    found = db.scalar(select(MadeStart).where(MadeStart.rep_id == rep, MadeStart.frame == frame))
    if found is not None:
        found.offered = True
        db.flush()
        return found
    if len(made(db, academy, [technique.id]).get(technique.id, ())) >= MOST_STARTS:
        raise BadInput(f"an academy has at most {MOST_STARTS} starts of its own for a technique")
    before = [(frames[0], key) for key, frames in events.items() if frames and frames[0] <= frame and key in technique.events]
    last = max(before)[1] if before else None
    row = MadeStart(
        academy_id=academy,
        technique=technique.id,
        name=f"own-{uuid.uuid4().hex[:12]}",
        phase=technique.events[last].phase if last else technique.phases[0],
        says=f"After “{last.replace('_', ' ')}”" if last else "From the beginning of the rep",
        rep_id=rep,
        frame=frame,
    )
    db.add(row)
    db.flush()
    return row


@needs(Right.REVIEW)
def unmake(db: Session, academy: uuid.UUID, rep: uuid.UUID, frame: int) -> None:
    """Take back that a frame is a start: it is no longer offered.

    Raises:
        NotFound: it is none.
    """
    own = select(MadeStart).where(MadeStart.academy_id == academy, MadeStart.rep_id == rep, MadeStart.frame == frame)
    found = db.scalar(own)
    if found is None:
        raise NotFound("This frame is no start.")
    found.offered = False
    db.flush()


@needs(Right.TEACH)
def change(
    db: Session,
    academy: uuid.UUID,
    technique: Technique,
    name: str,
    says: str,
    resistance: str,
    resists_from: str | None,
) -> None:
    """Rename a start of one's own, and say from when and how much the partner resists.

    Raises:
        BadInput: no name, or no such event.
        NotFound: no such start of the academy's own.
    """
    found = _own(db, academy, technique.id, name)
    if resists_from is not None and resists_from not in technique.events:
        raise BadInput(f"the technique has no event “{resists_from}”")
    found.says = checked_text(says, "the start’s name", LONGEST_NAME)
    found.resistance, found.resists_from = resistance, resists_from
    db.flush()


@needs(Right.TEACH)
def delete(db: Session, academy: uuid.UUID, technique: str, name: str) -> None:
    """Offer a start of one's own no longer; reps that were done from it keep it.

    Raises:
        NotFound: no such start of the academy's own.
    """
    _own(db, academy, technique, name).offered = False
    db.flush()


def _own(db: Session, academy: uuid.UUID, technique: str, name: str) -> MadeStart:
    found = next((row for row in made(db, academy, [technique]).get(technique, ()) if row.name == name and row.offered), None)
    if found is None:
        raise NotFound("Your academy has no such start of its own.")
    return found
