"""Watching the site: health, figures for Prometheus, and logs that name nobody."""

from __future__ import annotations

import re
import uuid
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy.orm import Session

from lacertus.services.people import accounts
from lacertus.settings import settings
from lacertus.store import database, queue
from lacertus.store.tables import JobRow
from tests.halls import EMAIL, PASSWORD, Hall, one_app, taken_in
from tests.place import Server
from tests.store.objects import object_store
from tests.web.uploading import send, start_upload, wait_for

TOKEN = "figures-for-the-watcher"


@pytest.fixture
def visitor(db: Session) -> TestClient:
    return TestClient(one_app())


def test_health_tells_how_everything_is(
    visitor: TestClient, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path
) -> None:
    told = visitor.get("/api/health")
    assert told.status_code == 200
    now = told.json()
    assert (now["ok"], now["database"], now["storage"]) == (True, "ok", "ok")
    assert now["free_bytes"] > 0
    assert (now["queue"]["waiting"], now["queue"]["oldest_s"]) == (0, 0.0)
    taken_in(db, where, clips["constant"], tmp_path, queued=False)
    db.execute(sa.update(JobRow).values(asked_at=sa.func.now() - sa.text("interval '90 seconds'")))
    db.commit()
    later = visitor.get("/api/health").json()["queue"]
    # What is to begin in another century has not waited.
    assert (later["waiting"], later["oldest_s"]) == (1, 0.0)
    db.execute(sa.text("update procrastinate_jobs set scheduled_at = null"))
    db.commit()
    assert 90 <= visitor.get("/api/health").json()["queue"]["oldest_s"] < 120
    db.execute(sa.update(JobRow).values(state="done"))
    db.execute(sa.text("delete from procrastinate_jobs"))
    db.commit()


def test_health_tells_what_is_away(visitor: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    with object_store():
        assert visitor.get("/api/health").json()["storage"] == "ok"
        gone = settings()
    monkeypatch.setenv("LACERTUS_MEDIA_URL", gone.media_url)
    settings.cache_clear()
    told = visitor.get("/api/health")
    assert (told.status_code, told.json()["ok"], told.json()["storage"], told.json()["database"]) == (503, False, "away", "ok")
    monkeypatch.undo()
    settings.cache_clear()

    def away() -> None:
        raise database.DatabaseAway()

    monkeypatch.setattr(queue, "standing", lambda _db: away())
    told = visitor.get("/api/health")
    assert (told.status_code, told.json()["database"], told.json()["queue"]) == (503, "away", None)


class TestFigures:
    @pytest.fixture(autouse=True)
    def token(self) -> Iterator[None]:
        with pytest.MonkeyPatch.context() as patch:
            patch.setenv("LACERTUS_METRICS_TOKEN", TOKEN)
            settings.cache_clear()
            yield
        settings.cache_clear()

    def figures(self, visitor: TestClient) -> dict[str, dict[tuple[str, ...], float]]:
        answer = visitor.get("/metrics", headers={"Authorization": f"Bearer {TOKEN}"})
        assert answer.status_code == 200
        return {
            family.name: {
                tuple(sample.labels.values()): sample.value
                for sample in family.samples
                if sample.name in (family.name, f"{family.name}_total")
            }
            for family in text_string_to_metric_families(answer.text)
        }

    def test_requests_are_counted_by_the_pattern_of_their_route(self, visitor: TestClient) -> None:
        before = self.figures(visitor)["lacertus_requests"]
        for _ in range(3):
            visitor.get(f"/api/reviews/{uuid.uuid4()}")
        visitor.request("BREW", "/made-up")
        after = self.figures(visitor)["lacertus_requests"]
        key = ("GET", "/api/reviews/{review_id}", "401")
        assert after[key] - before.get(key, 0) == 3
        assert [name for name in after if name[0] == "other"] != []
        assert not any(re.search(r"[0-9a-f]{8}-", part) for name in after for part in name)

    def test_queue_disk_and_database_are_told(
        self, visitor: TestClient, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path
    ) -> None:
        taken_in(db, where, clips["constant"], tmp_path, queued=False)
        found = self.figures(visitor)
        assert found["lacertus_jobs"]["waiting", "read_clip"] == 1
        assert (found["lacertus_database_up"][()], found["lacertus_storage_up"][()]) == (1, 1)
        assert found["lacertus_disk_free_bytes"][()] > 0
        assert found["lacertus_database_connections"][()] >= 0

    @pytest.mark.parametrize("header", ["", "Bearer", "Bearer ", "Bearer another", f"Basic {TOKEN}"])
    def test_whoever_lacks_the_token_sees_nothing(self, visitor: TestClient, header: str) -> None:
        answer = visitor.get("/metrics", headers={"Authorization": header} if header else {})
        assert (answer.status_code, "lacertus_" in answer.text) == (404, False)


def test_without_a_token_there_are_no_figures(visitor: TestClient) -> None:
    assert visitor.get("/metrics", headers={"Authorization": "Bearer "}).status_code == 404


def test_logs_name_no_student_and_open_nothing(server: Server, db: Session) -> None:
    """A student is added, filmed, written to and deleted: the log tells of each by ids alone, with the ids of request and job."""
    at = server.log.stat().st_size
    academy = accounts.create_academy(db, "Hall of Quillons").id
    accounts.create_account(db, academy, EMAIL, "Coach Quillfeather", PASSWORD)
    db.commit()
    with httpx.Client(base_url=server.url, timeout=30) as client:
        client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        cookie = next(iter(client.cookies.values()))
        client.post("/api/session", json={"email": "zephyrine@quill.example", "password": "wrong-wrong-wrong"})
        student = client.post("/api/students", json={"name": "Zephyrine Quillfeather"})
        assert student.status_code in (200, 201), student.text
        key = client.get("/api/students").json()[0]["id"]
        client.patch(f"/api/students/{key}", json={"guardian": "Ottoline Quillfeather"}).raise_for_status()
        (page,) = client.post(f"/api/students/{key}/own-links", json={"holder": "student"}).raise_for_status().json()
        assert httpx.get(page["address"]).status_code == 200
        client.get("/api/students", params={"search": "Zephyrine"})
        data = b"Zephyrine is no film" * 30
        location = start_upload(client, len(data), filename="Zephyrine kicks.mp4").headers["location"]
        assert send(client, location, data, 0).status_code == 204
        failed = wait_for(client, "failed")
        client.delete(f"/api/clips/{failed['id']}")
        assert client.delete(f"/api/students/{key}").status_code == 200
    log = server.log.read_bytes()[at:].decode()
    assert failed["id"] in log and key in log
    assert re.search(r'"request": ?"[0-9a-f]{12}".*"task": ?"read_clip"|"task": ?"read_clip".*"request": ?"[0-9a-f]{12}"', log)
    token = page["address"].rpartition("/")[2]
    for secret in ("Zephyrine", "Quillfeather", "quill.example", "Ottoline", cookie, token, PASSWORD, "wrong-wrong"):
        assert secret not in log
