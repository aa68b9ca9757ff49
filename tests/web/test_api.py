"""The API over real HTTP: sessions, uploads, ranges, one error body, headers, other origins, hostile input."""

from __future__ import annotations

import json
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from schemathesis.checks import not_a_server_error
from schemathesis.core.result import Ok
from sqlalchemy.orm import Session

from lacertus.services.people.attempts import MOST_FAILURES
from lacertus.store import database
from lacertus.web.app import create_app
from lacertus.web.openapi import openapi_text
from tests.halls import EMAIL, PASSWORD, hall
from tests.place import ROOT, Server
from tests.web.uploading import NOBODY, TUS, send, start_upload, upload, wait_for


class TestUploads:
    def test_a_broken_upload_goes_on_and_becomes_a_clip(self, client: httpx.Client, clips: dict[str, Path]) -> None:
        clip = upload(client, clips["constant"])
        assert (clip["state"], clip["filmed_on"], clip["review"]) == ("ready", "2026-05-04", "none")
        times = client.get(f"/api/clips/{clip['id']}").json()["pts_s"]
        assert len(times) == clip["frames_done"]

    def test_text_named_mp4_ends_in_a_reason(self, client: httpx.Client, tmp_path: Path) -> None:
        (tmp_path / "kick.mp4").write_text("no film " * 99)
        clip = upload(client, tmp_path / "kick.mp4")
        assert clip["state"] == "failed"
        assert "not a video that can be read" in clip["failure"]

    @pytest.mark.parametrize(
        ("size", "values", "words"),
        [
            (0, {}, "is empty"),
            (9, {"filename": "notes.txt"}, "not a video file"),
            (9, {"filename": ""}, "name is missing"),
            (9, {"student": "nobody"}, "whose clip"),
            (9, {"student": str(uuid.uuid4())}, "no such student"),
            (9, {"filmed_on": "yesterday"}, "year-month-day"),
            (10**13, {}, "larger than"),
        ],
    )
    def test_what_cannot_become_a_clip_is_refused_at_once(
        self, client: httpx.Client, size: int, values: dict[str, str], words: str
    ) -> None:
        answer = start_upload(client, size, **values)
        assert answer.status_code in (400, 404, 413)
        assert words in answer.json()["message"]
        assert client.get("/api/clips").json() == []

    @pytest.mark.parametrize(
        "name", ["../../../etc/kick.mp4", "/tmp/kick.mp4", "a\\b.mp4", "gpj.\u202e4pm.mp4", "a\nb.mp4", "é" * 128 + ".mp4"]
    )
    def test_a_name_with_a_path_or_more_than_one_line_is_refused(self, client: httpx.Client, name: str) -> None:
        answer = start_upload(client, 9, filename=name)
        assert (answer.status_code, answer.json()["code"]) == (400, "bad_input")

    def test_a_long_accented_name_is_kept_as_it_is(self, client: httpx.Client, clips: dict[str, Path]) -> None:
        """255 bytes, the most that a file system takes."""
        name = "é" * 125 + "x.mp4"
        assert len(name.encode()) == 255
        data = clips["long_gop"].read_bytes()
        location = start_upload(client, len(data), filename=name).headers["location"]
        send(client, location, data, 0)
        assert wait_for(client, "ready")["name"] == name

    def test_nobody_uploads_without_signing_in(self, server: Server, client: httpx.Client) -> None:
        assert httpx.post(f"{server.url}/api/uploads/", headers=TUS | {"Upload-Length": "9"}).status_code == 401


class TestVideo:
    @pytest.mark.parametrize(
        ("wanted", "status", "first", "length"),
        [
            (None, 200, 0, None),
            ("bytes=0-99", 206, 0, 100),
            ("bytes=100-", 206, 100, None),
            ("bytes=-50", 206, -50, 50),
            ("bytes=99999999-", 416, 0, 0),
            ("bytes=9-3", 416, 0, 0),
            ("lines=1-2", 200, 0, None),
        ],
    )
    def test_ranges(
        self, client: httpx.Client, clips: dict[str, Path], wanted: str | None, status: int, first: int, length: int | None
    ) -> None:
        path = f"/api/clips/{upload(client, clips['long_gop'])['id']}/video"
        whole = client.get(path).content
        answer = client.get(path, headers={"Range": wanted} if wanted else {})
        assert answer.status_code == status
        if status != 416:
            assert answer.content == (whole[first:] if length is None else whole[first:][:length])


class TestSessions:
    def test_a_wrong_password_twice_says_so_and_keeps_the_door_shut(self, server: Server, client: httpx.Client) -> None:
        for _ in range(2):
            answer = httpx.post(f"{server.url}/api/session", json={"email": EMAIL, "password": "wrong"})
            assert (answer.status_code, answer.json()["code"]) == (401, "signed_out")
            assert "set-cookie" not in answer.headers
        assert client.get("/api/session").status_code == 200

    def test_too_many_tries_wait(self, server: Server, client: httpx.Client) -> None:
        for _ in range(MOST_FAILURES):
            httpx.post(f"{server.url}/api/session", json={"email": "x@example.test", "password": "wrong"})
        answer = httpx.post(f"{server.url}/api/session", json={"email": "x@example.test", "password": PASSWORD})
        assert answer.status_code == 429

    def test_the_cookie_is_out_of_reach_of_scripts_and_other_sites(self, server: Server, client: httpx.Client) -> None:
        answer = httpx.post(f"{server.url}/api/session", json={"email": EMAIL, "password": PASSWORD})
        cookie = answer.headers["set-cookie"].lower()
        assert "httponly" in cookie
        assert "samesite=strict" in cookie

    def test_signed_out_means_out(self, client: httpx.Client) -> None:
        client.delete("/api/session")
        assert client.get("/api/students").status_code == 401

    @pytest.mark.parametrize("path", ["students", "clips", "techniques", "session", f"clips/{NOBODY}/video"])
    def test_nothing_is_shown_to_strangers(self, server: Server, client: httpx.Client, path: str) -> None:
        assert httpx.get(f"{server.url}/api/{path}").status_code == 401


class TestGuard:
    def test_a_write_from_another_site_is_refused(self, client: httpx.Client) -> None:
        answer = client.post("/api/students", json={"name": "X"}, headers={"Origin": "http://elsewhere.test"})
        assert (answer.status_code, answer.json()["code"]) == (403, "other_origin")
        same = str(client.base_url).rstrip("/")
        assert client.post("/api/students", json={"name": "X"}, headers={"Origin": same}).status_code == 201

    def test_every_answer_carries_the_headers(self, client: httpx.Client) -> None:
        for path in ("/", "/api/health", "/api/nothing"):
            headers = client.get(path).headers
            assert "default-src 'self'" in headers["content-security-policy"]
            assert headers["x-content-type-options"] == "nosniff"

    @pytest.mark.parametrize(
        ("method", "path", "body", "status"),
        [
            ("GET", "/api/nothing", None, 404),
            ("GET", "/api/clips/not-an-id", None, 422),
            ("GET", f"/api/clips/{NOBODY}", None, 404),
            ("POST", "/api/students", {"name": ""}, 422),
            ("POST", "/api/students", {"name": "x" * 9999}, 422),
            ("POST", "/api/students", {"name": "X", "admin": True}, 422),
            ("PUT", f"/api/reps/{NOBODY}/events/knee_top", {"frames": [3]}, 404),
        ],
    )
    def test_every_error_has_one_body(self, client: httpx.Client, method: str, path: str, body: Any, status: int) -> None:
        answer = client.request(method, path, json=body)
        assert answer.status_code == status
        assert set(answer.json()) == {"code", "message"}

    @pytest.mark.parametrize(
        ("method", "path", "body"),
        [
            ("POST", "students", {"name": "A", "note": "x\0y"}),
            ("POST", "students", {"name": "A\0"}),
            ("POST", "session", {"email": "a\0@example.test", "password": "x"}),
            ("GET", "techniques/front%00kick", None),
            ("POST", "clips/line", {"line": "A\0"}),
            ("GET", "students/00000000-0000-0000-0000-000000000000/fault?of=front%00kick", None),
            ("PUT", "taught/front%00kick/2026-01-05", None),
            ("GET", "academy?days=%00", None),
        ],
    )
    def test_a_nul_is_refused_before_the_database_is_asked(
        self, client: httpx.Client, method: str, path: str, body: dict[str, str] | None
    ) -> None:
        answer = client.request(method, f"/api/{path}", json=body)
        assert answer.status_code in (400, 404, 405, 422), answer.text

    def test_markup_in_a_name_stays_text(self, client: httpx.Client) -> None:
        name = "<script>alert(1)</script>"
        assert client.post("/api/students", json={"name": name}).json()["name"] == name
        assert client.get("/api/students").headers["content-type"] == "application/json"


def test_nothing_is_acknowledged_before_it_is_committed(db: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    """A commit that fails is an answer of its own, never a success that was already sent."""
    hall(db)
    real = database.session

    @contextmanager
    def failing() -> Iterator[Session]:
        with real() as current:
            yield current
            raise database.DatabaseAway()

    app = create_app()
    monkeypatch.setattr(database, "session", failing)
    answer = TestClient(app).post("/api/session", json={"email": EMAIL, "password": PASSWORD})
    assert (answer.status_code, answer.json()["code"]) == (503, "database_away")


def test_the_published_contract_is_the_servers_own() -> None:
    """docs/openapi.json drifted: run script/client."""
    assert (ROOT / "docs" / "openapi.json").read_text() == openapi_text()


PARTS = 4


@pytest.mark.parametrize("part", range(PARTS))
def test_random_requests_never_break_the_server(client: httpx.Client, part: int) -> None:
    """Whatever is sent to any route, signed in: an answer of ours, never an error inside. The routes in four parts."""
    found = schemathesis.openapi.from_dict(json.loads(openapi_text()))
    cookies = dict(client.cookies)
    asked = 0

    for number, result in enumerate(found.get_all_operations()):
        assert isinstance(result, Ok)
        operation = result.ok()
        if operation.path.startswith("/api/session") or number % PARTS != part:
            continue
        asked += 1
        cases = operation.as_strategy()

        @settings(max_examples=8, deadline=None, database=None, suppress_health_check=list(HealthCheck))
        @given(case=cases)
        def attack(case: schemathesis.Case[Any]) -> None:
            answer = case.call(base_url=str(client.base_url), cookies=cookies, timeout=60)
            case.validate_response(answer, checks=[not_a_server_error])

        attack()
    assert asked > 30
