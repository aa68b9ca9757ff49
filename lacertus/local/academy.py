"""The invented academy of the demo, made through the same services as a coach would use."""

from __future__ import annotations

import hashlib
import json
import secrets
import shutil
import tempfile
import uuid
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lacertus import core, studio
from lacertus.jobs import tasks
from lacertus.services import correct, intake, people, techniques
from lacertus.services import review as reviewing
from lacertus.services.correct import Arrow, Mark
from lacertus.services.review import JudgedRep, Spot
from lacertus.store import database
from lacertus.store.tables import Academy, Account, RepRow
from lacertus.studio.clips import record, write_truth
from lacertus.studio.demo_scenes import SCENES

Say = Callable[[str], None]

ACADEMY = "Ottermoor Academy"
COACH = "Rhea Damsoll"
EMAIL = "coach@ottermoor.example"


@dataclass(frozen=True, kw_only=True)
class Past:
    """A clip that was reviewed: how long ago, the answers by eye in each rep, and what was corrected."""

    student: str
    clip: str
    days_ago: int
    answers: tuple[Mapping[str, bool], ...]
    correct: Mapping[str, str]


@dataclass(frozen=True, kw_only=True)
class Waiting:
    """A clip that waits for its review."""

    student: str
    clip: str
    days_ago: int


STUDENTS = (
    ("Ilse Marrane", "both", "Front kick since the summer; the knee stays low when tired."),
    ("Tomas Verhaal", "right", "Throws with the right; falls passed standing."),
    ("Oda Lindqvar", "both", "New; wants a quicker kick."),
    ("Benno Achterdam", "both", ""),
)
FINE = {"hands_up": True, "toes_back": True, "lands_by_choice": True}
HISTORY = (
    Past(
        student="Ilse Marrane",
        clip="ilse-front-kick-first.mp4",
        days_ago=22,
        answers=(FINE | {"hands_up": False}, FINE | {"lands_by_choice": False}),
        correct={"thigh_lifted": "Knee first then foot"},
    ),
    Past(
        student="Ilse Marrane",
        clip="ilse-front-kick-second.mp4",
        days_ago=8,
        answers=(FINE | {"hands_up": False}, FINE),
        correct={"thigh_lifted": "Show the knee to the mirror"},
    ),
)
QUEUE = (
    Waiting(student="Ilse Marrane", clip="ilse-front-kick-third.mp4", days_ago=1),
    Waiting(student="Tomas Verhaal", clip="tomas-foot-sweep.mp4", days_ago=1),
    Waiting(student="Oda Lindqvar", clip="oda-front-kick.mp4", days_ago=0),
)


def studio_mark() -> str:
    """A mark of everything that the clips are drawn from, so that a changed studio draws them anew."""
    digest = hashlib.sha256()
    for module in (studio, core):
        for path in sorted(Path(str(module.__file__)).parent.glob("*.py")):
            if module is studio or path.name == "body.py":
                digest.update(path.read_bytes())
    return digest.hexdigest()[:16]


def render_clips(folder: Path, say: Say) -> Path:
    """Draw the demo's clips and their truth once; later calls find them."""
    target = folder / studio_mark()
    if (target / "whole").exists():
        return target
    target.mkdir(parents=True, exist_ok=True)
    for number, scene in enumerate(SCENES, 1):
        say(f"filming {number} of {len(SCENES)}: {scene.name}")
        if not (target / scene.name).exists():
            built = scene.build()
            write_truth(built, target / f"{scene.name}.json")
            record(built, target / scene.name, scene.recording)
    (target / "whole").touch()
    return target


def load(clips: Path, password: str | None, say: Say) -> str | None:
    """Make the academy unless it is there; returns the coach's new password, or None."""
    with database.session() as db:
        techniques.store_shipped(db)
        if db.scalar(select(Account.id).where(Account.email == EMAIL)) is not None:
            return None
    _clear_broken_load()
    password = password or "-".join(secrets.choice(_WORDS) for _ in range(3))
    with database.session() as db:
        academy = people.create_academy(db, ACADEMY).id
        students = {name: people.create_student(db, academy, name, side, note).id for name, side, note in STUDENTS}
    for past in HISTORY:
        say(f"reviewing {past.clip}")
        clip = _take_in(academy, students[past.student], clips / past.clip, past.days_ago)
        _review(academy, clip, json.loads((clips / f"{past.clip}.json").read_text()), past)
    for waiting in QUEUE:
        say(f"reading {waiting.clip}")
        _take_in(academy, students[waiting.student], clips / waiting.clip, waiting.days_ago)
    with database.session() as db:
        # Last, so that a load that broke off is not taken for a whole one.
        people.create_account(db, academy, EMAIL, COACH, password)
    return password


def _clear_broken_load() -> None:
    """Delete what an earlier load left when it broke off: an academy without a coach."""
    with database.session() as db:
        whole = select(Account.academy_id)
        db.execute(delete(Academy).where(Academy.name == ACADEMY, Academy.id.not_in(whole)))


_WORDS = (
    "amber", "barley", "cedar", "copper", "dapple", "ember", "fennel", "garnet", "harbour", "indigo", "juniper", "kettle",
    "linden", "marble", "nettle", "ochre", "pebble", "quill", "russet", "saffron", "thistle", "umber", "velvet", "willow",
)  # fmt: skip


def _take_in(academy: uuid.UUID, student: uuid.UUID, file: Path, days_ago: int) -> uuid.UUID:
    with tempfile.TemporaryDirectory() as folder:
        sent = Path(folder) / file.name
        shutil.copyfile(file, sent)
        with database.session() as db:
            clip = intake.take_in(db, academy, student, file.name, sent, date.today() - timedelta(days=days_ago))
    tasks.read_clip(str(clip.id))
    return clip.id


def _review(academy: uuid.UUID, clip: uuid.UUID, truth: dict[str, Any], past: Past) -> None:
    with database.session() as db:
        review = reviewing.open_review(db, academy, clip)
        first = truth["reps"][0]
        for body, data in first["bodies"].items():
            reviewing.set_height(db, academy, review.id, body, data["height_px"])
    for rep, answers in zip(truth["reps"], past.answers, strict=True):
        _mark_rep(academy, review.id, rep, answers, past)
    with database.session() as db:
        finished = reviewing.finish(db, academy, review.id)
        stills = [correction.id for correction in finished.corrections]
    for still in stills:
        tasks.draw_still(str(still))


def _mark_rep(academy: uuid.UUID, review: uuid.UUID, rep: dict[str, Any], answers: Mapping[str, bool], past: Past) -> None:
    with database.session() as db:
        facts = {key: rep[key] for key in ("side", "heading", "view", "partner", "rung")}
        facts |= {"first_frame": rep["range"][0], "last_frame": rep["range"][1], "options": {}}
        row = reviewing.cut_rep(db, academy, review, rep["technique"], facts)
    with database.session() as db:
        for event, frames in rep["events"].items():
            reviewing.mark_event(db, academy, row.id, event, frames)
        for need in _judged(db, academy, review, row.id).needs:
            if need.frame is not None:
                entry = rep["bodies"][need.body]["landmarks"][need.landmark][need.frame]
                spot = Spot(body=need.body, landmark=need.landmark, frame=need.frame)
                reviewing.place_point(db, academy, row.id, spot, entry["x"], entry["y"])
        for checkpoint, yes in answers.items():
            reviewing.answer(db, academy, row.id, checkpoint, yes)
    with database.session() as db:
        _correct(academy, review, row, past)


def _judged(db: Session, academy: uuid.UUID, review: uuid.UUID, rep: uuid.UUID) -> JudgedRep:
    return next(e for e in reviewing.judged(reviewing.load(db, academy, review)) if e.rep.id == rep)


def _correct(academy: uuid.UUID, review: uuid.UUID, row: RepRow, past: Past) -> None:
    """Draw the correction of each checkpoint that was missed: an arrow up from the working knee."""
    with database.session() as db:
        entry = _judged(db, academy, review, row.id)
        for judgement in entry.judgements:
            cue = past.correct.get(judgement.id)
            if cue is None or not judgement.counts_as_missed:
                continue
            frame = judgement.frames[0]
            knee = next(p for p in entry.rep.points if p.landmark == f"{entry.rep.side}_knee" and p.frame == frame)
            arrow = Arrow(from_x=knee.x + 20, from_y=knee.y - 10, to_x=knee.x + 10, to_y=knee.y - 80)
            correct.draw(db, academy, row.id, Mark(checkpoint=judgement.id, frame=frame, arrow=arrow, cue=cue))
