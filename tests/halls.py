"""An academy with a coach, a student and a clip that has been read, made through the services."""

from __future__ import annotations

import shutil
import tempfile
import uuid
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from functools import cache
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from sqlalchemy import text
from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.jobs import tasks
from lacertus.services.clips import intake
from lacertus.services.clips.intake import Sent
from lacertus.services.people import accounts, people
from lacertus.services.review import loading, reference
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepCut
from lacertus.services.review.review import Spot
from lacertus.services.review.view import JudgedRep, view_of
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import rep_files
from lacertus.store import queue
from lacertus.store.media import made_key, media, review_key
from lacertus.video.intake.reading import MADE, REVIEW, Reading, read_whole
from lacertus.web.app import create_app
from tests.core.build import points, rep_data

ROOM = tempfile.TemporaryDirectory(prefix="lacertus-read-")
EMAIL, PASSWORD = "coach@example.test", "straw-ledger-nine"


@cache
def one_app() -> FastAPI:
    """The application, once for all tests of a process: to put its routes together takes two seconds."""
    return create_app()


@dataclass(frozen=True, kw_only=True)
class Hall:
    academy: uuid.UUID
    student: uuid.UUID


def hall(db: Session, name: str = "Hall", email: str = EMAIL) -> Hall:
    academy = accounts.create_academy(db, name).id
    accounts.create_account(db, academy, email, "A Coach", PASSWORD)
    student = people.create_student(db, academy, "A Student").id
    db.commit()
    return Hall(academy=academy, student=student)


def taken_in(db: Session, where: Hall, clip: Path, folder: Path, on: date = date(2026, 5, 4), *, queued: bool = True) -> uuid.UUID:
    """A clip sent in; not read yet, and by no worker unless queued. Its bytes are its own, so that it may be sent again."""
    sent = folder / f"{uuid.uuid4().hex}{clip.suffix}"
    shutil.copyfile(clip, sent)
    if clip.suffix == ".mp4":
        with sent.open("ab") as file:
            file.write(b"\x00\x00\x00\x18free" + uuid.uuid4().bytes)
    found = intake.take_in(db, where.academy, sent, Sent(name=clip.name, filmed_on=on, student=where.student)).id
    if not queued:
        never = datetime(2100, 1, 1, tzinfo=UTC)
        queue.ask(db, queue.READ_CLIP, found, found, at=never)
    db.commit()
    return found


def read_in(db: Session, where: Hall, clip: Path, folder: Path, on: date = date(2026, 5, 4), *, by_task: bool = False) -> uuid.UUID:
    """A clip sent in and read here: a worker that runs beside the tests is not to read it as well."""
    found = taken_in(db, where, clip, folder, on, queued=False)
    if by_task:
        tasks.read_clip(str(found))
        db.expire_all()
        return found
    made, reading = _read_once(clip)
    for pattern in MADE:
        for path in made.glob(pattern):
            media().put(path, made_key(found, path.name))
    media().put(made / REVIEW, review_key(found))
    intake.note_ready(db, found, reading)
    db.commit()
    db.expire_all()
    return found


@cache
def _read_once(clip: Path) -> tuple[Path, Reading]:
    """What reading a clip makes of it, once for all tests: the worker's own tests read anew."""
    folder = Path(tempfile.mkdtemp(dir=ROOM.name))
    return folder, read_whole(clip, folder)


def cut(db: Session, where: Hall, review: uuid.UUID, rep: dict[str, Any]) -> uuid.UUID:
    """Cut the rep of a truth, with heights, events and the points that its technique reads."""
    for body, data in rep["bodies"].items():
        reference.set_height(db, where.academy, review, body, data["height_px"])
    facts = {key: rep[key] for key in ("side", "heading", "view", "partner", "rung")}
    facts |= {"first_frame": rep["range"][0], "last_frame": rep["range"][1], "options": {}}
    row = reviewing.cut_rep(db, where.academy, review, rep["technique"], RepCut.model_validate(facts))
    for event, frames in rep["events"].items():
        reviewing.mark_event(db, where.academy, row.id, event, frames)
    for need in judged(db, where, review)[0].needs:
        assert need.frame is not None
        entry = rep["bodies"][need.body]["landmarks"][need.landmark][need.frame]
        spot = Spot(body=need.body, landmark=need.landmark, frame=need.frame)
        reviewing.place_point(db, where.academy, row.id, spot, entry["x"], entry["y"])
    db.commit()
    return row.id


def unqueue(db: Session) -> None:
    """Take what was asked for out of the queue again, before the commit: the test does it itself, and no worker beside it."""
    db.execute(text("delete from procrastinate_jobs"))


def judged(db: Session, where: Hall, review: uuid.UUID) -> list[JudgedRep]:
    return list(view_of(loading.load(db, where.academy, review)).reps)


TODAY = date.today()


def bring(db: Session, where: Hall, weeks_ago: int, reps: list[dict[str, Any]], *, finish: bool = True) -> None:
    """A review of front kicks without a film; each rep says whether the toes were drawn back, and how it was done."""
    body = {"performer": {"height_px": 500, "landmarks": points(sigma=None, ankle=(400.0, 400.0))}}
    # Each begins a frame later than the one before, so that they have one order everywhere.
    files = [
        read_rep(rep_data(bodies=body, seen={"toes_back": {"coach": rep["toes"]}}, range=[12 + number, 96]) | rep["how"])
        for number, rep in enumerate(reps)
    ]
    name = f"kicks of {weeks_ago} weeks ago"
    review = rep_files.bring_in(db, where.academy, where.student, name, TODAY - timedelta(weeks=weeks_ago), files)
    if finish:
        finishing.finish(db, where.academy, review.id)
    db.commit()
