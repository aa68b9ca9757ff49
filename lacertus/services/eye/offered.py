"""The techniques that an academy's eyes are trained on: the shipped ones, and the academy's own in their newest version."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache

from sqlalchemy.orm import Session

from lacertus.core.techniques.definition import Technique
from lacertus.library import shipped
from lacertus.services.techniques import catalogue
from lacertus.services.techniques.moving import faults_of, moves, reactions_of


@dataclass(frozen=True, kw_only=True)
class Offered:
    """A technique as questions are asked of it: its definition, and its version where it is an academy's own."""

    technique: Technique
    version: uuid.UUID | None = None
    academy: uuid.UUID | None = None

    @property
    def faults(self) -> list[str]:
        """Codes of the faults that the studio can put in and that the technique asks about, in the technique's order."""
        there = faults_of(self.technique)
        asked = (one.fault.code for one in self.technique.checkpoints)
        return [code for code in dict.fromkeys(asked) if code in there]

    @property
    def shutting(self) -> list[str]:
        """Those of them for which the way is not open."""
        shut = {one.fault.code for one in self.technique.checkpoints if one.entry}
        return [code for code in self.faults if code in shut]

    @property
    def reactions(self) -> list[str]:
        """The partner's reactions that the studio can show."""
        there = reactions_of(self.technique)
        return [one.id for one in self.technique.reactions if one.id in there]


@lru_cache(maxsize=1)
def of_everybody() -> Mapping[str, Offered]:
    """The shipped techniques that the studio shows, by id."""
    return {technique.id: Offered(technique=technique) for technique in shipped() if moves(technique)}


def of_academy(db: Session, academy: uuid.UUID) -> dict[str, Offered]:
    """What an academy trains on, by id: an own technique takes the place of the shipped one."""
    return {one.technique.id: one for one in _of_academy(db, academy)}


def _of_academy(db: Session, academy: uuid.UUID) -> Iterator[Offered]:
    for version in catalogue.offered(db, academy):
        if version.academy_id is not None:
            own = catalogue.definition(version)
            if moves(own):
                yield Offered(technique=own, version=version.id, academy=academy)
        elif version.technique in of_everybody():
            yield of_everybody()[version.technique]
