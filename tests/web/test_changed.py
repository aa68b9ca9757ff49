"""Changes of one review from two windows: numbered, told, and never written over unseen."""

from __future__ import annotations

import uuid
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.services.review import loading, view
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepCut
from lacertus.services.review.kept import entries
from lacertus.store import database, queue
from lacertus.store.tables import JobRow, Review
from lacertus.web.review import presenters
from tests.halls import EMAIL, PASSWORD, one_app


class Windows:
    """Two windows that look at one rep, by the API alone."""

    def __init__(self, review: uuid.UUID, rep: uuid.UUID) -> None:
        self.review, self.rep = f"/api/reviews/{review}", f"/api/reps/{rep}"
        self.client = TestClient(one_app())
        self.client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()

    def look(self) -> int:
        return int(self.client.get(self.review).raise_for_status().json()["revision"])

    def mark(self, window: str, event: str, frame: int, seen: int | None) -> Any:
        headers = {"X-Window": window} | ({} if seen is None else {"X-Seen": str(seen)})
        return self.client.put(f"{self.rep}/events/{event}", json={"frames": [frame]}, headers=headers)

    def told(self, window: str) -> dict[str, Any]:
        return dict(self.client.get(f"{self.review}/revision", headers={"X-Window": window}).raise_for_status().json())

    def tracking(self) -> list[str]:
        jobs = self.client.get(self.review).raise_for_status().json()["jobs"]
        return [job["state"] for job in jobs if job["task"] == "track_points"]

    def events(self) -> dict[str, list[int]]:
        return dict(self.client.get(self.review).json()["reps"][0]["events"])


@pytest.fixture
def windows(db: Session, where: Any, clip: uuid.UUID, truths: dict[str, Any]) -> Windows:
    review = reviewing.open_review(db, where.academy, clip).id
    first, last = truths["constant"]["reps"][0]["range"]
    facts = {"first_frame": first, "last_frame": last, "side": "right"}
    rep = reviewing.cut_rep(db, where.academy, review, "front-kick", RepCut.model_validate(facts)).id
    db.commit()
    return Windows(review, rep)


def test_a_change_is_numbered_and_told_to_the_other_window_with_its_coach(windows: Windows) -> None:
    before = windows.look()
    answer = windows.mark("left", "knee_top", 40, before).raise_for_status().json()
    assert answer["revision"] == before + 1
    assert windows.told("right") == {"revision": before + 1, "by": "A Coach"}
    # Who changed it needs not be told of it.
    assert windows.told("left") == {"revision": before + 1, "by": None}


def test_the_same_changed_meanwhile_is_asked_about_and_saved_over_only_on_purpose(windows: Windows) -> None:
    seen = windows.look()
    windows.mark("left", "knee_top", 40, seen).raise_for_status()
    refused = windows.mark("right", "knee_top", 44, seen)
    assert (refused.status_code, refused.json()["code"]) == (409, "changed_meanwhile")
    assert "A Coach changed the same meanwhile" in refused.json()["message"]
    assert windows.events()["knee_top"] == [40]
    windows.mark("right", "knee_top", 44, None).raise_for_status()
    assert windows.events()["knee_top"] == [44]


def test_what_was_changed_elsewhere_in_the_review_is_not_in_the_way(windows: Windows) -> None:
    seen = windows.look()
    windows.mark("left", "knee_top", 40, seen).raise_for_status()
    windows.mark("right", "full_reach", 52, seen).raise_for_status()
    assert windows.events() == {"knee_top": [40], "full_reach": [52]}


def test_a_window_that_works_on_with_an_old_number_is_not_in_its_own_way(windows: Windows) -> None:
    seen = windows.look()
    for frame in (40, 41, 42):
        windows.mark("left", "knee_top", frame, seen).raise_for_status()
    assert windows.events()["knee_top"] == [42]


def test_what_was_refused_is_no_change(windows: Windows) -> None:
    before = windows.look()
    assert windows.mark("left", "knee_top", 100_000, before).status_code == 400
    assert windows.look() == before
    assert windows.told("right")["by"] is None


@pytest.mark.parametrize("header", [{"X-Seen": "x"}, {"X-Seen": "-1"}, {"X-Seen": str(2**40)}, {"X-Window": "w" * 65}])
def test_headers_that_make_no_sense_are_refused(windows: Windows, header: dict[str, str]) -> None:
    answer = windows.client.put(f"{windows.rep}/events/knee_top", json={"frames": [40]}, headers=header)
    assert answer.status_code == 422
    assert windows.events() == {}


@pytest.mark.parametrize("name", ["%00", "%F0%9F%A5%8B", "a%0Ab", "x" * 5000])
def test_an_address_that_makes_no_sense_is_refused_and_changes_nothing(windows: Windows, name: str) -> None:
    before = windows.look()
    answer = windows.client.put(f"{windows.rep}/events/{name}", json={"frames": [40]}, headers={"X-Window": "left"})
    assert 400 <= answer.status_code < 500
    assert windows.look() == before


def test_the_number_of_a_review_of_nobody_here_is_not_told(windows: Windows) -> None:
    assert windows.client.get(f"/api/reviews/{uuid.uuid4()}/revision").status_code == 404


def test_work_that_ends_while_the_review_is_read_is_not_told_as_done_without_what_it_made(
    windows: Windows, where: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The page stops asking once it is told that all is done."""
    rep = uuid.UUID(windows.rep.rpartition("/")[2])
    with database.session() as own:
        clip = own.scalars(select(Review)).one().clip_id
        # Noted as running and not queued: no worker takes it.
        own.add(JobRow(academy_id=where.academy, clip_id=clip, task=queue.TRACK_POINTS, about=rep, state="running"))
    read = loading.at_hand

    def end_after_reading(own: Session, academy: uuid.UUID, review: uuid.UUID) -> Any:
        found = read(own, academy, review)
        with database.session() as other:
            queue.end(other, queue.TRACK_POINTS, rep, "done")
        return found

    monkeypatch.setattr(loading, "at_hand", end_after_reading)
    assert windows.tracking() == ["running"]
    monkeypatch.undo()
    assert windows.tracking() == ["done"]


def test_points_that_a_page_holds_are_not_told_again_and_those_that_changed_are(windows: Windows) -> None:
    def place(frame: int, held: str) -> dict[str, Any]:
        path, body = f"{windows.rep}/points/performer/right_knee/{frame}", {"x": 100.0 + frame, "y": 200.0}
        answer = windows.client.put(path, json=body, headers={"X-Points": held}).raise_for_status()
        return dict(answer.json()["reps"][0])

    empty = windows.client.get(windows.review).json()["reps"][0]
    first = place(40, empty["points_version"])
    assert [point["frame"] for point in first["points"]] == [40]
    assert first["points_version"] != empty["points_version"]
    second = place(44, first["points_version"])
    assert (second["points_held"], [point["frame"] for point in second["points"]]) == (False, [40, 44])
    # An event changes no point.
    headers = {"X-Points": f"another,{second['points_version']}"}
    marked = windows.client.put(f"{windows.rep}/events/knee_top", json={"frames": [42]}, headers=headers).json()["reps"][0]
    assert (marked["points_held"], marked["points"], marked["events"]) == (True, [], {"knee_top": [42]})
    assert marked["points_version"] == second["points_version"]
    # Whoever holds nothing is told all.
    assert len(windows.client.get(windows.review).json()["reps"][0]["points"]) == 2


def test_however_often_a_rep_is_marked_the_server_keeps_one_of_it(windows: Windows) -> None:
    """Its memory goes by the reps that coaches work on, not by their marks."""
    stores = (entries.kept, view.known_reps, presenters.told_points, presenters.told_judgements)

    def mark(turn: int) -> list[int]:
        path, body = f"{windows.rep}/points/performer/right_knee/40", {"x": 100.0 + turn, "y": 200.0}
        answer = windows.client.put(path, json=body).raise_for_status().json()
        assert [point["x"] for point in answer["reps"][0]["points"]] == [100.0 + turn], "it is told as it is now"
        windows.mark("left", "knee_top", 30 + turn, None).raise_for_status()
        return [store.weighs for store in stores]

    first = mark(0)
    assert [mark(turn) for turn in range(1, 25)] == [first] * 24
