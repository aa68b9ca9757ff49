"""The classes of attack of docs/security.md against a running copy of our own: bounded in number and time, on loopback alone.

Each row: how many attempts, how many got through, how long somebody else waited for a page meanwhile, and what the server grew by.
"""

from __future__ import annotations

import io
import json
import random
import socket
import tempfile
import threading
import time
import uuid
import zipfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from pathlib import Path

import httpx
from rich.console import Console
from rich.table import Table

from lacertus.local.academy import SHIPPED
from lacertus.local.postgres import free_port
from lacertus.services.clips.intake import Sent, take_in
from lacertus.services.people.attempts import MOST_FAILURES, MOST_OF_ADDRESS
from lacertus.services.techniques import catalogue
from lacertus.services.transfer.archive_child import ROWS
from lacertus.store import database, queue
from lacertus.store.tables import Clip
from lacertus.web.body import COOKIE
from tests.halls import EMAIL, PASSWORD, Hall, hall
from tests.place import Server, place

JSON = {"Content-Type": "application/json"}
FILMS = 20
GUESSES, SPRAYS = 80, 120
PIECE = b"x" * 1_000_000


class Attack:
    """A running copy with two academies, and what an attacker does to it."""

    def __init__(self, server: Server, where: Hall, other: Hall) -> None:
        self.server, self.where, self.other = server, where, other
        self.coach = self._signed_in(EMAIL)
        self.stranger = self._signed_in("other@example.test")

    def _signed_in(self, email: str) -> httpx.Client:
        client = httpx.Client(base_url=self.server.url, timeout=60)
        client.post("/api/session", json={"email": email, "password": PASSWORD}).raise_for_status()
        return client

    def large_bodies(self) -> tuple[int, int]:
        """79 MB to the sign-in, from nobody."""
        return self._count(3, lambda: self._mail_out("/api/session", PIECE * 79, JSON))

    def endless_bodies(self) -> tuple[int, int]:
        """A body in pieces that does not say how long it is."""
        return self._count(3, lambda: self._mail_out("/api/session", (PIECE for _ in range(100)), JSON))

    def _mail_out(self, path: str, content: object, headers: dict[str, str]) -> bool:
        try:
            return httpx.post(self.server.url + path, content=content, headers=headers, timeout=60).status_code < 400  # type: ignore[arg-type]
        except httpx.TransportError:
            return False

    def deep_texts(self) -> tuple[int, int]:
        """YAML and JSON of fifty thousand levels, from a coach."""
        texts = ["[" * 50_000, "a: " + "{" * 50_000, "- " * 50_000]
        found = [self.coach.post("/api/techniques/check", json={"text": text}).json().get("lesson") for text in texts]
        return len(texts), sum(lesson is not None for lesson in found)

    def guesses(self) -> tuple[int, int]:
        """Wrong passwords of one account, forty at once."""
        return self._sign_ins([("victim@example.test", f"guess {number}") for number in range(GUESSES)])

    def sprays(self) -> tuple[int, int]:
        """One password for many accounts."""
        return self._sign_ins([(f"somebody{number}@example.test", "Password1234") for number in range(SPRAYS)])

    def _sign_ins(self, forms: list[tuple[str, str]]) -> tuple[int, int]:
        """How many were looked at: those that were answered as wrong, not as too many."""

        def ask(form: tuple[str, str]) -> int:
            return httpx.post(
                f"{self.server.url}/api/session", json={"email": form[0], "password": form[1]}, timeout=60
            ).status_code

        with ThreadPoolExecutor(40) as pool:
            return len(forms), sum(code == 401 for code in pool.map(ask, forms))

    def stalled_uploads(self) -> tuple[int, int]:
        """Ten senders who fall silent in the middle, and others who go on with the same uploads at once: how many had to wait."""
        waited = 0
        for _ in range(10):
            headers = {"Tus-Resumable": "1.0.0", "Upload-Length": "1000", "Upload-Metadata": "filename YS5tcDQ="}
            location = self.coach.post("/api/uploads/", headers=headers).headers["location"]
            head = (
                f"PATCH {location} HTTP/1.1\r\nHost: x\r\nCookie: {COOKIE}={self.coach.cookies[COOKIE]}\r\nTus-Resumable: 1.0.0\r\n"
            )
            head += "Upload-Offset: 0\r\nContent-Type: application/offset+octet-stream\r\nContent-Length: 1000\r\n\r\nhalf"
            with socket.create_connection(("127.0.0.1", self.server.port), timeout=10) as stalled:
                stalled.sendall(head.encode())
                time.sleep(0.1)
                patch = {"Tus-Resumable": "1.0.0", "Upload-Offset": "0", "Content-Type": "application/offset+octet-stream"}
                waited += self.coach.patch(location, content=b"x", headers=patch).elapsed.total_seconds() > 1
        return 10, waited

    def bombs(self) -> tuple[int, int]:
        """A student's file of 390 kB that would be 400 MB, by the web."""
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file, file.open(ROWS, "w", force_zip64=True) as rows:
            for _ in range(400):
                rows.write(b" " * 1_000_000)
        headers = {"Content-Type": "application/octet-stream"}
        sent = [self.coach.post("/api/students/file", content=out.getvalue(), headers=headers) for _ in range(3)]
        return len(sent), sum(answer.status_code < 400 for answer in sent)

    def films(self) -> tuple[int, int]:
        """Films with bytes changed: how many are neither read nor refused with a reason."""
        chance, whole = random.Random(5), sorted(SHIPPED.glob("*.mp4"))[0].read_bytes()
        sent: list[uuid.UUID] = []
        with tempfile.TemporaryDirectory() as folder:
            for number in range(FILMS):
                film = bytearray(whole)
                for _ in range(chance.choice((1, 30, 1000))):
                    film[chance.randrange(len(film))] = chance.randrange(256)
                path = Path(folder) / f"{number}.mp4"
                path.write_bytes(film)
                with database.session() as db:
                    clip = take_in(db, self.where.academy, path, Sent(name=path.name, filmed_on=date(2026, 5, 4)))
                    queue.ask(db, queue.READ_CLIP, clip.id, clip.id)
                    sent.append(clip.id)
        deadline = time.monotonic() + 240
        while time.monotonic() < deadline:
            with database.session() as db:
                found = [db.get_one(Clip, one) for one in sent]
                if all(clip.state in ("ready", "failed") for clip in found):
                    return len(sent), sum(clip.state == "failed" and not clip.failure for clip in found)
            time.sleep(0.5)
        return len(sent), sum(clip.state not in ("ready", "failed") for clip in found)

    def other_academy(self) -> tuple[int, int]:
        """Every address of the contract with the ids of another academy."""
        contract = json.loads((Path(__file__).parents[2] / "docs" / "openapi.json").read_text())
        ids = {"student_id": str(self.where.student)}
        asked = through = 0
        for path, operations in contract["paths"].items():
            for method in operations:
                if "{" not in path or method == "delete":
                    continue
                address = path
                for name in (
                    "student_id",
                    "clip_id",
                    "review_id",
                    "rep_id",
                    "correction_id",
                    "link_id",
                    "adaptation_id",
                    "other_id",
                ):
                    address = address.replace("{" + name + "}", ids.get(name, self._known(name)))
                if "{" in address:
                    continue
                asked += 1
                through += self.stranger.request(method, address, json={}).status_code < 300
        return asked, through

    def _known(self, name: str) -> str:
        with database.session() as db:
            clip = db.query(Clip.id).filter(Clip.academy_id == self.where.academy).first()
        return str(clip[0]) if name == "clip_id" and clip else str(uuid.uuid4())

    def _count(self, times: int, attempt: Callable[[], bool]) -> tuple[int, int]:
        return times, sum(attempt() for _ in range(times))


def main() -> None:
    with tempfile.TemporaryDirectory() as name, place(Path(name)) as environment:
        server = Server(free_port(), environment, Path(name) / "log")
        try:
            with database.session() as db:
                catalogue.store_shipped(db)
                attack = Attack(server, hall(db), hall(db, "Other", "other@example.test"))
            Console(width=130).print(measured(attack))
        finally:
            server.stop()


def measured(attack: Attack) -> Table:
    most = f"at most {MOST_FAILURES} of {GUESSES}; {MOST_OF_ADDRESS} of {SPRAYS}"
    table = Table("attack", "attempts", "got through", "others waited at most, ms", "server grew by, MB", title=f"attacks ({most})")
    rows: list[tuple[str, Callable[[], tuple[int, int]]]] = [
        ("large bodies from nobody", attack.large_bodies),
        ("endless bodies from nobody", attack.endless_bodies),
        ("deep YAML", attack.deep_texts),
        ("stalled uploads: retries that had to wait", attack.stalled_uploads),
        ("ZIP bombs", attack.bombs),
        ("changed films: without an answer", attack.films),
        ("another academy’s addresses", attack.other_academy),
        ("parallel guesses that were looked at", attack.guesses),
        ("sprayed accounts that were looked at", attack.sprays),
    ]
    for name, act in rows:
        before = _held(attack.server)
        with _Watch(attack.server) as watch:
            attempts, through = act()
        grew = (_held(attack.server) - before) / 1e6
        table.add_row(name, str(attempts), str(through), f"{1000 * watch.slowest:.0f}", f"{grew:.0f}")
    return table


def _held(server: Server) -> int:
    status = Path(f"/proc/{server.web.pid}/status").read_text()
    return 1024 * int(next(line for line in status.splitlines() if line.startswith("VmHWM")).split()[1])


class _Watch:
    """Somebody else, who asks for a page all the while."""

    def __init__(self, server: Server) -> None:
        self.slowest = 0.0
        self._url, self._done = f"{server.url}/api/health", threading.Event()
        self._thread = threading.Thread(target=self._look)

    def _look(self) -> None:
        with httpx.Client(timeout=120) as client:
            while not self._done.wait(0.05):
                self.slowest = max(self.slowest, client.get(self._url).elapsed.total_seconds())

    def __enter__(self) -> _Watch:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._done.set()
        self._thread.join()
