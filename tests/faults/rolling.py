"""python -m tests.faults.rolling FOLDER COMMIT: an earlier version's server and worker go on while the database is brought up to
date and those of this version start beside them. Prints what came of it as JSON."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import uuid
from pathlib import Path
from typing import Any

import httpx

from lacertus.local.postgres import LocalPostgres, free_port
from tests.faults.acting import until
from tests.faults.running import small_clip
from tests.halls import EMAIL, PASSWORD
from tests.place import ROOT
from tests.web.uploading import send, start_upload

HALL = """
from lacertus.store import database
from tests.halls import hall
with database.session() as db:
    hall(db)
"""
MARKS = 6


class Version:
    """A checkout, and what runs of it."""

    def __init__(self, checkout: Path, environment: dict[str, str], room: Path) -> None:
        self.checkout, self.room, self.port = checkout, room, free_port()
        self.environment = os.environ | environment | {"PYTHONPATH": str(checkout)}
        self._running: list[subprocess.Popen[bytes]] = []
        self.client = httpx.Client(base_url=f"http://127.0.0.1:{self.port}", timeout=30)

    def run(self, *words: str) -> None:
        command = [sys.executable, *words]
        done = subprocess.run(command, cwd=self.checkout, env=self.environment, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr

    def start(self) -> None:
        for words in (("worker",), ("serve", "--port", str(self.port))):
            command = [sys.executable, "-m", "lacertus.cli", *words]
            with (self.room / f"log-{self.port}-{words[0]}").open("ab") as log:
                self._running.append(subprocess.Popen(command, cwd=self.checkout, env=self.environment, stdout=log, stderr=log))
        assert until(self.answers, 90)

    def answers(self) -> bool:
        try:
            return self.client.get("/api/health").status_code == 200
        except httpx.HTTPError:
            return False

    def sign_in(self) -> None:
        self.client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()

    def stop(self) -> None:
        for one in self._running:
            one.terminate()
        for one in self._running:
            one.wait(120)
        self._running.clear()


def run(folder: Path, commit: str) -> dict[str, Any]:
    """Both versions are worked with by turns, and then the new one alone."""
    clip, truth = small_clip(folder)
    earlier = folder / "earlier"
    subprocess.run(["git", "worktree", "add", "--detach", str(earlier), commit], cwd=ROOT, check=True, capture_output=True)
    postgres = LocalPostgres(ROOT / ".run" / f"rolling-{os.getpid()}", durable=False)
    try:
        postgres.start()
        environment = {
            "LACERTUS_DATABASE_URL": postgres.url,
            "LACERTUS_MEDIA_URL": f"file://{folder}/media",
            "LACERTUS_UPLOADS_DIR": f"{folder}/uploads",
            "LACERTUS_WORK_DIR": f"{folder}/work",
            "LACERTUS_OUTBOX_DIR": f"{folder}/outbox",
            # Beside other tests a worker that gives way is not given a turn for minutes.
            "LACERTUS_WORKER_NICE": "0",
        }
        old, new = Version(earlier, environment, folder), Version(ROOT, environment, folder)
        try:
            return _roll(old, new, clip.read_bytes(), truth["reps"][0])
        finally:
            old.stop()
            new.stop()
    finally:
        postgres.destroy()
        subprocess.run(["git", "worktree", "remove", "--force", str(earlier)], cwd=ROOT, check=True, capture_output=True)


def _roll(old: Version, new: Version, film: bytes, truth: dict[str, Any]) -> dict[str, Any]:
    old.run("-m", "lacertus.cli", "db", "upgrade")
    old.run("-c", HALL)
    old.start()
    old.sign_in()
    first = _sent(old, film)
    new.run("-m", "lacertus.cli", "db", "upgrade")
    # The old version's server goes on, with those who are signed in there.
    went_on = old.client.get("/api/session").status_code
    new.start()
    new.sign_in()
    second = _sent(new, film)
    read = until(lambda: all(_state(new, clip) == "ready" for clip in (first, second)), 240)
    review = old.client.post(f"/api/clips/{first}/review").raise_for_status().json()["id"]
    first_frame, last_frame = truth["range"]
    cut = {"technique": "front-kick", "first_frame": first_frame, "last_frame": last_frame, "side": "right"}
    rep = str(uuid.uuid4())
    old.client.put(f"/api/reviews/{review}/reps/{rep}", json=cut).raise_for_status()
    frame = truth["events"]["knee_top"][0]
    seen = []
    for number in range(MARKS):
        writes, reads = (old, new) if number % 2 else (new, old)
        writes.client.put(f"/api/reps/{rep}/events/knee_top", json={"frames": [frame + number]}).raise_for_status()
        told = reads.client.get(f"/api/reviews/{review}").raise_for_status().json()
        seen.append(told["reps"][0]["events"]["knee_top"] == [frame + number])
    old.stop()
    alone = new.client.delete(f"/api/reps/{rep}/events/knee_top").raise_for_status().json()["reps"][0]["events"] == {}
    return {"went_on": went_on, "read": read, "seen": seen, "alone": alone}


def _sent(version: Version, film: bytes) -> str:
    data = film + b"\x00\x00\x00\x18free" + uuid.uuid4().bytes
    location = start_upload(version.client, len(data)).headers["location"]
    send(version.client, location, data, 0).raise_for_status()
    return str(location.rpartition("/")[2])


def _state(version: Version, clip: str) -> str:
    return str(next(one["state"] for one in version.client.get("/api/clips").json() if one["id"] == clip))


if __name__ == "__main__":
    print(json.dumps(run(Path(sys.argv[1]), sys.argv[2])))
