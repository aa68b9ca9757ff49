"""Filming what is wanted for the eye, one film at a time, while a worker has nothing else to do."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
import structlog
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput, Unreadable
from lacertus.core.eye.facts import Facts, facts_of
from lacertus.core.eye.levels import shown_at
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.techniques.definition import Technique
from lacertus.services.eye import pool
from lacertus.services.techniques.figure import read_as, shown_by
from lacertus.store.media import media, take_key
from lacertus.store.tables import EyeAnswer, EyeTake
from lacertus.studio.moves import MOVES

log = structlog.get_logger()
SIZE = (854, 480)
FPS = 60


def film_next(db: Session, most: int) -> bool:
    """Film what is wanted, the longest wanted first; False where nothing is, or the pool is full of films that nobody has answered.

    Another worker leaves alone what this one is at. Where the film cannot be kept just now, it stays wanted.
    """
    next_one = select(EyeTake).where(EyeTake.state == "wanted").order_by(EyeTake.created_at, EyeTake.id)
    take = db.scalar(next_one.limit(1).with_for_update(skip_locked=True))
    if take is None:
        return pool.top_up(db, most)
    if not _make_room(db, most):
        return False
    technique = pool.technique_of(db, take)
    try:
        take.facts = None if technique is None else _film(take, technique)
    except (BadInput, Unreadable) as error:
        # Such as a degree that the studio does not show: it would be the same again.
        log.warning("a film for the eye was not made", technique=take.technique, fault=take.fault, error=str(error))
    take.state = "failed" if take.facts is None else "ready"
    db.flush()
    return True


def _make_room(db: Session, most: int) -> bool:
    """Where the pool is full, delete the oldest film that somebody has answered; False where there is none."""
    studio = (EyeTake.state == "ready", EyeTake.rep_id.is_(None))
    if (db.scalar(select(func.count()).where(*studio)) or 0) < most:
        return True
    answered = select(EyeAnswer.id).where((EyeAnswer.take_id == EyeTake.id) | (EyeAnswer.second_take_id == EyeTake.id)).exists()
    oldest = select(EyeTake).where(*studio, answered).order_by(EyeTake.created_at, EyeTake.id)
    old = db.scalar(oldest.limit(1).with_for_update(skip_locked=True))
    if old is None:
        return False
    media().delete(take_key(old.id))
    db.delete(old)
    db.flush()
    return True


def _film(take: EyeTake, technique: Technique) -> Facts:
    """Film a take, put it into the media, and say what is true of it."""
    from lacertus.studio.clips import record
    from lacertus.studio.scene import truth
    from lacertus.studio.script import read_script, shots_of, view_for

    shown, fault = shown_at(take.level, np.random.default_rng(take.seed)), MOVES[shown_by(technique)].fault(take.fault)
    done = {
        "faults": {} if fault is None else {fault.code: round(shown.degree * fault.most, 3)},
        "options": {} if fault is None else dict(fault.options),
        "reaction": take.reaction,
        "pace": shown.pace,
    }
    script = read_script(
        {
            "lacertus_script": 1, "id": "eye", "technique": shown_by(technique), "side": shown.side, "seed": take.seed,
            "reps": [done],
            "camera": {
                "view": view_for(technique.best_view), "turn_deg": shown.turn_deg, "handheld": shown.handheld,
                "height_m": shown.height_m, "distance_m": shown.distance_m, "size": SIZE,
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
