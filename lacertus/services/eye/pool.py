"""The pool of films that the eye is trained on: which are wanted, and filming one of them while a worker has nothing else to do.

Films are the studio's own and show nobody; all academies share them.
"""

from __future__ import annotations

import random
import tempfile
import threading
import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path

import numpy as np
import structlog
from cachetools import LRUCache
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput, Unreadable
from lacertus.core.eye.facts import Facts, facts_of
from lacertus.core.eye.levels import shown_at
from lacertus.core.eye.questions import Asked, questions_of
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.techniques.definition import Technique
from lacertus.library import shipped
from lacertus.services.techniques.figure import read_as
from lacertus.services.techniques.moving import moves
from lacertus.store.media import media, take_key
from lacertus.store.tables import EyeAnswer, EyeTake
from lacertus.studio.moves import MOVES

log = structlog.get_logger()
SIZE = (854, 480)
FPS = 60
FIRST_LEVEL = 1
BASE_FAULTS = 2
"""So many faults of each technique are filmed before anybody asks for them, beside one film without."""
MOST_SEED = 2**31 - 1


@dataclass(frozen=True, kw_only=True)
class Wish:
    """What a film is to show."""

    technique: str
    fault: str = ""
    reaction: str = ""
    level: int = FIRST_LEVEL


@lru_cache(maxsize=1)
def techniques() -> dict[str, Technique]:
    """The shipped techniques that the studio shows, by id."""
    return {technique.id: technique for technique in shipped() if moves(technique)}


@dataclass(frozen=True, kw_only=True)
class Take:
    """A film that is there: what it shows, what is true of it, and every question that it can be asked."""

    id: uuid.UUID
    technique: str
    fault: str
    reaction: str
    level: int
    seed: int
    facts: Facts
    asked: tuple[Asked, ...]


_read: LRUCache[uuid.UUID, Take] = LRUCache(4000)
_lock = threading.Lock()


def ready(db: Session, wanted: Iterable[str]) -> list[Take]:
    """The films of some techniques that there are, in a fixed order. What a film shows never changes: it is read once."""
    names = set(wanted) & set(techniques())
    keys = select(EyeTake.id).where(EyeTake.technique.in_(names), EyeTake.state == "ready")
    return _takes(db, list(db.scalars(keys.order_by(EyeTake.created_at, EyeTake.id))))


def take_of(db: Session, key: uuid.UUID) -> Take | None:
    """A film, where it is there and its technique is still shipped."""
    there = db.scalar(select(EyeTake.id).where(EyeTake.id == key, EyeTake.state == "ready"))
    found = _takes(db, [key]) if there is not None else []
    return found[0] if found else None


def _takes(db: Session, keys: Sequence[uuid.UUID]) -> list[Take]:
    with _lock:
        known = {key: take for key in keys if (take := _read.get(key)) is not None}
    lacking = [key for key in keys if key not in known]
    for row in db.scalars(select(EyeTake).where(EyeTake.id.in_(lacking))) if lacking else ():
        technique = techniques().get(row.technique)
        if row.facts is not None and technique is not None:
            known[row.id] = Take(
                id=row.id, technique=row.technique, fault=row.fault, reaction=row.reaction, level=row.level, seed=row.seed,
                facts=row.facts, asked=questions_of(technique, row.facts, row.seed),
            )  # fmt: skip
            with _lock:
                _read[row.id] = known[row.id]
    return [known[key] for key in keys if key in known]


def want(db: Session, wishes: Iterable[Wish]) -> int:
    """Put films on the list of those to be made, each once as long as it is not made; tells how many are new on it."""
    count = 0
    for wish in wishes:
        same = (
            EyeTake.technique == wish.technique,
            EyeTake.fault == wish.fault,
            EyeTake.reaction == wish.reaction,
            EyeTake.level == wish.level,
        )
        if db.scalar(select(EyeTake.id).where(*same, EyeTake.state == "wanted").limit(1)) is None:
            seed = random.SystemRandom().randrange(MOST_SEED)
            db.add(EyeTake(id=uuid.uuid4(), state="wanted", seed=seed, **vars(wish)))
            count += 1
    db.flush()
    return count


def waiting(db: Session) -> int:
    """How many films are still to be made."""
    return db.scalar(select(func.count()).where(EyeTake.state == "wanted")) or 0


def base(technique: Technique) -> tuple[Wish, ...]:
    """What is filmed of a technique before anybody asks: without a fault, with some, and with a reaction where it has one."""
    move = MOVES[technique.id]
    faults = [fault.code for fault in move.faults[:BASE_FAULTS]]
    reactions = [one.id for one in technique.reactions if one.id in move.reactions][:1]
    return (
        Wish(technique=technique.id),
        *(Wish(technique=technique.id, fault=code) for code in faults),
        *(Wish(technique=technique.id, reaction=code) for code in reactions),
    )


def top_up(db: Session, most: int) -> bool:
    """Want the next film of the base where one is missing and the pool is not full; False where there is nothing to want."""
    rows = db.execute(select(EyeTake.technique, EyeTake.fault, EyeTake.reaction, EyeTake.state)).all()
    if len(rows) >= most:
        return False
    have = {(technique, fault, reaction) for technique, fault, reaction, _ in rows}
    lists = [base(technique) for technique in techniques().values()]
    # Every technique has its first film before any has its second.
    for number in range(max(map(len, lists))):
        for wishes in lists:
            if number < len(wishes) and (wishes[number].technique, wishes[number].fault, wishes[number].reaction) not in have:
                return want(db, [wishes[number]]) > 0
    return False


def film_next(db: Session, most: int) -> bool:
    """Film what is wanted, the longest wanted first; False where nothing is, or the pool is full of films that nobody has answered.

    Another worker leaves alone what this one is at. Where the film cannot be kept just now, it stays wanted.
    """
    next_one = select(EyeTake).where(EyeTake.state == "wanted").order_by(EyeTake.created_at, EyeTake.id)
    take = db.scalar(next_one.limit(1).with_for_update(skip_locked=True))
    if take is None:
        return top_up(db, most)
    if not _make_room(db, most):
        return False
    try:
        take.facts = _film(take)
        take.state = "ready"
    except (BadInput, Unreadable) as error:
        # Such as a degree that the studio does not show: it would be the same again.
        log.warning("a film for the eye was not made", technique=take.technique, fault=take.fault, error=str(error))
        take.state = "failed"
    db.flush()
    return True


def _make_room(db: Session, most: int) -> bool:
    """Where the pool is full, delete the oldest film that somebody has answered; False where there is none."""
    if (db.scalar(select(func.count()).where(EyeTake.state == "ready")) or 0) < most:
        return True
    answered = select(EyeAnswer.id).where((EyeAnswer.take_id == EyeTake.id) | (EyeAnswer.second_take_id == EyeTake.id)).exists()
    oldest = select(EyeTake).where(EyeTake.state == "ready", answered).order_by(EyeTake.created_at, EyeTake.id)
    old = db.scalar(oldest.limit(1).with_for_update(skip_locked=True))
    if old is None:
        return False
    media().delete(take_key(old.id))
    db.delete(old)
    db.flush()
    return True


def _film(take: EyeTake) -> Facts:
    """Film a take, put it into the media, and say what is true of it."""
    from lacertus.studio.clips import record
    from lacertus.studio.scene import truth
    from lacertus.studio.script import read_script, shots_of

    technique, move = techniques()[take.technique], MOVES[take.technique]
    shown, fault = shown_at(take.level, np.random.default_rng(take.seed)), move.fault(take.fault)
    done = {
        "faults": {} if fault is None else {fault.code: round(shown.degree * fault.most, 3)},
        "options": {} if fault is None else dict(fault.options),
        "reaction": take.reaction,
        "pace": shown.pace,
    }
    script = read_script(
        {
            "lacertus_script": 1, "id": "eye", "technique": take.technique, "side": shown.side, "seed": take.seed, "reps": [done],
            "camera": {
                "view": _view(technique), "turn_deg": shown.turn_deg, "handheld": shown.handheld, "height_m": shown.height_m,
                "distance_m": shown.distance_m, "size": SIZE,
            },
            "recording": {"fps": FPS, "stamp": False, "sound": False},
        }
    )  # fmt: skip
    (shot,) = shots_of(script)
    facts = facts_of(technique, read_as(technique, read_rep(truth(shot)["reps"][0])), reaction=take.reaction, fault=take.fault)
    with tempfile.TemporaryDirectory() as name:
        target = Path(name) / "take.mp4"
        record(shot, target, script.recording)
        media().put(target, take_key(take.id))
    return facts


def _view(technique: Technique) -> str:
    from lacertus.studio.script import view_for

    return view_for(technique.best_view)


def like(take: Take, level: int) -> Wish:
    """A film of the same at another level."""
    return replace(Wish(technique=take.technique, fault=take.fault, reaction=take.reaction), level=level)


def of_level(takes: Sequence[Take], level: int) -> list[Take]:
    """The same films, those nearest to a level first."""
    return sorted(takes, key=lambda take: abs(take.level - level))
