"""python -m tests.faults.many FOLDER: two servers and three workers at one database, each with a disk of its own, and media in an
object store. Prints what came of it as JSON."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
import uuid
from collections import Counter
from pathlib import Path
from typing import Any

import httpx
import sqlalchemy as sa
from websockets.sync.client import connect

from lacertus.local.postgres import LocalPostgres, free_port
from lacertus.services.review import review as reviewing
from lacertus.services.techniques import catalogue
from lacertus.store import database
from lacertus.store.media import media
from lacertus.store.tables import Clip
from tests.faults.acting import until
from tests.faults.running import small_clip
from tests.halls import EMAIL, PASSWORD, cut, hall
from tests.place import ROOT, place
from tests.store.objects import object_store
from tests.web.uploading import TUS, send, start_upload

CLIPS = 6


class Machine:
    """A server or a worker with a disk of its own."""

    def __init__(self, folder: Path, environment: dict[str, str], *command: str) -> None:
        self.folder = folder
        folder.mkdir(parents=True)
        own = {"LACERTUS_UPLOADS_DIR": f"{folder}/uploads", "LACERTUS_WORK_DIR": f"{folder}/work"}
        with (folder / "log").open("ab") as log:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "lacertus.cli", *command], env=os.environ | environment | own, stdout=log, stderr=log
            )

    def told(self, event: str) -> list[dict[str, Any]]:
        """The lines of its log with an event."""
        lines = (self.folder / "log").read_text().splitlines()
        found = [json.loads(line) for line in lines if line.startswith("{")]
        return [line for line in found if line.get("event") == event]

    def kill(self) -> None:
        self.process.kill()
        self.process.wait(15)

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(20)


def run(folder: Path) -> dict[str, Any]:
    """Clips are sent by halves to two servers, read by three workers of which one is killed, and looked at on either server."""
    clip, truth = small_clip(folder)
    postgres = LocalPostgres(ROOT / ".run" / f"many-{os.getpid()}", durable=False, port=free_port())
    with place(folder, postgres) as environment, object_store() as store:
        with database.session() as db:
            catalogue.store_shipped(db)
            where = hall(db)
        ports = [free_port(), free_port()]
        values = environment | store
        servers = [Machine(folder / f"server-{port}", values, "serve", "--port", str(port)) for port in ports]
        workers = [Machine(folder / f"worker-{number}", values, "worker") for number in range(3)]
        try:
            clients = [_signed_in(port) for port in ports]
            sent = [_sent(clients, clip.read_bytes() + b"\x00\x00\x00\x18free" + uuid.uuid4().bytes) for _ in range(CLIPS)]
            busy = until(lambda: any(_reading(one) for one in workers), 60)
            workers[0].kill()
            read = until(_all_read, 180)
            done = Counter(line["about"] for one in workers for line in one.told("job done"))
            with database.session() as db:
                states = Counter(db.scalars(sa.select(Clip.state)))
                review = reviewing.open_review(db, where.academy, uuid.UUID(sent[0])).id
                rep = cut(db, where, review, truth["reps"][0])
            return {
                "sent": len(sent),
                "busy": busy,
                "read": read,
                "states": states,
                "most_read": max(done.values(), default=0),
                "by_workers": sum(1 for one in workers if one.told("job done")),
                "same": _same(clients, str(review), str(rep)),
                "live": [_live(port, client, str(rep), truth) for port, client in zip(ports, clients, strict=True)],
                "heard_s": _heard(ports[1], clients, str(review), str(rep)),
                "left": media().files("uploads"),
            }
        finally:
            for one in (*servers, *workers[1:]):
                one.stop()


def _signed_in(port: int) -> httpx.Client:
    client = httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=30)

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


def _reading(worker: Machine) -> bool:
    return worker.process.poll() is None and any((worker.folder / "work").glob("job-*"))


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


def _heard(port: int, clients: list[httpx.Client], review: str, rep: str) -> float:
    """A mark at one server is told to a page that is connected to the other one: after how many seconds."""
    address = f"ws://127.0.0.1:{port}/api/reviews/{review}/changes?window=second"
    with connect(address, additional_headers=_as_page(port, clients[1])) as socket:
        before = json.loads(socket.recv(timeout=30))["revision"]
        clients[0].put(f"/api/reps/{rep}/events/knee_top", json={"frames": [34]}).raise_for_status()
        started = time.monotonic()
        told = json.loads(socket.recv(timeout=30))
        assert told["revision"] == before + 1 and told["by"]
        return time.monotonic() - started


def _as_page(port: int, client: httpx.Client) -> dict[str, str]:
    cookie = "; ".join(f"{name}={value}" for name, value in client.cookies.items())
    return {"Cookie": cookie, "Origin": f"http://127.0.0.1:{port}"}


def _live(port: int, client: httpx.Client, rep: str, truth: dict[str, Any]) -> int:
    """A point dragged at a server: how many judgements come back."""
    frame = truth["reps"][0]["events"]["full_reach"][0]
    asked = {"rep": rep, "body": "performer", "landmark": "right_knee", "frame": frame, "x": 200.0, "y": 120.0, "turn": 1}
    with connect(f"ws://127.0.0.1:{port}/api/live", additional_headers=_as_page(port, client)) as socket:
        socket.send(json.dumps(asked))
        return len(json.loads(socket.recv(timeout=30))["judgements"])


if __name__ == "__main__":
    started = time.monotonic()
    print(json.dumps(run(Path(sys.argv[1])) | {"seconds": round(time.monotonic() - started)}))
