"""python -m tests.faults.many FOLDER: two servers and three workers at one database, each with a disk and, where root may, a
network of its own, and media in an object store. Prints what came of it as JSON."""

from __future__ import annotations

import fcntl
import json
import os
import subprocess
import sys
import time
import uuid
from collections import Counter
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import httpx
import sqlalchemy as sa
from websockets.sync.client import connect

from lacertus.local.postgres import LOOPBACK, LocalPostgres, free_port
from lacertus.services.review import review as reviewing
from lacertus.services.techniques import catalogue
from lacertus.store import database
from lacertus.store.media import media
from lacertus.store.tables import Clip, JobRow
from tests.faults.acting import until
from tests.faults.hitting import STEPS
from tests.faults.network import HUB, MARK, Network, Place, apart
from tests.faults.running import small_clip
from tests.halls import EMAIL, PASSWORD, cut, hall
from tests.place import ROOT, place
from tests.store.objects import object_store
from tests.web.uploading import TUS, send, start_upload

CLIPS = 6
LONG_REPS = 6
"""So many reps take so long to read, on a fast machine too, that each step is noted: how far it is is noted four times a second."""


class Machine:
    """A server or a worker with a disk of its own and, where that can be, a network of its own."""

    def __init__(self, folder: Path, environment: dict[str, str], at: Place | None, *command: str) -> None:
        self.folder, self.at = folder, at
        self.address = at.address if at is not None else LOOPBACK
        own = {"LACERTUS_UPLOADS_DIR": f"{folder}/uploads", "LACERTUS_WORK_DIR": f"{folder}/work"}
        self._environment, self._command = os.environ | environment | own, command
        folder.mkdir(parents=True)
        self.start()

    def start(self) -> None:
        into = self.at.into if self.at is not None else []
        with (self.folder / "log").open("ab") as log:
            command = [*into, sys.executable, "-m", "lacertus.cli", *self._command]
            self.process = subprocess.Popen(command, env=self._environment, stdout=log, stderr=log)

    def told(self, event: str) -> list[dict[str, Any]]:
        """The lines of its log with an event."""
        lines = (self.folder / "log").read_text().splitlines()
        found = [json.loads(line) for line in lines if line.startswith("{")]
        return [line for line in found if line.get("event") == event]

    @property
    def works(self) -> bool:
        """Whether it is at a piece of work: it holds the lock of a room for it."""
        return self.process.poll() is None and any(map(_is_held, (self.folder / "work").glob("job-*/in-use")))

    def kill(self) -> None:
        self.process.kill()
        self.process.wait(15)

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(60)


def _is_held(lock: Path) -> bool:
    try:
        with lock.open("r+") as held:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    except OSError:
        return False
    return False


class ManyMachines:
    """Two servers and three workers at one database, with media in an object store."""

    def __init__(self, folder: Path, values: dict[str, str], network: Network | None) -> None:
        self.network = network
        places = [network.machine() if network is not None else None for _ in range(5)]
        self.ports = [free_port(), free_port()]
        self.servers = [
            Machine(folder / f"server-{port}", values, at, "serve", "--host", at.address if at else LOOPBACK, "--port", str(port))
            for port, at in zip(self.ports, places, strict=False)
        ]
        self.workers = [Machine(folder / f"worker-{n}", values, at, "worker") for n, at in enumerate(places[2:])]
        self.clients = [_signed_in(server.address, port) for server, port in zip(self.servers, self.ports, strict=True)]

    @property
    def pages(self) -> list[Page]:
        """Each server as a page reaches it."""
        return [
            Page(address=f"{server.address}:{port}", client=client)
            for server, port, client in zip(self.servers, self.ports, self.clients, strict=True)
        ]

    def at_work(self) -> Machine | None:
        return next((one for one in self.workers if one.works), None)

    def read_by(self) -> Counter[str]:
        """How often each clip was read to its end, by any of them."""
        return Counter(line["about"] for one in self.workers for line in one.told("job done"))

    def end(self) -> None:
        for one in (*self.servers, *self.workers):
            if one.process.poll() is None:
                one.stop()
        for one in (*self.servers, *self.workers):
            if one.at is not None:
                one.at.end()


@dataclass(frozen=True, kw_only=True)
class Page:
    """A server as a page reaches it."""

    address: str
    client: httpx.Client


def run(folder: Path) -> dict[str, Any]:
    """Clips are sent by turns to two servers and read by three workers, of which one is lost in each step of its work and one loses
    its network; then both servers are asked for the same."""
    clip, truth = small_clip(folder)
    long_clip, _ = small_clip(folder, LONG_REPS)
    network = Network() if os.environ.get(MARK) == "yes" else None
    address = HUB if network is not None else LOOPBACK
    postgres = LocalPostgres(ROOT / ".run" / f"many-{os.getpid()}", durable=False, port=free_port(), address=address)
    with place(folder, postgres) as environment, object_store(address) as store:
        with database.session() as db:
            catalogue.store_shipped(db)
            where = hall(db)
        site = ManyMachines(folder, environment | store, network)
        film, long_film = clip.read_bytes(), long_clip.read_bytes()
        try:
            sent = [_sent(site.clients, _another(film)) for _ in range(CLIPS)]
            all_read = [until(_all_read, 240)]
            by_workers = sum(1 for one in site.workers if one.told("job done"))
            lost = {step: _lose_a_worker(site, long_film, step) for step in STEPS}
            all_read.append(until(_all_read, 120))
            cut_off = _cut_off_a_worker(site, long_film) if network is not None else {}
            with database.session() as db:
                states = Counter(db.scalars(sa.select(Clip.state)))
                review = reviewing.open_review(db, where.academy, uuid.UUID(sent[0])).id
                rep = cut(db, where, review, truth["reps"][0])
            first, second = site.pages
            return {
                "apart": network is not None and all(one.at is not None and one.at.is_apart for one in site.workers),
                "read": all(all_read),
                "states": states,
                "most_read": max(site.read_by().values(), default=0),
                "by_workers": by_workers,
                "lost": lost,
                "cut_off": cut_off,
                "same": _same(site.clients, str(review), str(rep)),
                "live": [_live(page, str(rep), truth) for page in (first, second)],
                "heard_s": _heard(second, site.clients, str(review), str(rep)),
                "left": media().files("uploads"),
            }
        finally:
            site.end()


def _another(film: bytes) -> bytes:
    """The same film as another file."""
    return film + b"\x00\x00\x00\x18free" + uuid.uuid4().bytes


def _lose_a_worker(site: ManyMachines, film: bytes, step: str) -> bool:
    """Kill whoever is in a step of reading a clip; a new one comes in its place. Whether somebody was caught in it."""
    for _ in range(6):
        _sent(site.clients, _another(film))
        end = time.monotonic() + 60
        while time.monotonic() < end and not _all_read():
            worker = site.at_work()
            if worker is not None and _step() == step:
                worker.kill()
                worker.start()
                return until(_all_read, 120)
            time.sleep(0.01)
    return False


def _step() -> str | None:
    """How far the one piece of work is that runs."""
    with database.session() as db:
        row = db.execute(sa.select(JobRow.done, JobRow.of).where(JobRow.state == "running")).first()
    if row is None:
        return None
    share = row.done / row.of if row.of else 0.0
    return STEPS[0 if share == 0 else 1 if share < 0.8 else 2]


def _cut_off_a_worker(site: ManyMachines, film: bytes) -> dict[str, Any]:
    """Pull the cable of whoever reads a clip: another one reads it, and the first keeps nothing of it and works on afterwards."""
    _sent(site.clients, _another(film))
    assert until(lambda: site.at_work() is not None and _step() == STEPS[1], 60)
    alone = site.at_work()
    assert alone is not None and alone.at is not None
    before = len(alone.told("job done"))
    alone.at.pull_the_cable()
    started = time.monotonic()
    read = until(_all_read, 180)
    after_s = time.monotonic() - started
    alone.at.plug_it_in()
    others = [one for one in site.workers if one is not alone]
    for one in others:
        one.stop()
    # Nobody else is left: what is sent now is read by the one that was cut off.
    _sent(site.clients, _another(film))
    works_on = until(_all_read, 180)
    for one in others:
        one.start()
    return {
        "read": read,
        "after_s": round(after_s, 1),
        "works_on": works_on,
        "lives": alone.process.poll() is None,
        "kept": len(alone.told("job done")) - before,
    }


def _signed_in(address: str, port: int) -> httpx.Client:
    client = httpx.Client(base_url=f"http://{address}:{port}", timeout=30)

    def answers() -> bool:
        try:
            return client.get("/api/health").status_code == 200
        except httpx.HTTPError:
            return False

    assert until(answers, 90)
    client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
    return client


def _sent(clients: list[httpx.Client], data: bytes) -> str:
    """Begun at one server, gone on with at the other, ended at the first."""
    location = start_upload(clients[0], len(data)).headers["location"]
    at, middle = len(data) // 3, 2 * len(data) // 3
    for client, start, end in ((clients[0], 0, at), (clients[1], at, middle), (clients[0], middle, len(data))):
        assert client.head(location, headers=TUS).headers["upload-offset"] == str(start)
        send(client, location, data[start:end], start).raise_for_status()
    return str(location.rpartition("/")[2])


def _all_read() -> bool:
    with database.session() as db:
        return db.scalar(sa.select(sa.func.count()).where(Clip.state.in_(("waiting", "reading")))) == 0


def _same(clients: list[httpx.Client], review: str, rep: str) -> bool:
    """A mark at one server is there at the other at once, with its number."""
    before = clients[1].get(f"/api/reviews/{review}/revision").json()["revision"]
    path = f"/api/reps/{rep}/events/knee_top"
    clients[0].put(path, json={"frames": [33]}, headers={"X-Window": "first"}).raise_for_status()
    after = clients[1].get(f"/api/reviews/{review}/revision", headers={"X-Window": "second"}).json()
    (found,) = clients[1].get(f"/api/reviews/{review}").json()["reps"]
    late = {"X-Window": "second", "X-Seen": str(before)}
    refused = clients[1].put(path, json={"frames": [35]}, headers=late).status_code
    return bool(after["revision"] > before and after["by"] and found["events"]["knee_top"] == [33] and refused == 409)


def _heard(page: Page, clients: list[httpx.Client], review: str, rep: str) -> float:
    """A mark at one server is told to a page that is connected to the other one: after how many seconds."""
    address = f"ws://{page.address}/api/reviews/{review}/changes?window=second"
    with connect(address, additional_headers=_as_page(page)) as socket:
        before = json.loads(socket.recv(timeout=30))["revision"]
        clients[0].put(f"/api/reps/{rep}/events/knee_top", json={"frames": [34]}).raise_for_status()
        started = time.monotonic()
        told = json.loads(socket.recv(timeout=30))
        assert told["revision"] == before + 1 and told["by"]
        return time.monotonic() - started


def _as_page(page: Page) -> dict[str, str]:
    cookie = "; ".join(f"{name}={value}" for name, value in page.client.cookies.items())
    return {"Cookie": cookie, "Origin": f"http://{page.address}"}


def _live(page: Page, rep: str, truth: dict[str, Any]) -> int:
    """A point dragged at a server: how many judgements come back."""
    frame = truth["reps"][0]["events"]["full_reach"][0]
    asked = {"rep": rep, "body": "performer", "landmark": "right_knee", "frame": frame, "x": 200.0, "y": 120.0, "turn": 1}
    with connect(f"ws://{page.address}/api/live", additional_headers=_as_page(page)) as socket:
        socket.send(json.dumps(asked))
        return len(json.loads(socket.recv(timeout=30))["judgements"])


def main() -> None:
    if MARK not in os.environ:
        sys.exit(apart("tests.faults.many", *sys.argv[1:]))
    started = time.monotonic()
    print(json.dumps(run(Path(sys.argv[1])) | {"seconds": round(time.monotonic() - started)}))


if __name__ == "__main__":
    main()
