"""An academy with a coach, a student and a clip that has been read, made through the services."""

from __future__ import annotations

import shutil
import uuid
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from lacertus.jobs import tasks
from lacertus.services import intake, people
from lacertus.services import review as reviewing
from lacertus.services.review import JudgedRep, Spot

EMAIL, PASSWORD = "coach@example.test", "straw-ledger-nine"


@dataclass(frozen=True, kw_only=True)
class Hall:
    academy: uuid.UUID
    student: uuid.UUID


def hall(db: Session, name: str = "Hall", email: str = EMAIL) -> Hall:
    academy = people.create_academy(db, name).id
    people.create_account(db, academy, email, "A Coach", PASSWORD)
    student = people.create_student(db, academy, "A Student").id
    db.commit()
    return Hall(academy=academy, student=student)


def taken_in(db: Session, where: Hall, clip: Path, folder: Path, on: date = date(2026, 5, 4)) -> uuid.UUID:
    """A clip sent in; not read yet."""
    sent = folder / f"{uuid.uuid4().hex}{clip.suffix}"
    shutil.copyfile(clip, sent)
    found = intake.take_in(db, where.academy, where.student, clip.name, sent, on).id
    db.commit()
    return found


def read_in(db: Session, where: Hall, clip: Path, folder: Path, on: date = date(2026, 5, 4)) -> uuid.UUID:
    """A clip sent in and read."""
    found = taken_in(db, where, clip, folder, on)
    tasks.read_clip(str(found))
    db.expire_all()
    return found


def cut(db: Session, where: Hall, review: uuid.UUID, rep: dict[str, Any]) -> uuid.UUID:
    """Cut the rep of a truth, with heights, events and the points that its technique reads."""
    for body, data in rep["bodies"].items():
        reviewing.set_height(db, where.academy, review, body, data["height_px"])
    facts = {key: rep[key] for key in ("side", "heading", "view", "partner", "rung")}
    facts |= {"first_frame": rep["range"][0], "last_frame": rep["range"][1], "options": {}}
    row = reviewing.cut_rep(db, where.academy, review, rep["technique"], facts)
    for event, frames in rep["events"].items():
        reviewing.mark_event(db, where.academy, row.id, event, frames)
    for need in judged(db, where, review)[0].needs:
        assert need.frame is not None
        entry = rep["bodies"][need.body]["landmarks"][need.landmark][need.frame]
        spot = Spot(body=need.body, landmark=need.landmark, frame=need.frame)
        reviewing.place_point(db, where.academy, row.id, spot, entry["x"], entry["y"])
    db.commit()
    return row.id


def judged(db: Session, where: Hall, review: uuid.UUID) -> list[JudgedRep]:
    return reviewing.judged(reviewing.load(db, where.academy, review))
