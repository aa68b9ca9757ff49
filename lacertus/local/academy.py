"""The invented academy of the demo, made through the same services as a coach would use."""

from __future__ import annotations

import hashlib
import json
import os
import re
import secrets
import shutil
import uuid
from collections.abc import Callable, Mapping
from concurrent.futures import ProcessPoolExecutor, as_completed
from datetime import date, timedelta
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lacertus import studio
from lacertus.core.measuring import body
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.judge import needed_points
from lacertus.core.techniques.definition import Technique
from lacertus.jobs import tasks
from lacertus.library import shipped_technique
from lacertus.local import class_stories, eye_stories, history, stories
from lacertus.local.history import EMAIL, FILMED, HISTORY, PEOPLE, Day, Filmed
from lacertus.services.clips import intake, naming
from lacertus.services.clips.intake import Sent
from lacertus.services.corrections import correct, examples, marked_clip
from lacertus.services.people import accounts, people
from lacertus.services.review import loading, reference
from lacertus.services.review import review as reviewing
from lacertus.services.review.view import JudgedRep, view_of
from lacertus.services.sheets import clip_facts
from lacertus.services.sheets import finish as finishing
from lacertus.services.techniques import catalogue
from lacertus.services.transfer import rep_files
from lacertus.store import database
from lacertus.store.tables import Academy, Account
from lacertus.studio.clips import record
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shipped_script, shots_of, view_for

Say = Callable[[str], None]

SHIPPED = Path(__file__).parent / "clips"
"""Made by script/clips, so that a first start need not film for minutes."""
ACADEMY = "Ottermoor Academy"
PLACING_SHARE = 0.35
"""The history's points scatter by this share of the default σ of a placed point: a careful coach."""


def studio_mark() -> str:
    """A mark of everything that clips and history are made from, so that a changed studio makes them anew."""
    films = [path for path in Path(str(studio.__file__)).parent.rglob("*") if path.suffix in (".py", ".yaml", ".json")]
    # What solves poses leaves them in their files; no film is made by it.
    moves = [path for path in films if path.parent.name != "authoring"]
    marks = sorted({_mark(path) for path in [*moves, Path(str(body.__file__)), Path(str(history.__file__))]})
    return hashlib.sha256("".join(marks).encode()).hexdigest()[:16]


def _mark(path: Path) -> str:
    """A mark of what a file says, wherever it lies."""
    text = path.read_text(encoding="utf-8")
    return hashlib.sha256((_films(text) if path.suffix == ".py" else text).encode()).hexdigest()


_IMPORTS = re.compile(r"^[ \t]*(?:from\s+\S+\s+import\s+(?:\([^)]*\)|[^\n(]*)|import\s+[^\n]*)\n", re.MULTILINE)

_DOCSTRING = re.compile(r'\A"""[^"]*"""\n')


def _films(source: str) -> str:
    """A module without its imports and what it says of itself: neither shows on a film."""
    return _DOCSTRING.sub("", _IMPORTS.sub("", source).lstrip())


# --- what is made once and kept --------------------------------------------------------------------


def prepare(folder: Path, say: Say) -> Path:
    """The demo's clips and the history's reps: those that ship, or made anew once where the studio has changed since."""
    mark = studio_mark()
    for target in (SHIPPED, folder / mark):
        if (target / "mark").is_file() and (target / "mark").read_text() == mark:
            return target
    return make(folder / mark, say)


def make(target: Path, say: Say) -> Path:
    """Film the clips and work out the history's reps into a folder."""
    target.mkdir(parents=True, exist_ok=True)
    os.environ.setdefault("NUMBA_NUM_THREADS", "1")
    say(f"filming {len(FILMED)} clips and {len(HISTORY)} days of history")
    # Spawned, not forked: the renderer's threads do not survive a fork.
    with ProcessPoolExecutor(max_workers=max(os.cpu_count() or 1, 1), mp_context=get_context("spawn")) as pool:
        # The first film compiles the renderer for all; the history meanwhile needs none of it.
        first, *others = FILMED
        jobs = [pool.submit(_film, first.script, target)]
        jobs += [pool.submit(_write_history, number, target) for number in range(len(HISTORY))]
        jobs += [pool.submit(_film, filmed.script, target) for filmed in others]
        for done, job in enumerate(as_completed(jobs), 1):
            job.result()
            if done % 10 == 0 or done == len(jobs):
                say(f"  {done} of {len(jobs)}")
    (target / "mark").write_text(studio_mark())
    return target


def _film(script_id: str, folder: Path) -> None:
    film = folder / f"{script_id}.mp4"
    if film.exists():
        return
    script = shipped_script(script_id)
    first, *others = shots_of(script)
    told = truth(first, only_events=True)
    (folder / f"{script_id}.json").write_text(json.dumps(told, separators=(",", ":")), encoding="utf-8")
    for number, shot in enumerate(others, 2):
        record(shot, folder / f"{script_id}-{number}.mp4", script.recording)
    record(first, film, script.recording)


def _write_history(number: int, folder: Path) -> None:
    day = HISTORY[number]
    reps = _studio_reps(day, number)
    (folder / f"history-{number}.json").write_text(json.dumps(reps, separators=(",", ":")), encoding="utf-8")


def _studio_reps(day: Day, number: int) -> list[dict[str, Any]]:
    """The day's reps as the studio does them: events and the points that the technique reads, as a coach places them."""
    move, technique = MOVES[day.technique], shipped_technique(day.technique)
    person = next(person for person in PEOPLE if person.name == day.student)
    reps = [
        {"faults": {code: degree for code, degree in story.items() if move.fault(code)}, "reaction": day.reactions.get(i, "")}
        for i, story in enumerate(day.reps)
    ]
    script: dict[str, Any] = {
        "lacertus_script": 1, "id": "history", "technique": day.technique, "side": day.side, "seed": number + 50, "rung": day.rung,
        "performer": {"look": person.look}, "reps": reps, "recording": {"fps": 60},
        "camera": {"view": view_for(technique.best_view)},
    }  # fmt: skip
    told = truth(shots_of(read_script(script))[0], only_events=True)["reps"]
    chance = np.random.default_rng(number)
    return [_as_placed(rep, technique, story, chance) for rep, story in zip(told, day.reps, strict=True)]


def _as_placed(
    rep: dict[str, Any], technique: Technique, story: Mapping[str, float], chance: np.random.Generator
) -> dict[str, Any]:
    """A rep's truth as a coach would have marked it: only what is read, a little beside the spot, answers by eye."""
    needs = {(n.body, n.landmark, n.frame) for n in needed_points(technique, read_rep(rep))}
    bodies: dict[str, Any] = {}
    for name, data in rep["bodies"].items():
        off = PLACING_SHARE * 0.01 * data["height_px"]
        landmarks = {}
        for landmark, entries in data["landmarks"].items():
            placed = [
                {
                    "frame": e["frame"],
                    "x": round(e["x"] + float(chance.normal(0, off)), 2),
                    "y": round(e["y"] + float(chance.normal(0, off)), 2),
                    "by": "placed",
                }
                for e in entries
                if (name, landmark, e["frame"]) in needs
            ]
            if placed:
                landmarks[landmark] = placed
        bodies[name] = {"height_px": data["height_px"], "landmarks": landmarks}
    return rep | {"bodies": bodies, "seen": _answers(technique, story)}


def _answers(technique: Technique, story: Mapping[str, float]) -> dict[str, dict[str, bool]]:
    return {c.id: {"coach": c.fault.code not in story} for c in technique.checkpoints if c.kind == "seen"}


# --- the academy itself ------------------------------------------------------------------------------


def load(made: Path, password: str | None, say: Say) -> str | None:
    """Make the academy unless it is there; returns the coach's new password, or None."""
    with database.session() as db:
        catalogue.store_shipped(db)
        if db.scalar(select(Account.id).where(Account.email == EMAIL)) is not None:
            return None
    _clear_broken_load()
    password = password or "-".join(secrets.choice(_WORDS) for _ in range(3))
    with database.session() as db:
        academy = accounts.create_academy(db, ACADEMY).id
        students = {person.name: people.create_student(db, academy, person.name, person.side, person.note).id for person in PEOPLE}
    say(f"writing down {len(HISTORY)} reviews of {len(PEOPLE)} students")
    for number, day in enumerate(HISTORY):
        _keep_history(academy, students[day.student], day, json.loads((made / f"history-{number}.json").read_text()))
    for filmed in FILMED:
        say(f"reading {filmed.script}.mp4")
        told = json.loads((made / f"{filmed.script}.json").read_text())
        student = students[filmed.student] if filmed.student else None
        clip = _take_in(academy, student, made / f"{filmed.script}.mp4", filmed)
        second = made / f"{filmed.script}-2.mp4"
        if second.exists():
            _tie(academy, clip, _take_in(academy, student, second, filmed), told)
        if filmed.reviewed:
            _review(academy, clip, told, filmed)
    with database.session() as db:
        stories.decide_rungs(db, academy, students)
    with database.session() as db:
        # Last, so that a load that broke off is not taken for a whole one.
        coach = stories.hire(db, academy, password)
        stories.describe(db, academy, students)
        stories.note_and_grade(db, academy, students, coach)
        stories.write_in(db, academy, students, coach)
    with database.session() as db:
        class_stories.tell(db, academy, students, coach)
        eye_stories.tell(db, academy, students)
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


def _keep_history(academy: uuid.UUID, student: uuid.UUID, day: Day, reps: list[dict[str, Any]]) -> None:
    with database.session() as db:
        on = date.today() - timedelta(days=day.days_ago)
        read = [read_rep(rep) for rep in reps]
        review = rep_files.bring_in(db, academy, student, f"{day.technique}, {len(reps)} reps", on, read)
        finishing.finish(db, academy, review.id)


def _take_in(academy: uuid.UUID, student: uuid.UUID | None, file: Path, filmed: Filmed) -> uuid.UUID:
    with database.session() as db:
        on = date.today() - timedelta(days=filmed.days_ago)
        clip = intake.take_in(db, academy, file, Sent(name=file.name, filmed_on=on, student=student))
    tasks.read_clip(str(clip.id))
    if filmed.line:
        with database.session() as db:
            naming.name_clips(db, academy, [clip.id], filmed.line)
    return clip.id


def _tie(academy: uuid.UUID, clip: uuid.UUID, second: uuid.UUID, told: dict[str, Any]) -> None:
    """Tie a second view: the studio's cameras run by the same clock, so a frame here is the same frame there."""
    frame = max(frame for frames in told["reps"][0]["events"].values() for frame in frames)
    with database.session() as db:
        clip_facts.tie_views(db, academy, clip, second, frame, frame)


def _review(academy: uuid.UUID, clip: uuid.UUID, told: dict[str, Any], filmed: Filmed) -> None:
    """Review a filmed clip by its truth, correct what was missed, and finish."""
    faults: list[dict[str, float]] = [{} for _ in told["reps"]]
    for fault in told["faults"]:
        faults[fault["rep"]][fault["fault"]] = fault["degree"]
    chance = np.random.default_rng(len(told["reps"]))
    technique = shipped_technique(told["reps"][0]["technique"])
    reps = [read_rep(_as_placed(rep, technique, story, chance)) for rep, story in zip(told["reps"], faults, strict=True)]
    with database.session() as db:
        review = reviewing.open_review(db, academy, clip)
        for name, data in reps[0].bodies.items():
            reference.set_height(db, academy, review.id, name, data.height_px)
        rep_files.add_reps(db, academy, review.id, reps)
    with database.session() as db:
        for entry in view_of(loading.load(db, academy, review.id)).reps:
            _correct(db, academy, entry, filmed)
    with database.session() as db:
        finished = finishing.finish(db, academy, review.id)
        stills = [correction.id for correction in finished.corrections]
    for still in stills:
        tasks.draw_still(str(still))
        tasks.draw_example(str(still))
    if stills:
        with database.session() as db:
            marked_clip.ask(db, academy, review.id)
        tasks.make_marked_clip(str(review.id))


def _correct(db: Session, academy: uuid.UUID, entry: JudgedRep, filmed: Filmed) -> None:
    """Draw the usual correction of what was missed, in the coach's own words, with the same done right beside it."""
    for judgement in entry.judgements:
        cue = dict(filmed.correct).get(judgement.id)
        if cue is None or not judgement.counts_as_missed or not judgement.frames:
            continue
        drawn = correct.draw_default(db, academy, entry.rep.id, judgement.id, uuid.uuid4())
        drawn.cue = cue
        db.flush()
        choices = examples.choices(db, academy, drawn.id)
        if choices:
            examples.put_example(db, academy, drawn.id, choices[-1].source)


if __name__ == "__main__":
    shutil.rmtree(SHIPPED, ignore_errors=True)
    make(SHIPPED, print)
