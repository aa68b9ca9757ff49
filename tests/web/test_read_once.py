"""A request reads a review once, judges a rep once and builds its scene once, whatever is asked of it."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from tests.halls import EMAIL, PASSWORD, cut, one_app
from tests.watch_reading import Reading, reading

PARTS = ("event_mark", "point", "answer", "overrule", "correction")


@pytest.fixture
def bench(db: Session, where: Any, review: uuid.UUID, rep: uuid.UUID, truths: dict[str, Any]) -> Iterator[TestClient]:
    """A coach signed in, with a review of two reps."""
    cut(db, where, review, truths["constant"]["reps"][0])
    with TestClient(one_app()) as found:
        found.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        # Reps that nothing changes are not judged again.
        found.get(f"/api/reviews/{review}").raise_for_status()
        yield found


def asked(client: TestClient, patch: pytest.MonkeyPatch, method: str, path: str, body: dict[str, Any] | None = None) -> Reading:
    with reading(patch) as counted:
        answer = client.request(method, path, json=body)
    assert answer.is_success, answer.text
    return counted


def test_reading_a_review(bench: TestClient, monkeypatch: pytest.MonkeyPatch, review: uuid.UUID, rep: uuid.UUID) -> None:
    counted = asked(bench, monkeypatch, "GET", f"/api/reviews/{review}")
    assert counted.tables["review"] == counted.tables["rep"] == 1
    assert counted.tables["event_mark"] == 1
    # What there is none of is not asked for, nor are points that are known by their version.
    assert all(counted.tables[part] == 0 for part in PARTS if part != "event_mark"), counted.tables
    assert len(counted.statements) <= 12, counted.tables
    bench.put(f"/api/reps/{rep}/answers/hands_up", json={"yes": True}).raise_for_status()
    assert asked(bench, monkeypatch, "GET", f"/api/reviews/{review}").tables["answer"] == 1


@pytest.mark.parametrize(
    ("path", "body", "table"),
    [
        ("points/performer/right_knee/40", {"x": 260.0, "y": 140.0}, "point"),
        ("events/knee_top", {"frames": [33]}, "event_mark"),
        ("answers/hands_up", {"yes": True}, "answer"),
    ],
    ids=["point", "event", "answer"],
)
def test_a_mark(
    bench: TestClient, monkeypatch: pytest.MonkeyPatch, rep: uuid.UUID, path: str, body: dict[str, Any], table: str
) -> None:
    counted = asked(bench, monkeypatch, "PUT", f"/api/reps/{rep}/{path}", body)
    parts = {part: counted.tables[part] for part in PARTS}
    # What was changed is read back for its own rep alone; the events are read once; what there is none of is not asked for.
    assert parts == {part: (part == "event_mark") + (part == table) for part in PARTS}, counted.of(table)
    assert counted.tables["rep"] <= 2, counted.of("rep")
    assert counted.judged == 1
    assert counted.scenes == 2, "of both reps, for what is proposed"
    assert len(counted.statements) <= 15, counted.tables
