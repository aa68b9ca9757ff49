"""Training the eye at the API's door: a set, its films, answers, and where the own scatter is used."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from datetime import date
from typing import Any

import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from lacertus.services.people import accounts
from lacertus.services.review import review as reviewing
from lacertus.services.students import links
from lacertus.store.tables import EyeAnswer, Student
from tests import eyes
from tests.halls import EMAIL, PASSWORD, Hall, one_app, read_in


@pytest.fixture
def coach(db: Session, where: Hall) -> Iterator[TestClient]:
    eyes.put_in(db)
    with TestClient(one_app()) as found:
        found.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        yield found


def made_set(coach: TestClient, **more: Any) -> list[Any]:
    return list(coach.post("/api/eye/sets", json={"minutes": 5} | more).raise_for_status().json()["asked"])


def answer(coach: TestClient, one: Any, given: dict[str, Any], key: str | None = None, **more: Any) -> Any:
    body = {
        "key": key or str(uuid.uuid4()),
        "films": [film["id"] for film in one["films"]],
        "kind": one["question"]["kind"],
        "subject": one["question"]["subject"],
        "given": given,
    } | more
    return coach.post("/api/eye/answers", json=body)


def test_a_set_tells_nothing_of_the_truth_and_its_films_are_sent_by_ranges(coach: TestClient) -> None:
    asked = made_set(coach)
    assert len(asked) >= 3
    for one in asked:
        assert set(one) == {"question", "technique_name", "level", "films"}
        assert not {"frame", "value", "choice"} & {key for key, value in one["question"].items() if value and key != "frame"}
        assert one["question"]["kind"] == "angle" or one["question"]["frame"] is None
    film = asked[0]["films"][0]["id"]
    part = coach.get(f"/api/eye/films/{film}/film.mp4", headers={"Range": "bytes=4-11"})
    assert (part.status_code, part.content[:4]) == (206, b"ftyp")
    assert coach.get(f"/api/eye/films/{uuid.uuid4()}/film.mp4").status_code == 404
    coach.cookies.clear()
    assert coach.get(f"/api/eye/films/{film}/film.mp4").status_code == 401
    assert coach.post("/api/eye/sets", json={}).status_code == 401


def test_an_answer_that_is_sent_twice_counts_once(coach: TestClient) -> None:
    one = made_set(coach, kinds=["frame"])[0]
    key = str(uuid.uuid4())
    first = answer(coach, one, {"frame": one["question"]["first"]}, key)
    assert first.status_code == 200
    assert first.json()["truth"]["frame"] is not None
    assert answer(coach, one, {"frame": one["question"]["first"]}, key).json() == first.json()
    assert coach.get("/api/eye").json()["answers"] == 1


@pytest.mark.parametrize(
    "given", [{}, {"frame": -1}, {"frame": 10**9}, {"before": 400}, {"choice": "x" * 300}, {"frame": 1, "made_up": 2}]
)
def test_what_is_no_answer_is_refused_and_not_kept(coach: TestClient, given: dict[str, Any]) -> None:
    one = made_set(coach, kinds=["frame"])[0]
    assert answer(coach, one, given).status_code in (400, 422)
    assert coach.get("/api/eye").json()["answers"] == 0


@pytest.mark.parametrize(
    ("at", "status"), [("2026-05-04T10:00:00", 422), ("0001-01-01T00:00:00Z", 200), ("9999-12-31T23:59:59Z", 200)]
)
def test_when_it_was_answered_is_never_in_the_future_and_not_long_ago(coach: TestClient, at: str, status: int) -> None:
    one = made_set(coach, kinds=["frame"])[0]
    assert answer(coach, one, {"frame": one["question"]["first"]}, at=at).status_code == status
    weeks = coach.get("/api/eye").json()["weeks"]
    assert len(weeks) == (status == 200)
    assert all(abs((date.fromisoformat(week["day"]) - date.today()).days) < 70 for week in weeks)


def test_the_own_scatter_is_told_where_it_is_used(
    coach: TestClient, db: Session, where: Hall, clips: dict[str, Any], tmp_path: Any
) -> None:
    account = uuid.UUID(coach.get("/api/session").json()["id"])
    review = reviewing.open_review(db, where.academy, read_in(db, where, clips["long_gop"], tmp_path), account).id
    db.commit()
    refused = coach.put("/api/eye/own-events", json={"use": True})
    assert refused.status_code == 400 and "from 20 marked events on" in refused.json()["message"]
    one = made_set(coach, kinds=["frame"])[0]
    true = answer(coach, one, {"frame": one["question"]["first"]}).json()["truth"]["frame"]
    for _ in range(20):
        answer(coach, one, {"frame": true + 2}).raise_for_status()
    assert coach.get(f"/api/reviews/{review}").json()["own_events_ms"] is None
    used = coach.put("/api/eye/own-events", json={"use": True}).raise_for_status().json()
    assert used["is_used"] and used["sigma_s"] > 0.02
    assert coach.get(f"/api/reviews/{review}").json()["own_events_ms"] == round(1000 * used["sigma_s"], 1)
    coach.put("/api/eye/own-events", json={"use": False}).raise_for_status()
    assert coach.get(f"/api/reviews/{review}").json()["own_events_ms"] is None


def test_one_is_shown_by_name_only_as_one_wants_to(coach: TestClient, db: Session, where: Hall) -> None:
    one = made_set(coach, kinds=["frame"])[0]
    answer(coach, one, {"frame": one["question"]["first"]}).raise_for_status()
    accounts.create_account(db, where.academy, "second@example.test", "Second Coach", PASSWORD)
    db.commit()
    second = TestClient(one_app())
    second.post("/api/session", json={"email": "second@example.test", "password": PASSWORD}).raise_for_status()
    assert second.get("/api/eye").json()["named"] == {"is_named": False, "colleagues": []}
    assert coach.put("/api/eye/named", json={"shown": True}).raise_for_status().json() == {"is_named": True, "colleagues": []}
    (seen,) = second.get("/api/eye").json()["named"]["colleagues"]
    assert seen["name"] == "A Coach" and seen["hits"]["of"] == 1 and seen["events"]["n"] <= 1
    coach.put("/api/eye/named", json={"shown": False}).raise_for_status()
    assert second.get("/api/eye").json()["named"]["colleagues"] == []
    assert coach.put("/api/eye/named", json={"shown": True, "account": "x"}).status_code == 422


class TestByAStudentsOwnLink:
    @pytest.fixture
    def base(self, db: Session, where: Hall) -> str:
        eyes.put_in(db)
        token = links.make(db, where.academy, where.student, None, "student").token
        db.commit()
        return f"/me/{token}/train"

    @pytest.fixture
    def phone(self) -> Iterator[TestClient]:
        with TestClient(one_app()) as found:
            yield found

    def test_sets_are_asked_answered_and_told_without_signing_in(self, phone: TestClient, base: str, db: Session) -> None:
        made = phone.post(f"{base}/sets", json={"minutes": 3}).raise_for_status().json()
        one = made["asked"][0]
        film = one["films"][0]["id"]
        assert phone.get(f"{base}/films/{film}/film.mp4", headers={"Range": "bytes=4-7"}).content == b"ftyp"
        body = {"key": str(uuid.uuid4()), "films": [each["id"] for each in one["films"]], "kind": one["question"]["kind"]}
        body |= {"subject": one["question"]["subject"], "given": {"frame": one["question"]["first"], "before": 90}}
        choices = one["question"]["choices"]
        body["given"] |= {"choice": choices[0]["id"]} if choices else {}
        for _ in range(2):
            came = phone.post(f"{base}/answers", json=body).raise_for_status().json()
            assert came["truth"]["says"]
        eye = phone.get(f"{base}/eye").raise_for_status().json()
        assert eye["answers"] == 1 and eye["opinions"] == 0
        (row,) = db.scalars(sa.select(EyeAnswer))
        assert row.account_id is None and row.student_id is not None

    def test_the_page_tells_whose_it_is_and_no_mark_up_gets_into_it(
        self, phone: TestClient, base: str, db: Session, where: Hall
    ) -> None:
        name = "</script><script>alert(1)</script>"
        db.execute(sa.update(Student).where(Student.id == where.student).values(name=name, language="de"))
        db.commit()
        page = phone.get(base)
        assert page.status_code == 200
        assert name not in page.text and "<script>alert" not in page.text
        assert '<html lang="de"' in page.text and "Das Auge schulen" in page.text
        policy = page.headers["content-security-policy"]
        assert "script-src 'self';" in policy and "frame-ancestors 'none'" in policy
        assert page.headers["cache-control"] == "no-store"

    def test_a_link_that_is_withdrawn_or_made_up_opens_nothing(
        self, phone: TestClient, base: str, db: Session, where: Hall
    ) -> None:
        made = phone.post(f"{base}/sets", json={}).raise_for_status().json()
        film = made["asked"][0]["films"][0]["id"]
        links.revoke(db, where.academy, links.of_student(db, where.academy, where.student)[0].link.id)
        db.commit()
        for door in (base, "/me/made-up/train"):
            assert phone.get(door).status_code == 404
            assert phone.get(f"{door}/eye").status_code == 404
            assert phone.post(f"{door}/sets", json={}).status_code == 404
            assert phone.get(f"{door}/films/{film}/film.mp4").status_code == 404
        assert phone.post(f"{base}/sets", json={}, headers={"Origin": "https://elsewhere.example"}).status_code == 403

    def test_what_is_no_answer_is_refused(self, phone: TestClient, base: str) -> None:
        one = phone.post(f"{base}/sets", json={"kinds": ["frame"]}).raise_for_status().json()["asked"][0]
        body = {"key": str(uuid.uuid4()), "films": [one["films"][0]["id"]], "kind": "frame", "subject": one["question"]["subject"]}
        assert phone.post(f"{base}/answers", json=body | {"given": {"frame": 10**9}}).status_code == 422
        assert phone.post(f"{base}/answers", json=body | {"given": {"choice": "x"}}).status_code == 400
        assert phone.post(f"{base}/answers", json=body | {"films": [str(uuid.uuid4())], "given": {"frame": 9}}).status_code == 404
        assert phone.post(f"{base}/sets", json={"minutes": 60}).status_code == 422
        assert phone.get(f"{base}/eye").json()["answers"] == 0
