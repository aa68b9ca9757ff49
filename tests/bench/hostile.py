"""Random requests by everybody's role, and files with bytes changed, against a running copy of our own on loopback.

Each line tells how many were sent, how they were answered, the slowest answer, and what should never be: a fault of ours, an
answer that does not come, or anything of another academy.
"""

from __future__ import annotations

import json
import os
import random
import tempfile
import time
import uuid
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path
from typing import Any

import httpx
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from rich.console import Console
from rich.table import Table
from schemathesis.core.result import Ok
from sqlalchemy import select

from lacertus.core.measuring.repfile import read_rep
from lacertus.local.postgres import free_port
from lacertus.services.clips.intake import Sent, take_in
from lacertus.services.people import accounts, people
from lacertus.services.people.rights import Role
from lacertus.services.transfer import rep_files, student_out
from lacertus.store import database, queue
from lacertus.store.tables import Clip
from lacertus.web.openapi import openapi_text
from tests.core.build import rep_data
from tests.faults.running import small_clip
from tests.halls import EMAIL, PASSWORD, Hall, hall
from tests.place import ROOT, Server, place

REQUESTS = int(os.environ.get("LACERTUS_BENCH_REQUESTS", "10000"))
FILES = int(os.environ.get("LACERTUS_BENCH_FILES", "1000"))
FILMS = int(os.environ.get("LACERTUS_BENCH_FILMS", "1000"))
LATE_S = 30
MARK = "Quillon Farrow"
"""A student of the other academy: nobody else is ever told this name."""
ROLES: tuple[Role, ...] = ("owner", "coach", "assistant")


@dataclass
class Answers:
    """What came back of one kind of attack."""

    codes: Counter[str] = field(default_factory=Counter)
    slowest_s: float = 0.0
    wrong: list[str] = field(default_factory=list)

    def take(self, what: str, answer: httpx.Response, seconds: float) -> None:
        self.codes[f"{answer.status_code // 100}xx"] += 1
        self.slowest_s = max(self.slowest_s, seconds)
        if answer.status_code >= 500 and answer.status_code not in (502, 503, 507):
            self.wrong.append(f"{what}: {answer.status_code}")
        if seconds > LATE_S:
            self.wrong.append(f"{what}: after {seconds:.0f} s")
        if MARK.encode() in answer.content:
            self.wrong.append(f"{what}: tells of another academy")


def main() -> None:
    console = Console(width=120)
    table = Table("what", "sent", "answered", "slowest, s", "wrong", title="hostile input")
    with tempfile.TemporaryDirectory() as name, place(Path(name)) as environment:
        server = Server(free_port(), environment, Path(name) / "log")
        try:
            with database.session() as db:
                where, other = hall(db), hall(db, "Other hall", "other@example.test")
                people.create_student(db, other.academy, MARK)
                for role in ROLES[1:]:
                    accounts.create_account(db, where.academy, f"{role}-too@example.test", role, PASSWORD, role)
            kinds = {f"requests as {role}": _requests(server, role) for role in ROLES}
            kinds |= _texts(server, where)
            kinds["films"] = _films(server, where, Path(name))
            for what, found in kinds.items():
                codes = ", ".join(f"{count} {code}" for code, count in sorted(found.codes.items()))
                table.add_row(what, str(found.codes.total()), codes, f"{found.slowest_s:.1f}", str(len(found.wrong)))
                for line in found.wrong[:10]:
                    console.print(f"WRONG {what}: {line}")
        finally:
            server.stop()
    console.print(table)


def _signed_in(server: Server, email: str) -> httpx.Client:
    client = httpx.Client(base_url=server.url, timeout=120)
    client.post("/api/session", json={"email": email, "password": PASSWORD}).raise_for_status()
    return client


def _requests(server: Server, role: Role) -> Answers:
    """Every operation of the API with values that fit it and values that do not."""
    found = Answers()
    email = EMAIL if role == "owner" else f"{role}-too@example.test"
    client = _signed_in(server, email)
    contract = schemathesis.openapi.from_dict(json.loads(openapi_text()))
    operations = [result.ok() for result in contract.get_all_operations() if isinstance(result, Ok)]
    # Who signs out or ends their own sessions asks for nothing any more.
    asked = [one for one in operations if not one.path.startswith(("/api/session", "/api/account"))]
    each = REQUESTS // len(asked) + 1
    for operation in asked:
        _try_out(operation, server, client, found, each)
    return found


def _try_out(operation: Any, server: Server, client: httpx.Client, found: Answers, each: int) -> None:
    """One operation, so many times."""

    @settings(max_examples=each, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck))
    @given(case=operation.as_strategy())
    def attack(case: schemathesis.Case[Any]) -> None:
        started = time.perf_counter()
        answer = case.call(base_url=server.url, cookies=dict(client.cookies), timeout=120)
        seen = httpx.Response(answer.status_code, content=answer.content)
        found.take(operation.label, seen, time.perf_counter() - started)

    attack()


def _changed(data: bytes, chance: random.Random) -> bytes:
    """A file with bytes changed, cut, doubled or taken out, at random places."""
    film = bytearray(data)
    for _ in range(chance.choice((1, 3, 30, 300))):
        at, how = chance.randrange(len(film)), chance.randrange(4)
        if how == 0:
            film[at] = chance.randrange(256)
        elif how == 1:
            del film[at : at + chance.randrange(1, 40)]
        elif how == 2:
            film[at:at] = film[at : at + chance.randrange(1, 200)]
        else:
            film[at:at] = chance.choice((b"\x00", b"{", b'"', b"[", b"- ", b"\xff\xfe", b"9" * 40, b"&a [*a]", b"../"))
        if not film:
            film += b"x"
    return bytes(film)


def _texts(server: Server, where: Hall) -> dict[str, Answers]:
    """Technique files, lists of students, rep files and students' archives with bytes changed."""
    client = _signed_in(server, EMAIL)
    with database.session() as db:
        review = rep_files.bring_in(db, where.academy, where.student, "kick", date(2026, 5, 4), [read_rep(rep_data())]).id
        with tempfile.TemporaryDirectory() as folder:
            archive = Path(folder) / "student.zip"
            student_out.write(db, where.academy, where.student, archive)
            student = archive.read_bytes()
    files = {
        "technique files": ("/api/techniques/check", (ROOT / "lacertus/library/techniques/front-kick.yaml").read_bytes()),
        "lists of students": ("/api/students/list", b"name,pronouns,guardian\nBela Novak,she,\nCleo Arrow,they,Ada Arrow\n" * 20),
        "rep files": (f"/api/reviews/{review}/reps/file", json.dumps(rep_data()).encode()),
        "students' archives": ("/api/students/file", student),
    }
    found: dict[str, Answers] = {}
    for what, (path, whole) in files.items():
        chance, answers = random.Random(what), Answers()
        for number in range(FILES):
            started = time.perf_counter()
            answer = client.post(path, content=_changed(whole, chance), headers={"Content-Type": "application/octet-stream"})
            answers.take(f"{what} {number}", answer, time.perf_counter() - started)
        found[what] = answers
    return found


def _films(server: Server, where: Hall, folder: Path) -> Answers:
    """Films with bytes changed are read, or refused with a reason, each within its time."""
    chance, whole, found = random.Random(5), small_clip(folder)[0].read_bytes(), Answers()
    for sent in _in_turns(FILMS, 25):
        clips = [_take_in(where, folder, _changed(whole, chance)) for _ in range(sent)]
        started = time.monotonic()
        while (left := _unread(clips)) and time.monotonic() - started < 25 * LATE_S:
            time.sleep(0.2)
        found.slowest_s = max(found.slowest_s, time.monotonic() - started)
        found.wrong += [f"clip {clip} stands as {state}" for clip, state in left]
        with database.session() as db:
            for clip in clips:
                row = db.get_one(Clip, clip)
                found.codes[row.state] += 1
                if row.state == "failed" and (not row.failure or "error on the server" in row.failure):
                    found.wrong.append(f"clip {clip}: {row.failure}")
    return found


def _in_turns(count: int, most: int) -> Iterator[int]:
    while count > 0:
        yield min(count, most)
        count -= most


def _take_in(where: Hall, folder: Path, film: bytes) -> uuid.UUID:
    path = folder / f"{uuid.uuid4().hex}.mp4"
    path.write_bytes(film)
    with database.session() as db:
        clip = take_in(db, where.academy, path, Sent(name="kick.mp4", filmed_on=date(2026, 5, 4)))
        queue.ask(db, queue.READ_CLIP, clip.id, clip.id)
        return clip.id


def _unread(clips: list[uuid.UUID]) -> list[tuple[uuid.UUID, str]]:
    with database.session() as db:
        rows = db.execute(select(Clip.id, Clip.state).where(Clip.id.in_(clips), Clip.state.in_(("waiting", "reading"))))
        return [(clip, state) for clip, state in rows]


if __name__ == "__main__":
    main()
