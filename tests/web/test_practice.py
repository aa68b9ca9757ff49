"""Practice on the student's own page, and the day, classes and calendars as the screens ask for them."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

import icalendar
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.techniques.practice import Dose
from lacertus.services.classes import floor
from lacertus.services.practice import prescriptions
from lacertus.services.practice.prescriptions import Wish
from lacertus.services.students import links, own_page
from lacertus.store.tables import InboxRow, PracticeLog, Prescription
from tests.halls import EMAIL, PASSWORD, Hall, one_app

TODAY = datetime.now(UTC).date()


@pytest.fixture
def coach(where: Hall) -> TestClient:
    client = TestClient(one_app())
    client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
    return client


@pytest.fixture
def row(db: Session, where: Hall) -> Prescription:
    wish = Wish(technique="front-kick", faults=("low-chamber",), dose=Dose(sets=2, reps=10), name="Wall drill", how="Slowly")
    made = prescriptions.prescribe(db, where.academy, where.student, wish, None, TODAY - timedelta(days=6)).row
    db.commit()
    return made


@pytest.fixture
def page(db: Session, where: Hall) -> str:
    made = links.make(db, where.academy, where.student, None, "student")
    db.commit()
    return f"/me/{made.token}"


class TestOwnPage:
    def test_a_tick_counts_once_and_is_shown(self, db: Session, row: Prescription, page: str) -> None:
        phone = TestClient(one_app())
        html = phone.get(page).text
        assert "Wall drill" in html
        assert "2 × 10" in html
        given = {"prescription": str(row.id), "on": TODAY.isoformat(), "felt": "sure", "key": str(uuid.uuid4())}
        for _ in range(2):
            assert phone.post(f"{page}/practice", data=given, follow_redirects=False).status_code == 303
        (logged,) = db.scalars(select(PracticeLog))
        assert (logged.amount, logged.felt, logged.said_by, logged.place) == (20, "sure", "student", "home")
        assert "Done today" in phone.get(page).text

    def test_what_hurt_ends_it_and_the_coach_is_told(self, db: Session, row: Prescription, page: str) -> None:
        phone = TestClient(one_app())
        phone.post(f"{page}/practice", data={"prescription": str(row.id), "pain": "yes"}).raise_for_status()
        db.expire_all()
        assert row.ended_why == "pain"
        assert [one.kind for one in db.scalars(select(InboxRow)) if one.kind != "opened"] == ["pain"]
        assert 'data-practice="Wall drill"' not in phone.get(page).text

    @pytest.mark.parametrize(
        "given", [{"prescription": "x"}, {"prescription": str(uuid.UUID(int=7))}, {"on": "2099-01-01"}, {"felt": "<b>"}]
    )
    def test_what_does_not_fit_is_told_on_the_page(self, db: Session, row: Prescription, page: str, given: dict[str, str]) -> None:
        answer = TestClient(one_app()).post(f"{page}/practice", data={"prescription": str(row.id)} | given)
        assert answer.status_code in (400, 404)
        assert "nothing was stored" in answer.text.lower()
        assert db.scalars(select(PracticeLog)).all() == []

    def test_a_clip_is_sent_as_a_drill_that_is_prescribed(self, db: Session, where: Hall, row: Prescription, page: str) -> None:
        found = links.opened(db, page.removeprefix("/me/"))
        sent = own_page.sent_clip(db, found, {"filename": "a.mp4", "drill": str(row.id)})
        assert (sent.naming.drill, sent.naming.technique) == ("Wall drill", "front-kick")

    def test_a_wish_to_film_stands_on_the_page(self, db: Session, where: Hall, page: str) -> None:
        noted = floor.Noted(
            kind="film", students=(where.student,), key=uuid.uuid4(), at=datetime.now(UTC), words="<i>From the front</i>"
        )
        floor.note(db, where.academy, noted, None)
        db.commit()
        html = TestClient(one_app()).get(page).text
        assert "&lt;i&gt;From the front&lt;/i&gt;" in html


class TestScreens:
    def test_a_class_from_the_week_to_the_booking(self, coach: TestClient, where: Hall, db: Session) -> None:
        weekly = coach.post(
            "/api/classes/weekly",
            json={"name": "Evening", "weekday": TODAY.weekday(), "at": 1080, "minutes": 45, "since": TODAY.isoformat()},
        ).json()
        coach.put(f"/api/classes/weekly/{weekly['id']}/members", json={"students": [str(where.student)]}).raise_for_status()
        body = {"weekly": weekly["id"], "planned_on": TODAY.isoformat()}
        lesson = coach.post("/api/classes/planned", json=body).json()
        path = f"/api/classes/{lesson['id']}"
        teach = [{"technique": "front-kick", "layer": "", "start": ""}]
        lesson = coach.patch(path, json={"version": lesson["version"], "teach": teach}).json()
        lesson = coach.post(f"{path}/make", json={"version": lesson["version"]}).json()
        assert sum(unit["minutes"] for unit in lesson["units"]) == 45
        # What is shown is sent back as it is: the units with their doses.
        sent = coach.patch(path, json={"version": lesson["version"], "units": lesson["units"]})
        assert sent.status_code == 200
        assert sent.json()["units"] == lesson["units"]
        assert coach.patch(path, json={"version": lesson["version"], "minutes": 60}).status_code == 409
        day = coach.get("/api/today").json()
        assert [(one["name"], one["lesson"]) for one in day["classes"]] == [("Evening", lesson["id"])]
        running = coach.post(f"{path}/clock", json={"act": "start"}).json()
        assert running["clock"]["running"] is True
        keys = [unit["key"] for unit in lesson["units"]]
        booked = coach.post(f"{path}/book", json={"came": [str(where.student)], "done": keys}).json()
        assert booked["booked_at"] is not None
        assert "Front kick" in coach.get(f"/api/students/{where.student}/practice").json()["log"][0]["name"]

    def test_a_calendar_is_read_without_signing_in_by_its_address_alone(self, coach: TestClient, where: Hall) -> None:
        address = coach.post("/api/calendar/feed").json()["address"]
        anybody = TestClient(one_app())
        path = "/calendar/" + address.rsplit("/calendar/", 1)[1]
        answer = anybody.get(path)
        assert answer.headers["content-type"].startswith("text/calendar")
        assert icalendar.Calendar.from_ical(answer.content)["x-wr-calname"] == "Hall: A Coach"
        coach.post("/api/calendar/feed/renew").raise_for_status()
        assert anybody.get(path).status_code == 404
        assert anybody.get("/calendar/none.ics").status_code == 404

    def test_fix_first_says_what_was_seen_on_the_floor(
        self, coach: TestClient, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        coach.post(f"/api/reviews/{review}/finish").raise_for_status()
        path = f"/api/students/{where.student}/fix-first"
        first = coach.get(path).json()["first"][0]
        assert first["seen_on_floor"] == 0
        note = {
            "kind": "fault", "students": [str(where.student)], "at": datetime.now(UTC).isoformat(),
            "technique": first["technique"], "checkpoint": first["checkpoint"],
        }  # fmt: skip
        for _ in range(3):
            coach.post("/api/floor", json=note | {"key": str(uuid.uuid4())}).raise_for_status()
        assert coach.get(path).json()["first"][0]["seen_on_floor"] == 3
