"""Pages of a large academy: 300 students, 10,000 reps, 500,000 judgements, made up by a script; and the ledger alone.

A student has as much history in an academy of 30 as in one of 300, so that it is seen whether a student's page grows with the
academy. The plans of the queries behind it are shown.
"""

from __future__ import annotations

import gc
import json
import random
import tempfile
import time
import uuid
from collections.abc import Callable, Sequence
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import psycopg
from rich.console import Console
from rich.table import Table
from sqlalchemy import event

from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reading import read_technique
from lacertus.ledgerfile import Row, ledgers
from lacertus.local.postgres import free_port
from lacertus.services.people import accounts, people
from lacertus.services.progress import fix_first, follow_up, grades, rungs
from lacertus.services.techniques import catalogue
from lacertus.settings import settings
from lacertus.store import database
from lacertus.store.tables import Student
from tests.bench.yardstick import Yardstick
from tests.core.build import by_eye, technique_data
from tests.place import Server, place

STUDENTS, REPS, CHECKPOINTS = 300, 10_000, 50
REPS_A_CLIP = 5
DAYS = 365
KINDS = 4
"""So many techniques of CHECKPOINTS checkpoints each."""
IN_CLASS = 40
ASKED = 60
"""So often each page is asked for."""
EMAIL, PASSWORD = "scale@example.test", "straw-ledger-nine"


def main() -> None:
    console = Console(width=150)
    console.print(_ledger_alone())
    with tempfile.TemporaryDirectory() as name, place(Path(name)) as environment:
        server = Server(free_port(), environment, Path(name) / "log")
        try:
            pace = Yardstick()
            small_academy = made_up("Small", STUDENTS // 10)
            vacuum()
            small = pages(server, small_academy, pace)
            large_academy = made_up("Large", STUDENTS)
            vacuum()
            pace = Yardstick()
            large = pages(server, large_academy, pace)
            console.print(_table(small, large, pace.factor))
            console.print(pace)
            for title, lines in plans(academy_of(large_academy[1][0]), large_academy[1][0]):
                console.print(f"\n{title}\n" + "\n".join(f"    {line}" for line in lines), highlight=False)
        finally:
            server.stop()


def academy_of(student: uuid.UUID) -> uuid.UUID:
    with database.session() as db:
        return db.get_one(Student, student).academy_id


# --- the academy -------------------------------------------------------------------------------------


def made_up(name: str, count: int, clips_each: int = REPS // STUDENTS // REPS_A_CLIP + 1) -> tuple[str, list[uuid.UUID]]:
    """An academy with so many students, with so many clips each; returns its coach's e-mail and the students."""
    chance = random.Random(name)
    email = f"{name.lower()}-{EMAIL}"
    with database.session() as db:
        academy = accounts.create_academy(db, name).id
        account = accounts.create_account(db, academy, email, "A Coach", PASSWORD).id
        students = [people.create_student(db, academy, f"Student {number:03}").id for number in range(count)]
        made = [_technique(number) for number in range(KINDS)]
        versions = [(catalogue.store_version(db, one, academy).id, one) for one in made]
        grade = grades.add(db, academy, "Yellow").id
        for one in made:
            grades.require(db, academy, grade, one.id, one.ladder[1])
        for student in students:
            grades.work_towards(db, academy, student, grade)
    _fill(academy, account, students, versions, clips_each, chance)
    return email, students


def _technique(number: int) -> Technique:
    habits = ("half range", "late", "no return", "wrong direction", "base wrong")
    points = [
        by_eye(
            id=f"point_{n}", ask=f"Point {n} as it should be", fault={"code": f"fault-{n}", "family": habits[n % 5]}, core=n < 4
        )
        for n in range(CHECKPOINTS)
    ]  # fmt: skip
    return read_technique(technique_data(*points, id=f"kick-{number}", names={"main": f"Kick {number}"}))


def _fill(
    academy: uuid.UUID,
    account: uuid.UUID,
    students: Sequence[uuid.UUID],
    versions: Sequence[tuple[uuid.UUID, Technique]],
    clips_each: int,
    chance: random.Random,
) -> None:
    """Clips, finished reviews, reps and verdicts, written in bulk."""
    clips, reviews, reps, judged = [], [], [], []
    for student in students:
        for number in range(clips_each):
            on = date.today() - timedelta(days=chance.randrange(DAYS))
            clip, review = uuid.uuid4(), uuid.uuid4()
            version, technique = versions[number % len(versions)]
            pts = [frame / 60 for frame in range(600)]
            clips.append(
                (clip, academy, student, f"{technique.id} {number}.mp4", on, "ready", True, 1000, 1280, 720, 60.0, 10.0, pts)
            )
            reviews.append((review, academy, clip, student, account, "{}", f"{on} 12:00+00"))
            for rep_number in range(REPS_A_CLIP):
                rep, how = uuid.uuid4(), chance.choice(technique.ladder)
                side = chance.choice(("left", "right"))
                outcome = chance.choice(("completed", "blocked", None))
                reps.append(
                    (rep, review, version, 100 * rep_number, 100 * rep_number + 90, side, how, "full", "attempt", outcome, "{}")
                )
                for c in technique.checkpoints:
                    verdict = chance.choices(("met", "missed", "borderline", "not_seen"), (80, 12, 4, 4))[0]
                    asked: tuple[object, ...] = (technique.id, c.id, c.kind, verdict, [50], c.fault.code, c.fault.family, c.safety)
                    asked += (100 * rep_number, side, how, "full", "attempt", outcome, "{}")
                    judged.append((review, rep, student, on, *asked))
    with psycopg.connect(settings().database_url) as connection:
        _copy(connection, "clip", CLIP, ((*c[:6], False, *c[6:], 600) for c in clips))
        _copy(connection, "review", "id, academy_id, clip_id, student_id, account_id, heights_px, finished_at", reviews)
        _copy(connection, "rep", REP, ((*r, "right", "side", "person") for r in reps))
        _copy(connection, "judgement", JUDGEMENT, judged)


def vacuum() -> None:
    """What the database does by itself in a while."""
    with psycopg.connect(settings().database_url, autocommit=True) as connection:
        connection.execute("vacuum analyze")


CLIP = (
    "id, academy_id, student_id, name, filmed_on, state, stop_asked, has_film, size_bytes, width, height, nominal_fps, duration_s, "
    "pts_s, frames_done"
)
REP = (
    "id, review_id, technique_version_id, first_frame, last_frame, side, rung, pace, purpose, outcome, options, heading, view, "
    "partner"
)
JUDGEMENT = (
    "review_id, rep_id, student_id, filmed_on, technique, checkpoint, kind, verdict, frames, fault, family, safety, "
    "first_frame, side, rung, pace, purpose, outcome, options"
)


def _copy(connection: psycopg.Connection, table: str, columns: str, rows: Any) -> None:
    with connection.cursor() as cursor, cursor.copy(f"copy {table} ({columns}) from stdin") as copy:
        for row in rows:
            copy.write_row(row)


# --- the pages ---------------------------------------------------------------------------------------


def pages(server: Server, academy: tuple[str, list[uuid.UUID]], pace: Yardstick) -> dict[str, np.ndarray]:
    """Milliseconds by page, two columns: at the server, and from asking to the whole answer; students by chance."""
    email, students = academy
    chance = random.Random(5)
    with httpx.Client(base_url=server.url, timeout=60) as client:
        client.post("/api/session", json={"email": email, "password": PASSWORD}).raise_for_status()
        page = client.get(f"/api/students/{students[0]}").json()
        fault, on = page["faults"][0], page["dates"][-1]

        cell = f"{students[0]}/%s&of={fault['technique']}&fault={fault['fault']}"

        def student() -> str:
            return f"/api/students/{chance.choice(students)}"

        asked: dict[str, Callable[[], str]] = {
            "clips": lambda: "/api/clips",
            "students": lambda: "/api/students",
            "students: the list with what is open": lambda: "/api/roster",
            "inbox": lambda: "/api/inbox",
            "the day": lambda: "/api/today",
            "the week": lambda: "/api/calendar",
            "student: practice": lambda: f"{student()}/practice",
            "student: ledger": student,
            "student: fix first": lambda: f"{student()}/fix-first",
            "student: rungs": lambda: f"{student()}/rungs",
            "student: grade": lambda: f"{student()}/grade",
            "student: reps behind a cell": lambda: "/api/students/" + cell % f"reps?on={on}",
            "student: before and after": lambda: "/api/students/" + cell % "before-after?",
            "academy, 30 days": lambda: "/api/academy?days=30",
            "academy, 90 days": lambda: "/api/academy?days=90",
            "academy, month by month": lambda: "/api/academy/months",
            "academy, a year": lambda: "/api/academy?days=365",
            "grades": lambda: "/api/grades",
            "techniques": lambda: "/api/techniques",
        }  # fmt: skip
        first = _once(client, "/api/today")
        asked_before = 1
        # New students are worked out a little at a time, and kept: asked for until all are.
        while client.get("/api/today").raise_for_status().json()["looking"]:
            asked_before += 1
        print(f"{len(students)} students never seen before: worked out in {asked_before} requests for the day")
        found: dict[str, list[tuple[str, float]]] = {}
        for name, way in asked.items():
            pace.measure()
            found[name] = [_once(client, way()) for _ in range(ASKED)]
        found |= _class_of(client, students[:IN_CLASS], page["faults"][0]["technique"])
        found["the day, first after a start"] = [first]
    at_server = _logged(server, {key for own in found.values() for key, _ in own})
    return {name: np.array([(at_server[key], ms) for key, ms in own]) for name, own in found.items()}


def _class_of(client: httpx.Client, students: Sequence[uuid.UUID], technique: str) -> dict[str, list[tuple[str, float]]]:
    """A class of so many students is planned and paired, again and again."""
    today = date.today()
    wish = {"name": "Bench", "on": today.isoformat(), "at": 1080, "minutes": 90, "mats": 20}
    lesson = client.post("/api/classes", json=wish).raise_for_status().json()
    path = f"/api/classes/{lesson['id']}"
    change = {"version": lesson["version"], "teach": [{"technique": technique}], "coming": [str(one) for one in students]}
    lesson = client.patch(path, json=change).raise_for_status().json()
    found: dict[str, list[tuple[str, float]]] = {"a class: make the plan": [], "a class: make pairs": [], "a class": []}
    for _ in range(ASKED // 3):
        for name, way in (("a class: make the plan", f"{path}/make"), ("a class: make pairs", f"{path}/pairs")):
            answer, told = _sent(client, "POST", way, {"version": lesson["version"]})
            lesson, found[name] = answer, [*found[name], told]
        found["a class"].append(_once(client, path))
    return found


def _sent(client: httpx.Client, method: str, path: str, body: dict[str, Any]) -> tuple[dict[str, Any], tuple[str, float]]:
    started = time.perf_counter()
    answer = client.request(method, path, json=body).raise_for_status()
    return answer.json(), (answer.headers["X-Request-Id"], 1000 * (time.perf_counter() - started))


def _once(client: httpx.Client, path: str) -> tuple[str, float]:
    """Ask for a page: the request's id, and how long it took."""
    started = time.perf_counter()
    answer = client.get(path).raise_for_status()
    return answer.headers["X-Request-Id"], 1000 * (time.perf_counter() - started)


def _logged(server: Server, wanted: set[str]) -> dict[str, float]:
    """How long each request took at the server, by its own log, which is written after the answer was sent."""
    found: dict[str, float] = {}
    for _ in range(50):
        lines = (json.loads(line) for line in server.log.read_text().splitlines() if line.startswith("{") and line.endswith("}"))
        found = {line["request"]: line["ms"] for line in lines if line.get("event") == "request"}
        if wanted <= found.keys():
            break
        time.sleep(0.1)
    return found


def _table(small: dict[str, np.ndarray], large: dict[str, np.ndarray], factor: float) -> Table:
    title = f"{STUDENTS} students, some {REPS:,} reps, {REPS * CHECKPOINTS:,} judgements; ms at the server, {ASKED} times each"
    desk = "95 % on a desk computer (to reach: 100)"
    table = Table(
        "page", "30 students: median", "300 students: median", "95 %", "at the client, 95 %", "ratio of medians", desk, title=title
    )
    for name in large:
        few, many = np.median(small[name][:, 0]), np.median(large[name][:, 0])
        late, late_there = np.percentile(large[name], 95, axis=0)
        table.add_row(
            name, *(f"{value:.0f}" for value in (few, many, late, late_there)), f"{many / few:.2f}", f"{late / factor:.0f}"
        )
    return table


def plans(academy: uuid.UUID, student: uuid.UUID) -> list[tuple[str, list[str]]]:
    """How the database runs what a student's page asks of the verdicts, as it is asked."""
    asked: list[tuple[str, Any]] = []

    def keep(_connection: Any, _cursor: Any, statement: str, parameters: Any, _context: Any, _many: bool) -> None:
        if "FROM judgement" in statement:
            asked.append((statement, parameters))

    event.listen(database.engine(), "before_cursor_execute", keep)
    with database.session() as db:
        follow_up.ledger_page(db, academy, student)
        fix_first.page(db, academy, student)
        rungs.standings(db, academy, student, date.today())
    event.remove(database.engine(), "before_cursor_execute", keep)
    found = []
    with database.session() as db:
        cursor = db.connection().connection.cursor()
        for statement, parameters in dict(asked).items():
            cursor.execute(f"explain (analyze, costs off, timing off) {statement}", parameters)
            lines = [row[0] for row in cursor.fetchall()]
            kept = [line for line in lines if any(word in line for word in ("Scan", "Index Cond", "Execution Time"))]
            found.append((" ".join(statement.split())[:140] + " …", kept))
    return found


# --- the ledger alone --------------------------------------------------------------------------------


def _ledger_alone() -> str:
    """200,000 judgements of a hundred students in fifty faults, so many reps of each a session."""
    told = []
    for reps in (3, 1):
        rows, taken = _rows(reps), []
        # What was made up stays: looking for garbage in it is no part of the work.
        gc.freeze()
        for _ in range(3):
            started = time.perf_counter()
            found = ledgers(rows)
            taken.append(time.perf_counter() - started)
        told.append(f"{min(taken):.2f} s for {len(found):,} faults in sessions of {reps}")
    return f"ledger over 200,000 judgements: {', '.join(told)} (to reach: 1)"


def _rows(reps: int) -> list[Row]:
    chance = random.Random(9)
    every = [
        (f"student {student}", date(2026, 1, 1) + timedelta(days=day), fault)
        for student in range(100)
        for day in range(0, DAYS, 7)
        for fault in range(CHECKPOINTS)
    ]
    return [
        Row(
            student=student, on=on, technique=f"kick-{fault % KINDS}", fault=f"fault-{fault}", family=f"family-{fault % 5}",
            reps=reps, misses=sum(chance.random() < 0.12 for _ in range(reps)), safety=False,
        )
        for student, on, fault in every[: 200_000 // reps]
    ]  # fmt: skip
