"""A student's own page behind its link: what it shows, what is sent from it once, clips, consents, and nothing of others."""

from __future__ import annotations

import io
import json
import uuid
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from lacertus.core.plan.rounds import Tap
from lacertus.services.classes import rounds
from lacertus.services.people import consents, inbox, people
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepCut
from lacertus.services.sheets import finish as finishing
from lacertus.services.students import links
from lacertus.services.transfer import forget
from lacertus.settings import settings
from lacertus.store.tables import Academy, Account, AuditRow, Clip, ConsentRow, InboxRow, SheetAnswer, StudentLink
from tests.drawn import default_of_rep
from tests.halls import EMAIL, PASSWORD, Hall, one_app, read_in
from tests.services.progress.rung_reps import TODAY
from tests.web.uploading import TUS, metadata

JSON = {"accept": "application/json"}


@pytest.fixture
def phone() -> TestClient:
    return TestClient(one_app())


@pytest.fixture
def coach(where: Hall) -> TestClient:
    client = TestClient(one_app())
    client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
    return client


@pytest.fixture
def page(db: Session, where: Hall) -> str:
    return opened(db, where)


def opened(db: Session, where: Hall, holder: links.Holder = "student") -> str:
    made = links.make(db, where.academy, where.student, None, holder)
    db.commit()
    return f"/me/{made.token}"


@pytest.fixture
def finished(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> uuid.UUID:
    default_of_rep(db, where, rep)
    finishing.finish(db, where.academy, review)
    db.commit()
    return review


class TestPage:
    def test_it_shows_what_to_work_on_with_drills_and_the_next_day(
        self, phone: TestClient, page: str, finished: uuid.UUID, coach: TestClient
    ) -> None:
        html = phone.get(page).text
        sheet = coach.get(f"/api/reviews/{finished}/sheet").json()
        assert all(fix in html for fix in sheet["fixes"])
        assert sheet["fixes"]
        assert "Drill" in html
        assert "Film again around" in html
        assert f"{page}/sheet/{finished}" in html

    def test_it_shows_the_student_s_own_part_of_a_game_and_nobody_else_s(
        self, db: Session, where: Hall, phone: TestClient, page: str
    ) -> None:
        other = people.create_student(db, where.academy, "Somebody Else")
        game = rounds.Wish(objective="Past the arms", student=where.student, other=other.id, seconds=60, rounds=2, held_on=TODAY)
        row = rounds.add(db, where.academy, game, None)
        assert "Past the arms" not in phone.get(page).text
        own = [Tap(key=f"a{n}", by=str(where.student), round=n, side="left", at_s=1.0) for n in (1, 2)]
        theirs = [Tap(key=f"b{n}", by=str(other.id), round=2, side="right", at_s=2.0 + n) for n in range(2)]
        rounds.tap(db, where.academy, row.id, [*own, *theirs])
        db.commit()
        html = phone.get(page).text
        assert "Past the arms" in html
        assert "Rounds won: 1 of 2. Points on the left 2, on the right 0." in html
        assert "Somebody Else" not in html

    def test_before_anything_is_reviewed_it_says_what_to_do(self, phone: TestClient, page: str) -> None:
        assert "Nothing has been reviewed yet" in phone.get(page).text

    def test_it_speaks_the_student_s_language(self, db: Session, where: Hall, phone: TestClient, page: str) -> None:
        db.get_one(Academy, where.academy).sheet_language = "es"
        db.commit()
        assert "Enviar un clip" in phone.get(page).text
        people.change_student(db, where.academy, where.student, {"language": "de"})
        db.commit()
        html = phone.get(page).text
        assert '<html lang="de">' in html
        assert "Einen Clip senden" in html
        assert "Send a clip" not in html

    def test_a_sheet_is_finished_in_that_language(
        self, db: Session, where: Hall, phone: TestClient, page: str, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        people.change_student(db, where.academy, where.student, {"language": "de"})
        default_of_rep(db, where, rep)
        finishing.finish(db, where.academy, review)
        db.commit()
        html = phone.get(f"{page}/sheet/{review}").text
        assert "Mit Vorsicht" in html
        assert "Verfehlt" in html
        assert "give or take" not in html.replace("“give or take”", "")

    def test_nothing_of_anybody_else_opens(
        self, db: Session, where: Hall, phone: TestClient, page: str, finished: uuid.UUID
    ) -> None:
        other = people.create_student(db, where.academy, "Somebody Else")
        theirs = Hall(academy=where.academy, student=other.id)
        db.commit()
        elsewhere = opened(db, theirs)
        assert phone.get(f"{page}/sheet/{finished}").status_code == 200
        for path in ("", "/sheet.pdf", "/marked.mp4"):
            assert phone.get(f"{elsewhere}/sheet/{finished}{path}").status_code == 404
        assert phone.post(f"{elsewhere}/sheet/{finished}/answer", data={"words": "mine?"}, headers=JSON).status_code == 404
        assert "A Student" not in phone.get(elsewhere).text

    @pytest.mark.parametrize("path", ["", "/manifest.webmanifest", "/everything.zip"])
    def test_a_withdrawn_or_altered_link_opens_nothing(
        self, db: Session, where: Hall, phone: TestClient, page: str, path: str
    ) -> None:
        assert phone.get(page + path).status_code == 200
        assert phone.get(f"{page}x{path}").status_code == 404
        (link,) = db.scalars(sa.select(StudentLink))
        links.revoke(db, where.academy, link.id)
        db.commit()
        assert phone.get(page + path).status_code == 404
        assert phone.post(f"{page}/message", data={"kind": "question", "words": "still?"}).status_code == 404

    def test_of_somebody_who_does_not_come_any_more_it_is_closed(
        self, db: Session, where: Hall, phone: TestClient, page: str
    ) -> None:
        people.archive(db, where.academy, where.student, True)
        db.commit()
        assert phone.get(page).status_code == 404

    def test_it_can_be_installed_and_runs_no_script_but_its_own(self, phone: TestClient, page: str) -> None:
        answer = phone.get(page)
        policy = answer.headers["content-security-policy"]
        assert "script-src 'self'" in policy
        assert "default-src 'none'" in policy
        assert answer.headers["cache-control"] == "no-store"
        manifest = phone.get(f"{page}/manifest.webmanifest")
        assert manifest.headers["content-type"] == "application/manifest+json"
        assert manifest.json()["start_url"] == page
        assert manifest.json()["display"] == "standalone"
        icon = phone.get(manifest.json()["icons"][0]["src"])
        assert icon.headers["content-type"] == "image/png"

    def test_everything_about_the_student_comes_as_one_file(
        self, db: Session, where: Hall, phone: TestClient, page: str, finished: uuid.UUID
    ) -> None:
        phone.post(f"{page}/message", data={"kind": "question", "words": "Is it kept?"})
        consents.give(db, where.academy, where.student, "training", "A Student", "student", datetime.now(UTC).date())
        db.commit()
        with zipfile.ZipFile(io.BytesIO(phone.get(f"{page}/everything.zip").content)) as archive:
            rows = json.loads(archive.read("lacertus_student.json"))
        assert rows["student"]["name"] == "A Student"
        assert [row["words"] for row in rows["sent"] if row["kind"] == "question"] == ["Is it kept?"]
        assert [row["purpose"] for row in rows["consents"]] == ["training"]


class TestSending:
    def test_what_is_sent_later_and_twice_is_one_row(self, db: Session, phone: TestClient, page: str) -> None:
        act = {"kind": "question", "words": "Why do I fall over?", "key": str(uuid.uuid4())}
        for _ in range(2):
            assert phone.post(f"{page}/message", data=act, headers=JSON).json() == {"done": True}
        asked = sa.select(InboxRow.words).where(InboxRow.kind == "question")
        assert list(db.scalars(asked)) == ["Why do I fall over?"]

    def test_an_answer_that_is_sent_twice_is_one_row(self, db: Session, phone: TestClient, page: str, finished: uuid.UUID) -> None:
        act = {"words": "It felt late.", "tried": "yes", "key": str(uuid.uuid4())}
        for _ in range(2):
            assert phone.post(f"{page}/sheet/{finished}/answer", data=act, headers=JSON).status_code == 200
        assert db.scalar(sa.select(sa.func.count()).select_from(SheetAnswer)) == 1
        assert list(db.scalars(sa.select(InboxRow.words).where(InboxRow.kind == "answer"))) == ["tried; “It felt late.”"]
        assert "It felt late." in phone.get(page).text

    def test_a_key_of_another_student_takes_nothing_over(self, db: Session, where: Hall, phone: TestClient, page: str) -> None:
        act = {"kind": "question", "words": "Mine.", "key": str(uuid.uuid4())}
        phone.post(f"{page}/message", data=act, headers=JSON).raise_for_status()
        other = people.create_student(db, where.academy, "Somebody Else")
        db.commit()
        elsewhere = opened(db, Hall(academy=where.academy, student=other.id))
        refused = phone.post(f"{elsewhere}/message", data=act | {"words": "Theirs."}, headers=JSON)
        assert refused.status_code == 400
        assert list(db.scalars(sa.select(InboxRow.words).where(InboxRow.kind == "question"))) == ["Mine."]

    @pytest.mark.parametrize(
        ("act", "says"),
        [
            ({"kind": "question", "words": " "}, "write a word"),
            ({"kind": "question", "words": "x" * 1001}, "at most 1000"),
            ({"kind": "clip", "words": "x"}, "questions and what hurts"),
            ({"kind": "pain", "words": "knee", "key": "1"}, "key"),
        ],
    )
    def test_what_does_not_fit_is_said_and_nothing_is_kept(
        self, db: Session, phone: TestClient, page: str, act: dict[str, str], says: str
    ) -> None:
        answer = phone.post(f"{page}/message", data=act, headers=JSON)
        assert (answer.status_code, says in answer.json()["message"]) == (400, True)
        shown = phone.post(f"{page}/message", data=act)
        assert shown.status_code == 400
        assert says in shown.text
        assert db.scalars(sa.select(InboxRow).where(InboxRow.kind != "opened")).all() == []

    def test_one_student_cannot_fill_the_inbox(
        self, db: Session, phone: TestClient, page: str, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(inbox, "MOST_OPEN", 3)
        sent = [phone.post(f"{page}/message", data={"kind": "question", "words": f"{i}?"}, headers=JSON) for i in range(5)]
        assert [answer.status_code for answer in sent] == [200, 200, 200, 409, 409]


class TestInbox:
    def test_pain_comes_first_and_a_reply_stands_on_the_page(
        self, db: Session, where: Hall, phone: TestClient, page: str, coach: TestClient
    ) -> None:
        people.change_student(db, where.academy, where.student, {"email": "student@home.example"})
        db.commit()
        phone.post(f"{page}/message", data={"kind": "question", "words": "How often?"}, headers=JSON)
        phone.post(f"{page}/message", data={"kind": "pain", "words": "My knee."}, headers=JSON)
        found = coach.get("/api/inbox").json()
        assert found["waiting"] == 2
        assert [item["kind"] for item in found["items"]] == ["pain", "question"]
        one = found["items"][1]["id"]
        left = coach.post(f"/api/inbox/{one}/reply", json={"words": "Three times a week.", "mail": True}).json()
        assert left["waiting"] == 1
        assert "Three times a week." in phone.get(page).text
        mails = [path.read_text() for path in Path(settings().outbox_dir).glob("*.eml")]
        assert any("Three times a week." in mail and "student@home.example" in mail for mail in mails)

    def test_what_is_done_can_be_taken_back(self, phone: TestClient, page: str, coach: TestClient) -> None:
        phone.get(page)
        (item,) = coach.get("/api/inbox").json()["items"]
        assert item["kind"] == "opened"
        assert coach.put(f"/api/inbox/{item['id']}/done").json()["items"] == []
        assert coach.get("/api/inbox/waiting").json()["waiting"] == 0
        assert [one["by"] for one in coach.get("/api/inbox?done=true").json()["items"]] == ["A Coach"]
        assert coach.delete(f"/api/inbox/{item['id']}/done").json()["waiting"] == 1

    def test_opening_is_told_once(self, db: Session, phone: TestClient, page: str) -> None:
        for _ in range(3):
            phone.get(page)
        assert db.scalar(sa.select(StudentLink.opened)) == 3
        assert len(db.scalars(sa.select(InboxRow).where(InboxRow.kind == "opened")).all()) == 1
        told = db.scalars(sa.select(AuditRow.what).where(AuditRow.what.like("%page opened%"))).all()
        assert told == ["student’s page opened by its link"]

    def test_that_a_sheet_is_opened_by_its_link_is_told_once(
        self, phone: TestClient, coach: TestClient, db: Session, finished: uuid.UUID
    ) -> None:
        address = coach.post(f"/api/reviews/{finished}/links", json={"days": 30}).json()["address"]
        for _ in range(2):
            phone.get(address).raise_for_status()
        told = db.scalars(sa.select(AuditRow.what).where(AuditRow.what == "sheet opened by its link")).all()
        assert len(told) == 1
        assert [item["review_id"] for item in coach.get("/api/inbox").json()["items"]] == [str(finished)]

    def test_a_question_stands_on_the_bench_until_it_is_answered(
        self, phone: TestClient, page: str, coach: TestClient, finished: uuid.UUID
    ) -> None:
        clip = coach.get("/api/clips").json()[0]["id"]
        phone.post(f"{page}/message", data={"kind": "question", "words": "Which foot?"})
        (asked,) = coach.get(f"/api/clips/{clip}/questions").json()
        assert asked["words"] == "Which foot?"
        coach.post(f"/api/inbox/{asked['id']}/reply", json={"words": "The left."}).raise_for_status()
        assert coach.get(f"/api/clips/{clip}/questions").json() == []


class TestClips:
    def begin(self, phone: TestClient, page: str, data: bytes, **said: str) -> object:
        base = {"filename": "kick.mp4", "technique": "front-kick", "side": "left", "question": "Too low?"}
        headers = TUS | {"Upload-Length": str(len(data)), "Upload-Metadata": metadata(**(base | said))}
        return phone.post(f"{page}/uploads", headers=headers)

    def test_a_clip_goes_on_after_a_break_and_arrives_named(
        self, db: Session, where: Hall, phone: TestClient, page: str, clips: dict[str, Path], coach: TestClient
    ) -> None:
        data = clips["constant"].read_bytes() + b"\x00\x00\x00\x18free" + uuid.uuid4().bytes
        location = str(self.begin(phone, page, data).headers["location"])  # type: ignore[attr-defined]
        assert location.startswith(f"{page}/uploads/")
        half = len(data) // 2
        kind = {"Content-Type": "application/offset+octet-stream"}
        phone.patch(location, headers=TUS | kind | {"Upload-Offset": "0"}, content=data[:half]).raise_for_status()
        at = phone.head(location, headers=TUS).headers["upload-offset"]
        assert at == str(half)
        for _ in range(2):
            # Whoever asks again after an answer was lost is told that it is there.
            answer = phone.patch(location, headers=TUS | kind | {"Upload-Offset": at}, content=data[half:])
            assert answer.status_code in (204, 409)
        (clip,) = db.scalars(sa.select(Clip))
        assert (clip.student_id, clip.naming.technique, clip.naming.side) == (where.student, "front-kick", "left")
        (item,) = [one for one in coach.get("/api/inbox").json()["items"] if one["kind"] == "clip"]
        assert (item["words"], item["clip_id"], item["technique"]) == ("Too low?", str(clip.id), "front-kick")
        assert [one["words"] for one in coach.get(f"/api/clips/{clip.id}/questions").json()] == ["Too low?"]

    def test_only_one_s_own_uploads_are_gone_on_with(self, db: Session, where: Hall, phone: TestClient, page: str) -> None:
        location = str(self.begin(phone, page, b"x" * 100).headers["location"])  # type: ignore[attr-defined]
        other = people.create_student(db, where.academy, "Somebody Else")
        db.commit()
        elsewhere = opened(db, Hall(academy=where.academy, student=other.id))
        theirs = f"{elsewhere}/uploads/{location.rpartition('/')[2]}"
        assert phone.head(location, headers=TUS).status_code == 200
        for method in ("HEAD", "DELETE"):
            assert phone.request(method, theirs, headers=TUS).status_code == 404

    @pytest.mark.parametrize("said", [{"technique": "no-such"}, {"side": "up"}, {"filmed_on": "soon"}, {"filename": "kick.exe"}])
    def test_what_does_not_fit_is_refused_before_a_byte_is_sent(self, phone: TestClient, page: str, said: dict[str, str]) -> None:
        assert self.begin(phone, page, b"x" * 100, **said).status_code == 400  # type: ignore[attr-defined]

    def test_without_consent_none_is_taken(self, db: Session, where: Hall, phone: TestClient, page: str) -> None:
        db.get_one(Academy, where.academy).needs_consent = True
        db.commit()
        answer = self.begin(phone, page, b"x" * 100)
        assert answer.status_code == 400  # type: ignore[attr-defined]
        assert "has not agreed" in answer.json()["message"]  # type: ignore[attr-defined]
        assert "no clip can be sent" in phone.get(page).text


class TestConsent:
    def test_it_is_given_and_withdrawn_on_the_page(self, db: Session, phone: TestClient, page: str) -> None:
        phone.post(f"{page}/consent", data={"purpose": "sharing", "yes": "yes"}).raise_for_status()
        assert "Agreed by A Student" in phone.get(page).text
        phone.post(f"{page}/consent", data={"purpose": "sharing", "yes": "no"}).raise_for_status()
        assert "Withdrawn on" in phone.get(page).text
        (row,) = db.scalars(sa.select(ConsentRow))
        assert (row.given_as, row.withdrawn_by) == ("student", "A Student")
        said = db.scalars(sa.select(InboxRow.words).where(InboxRow.kind == "consent").order_by(InboxRow.created_at)).all()
        assert [words.split(" ")[0] for words in said] == ["agreed", "withdrew"]

    def test_for_a_child_the_guardian_decides(self, db: Session, where: Hall, phone: TestClient, page: str) -> None:
        born = datetime.now(UTC).date() - timedelta(days=3000)
        people.change_student(db, where.academy, where.student, {"born_on": born, "guardian": "A Parent"})
        db.commit()
        guardian = opened(db, where, "guardian")
        assert "A guardian decides this." in phone.get(page).text
        assert phone.post(f"{page}/consent", data={"purpose": "filming", "yes": "yes"}, headers=JSON).status_code == 400
        phone.post(f"{guardian}/consent", data={"purpose": "filming", "yes": "yes"}, headers=JSON).raise_for_status()
        (row,) = db.scalars(sa.select(ConsentRow))
        assert (row.given_by, row.given_as) == ("A Parent", "guardian")
        assert phone.post(f"{page}/consent", data={"purpose": "filming", "yes": "no"}, headers=JSON).status_code == 400

    def test_a_coach_records_it(self, where: Hall, coach: TestClient) -> None:
        form = {"purpose": "filming", "given_by": "A Student", "given_as": "student", "given_on": "2026-05-04"}
        found = coach.post(f"/api/students/{where.student}/consents", json=form).json()
        assert {one["purpose"]: one["state"] for one in found["standings"]}["filming"] == "given"
        left = coach.post(f"/api/students/{where.student}/consents/filming/withdraw", json={"by": "A Student"}).json()
        assert left["standings"][0]["allows"] is False


class TestByEye:
    def test_what_only_the_student_can_tell_is_asked_and_answered_once(
        self, db: Session, where: Hall, phone: TestClient, page: str, clips: dict[str, Path], tmp_path: Path, coach: TestClient
    ) -> None:
        clip = read_in(db, where, clips["constant"], tmp_path)
        review = reviewing.open_review(db, where.academy, clip).id
        made = uuid.uuid4()
        cut_of = RepCut(first_frame=5, last_frame=90, side="right")
        reviewing.cut_rep(db, where.academy, review, "hip-throw", cut_of, made)
        db.commit()
        html = phone.get(page).text
        assert "Your coach asks you" in html
        assert "The student says what the layer is for" in html
        act = {"rep": str(made), "checkpoint": "says_what_it_is_for", "yes": "yes"}
        for _ in range(2):
            assert phone.post(f"{page}/eye", data=act, headers=JSON).status_code == 200
        assert phone.post(f"{page}/eye", data=act | {"yes": "no"}, headers=JSON).status_code == 404
        assert 'value="says_what_it_is_for"' not in phone.get(page).text
        judged = coach.get(f"/api/reviews/{review}").json()["reps"][0]["judgements"]
        assert next(one["verdict"] for one in judged if one["id"] == "says_what_it_is_for") == "met"
        told = db.scalars(sa.select(InboxRow.words).where(InboxRow.kind == "answer")).all()
        assert told == ["The student says what the layer is for (Hip throw, rep 1): yes"]

    def test_a_coach_answers_it_too(
        self, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path, coach: TestClient
    ) -> None:
        clip = read_in(db, where, clips["constant"], tmp_path)
        review, made = reviewing.open_review(db, where.academy, clip).id, uuid.uuid4()
        reviewing.cut_rep(db, where.academy, review, "hip-throw", RepCut(first_frame=5, last_frame=90, side="right"), made)
        reviewing.answer(db, where.academy, made, "says_what_it_is_for", False)
        db.commit()
        judged = coach.get(f"/api/reviews/{review}").json()["reps"][0]["judgements"]
        assert next(one["verdict"] for one in judged if one["id"] == "says_what_it_is_for") == "missed"

    def test_nobody_answers_for_another(self, phone: TestClient, page: str, rep: uuid.UUID) -> None:
        act = {"rep": str(rep), "checkpoint": "hands_up", "yes": "yes"}
        assert phone.post(f"{page}/eye", data=act, headers=JSON).status_code == 404


def test_a_student_is_forgotten_with_links_consents_and_what_was_sent(
    db: Session, where: Hall, phone: TestClient, page: str, finished: uuid.UUID
) -> None:
    phone.post(f"{page}/message", data={"kind": "forget"}, headers=JSON).raise_for_status()
    consents.give(db, where.academy, where.student, "filming", "A Student", "student", datetime.now(UTC).date())
    db.commit()
    forget.forget(db, where.academy, where.student)
    db.commit()
    for table in (InboxRow, ConsentRow, StudentLink):
        assert db.scalar(sa.select(sa.func.count()).select_from(table)) == 0
    assert phone.get(page).status_code == 404


def test_links_are_made_by_coaches_and_told_in_the_audit_trail(db: Session, where: Hall, coach: TestClient) -> None:
    (made,) = coach.post(f"/api/students/{where.student}/own-links", json={"holder": "student"}).json()
    assert "/me/" in made["address"]
    assert made["qr"].startswith("data:image/svg+xml")
    assert coach.post(f"/api/students/{where.student}/own-links", json={"holder": "guardian"}).status_code == 409
    (gone,) = coach.delete(f"/api/own-links/{made['id']}").json()
    assert gone["revoked_at"]
    told = set(db.scalars(sa.select(AuditRow.what)))
    assert {"link to the student’s page made", "link to the student’s page withdrawn"} <= told
    assert db.scalar(sa.select(sa.func.count()).select_from(Account)) == 1
