"""Accounts over HTTP: setting up an academy, inviting, roles, passwords, devices and the second factor."""

from __future__ import annotations

import time
import uuid
from datetime import UTC, datetime, timedelta
from email import message_from_bytes, policy
from pathlib import Path

import pyotp
import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from lacertus.services.people import links, second_factor
from lacertus.services.people.attempts import MOST_FAILURES
from lacertus.settings import settings
from lacertus.store.tables import Account, AccountLink, AuditRow, SignIn
from tests.halls import EMAIL, PASSWORD, Hall, one_app

OTHER = "ember-sickle-nine"
AGENT = {"User-Agent": "Mozilla/5.0 (Linux; Mobile) AppleWebKit"}


def browser() -> TestClient:
    return TestClient(one_app(), headers=AGENT)


def signed_in(email: str = EMAIL, password: str = PASSWORD, code: str = "") -> TestClient:
    client = browser()
    client.post("/api/session", json={"email": email, "password": password, "code": code}).raise_for_status()
    return client


def token_of(link: str) -> str:
    assert "/#/welcome/" in link
    return link.rsplit("/", 1)[1]


def invited(owner: TestClient, role: str, email: str = "new@example.test", mail: bool = False) -> str:
    answer = owner.post("/api/people/invitations", json={"name": "New Person", "email": email, "role": role, "mail": mail})
    assert answer.status_code == 201, answer.text
    return token_of(answer.json()["link"])


def joined(owner: TestClient, role: str, email: str = "new@example.test") -> TestClient:
    client = browser()
    form = {"token": invited(owner, role, email), "name": "New Person", "password": OTHER}
    client.post("/api/links/join", json=form).raise_for_status()
    return client


class TestSettingUp:
    WISHES = {"name": "River Hall", "time_zone": "Europe/Lisbon"}

    def form(self, token: str) -> dict[str, object]:
        return {"token": token, "academy": self.WISHES, "name": "An Owner", "email": "Owner@Example.test", "password": OTHER}

    def test_a_link_makes_an_academy_and_signs_its_owner_in_once(self, db: Session) -> None:
        token = links.setup(db).token
        db.commit()
        client = browser()
        assert client.post("/api/links/look", json={"token": token}).json()["kind"] == "setup"
        made = client.post("/api/links/set-up", json=self.form(token))
        assert (made.status_code, made.json()["role"], made.json()["academy"]) == (201, "owner", "River Hall")
        assert client.get("/api/session").json()["email"] == "owner@example.test"
        assert client.get("/api/academy/settings").json() == self.WISHES | {
            "sheet_language": "en", "units": "metric", "needs_second_factor": False, "needs_consent": True,
            "keeps_films_days": None,
        }  # fmt: skip
        assert client.get("/api/students").json() == []
        again = browser().post("/api/links/set-up", json=self.form(token) | {"email": "b@example.test"})
        assert (again.status_code, again.json()["code"]) == (404, "not_found")

    @pytest.mark.parametrize(
        ("change", "says"),
        [
            ({"password": "short"}, "at least 10"),
            ({"email": "nobody"}, "not an e-mail"),
            ({"academy": {"name": "Hall", "time_zone": "Mars/North"}}, "no time zone"),
            ({"academy": {"name": "Hall", "time_zone": "UTC", "sheet_language": "xx"}}, "sheets are written in"),
            ({"email": EMAIL}, "already"),
        ],
    )
    def test_what_does_not_fit_is_said_and_the_link_stays_valid(
        self, db: Session, where: Hall, change: dict[str, object], says: str
    ) -> None:
        token = links.setup(db).token
        db.commit()
        answer = browser().post("/api/links/set-up", json=self.form(token) | change)
        assert answer.status_code in (400, 409)
        assert says in answer.json()["message"]
        browser().post("/api/links/set-up", json=self.form(token)).raise_for_status()

    def test_an_expired_link_opens_nothing(self, db: Session) -> None:
        made = links.setup(db)
        made.link.expires_at = datetime.now(UTC) - timedelta(seconds=1)
        db.commit()
        assert browser().post("/api/links/look", json={"token": made.token}).status_code == 404
        assert browser().post("/api/links/set-up", json=self.form(made.token)).status_code == 404

    def test_only_a_hash_of_the_token_is_stored(self, db: Session) -> None:
        token = links.setup(db).token
        assert token not in str([row.token_hash for row in db.scalars(sa.select(AccountLink))])


class TestInviting:
    def test_who_is_invited_chooses_a_password_and_gets_the_role(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        assert owner.get("/api/session").json()["role"] == "owner"
        helper = joined(owner, "assistant")
        assert helper.get("/api/session").json()["role"] == "assistant"
        people = owner.get("/api/people").json()
        assert {(one["name"], one["role"]) for one in people["people"]} == {("A Coach", "owner"), ("New Person", "assistant")}
        assert people["invitations"] == []
        assert helper.get("/api/people").json()["invitations"] == []

    def test_an_invitation_lies_in_the_outbox_and_can_be_withdrawn(self, db: Session, where: Hall) -> None:
        owner, folder = signed_in(), Path(settings().outbox_dir)
        before = set(folder.glob("*.eml"))
        token = invited(owner, "coach", mail=True)
        (file,) = set(folder.glob("*.eml")) - before
        mail = message_from_bytes(file.read_bytes(), policy=policy.default)
        assert mail["To"] == "new@example.test"
        body = mail.get_body()
        assert body is not None
        assert f"/#/welcome/{token}" in body.get_content()
        (waiting,) = owner.get("/api/people").json()["invitations"]
        owner.delete(f"/api/people/invitations/{waiting['id']}").raise_for_status()
        assert browser().post("/api/links/look", json={"token": token}).status_code == 404

    def test_nobody_is_invited_twice_under_one_address(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        assert owner.post(
            "/api/people/invitations", json={"name": "X", "email": EMAIL.upper(), "role": "coach"}
        ).status_code == 409  # fmt: skip
        first, second = invited(owner, "coach"), invited(owner, "owner")
        form = {"name": "New Person", "password": OTHER}
        browser().post("/api/links/join", json=form | {"token": first}).raise_for_status()
        assert browser().post("/api/links/join", json=form | {"token": second}).status_code == 409

    def test_a_link_for_a_password_is_no_invitation(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        token = invited(owner, "coach")
        assert browser().post("/api/links/password", json={"token": token, "password": OTHER}).status_code == 404
        assert browser().post("/api/links/set-up", json=TestSettingUp().form(token)).status_code == 404


class TestRoles:
    def test_the_last_owner_stays_one(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        own = owner.get("/api/session").json()["id"]
        for answer in (
            owner.put(f"/api/people/{own}/role", json={"role": "coach"}),
            owner.post(f"/api/people/{own}/leave"),
        ):
            assert answer.status_code == 409
            assert "needs an owner" in answer.json()["message"]
        second = joined(owner, "owner")
        second.put(f"/api/people/{own}/role", json={"role": "assistant"}).raise_for_status()
        assert owner.get("/api/session").json()["role"] == "assistant"
        assert owner.put(f"/api/people/{own}/role", json={"role": "owner"}).status_code == 403

    def test_who_leaves_is_signed_out_keeps_the_name_and_frees_the_address(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        coach = joined(owner, "coach")
        gone = coach.get("/api/session").json()["id"]
        people = owner.post(f"/api/people/{gone}/leave").json()["people"]
        assert [(one["name"], one["email"], one["left_at"] is None) for one in people][-1] == ("New Person", "", False)
        assert coach.get("/api/session").status_code == 401
        assert browser().post("/api/session", json={"email": "new@example.test", "password": OTHER}).status_code == 401
        joined(owner, "coach")

    def test_another_academys_people_are_not_found(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        token = links.setup(db).token
        db.commit()
        browser().post("/api/links/set-up", json=TestSettingUp().form(token)).raise_for_status()
        other = db.scalars(sa.select(Account.id).where(Account.email == "owner@example.test")).one()
        for answer in (
            owner.put(f"/api/people/{other}/role", json={"role": "coach"}),
            owner.post(f"/api/people/{other}/leave"),
            owner.post(f"/api/people/{other}/reset"),
            owner.delete(f"/api/people/{other}/second-factor"),
            owner.delete(f"/api/people/invitations/{uuid.uuid4()}"),
        ):
            assert answer.status_code == 404


class TestPasswords:
    def test_the_current_password_is_asked_and_other_devices_are_signed_out(self, db: Session, where: Hall) -> None:
        laptop, phone = signed_in(), signed_in()
        wrong = laptop.patch("/api/account", json={"password": "wrong", "new_password": OTHER})
        assert (wrong.status_code, wrong.json()["code"]) == (403, "wrong_password")
        laptop.patch("/api/account", json={"password": PASSWORD, "new_password": OTHER, "name": "B Coach"}).raise_for_status()
        assert laptop.get("/api/session").json()["name"] == "B Coach"
        assert phone.get("/api/session").status_code == 401
        assert browser().post("/api/session", json={"email": EMAIL, "password": PASSWORD}).status_code == 401
        signed_in(password=OTHER)

    def test_an_open_session_is_no_place_to_guess_at(self, db: Session, where: Hall) -> None:
        client = signed_in()
        for _ in range(MOST_FAILURES):
            assert client.patch("/api/account", json={"password": "wrong", "name": "X"}).status_code == 403
        right = client.patch("/api/account", json={"password": PASSWORD, "name": "X"})
        assert (right.status_code, right.json()["code"]) == (429, "too_many_tries")
        # Signing in is not held up by it.
        assert signed_in().get("/api/session").json()["name"] == "A Coach"

    def test_an_address_of_somebody_else_is_refused(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        joined(owner, "coach")
        taken = owner.patch("/api/account", json={"password": PASSWORD, "email": "NEW@example.test"})
        assert taken.status_code == 409
        owner.patch("/api/account", json={"password": PASSWORD, "email": "moved@example.test"}).raise_for_status()
        signed_in("moved@example.test")

    def test_a_link_made_by_the_owner_sets_a_new_one_once(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        coach = joined(owner, "coach")
        made = owner.post(f"/api/people/{coach.get('/api/session').json()['id']}/reset").json()
        form = {"token": token_of(made["link"]), "password": "another-long-one"}
        browser().post("/api/links/password", json=form).raise_for_status()
        assert coach.get("/api/session").status_code == 401
        assert browser().post("/api/links/password", json=form).status_code == 404
        signed_in("new@example.test", "another-long-one")

    def test_a_forgotten_password_tells_nobody_who_has_an_account(
        self, db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        folder = Path(settings().outbox_dir)
        before = set(folder.glob("*.eml"))
        monkeypatch.setenv("LACERTUS_PUBLIC_URL", "https://lacertus.example")
        settings.cache_clear()
        try:
            answers = [browser().post("/api/session/forgotten", json={"email": e}) for e in (EMAIL, "nobody@example.test")]
        finally:
            monkeypatch.undo()
            settings.cache_clear()
        assert [(answer.status_code, answer.json()) for answer in answers] == [(200, {"done": True})] * 2
        (file,) = set(folder.glob("*.eml")) - before
        assert b"https://lacertus.example/#/welcome/" in file.read_bytes()

    def test_without_a_fixed_address_no_mail_goes_out(self, db: Session, where: Hall) -> None:
        """Else whoever asks under another host’s name would have a link to that host mailed."""
        before = set(Path(settings().outbox_dir).glob("*.eml"))
        answer = browser().post("/api/session/forgotten", json={"email": EMAIL}, headers={"Host": "elsewhere.example"})
        assert answer.status_code == 200
        assert set(Path(settings().outbox_dir).glob("*.eml")) == before


class TestDevices:
    def test_each_is_told_and_can_be_signed_out(self, db: Session, where: Hall) -> None:
        laptop, phone, tablet = signed_in(), signed_in(), signed_in()
        devices = laptop.get("/api/account/devices").json()
        assert [one["device"] for one in devices] == ["phone or tablet"] * 3
        assert sum(one["own"] for one in devices) == 1
        (of_phone,) = [one["id"] for one in phone.get("/api/account/devices").json() if one["own"]]
        assert len(laptop.delete(f"/api/account/devices/{of_phone}").json()) == 2
        assert phone.get("/api/session").status_code == 401
        assert [one["own"] for one in laptop.delete("/api/account/devices").json()] == [True]
        assert tablet.get("/api/session").status_code == 401

    def test_of_somebody_else_none_can_be(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        coach = joined(owner, "coach")
        (own,) = [one["id"] for one in owner.get("/api/account/devices").json()]
        assert coach.delete(f"/api/account/devices/{own}").status_code == 404
        coach.delete("/api/account/devices").raise_for_status()
        assert owner.get("/api/session").status_code == 200


class TestSecondFactor:
    def turned_on(self, client: TestClient, at: float | None = None) -> pyotp.TOTP:
        offer = client.post("/api/account/second-factor").json()
        assert offer["qr"].startswith("data:image/svg+xml")
        totp = pyotp.parse_uri(offer["address"])
        assert isinstance(totp, pyotp.TOTP)
        wrong = client.put("/api/account/second-factor", json={"offered": offer["offered"], "code": "000000"})
        assert wrong.status_code == 400
        form = {"offered": offer["offered"], "code": totp.now() if at is None else totp.at(int(at))}
        assert client.put("/api/account/second-factor", json=form).json()["has_second_factor"] is True
        return totp

    def test_a_code_is_asked_for_and_taken_once(self, db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch) -> None:
        # The clock stands in the middle of a step, so that a slow machine does not end it.
        now = (time.time() // second_factor.STEP_S + 0.5) * second_factor.STEP_S
        monkeypatch.setattr("lacertus.services.people.second_factor.time.time", lambda: now)
        totp = self.turned_on(signed_in(), now)
        form = {"email": EMAIL, "password": PASSWORD}
        assert browser().post("/api/session", json=form).json()["code"] == "code_needed"
        assert browser().post("/api/session", json=form | {"password": "x"}).json()["code"] == "signed_out"
        used = browser().post("/api/session", json=form | {"code": totp.at(int(now))})
        assert used.json()["code"] == "wrong_code", "the code that turned it on is used up"
        later = now + second_factor.STEP_S
        monkeypatch.setattr("lacertus.services.people.second_factor.time.time", lambda: later)
        code = totp.at(int(later))
        signed_in(code=code)
        assert browser().post("/api/session", json=form | {"code": code}).status_code == 401

    def test_an_academy_may_ask_everybody_for_it(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        coach = joined(owner, "coach")
        wishes = owner.get("/api/academy/settings").json() | {"needs_second_factor": True}
        refused = owner.put("/api/academy/settings", json=wishes)
        assert (refused.status_code, "your own second factor first" in refused.json()["message"]) == (409, True)
        self.turned_on(owner)
        owner.put("/api/academy/settings", json=wishes).raise_for_status()
        assert coach.get("/api/students").json()["code"] == "second_factor"
        assert coach.get("/api/session").json()["lacks_second_factor"] is True
        self.turned_on(coach)
        assert coach.get("/api/students").status_code == 200
        off = coach.post("/api/account/second-factor/off", json={"password": OTHER})
        assert off.status_code == 409

    def test_an_owner_helps_who_lost_the_phone(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        coach = joined(owner, "coach")
        self.turned_on(coach)
        lost = coach.get("/api/session").json()["id"]
        owner.delete(f"/api/people/{lost}/second-factor").raise_for_status()
        signed_in("new@example.test", OTHER)
        assert owner.post("/api/account/second-factor/off", json={"password": PASSWORD}).status_code == 200


class TestAuditTrail:
    def test_it_tells_owners_who_did_what(self, db: Session, where: Hall) -> None:
        owner = signed_in()
        joined(owner, "assistant")
        told = [(one["who"], one["what"], one["about"]) for one in owner.get("/api/academy/audit").json()]
        assert told[:3] == [
            ("New Person", "joined as assistant", "New Person"),
            ("A Coach", "invited as assistant", "new@example.test"),
            ("A Coach", "signed in", "phone or tablet"),
        ]
        oldest = owner.get("/api/academy/audit").json()[-1]["id"]
        assert owner.get(f"/api/academy/audit?before={oldest}").json() == []

    @pytest.mark.parametrize("change", [sa.delete(AuditRow), sa.update(AuditRow).values(who="nobody")])
    def test_the_database_itself_keeps_it(self, db: Session, where: Hall, change: sa.Delete | sa.Update) -> None:
        signed_in()
        with pytest.raises(Exception, match="the audit trail cannot be changed"):
            db.execute(change)
        db.rollback()
        assert db.scalars(sa.select(AuditRow.what)).all() == ["signed in"]


def test_a_session_that_was_not_used_for_long_is_gone(db: Session, where: Hall) -> None:
    client = signed_in()
    db.execute(sa.update(SignIn).values(expires_at=datetime.now(UTC) - timedelta(seconds=1)))
    db.commit()
    assert client.get("/api/account/devices").status_code == 401


def test_the_site_tells_phones_where_it_is(db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch) -> None:
    client = signed_in()
    monkeypatch.setenv("LACERTUS_PUBLIC_URL", "https://192.168.4.7:8443/")
    monkeypatch.setenv("LACERTUS_ROOT_URL", "http://192.168.4.7:8080/")
    settings.cache_clear()
    try:
        told = client.get("/api/site").json()
    finally:
        monkeypatch.undo()
        settings.cache_clear()
    assert (told["address"], told["local"], told["root"]) == ("https://192.168.4.7:8443", False, "http://192.168.4.7:8080/")
    assert told["qr"] != told["root_qr"]
    monkeypatch.setenv("LACERTUS_PUBLIC_URL", "http://127.0.0.1:8000")
    settings.cache_clear()
    try:
        assert client.get("/api/site").json()["local"] is True
    finally:
        monkeypatch.undo()
        settings.cache_clear()
    assert browser().get("/api/site").status_code == 401
