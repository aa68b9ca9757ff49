"""The pool of films that eyes are trained on: which there are, and which are wanted.

Most are the studio's own and show nobody; all academies share them. Those of an academy's own techniques, and film of finished
reviews, are the academy's.
"""

from __future__ import annotations

import random
import threading
import uuid
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from cachetools import LRUCache
from sqlalchemy import ColumnElement, and_, func, or_, select
from sqlalchemy.orm import Session

from lacertus.core.eye.facts import Facts
from lacertus.core.eye.questions import Asked, questions_of
from lacertus.core.techniques.definition import Technique
from lacertus.services.eye import real
from lacertus.services.eye.offered import Offered, of_academy, of_everybody
from lacertus.services.techniques import catalogue
from lacertus.store.tables import EyeTake

FIRST_LEVEL = 1
BASE_FAULTS = 2
"""So many faults of each technique are filmed before anybody asks for them, beside one film without."""
MOST_SEED = 2**31 - 1
_chance = random.SystemRandom()


@dataclass(frozen=True, kw_only=True)
class Wish:
    """What a film is to show. Of an academy's own technique it is said in which version, and whose it is."""

    technique: str
    fault: str = ""
    reaction: str = ""
    level: int = FIRST_LEVEL
    version_id: uuid.UUID | None = None
    academy_id: uuid.UUID | None = None


@dataclass(frozen=True, kw_only=True)
class Take:
    """A film that is there: what it shows, what is true of it, and every question that it can be asked."""

    id: uuid.UUID
    technique: Technique
    version: uuid.UUID | None
    fault: str
    reaction: str
    level: int
    seed: int
    facts: Facts
    asked: tuple[Asked, ...]
    rep: uuid.UUID | None = None
    """The rep that it shows, where it is film of a finished review."""


_read: LRUCache[uuid.UUID, Take] = LRUCache(4000)
_lock = threading.Lock()


def ready(db: Session, academy: uuid.UUID, wanted: Collection[Offered]) -> list[Take]:
    """The films of some techniques that an academy may see, in a fixed order. What a film shows never changes: it is read once."""
    keys = select(EyeTake.id).where(EyeTake.state == "ready", or_(*map(_of, wanted), _real(db, academy, wanted)))
    return _takes(db, list(db.scalars(keys.order_by(EyeTake.created_at, EyeTake.id))))


def _of(one: Offered) -> ColumnElement[bool]:
    """The studio's films of a technique."""
    # SQLAlchemy writes “is null” where there is no version.
    return and_(EyeTake.technique == one.technique.id, EyeTake.version_id == one.version, EyeTake.rep_id.is_(None))


def _real(db: Session, academy: uuid.UUID, wanted: Collection[Offered]) -> ColumnElement[bool]:
    names = [one.technique.id for one in wanted]
    return and_(EyeTake.technique.in_(names), EyeTake.rep_id.in_(real.shown(db, academy)))


def take_of(db: Session, academy: uuid.UUID, key: uuid.UUID) -> Take | None:
    """A film, where it is there, its technique is still one, and the academy may see it."""
    row = db.execute(
        select(EyeTake.id, EyeTake.rep_id).where(
            EyeTake.id == key, EyeTake.state == "ready", or_(EyeTake.academy_id.is_(None), EyeTake.academy_id == academy)
        )
    ).first()
    if row is None or (row.rep_id is not None and row.rep_id not in real.shown(db, academy)):
        return None
    found = _takes(db, [key])
    return found[0] if found else None


def _takes(db: Session, keys: Sequence[uuid.UUID]) -> list[Take]:
    with _lock:
        known = {key: take for key in keys if (take := _read.get(key)) is not None}
    lacking = [key for key in keys if key not in known]
    for row in db.scalars(select(EyeTake).where(EyeTake.id.in_(lacking))) if lacking else ():
        technique = technique_of(db, row)
        if row.facts is not None and technique is not None:
            known[row.id] = Take(
                id=row.id, technique=technique, version=row.version_id, fault=row.fault, reaction=row.reaction, level=row.level,
                seed=row.seed, facts=row.facts, asked=questions_of(technique, row.facts, row.seed), rep=row.rep_id,
            )  # fmt: skip
            with _lock:
                _read[row.id] = known[row.id]
    return [known[key] for key in keys if key in known]


def technique_of(db: Session, take: EyeTake) -> Technique | None:
    """The technique by which a film is read; None where it is no longer shipped."""
    if take.version_id is not None:
        return catalogue.version(db, take.version_id)
    shipped_one = of_everybody().get(take.technique)
    return shipped_one.technique if shipped_one is not None else None


def want(db: Session, wishes: Iterable[Wish]) -> int:
    """Put films on the list of those to be made, each once as long as it is not made; tells how many are new on it."""
    count = 0
    for wish in wishes:
        same = [getattr(EyeTake, name) == value for name, value in vars(wish).items()]
        if db.scalar(select(EyeTake.id).where(*same, EyeTake.state == "wanted").limit(1)) is None:
            db.add(EyeTake(id=uuid.uuid4(), state="wanted", seed=_chance.randrange(MOST_SEED), **vars(wish)))
            count += 1
    db.flush()
    return count


def waiting(db: Session) -> int:
    """How many films are still to be made."""
    return db.scalar(select(func.count()).where(EyeTake.state == "wanted")) or 0


def counted(db: Session, academy: uuid.UUID) -> dict[str, int]:
    """How many films of each technique an academy has."""
    of = or_(*map(_of, of_academy(db, academy).values()), EyeTake.rep_id.in_(real.shown(db, academy)))
    rows = db.execute(select(EyeTake.technique, func.count()).where(EyeTake.state == "ready", of).group_by(EyeTake.technique))
    return dict(rows.tuples().all())


def wish(one: Offered, fault: str = "", reaction: str = "", level: int = FIRST_LEVEL) -> Wish:
    """A film of a technique."""
    return Wish(
        technique=one.technique.id, fault=fault, reaction=reaction, level=level, version_id=one.version, academy_id=one.academy
    )


def like(take: Take, one: Offered, level: int) -> Wish:
    """A film of the same at another level."""
    return wish(one, take.fault, take.reaction, level)


def lacking(one: Offered, have: Collection[tuple[str, str]]) -> list[tuple[int, Wish]]:
    """What is filmed of a technique before anybody asks and is not there: without a fault, with some, and with a reaction.

    Args:
        one: the technique.
        have: faults and reactions of the films that there are, or are wanted.

    Returns:
        each with its turn: every technique has its first film before any has its second.
    """
    found: list[tuple[int, Wish]] = [] if ("", "") in have else [(0, wish(one))]
    there = {fault for fault, _ in have if fault}
    others = [code for code in one.faults if code not in there]
    # Another one each time: what is always missed would soon be known without looking.
    some = _chance.sample(others, max(0, min(BASE_FAULTS - len(there), len(others))))
    found += [(len(there) + turn, wish(one, fault=code)) for turn, code in enumerate(some, 1)]
    if one.reactions and not any(reaction for _, reaction in have):
        found.append((BASE_FAULTS + 1, wish(one, reaction=_chance.choice(one.reactions))))
    return found


def top_up(db: Session, most: int) -> bool:
    """Want the next film of the base where one is missing and the pool is not full; False where there is nothing to want."""
    rows = db.execute(select(EyeTake.technique, EyeTake.fault, EyeTake.reaction).where(EyeTake.academy_id.is_(None))).all()
    if len(rows) >= most:
        return False
    have: Mapping[str, set[tuple[str, str]]] = {name: set() for name in of_everybody()}
    for technique, fault, reaction in rows:
        have.get(technique, set()).add((fault, reaction))
    turns = [turn for one in of_everybody().values() for turn in lacking(one, have[one.technique.id])]
    return bool(turns) and want(db, [min(turns, key=lambda turn: turn[0])[1]]) > 0


def of_level(takes: Sequence[Take], level: int) -> list[Take]:
    """The same films, those nearest to a level first."""
    return sorted(takes, key=lambda take: abs(take.level - level))
