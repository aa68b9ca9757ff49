"""From upload to sheet to deletion with all media in an object store, and no disk that servers or workers share."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from lacertus.jobs import tasks
from lacertus.services.clips import uploads
from lacertus.services.eye import real
from lacertus.services.people import consents
from lacertus.settings import settings
from lacertus.store import queue
from lacertus.store.media import media
from lacertus.store.tables import EyeTake
from tests.halls import EMAIL, PASSWORD, Hall, cut, one_app
from tests.store.objects import object_store
from tests.web.uploading import TUS, send, start_upload


@pytest.fixture(autouse=True)
def objects() -> Iterator[None]:
    with object_store():
        yield


@pytest.fixture
def coach(db: Session, where: Hall) -> Iterator[TestClient]:
    with TestClient(one_app()) as client:
        client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        yield client


class Machines:
    """Servers and workers, each with a disk of its own: to go to another one is to see nothing of what the last one kept."""

    def __init__(self, folder: Path, patch: pytest.MonkeyPatch) -> None:
        self._folder, self._patch, self._count = folder, patch, 0

    def next(self) -> None:
        self._count += 1
        for name in ("LACERTUS_UPLOADS_DIR", "LACERTUS_WORK_DIR"):
            self._patch.setenv(name, str(self._folder / f"machine-{self._count}" / name.lower()))
        settings.cache_clear()


@pytest.fixture
def machines(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Machines]:
    found = Machines(tmp_path, monkeypatch)
    found.next()
    yield found
    monkeypatch.undo()
    settings.cache_clear()


def test_a_clip_goes_from_upload_to_sheet_to_deletion(
    coach: TestClient,
    machines: Machines,
    db: Session,
    where: Hall,
    clips: dict[str, Path],
    truths: dict[str, Any],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    # The test is the worker; one that runs beside the tests reads another store, and is to begin tomorrow.
    hand_in, tomorrow = queue.hand_in, datetime.now(UTC) + timedelta(days=1)
    monkeypatch.setattr(queue, "hand_in", lambda db, task, about, *_rest: hand_in(db, task, about, at=tomorrow))
    data = clips["constant"].read_bytes()
    location = start_upload(coach, len(data)).headers["location"]
    at = len(data) // 3
    assert send(coach, location, data[:at], 0).status_code == 204
    machines.next()
    assert coach.head(location, headers=TUS).headers["upload-offset"] == str(at)
    assert send(coach, location, data[at:], at).status_code == 204
    clip = coach.get("/api/clips").json()[0]["id"]
    assert media().files("uploads") == []

    machines.next()
    tasks.read_clip(clip)
    assert coach.get("/api/clips").json()[0]["state"] == "ready"
    assert coach.get(f"/api/clips/{clip}/film/0/0").status_code == 200
    film = coach.get(f"/api/clips/{clip}/video")
    part = coach.get(f"/api/clips/{clip}/video", headers={"Range": "bytes=100-299"})
    assert (part.status_code, part.content) == (206, film.content[100:300])
    assert coach.get(f"/api/clips/{clip}/video", headers={"If-None-Match": film.headers["etag"]}).status_code == 304

    review = uuid.UUID(coach.post(f"/api/clips/{clip}/review").json()["id"])
    rep = cut(db, where, review, truths["constant"]["reps"][0])
    found = next(one for one in coach.get(f"/api/reviews/{review}").json()["reps"][0]["judgements"] if one["verdict"] == "missed")
    drawn = str(uuid.uuid4())
    path = f"/api/reps/{rep}/corrections/{drawn}/default"
    assert coach.post(path, json={"checkpoint": found["id"]}).status_code == 200
    machines.next()
    tasks.draw_still(drawn)
    assert coach.get(f"/api/corrections/{drawn}/still").content[:2] == b"\xff\xd8"
    assert coach.post(f"/api/reviews/{review}/finish").status_code == 200
    assert coach.get(f"/api/reviews/{review}/sheet.pdf").content[:5] == b"%PDF-"
    kept = media().files(f"clips/{clip}")
    assert {key.split("/")[2] for key in kept} == {"original", "review.mp4", "made", "stills", "papers"}

    # A film that trains the eye is cut out of the clip; nothing of it is stored.
    machines.next()
    consents.give(db, where.academy, where.student, "training", "A Student", "student", date(2026, 5, 1))
    assert real.take_in(db)
    db.commit()
    take = db.scalars(sa.select(EyeTake.id).where(EyeTake.rep_id == rep)).one()
    shown = coach.get(f"/api/eye/films/{take}/film.mp4", headers={"Range": "bytes=4-11"})
    assert (shown.status_code, shown.content[:4], shown.headers["cache-control"]) == (206, b"ftyp", "no-store")
    assert media().files(f"clips/{clip}") == kept and media().files("takes") == []

    machines.next()
    assert coach.delete(f"/api/clips/{clip}").status_code == 200
    assert media().files("clips") == []
    assert coach.get(f"/api/eye/films/{take}/film.mp4").status_code == 404


def test_parts_of_two_senders_are_one_upload(coach: TestClient, machines: Machines) -> None:
    data = bytes(range(256)) * 40
    location = start_upload(coach, len(data)).headers["location"]
    assert send(coach, location, data[:6000], 0).status_code == 204
    # A part beside the chain, as is left where a second server was sent the same from an earlier byte on.
    academy, upload = media().files("uploads")[0].split("/")[1:3]
    media().write(f"uploads/{academy}/{upload}/{3000:020}", data[3000:4000])
    machines.next()
    assert coach.head(location, headers=TUS).headers["upload-offset"] == "6000"
    assert send(coach, location, data[3000:], 3000).status_code == 409
    assert coach.delete(location, headers=TUS).status_code == 204
    assert media().files("uploads") == []


def test_parts_that_no_upload_owns_are_swept_after_a_day(coach: TestClient, machines: Machines, db: Session) -> None:
    location = start_upload(coach, 100).headers["location"]
    assert send(coach, location, b"x" * 50, 0).status_code == 204
    own = media().files("uploads")
    media().write(f"uploads/{uuid.uuid4()}/{uuid.uuid4()}/{0:020}", b"left")
    uploads.sweep(db)
    assert len(media().files("uploads")) == 2
    uploads.sweep(db, datetime.now(UTC) + timedelta(days=2))
    assert media().files("uploads") == own
