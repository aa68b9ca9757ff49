"""A request that met another one in the database is done again by the server; nobody is told of it unless it keeps happening."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

import pytest
from fastapi import Body, FastAPI
from fastapi.testclient import TestClient

from lacertus.store.database import DatabaseAway, SameMoment
from lacertus.web import again, errors
from lacertus.web.again import Again

TRIED: list[bytes] = []


@pytest.fixture
def client(monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    """A route that meets others as often as it is told to."""
    monkeypatch.setattr(again, "WAIT_S", 0.0)
    TRIED.clear()
    app = FastAPI()
    errors.install(app)

    @app.post("/marks")
    def mark(content: Annotated[bytes, Body()], meets: int) -> dict[str, int]:
        TRIED.append(content)
        if len(TRIED) <= meets:
            raise SameMoment()
        return {"bytes": len(content)}

    @app.post("/away")
    def away() -> None:
        TRIED.append(b"")
        raise DatabaseAway()

    with TestClient(Again(app)) as found:
        yield found


@pytest.mark.parametrize(("meets", "status"), [(0, 200), (1, 200), (2, 200), (3, 503)])
def test_it_is_done_again_with_the_same_body(client: TestClient, meets: int, status: int) -> None:
    answer = client.post(f"/marks?meets={meets}", content=b"x" * 5000)
    assert answer.status_code == status
    assert [b"x" * 5000] * min(meets + 1, 3) == TRIED
    assert answer.json() == {"bytes": 5000} if status == 200 else answer.json()["code"] == "same_moment"


def test_a_body_that_is_not_at_hand_any_more_is_told_at_once(client: TestClient) -> None:
    answer = client.post("/marks?meets=1", content=b"x" * (again.MOST_BYTES + 1))
    assert (answer.status_code, answer.json()["code"]) == (503, "same_moment")
    assert len(TRIED) == 1


def test_nothing_else_is_done_again(client: TestClient) -> None:
    assert client.post("/away").json()["code"] == "database_away"
    assert len(TRIED) == 1
