"""What a revision keeps of a review, and what differs between two of them, in sentences."""

from __future__ import annotations

import uuid
from typing import Annotated

from pydantic import Field

from lacertus.core import bounds
from lacertus.core.corrections.marks import Mark
from lacertus.core.model import Record
from lacertus.core.sheets.words import SheetWords


class RecordedJudgement(Record):
    """A judgement as a revision keeps it: verdict, value, standard uncertainty and unit."""

    verdict: Annotated[str, Field(max_length=20)]
    value: Annotated[float, Field(ge=-1e9, le=1e9)] | None
    u: Annotated[float, Field(ge=0, le=1e9)] | None
    unit: bounds.Word | None


class RecordedRep(Record):
    """A rep as a revision keeps it: first and last frame, technique with its version, judgements by checkpoint."""

    id: uuid.UUID
    frames: tuple[int, int]
    technique: bounds.Word
    version: Annotated[int, Field(ge=1, le=1_000_000)]
    judgements: dict[bounds.Word, RecordedJudgement]

    def verdict_of(self, checkpoint: str) -> str:
        found = self.judgements.get(checkpoint)
        return "not asked" if found is None else found.verdict


class RecordedLeft(Record):
    """Something that was left when the review was finished: what kind of thing, in which rep, and in words."""

    kind: Annotated[str, Field(max_length=20)]
    rep: uuid.UUID | None = None
    words: Annotated[str, Field(max_length=1000)]


class RecordedCorrection(Record):
    """A correction as a revision keeps it."""

    id: uuid.UUID
    rep: uuid.UUID
    checkpoint: bounds.Word
    frame: int
    cue: Annotated[str, Field(max_length=200)]
    marks: Annotated[tuple[Mark, ...], Field(max_length=50)]


class RevisionRecord(Record):
    """What a revision keeps of a review: verdict, value and u of each checkpoint, corrections, what to fix first, words."""

    reps: Annotated[tuple[RecordedRep, ...], Field(max_length=200)]
    corrections: Annotated[tuple[RecordedCorrection, ...], Field(max_length=200)]
    fix_first: Annotated[tuple[bounds.Word, ...], Field(max_length=10)]
    words: SheetWords
    left: Annotated[tuple[RecordedLeft, ...], Field(max_length=2000)] = ()


def changes(before: RevisionRecord, after: RevisionRecord) -> tuple[str, ...]:
    """What differs between two records, in sentences."""
    found = [*_rep_changes(before, after), *_correction_changes(before, after)]
    if before.fix_first != after.fix_first:
        found.append("What to fix first: " + (", then ".join(_spoken(name) for name in after.fix_first) or "nothing") + ".")
    if before.words != after.words:
        found.append("The words on the sheet were changed.")
    return tuple(found)


def left_in_words(record: RevisionRecord) -> tuple[str, ...]:
    """What was left when a review was finished, in sentences."""
    numbers = {rep.id: number for number, rep in enumerate(record.reps, 1)}
    return tuple(f"Rep {numbers[one.rep]}: {one.words}" if one.rep in numbers else one.words for one in record.left)


def _rep_changes(before: RevisionRecord, after: RevisionRecord) -> list[str]:
    found: list[str] = []
    old, new = ({rep.id: (number, rep) for number, rep in enumerate(record.reps, 1)} for record in (before, after))
    for key, (number, rep) in new.items():
        if key not in old:
            found.append(f"Rep {number} was added.")
            continue
        was = old[key][1]
        if was.frames != rep.frames:
            found.append(f"Rep {number} was cut anew: frames {_span(was)}, now {_span(rep)}.")
        if was.version != rep.version:
            found.append(f"Rep {number} is judged by version {rep.version} of its technique, before by {was.version}.")
        for name in {**was.judgements, **rep.judgements}:
            a, b = was.verdict_of(name), rep.verdict_of(name)
            if a != b:
                found.append(f"Rep {number}, {_spoken(name)}: {_spoken(a)} became {_spoken(b)}.")
    return found + [f"Rep {number} was deleted." for key, (number, _) in old.items() if key not in new]


def _correction_changes(before: RevisionRecord, after: RevisionRecord) -> list[str]:
    found: list[str] = []
    old, new = ({one.id: one for one in record.corrections} for record in (before, after))
    for key in {**old, **new}:
        a, b = old.get(key), new.get(key)
        if a is None and b is not None:
            found.append(f"A correction of {_spoken(b.checkpoint)} was drawn.")
        elif b is None and a is not None:
            found.append(f"The correction of {_spoken(a.checkpoint)} was deleted.")
        elif a != b and a is not None:
            found.append(f"The correction of {_spoken(a.checkpoint)} was changed.")
    return found


def _span(rep: RecordedRep) -> str:
    return f"{rep.frames[0]}–{rep.frames[1]}"


def _spoken(key: str) -> str:
    return key.replace("_", " ")
