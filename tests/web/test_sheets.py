"""From missed checkpoint to opened link over real HTTP: corrections, revisions, links, answers, mail, open formats."""

from __future__ import annotations

import csv
import http.client
import io
import json
import re
import time
import uuid
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from email import message_from_bytes, policy
from pathlib import Path
from typing import Any

import httpx
import icalendar
import pytest
import webvtt
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pypdf import PdfReader
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from lacertus.services.review import review as reviewing
from lacertus.services.sheets import share
from lacertus.store.tables import Academy, ShareLink, SheetAnswer, Student
from tests.halls import Hall, cut, hall, read_in
from tests.place import Server

OTHER = {"id": 1, "keypoints": ["tail"]}


@dataclass(frozen=True, kw_only=True)
class Kick:
    """A review with one measured kick whose thigh is low."""

    client: httpx.Client
    review: str
    rep: str

    def correct(self, checkpoint: str = "thigh_lifted") -> dict[str, Any]:
        one = uuid.uuid4()
        answer = self.client.post(f"/api/reps/{self.rep}/corrections/{one}/default", json={"checkpoint": checkpoint})
        assert answer.status_code == 200, answer.text
        return next(c for c in answer.json()["corrections"] if c["id"] == str(one))

    def finish(self) -> None:
        assert self.client.post(f"/api/reviews/{self.review}/finish").status_code == 200

    def link(self, days: int = 30) -> str:
        answer = self.client.post(f"/api/reviews/{self.review}/links", json={"days": days})
        assert answer.status_code == 201, answer.text
        return str(answer.json()["address"])


@pytest.fixture
def kick(client: httpx.Client, db: Session, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> Kick:
    academy = db.scalars(select(Academy.id)).one()
    where = Hall(academy=academy, student=db.scalars(select(Student.id)).one())
    clip = read_in(db, where, clips["constant"], tmp_path)
    review = reviewing.open_review(db, where.academy, clip).id
    db.commit()
    rep = cut(db, where, review, truths["constant"]["reps"][0])
    return Kick(client=client, review=str(review), rep=str(rep))


def until(ask: Any, done: Any) -> Any:
    for _ in range(300):
        found = ask()
        if done(found):
            return found
        time.sleep(0.1)
    raise AssertionError(f"never came: {found}")


class TestLinks:
    def test_whoever_has_the_link_sees_the_sheet_and_nothing_else_and_it_is_counted(self, kick: Kick) -> None:
        drawn = kick.correct()
        until(lambda: kick.client.get(f"/api/corrections/{drawn['id']}/still").status_code, lambda status: status == 200)
        kick.finish()
        address = kick.link()
        with httpx.Client(timeout=30) as stranger:
            page = stranger.get(address)
            assert page.status_code == 200
            assert "Knee first then foot" in page.text
            assert "script-src" not in page.headers["content-security-policy"]
            assert "default-src 'none'" in page.headers["content-security-policy"]
            (picture,) = set(re.findall(r'href="(/s/[^"]+/still/[^"]+)"', page.text))
            site = str(kick.client.base_url).rstrip("/")
            assert stranger.get(f"{site}{picture}").content[:3] == b"\xff\xd8\xff"
            assert stranger.get(f"{address}/sheet.pdf").content[:5] == b"%PDF-"
            assert stranger.get(f"{site}/api/reviews/{kick.review}").status_code == 401
            assert stranger.get(f"{address}/still/{uuid.uuid4()}").status_code == 404
        (link,) = kick.client.get(f"/api/reviews/{kick.review}/sheet").json()["links"]
        assert link["opened"] == 1
        assert link["first_opened_at"] is not None

    def test_it_ends_when_it_is_revoked(self, kick: Kick) -> None:
        kick.finish()
        address = kick.link()
        (link,) = kick.client.get(f"/api/reviews/{kick.review}/sheet").json()["links"]
        assert httpx.get(address).status_code == 200
        assert kick.client.delete(f"/api/links/{link['id']}").json()["revoked_at"] is not None
        for path in ("", "/sheet.pdf", "/marked.mp4"):
            answer = httpx.get(f"{address}{path}")
            assert answer.status_code == 404
            assert "expired, was withdrawn, or was copied in part" in answer.text
        assert httpx.post(f"{address}/answer", data={"words": "hello"}).status_code == 404

    def test_it_ends_by_itself(self, kick: Kick, db: Session) -> None:
        kick.finish()
        address = kick.link(days=1)
        db.execute(update(ShareLink).values(expires_at=datetime.now(UTC) - timedelta(seconds=1)))
        db.commit()
        assert httpx.get(address).status_code == 404

    @settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
    @given(st.data())
    def test_an_altered_one_opens_nothing(self, kick: Kick, db: Session, data: st.DataObject) -> None:
        if not kick.client.get(f"/api/reviews/{kick.review}").json()["finished_at"]:
            kick.finish()
        token: str = getattr(self, "token", None) or kick.link().rpartition("/")[2]
        self.token = token
        at = data.draw(st.integers(0, len(token) - 1))
        letter = data.draw(st.sampled_from("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_."))
        altered = data.draw(st.sampled_from([token[:at] + letter + token[at + 1 :], token[:at], token + letter]))
        if altered == token:
            return
        if altered[:-1] == token[:-1]:
            # The last letter of base64 holds bits that say nothing; whoever alters them has the whole link.
            return
        with pytest.raises(share.NoSuchLink, match="This link does not open anything"):
            share.opened(db, altered)

    def test_one_made_up_with_a_known_id_opens_nothing(self, kick: Kick, db: Session) -> None:
        kick.finish()
        token = kick.link().rpartition("/")[2]
        link = db.scalars(select(ShareLink.id)).one()
        signature = token.rpartition(".")[2]
        for made_up in (
            link.hex,
            str(link),
            f'"{link.hex}".{signature}',
            f"Int4fQ.{signature}",
            "x" * 5000,
        ):
            with pytest.raises(share.NoSuchLink, match="This link does not open anything"):
                share.opened(db, made_up)

    @pytest.mark.parametrize("days", [0, -3, 366])
    def test_none_holds_for_ever(self, kick: Kick, days: int) -> None:
        kick.finish()
        assert kick.client.post(f"/api/reviews/{kick.review}/links", json={"days": days}).status_code == 400

    def test_there_is_none_before_the_review_is_finished(self, kick: Kick) -> None:
        answer = kick.client.post(f"/api/reviews/{kick.review}/links", json={"days": 30})
        assert (answer.status_code, "not been finished" in answer.json()["message"]) == (404, True)


class TestAnswers:
    def test_they_stand_beside_the_verdict_and_on_the_sheet(self, kick: Kick) -> None:
        kick.finish()
        address = kick.link()
        (fix, *_) = kick.client.get(f"/api/reviews/{kick.review}").json()["fix_first"]
        about = {"technique": fix["technique"], "checkpoint": fix["checkpoint"]}
        given_back = {**about, "felt": "right", "tried": "yes", "sure": "no", "words": "I thought my knee was high <b>"}
        answer = httpx.post(f"{address}/answer", data=given_back)
        assert (answer.status_code, answer.headers["location"].endswith("#answer")) == (303, True)
        page = httpx.get(address).text
        assert "I thought it was right; tried; unsure; “I thought my knee was high &lt;b&gt;”" in page
        (said,) = kick.client.get(f"/api/reviews/{kick.review}").json()["said"]
        assert (said["checkpoint"], said["felt"], said["tried"], said["sure"]) == (fix["checkpoint"], "right", True, False)

    @pytest.mark.parametrize(
        ("form", "words"),
        [
            ({}, "the answer is empty"),
            ({"words": "x" * 10_000}, "longer than 1000"),
            ({"felt": "maybe"}, "right or off"),
            ({"technique": "front-kick", "checkpoint": "nothing", "words": "x"}, "nothing that stands on the sheet"),
            ({"words": "a\0b"}, "cannot be shown"),
        ],
    )
    def test_what_cannot_be_kept_is_told_and_nothing_is_stored(
        self, kick: Kick, db: Session, form: dict[str, str], words: str
    ) -> None:
        kick.finish()
        answer = httpx.post(f"{kick.link()}/answer", data=form)
        assert answer.status_code == 400
        assert words in answer.text
        assert db.scalars(select(SheetAnswer)).all() == []

    def test_more_than_a_few_words_are_not_even_read(self, kick: Kick) -> None:
        kick.finish()
        assert httpx.post(f"{kick.link()}/answer", data={"words": "x" * 200_000}).status_code == 413

    def test_another_site_cannot_answer_for_the_student(self, kick: Kick) -> None:
        kick.finish()
        answer = httpx.post(f"{kick.link()}/answer", data={"words": "x"}, headers={"Origin": "http://elsewhere.test"})
        assert answer.status_code == 403

    def test_there_is_an_end_to_answers(self, kick: Kick, db: Session) -> None:
        kick.finish()
        address = kick.link()
        db.add_all([SheetAnswer(review_id=uuid.UUID(kick.review), words="x") for _ in range(share.MOST_ANSWERS)])
        db.commit()
        assert httpx.post(f"{address}/answer", data={"words": "one more"}).status_code == 409


class TestMail:
    def outbox(self, environment: dict[str, str]) -> list[Path]:
        return sorted(Path(environment["LACERTUS_OUTBOX_DIR"]).glob("*.eml"))

    def test_it_lies_in_the_outbox_with_link_and_pdf(self, kick: Kick, environment: dict[str, str]) -> None:
        kick.finish()
        before = self.outbox(environment)
        answer = kick.client.post(f"/api/reviews/{kick.review}/mail", json={"to": "ana@home.example", "days": 7})
        assert answer.status_code == 201, answer.text
        (file,) = [path for path in self.outbox(environment) if path not in before]
        assert file.name == answer.json()["file"]
        mail = message_from_bytes(file.read_bytes(), policy=policy.default)
        body = mail.get_body(("plain",))
        assert body is not None
        link = next(word for word in body.get_content().split() if "/s/" in word)
        assert httpx.get(link).status_code == 200
        (paper,) = mail.iter_attachments()
        assert "A Student" in PdfReader(io.BytesIO(paper.get_content())).pages[0].extract_text()

    def test_the_students_own_address_is_used_and_none_is_refused(self, kick: Kick) -> None:
        kick.finish()
        path = f"/api/reviews/{kick.review}/mail"
        assert "no e-mail address is known" in kick.client.post(path, json={}).json()["message"]
        assert kick.client.post(path, json={"to": "a@b\r\nBcc: c@d"}).status_code == 400
        student = kick.client.get("/api/students").json()[0]["id"]
        assert kick.client.patch(f"/api/students/{student}", json={"email": "nobody"}).status_code == 400
        kick.client.patch(f"/api/students/{student}", json={"email": "ana@home.example"}).raise_for_status()
        assert kick.client.post(path, json={}).json()["to"] == "ana@home.example"


class TestMarkedClip:
    def test_the_worker_makes_it_and_the_link_plays_it(self, kick: Kick) -> None:
        kick.correct()
        kick.finish()
        path = f"/api/reviews/{kick.review}"
        (job,) = [job for job in kick.client.post(f"{path}/marked").json()["jobs"] if job["task"] == "make_marked_clip"]
        assert job["state"] in ("waiting", "running")
        until(lambda: kick.client.get(f"{path}/sheet").json()["marked"], lambda marked: marked is not None)
        address = kick.link()
        assert "<video" in httpx.get(address).text
        part = httpx.get(f"{address}/marked.mp4", headers={"Range": "bytes=4-7"})
        assert (part.status_code, part.content) == (206, b"ftyp")
        (caption,) = webvtt.from_string(httpx.get(f"{address}/marked.vtt").text)
        assert caption.text == "Knee first then foot"

    def test_a_voice_note_is_kept_and_too_long_a_body_refused(self, kick: Kick) -> None:
        one = kick.correct()
        path = f"/api/corrections/{one['id']}/voice"
        headers = {"Content-Type": "application/octet-stream", "X-Seconds": "2.5"}
        answer = kick.client.put(path, content=b"sound", headers=headers)
        assert answer.json()["corrections"][0]["voice_s"] == 2.5
        assert kick.client.get(path).content == b"sound"
        for seconds in ("0", "nan", "500", "x"):
            assert kick.client.put(path, content=b"s", headers=headers | {"X-Seconds": seconds}).status_code in (400, 422)
        assert kick.client.put(path, content=b"s" * 8_000_001, headers=headers).status_code == 413
        # A body that says it is too long is refused before it is sent.
        connection = http.client.HTTPConnection(kick.client.base_url.host, kick.client.base_url.port)
        connection.putrequest("PUT", path)
        connection.putheader("Content-Length", "200000000")
        connection.endheaders()
        assert connection.getresponse().status == 413


class TestRevisions:
    def test_a_finished_review_is_revised_with_what_changed(self, kick: Kick) -> None:
        kick.finish()
        path = f"/api/reviews/{kick.review}"
        overrule, told = f"/api/reps/{kick.rep}/overrules/thigh_lifted", {"verdict": "met", "reason": "x"}
        assert kick.client.put(overrule, json=told).status_code == 409
        assert kick.client.post(f"{path}/reopen", json={"why": ""}).status_code == 400
        opened = kick.client.post(f"{path}/reopen", json={"why": "looked again"}).json()
        assert (opened["finished_at"], opened["reopened_why"], opened["revisions"]) == (None, "looked again", 1)
        kick.client.put(overrule, json=told).raise_for_status()
        kick.finish()
        second, first = kick.client.get(f"{path}/sheet").json()["revisions"]
        assert (second["number"], second["by"], second["why"]) == (2, "A Coach", "looked again")
        assert "Rep 1, thigh lifted: missed became met." in second["changes"]
        assert first["changes"] == []

    def test_other_words_on_the_sheet_make_one_too(self, kick: Kick) -> None:
        kick.finish()
        page = kick.client.put(
            f"/api/reviews/{kick.review}/words", json={"good": "Hands stayed up.", "next_on": "2026-06-01"}
        ).json()
        assert (page["good"], page["next_on"]) == (["Hands stayed up."], "2026-06-01")
        assert page["revisions"][0]["changes"] == ["The words on the sheet were changed."]
        assert "revised" in httpx.get(kick.link()).text


class TestOpenFormats:
    def test_measures_are_one_row_a_checkpoint(self, kick: Kick) -> None:
        text = kick.client.get(f"/api/reviews/{kick.review}/measures.csv").text
        rows = {row["checkpoint"]: row for row in csv.DictReader(io.StringIO(text))}
        judged = {j["id"]: j for j in kick.client.get(f"/api/reviews/{kick.review}").json()["reps"][0]["judgements"]}
        assert set(rows) == set(judged)
        lifted = rows["thigh_lifted"]
        assert float(lifted["value"]) == judged["thigh_lifted"]["value"]
        assert (lifted["student"], lifted["verdict"], lifted["unit"], lifted["rep"]) == ("A Student", "missed", "deg", "1")

    def test_a_rep_goes_out_and_comes_back_into_a_fresh_review_the_same(
        self, kick: Kick, db: Session, clips: dict[str, Path], tmp_path: Path
    ) -> None:
        kick.client.put(f"/api/reps/{kick.rep}/answers/hands_up", json={"yes": True}).raise_for_status()
        kick.client.patch(f"/api/reps/{kick.rep}", json={"outcome": "completed"}).raise_for_status()
        file = kick.client.get(f"/api/reps/{kick.rep}/rep.json").json()
        where = Hall(academy=db.scalars(select(Academy.id)).one(), student=db.scalars(select(Student.id)).one())
        clip = read_in(db, where, clips["constant"], tmp_path)
        other = reviewing.open_review(db, where.academy, clip).id
        db.commit()
        answer = kick.client.post(f"/api/reviews/{other}/reps/file", json=file)
        assert answer.status_code == 200, answer.text
        again = kick.client.get(f"/api/reps/{answer.json()['reps'][0]['id']}/rep.json").json()
        assert again == file

    def test_tracks_go_out_as_keypoints_and_come_back_the_same(self, kick: Kick) -> None:
        coco = kick.client.get(f"/api/reps/{kick.rep}/coco.json").json()
        before = kick.client.get(f"/api/reps/{kick.rep}/rep.json").json()["bodies"]
        for point in kick.client.get(f"/api/reviews/{kick.review}").json()["reps"][0]["points"]:
            spot = f"{point['body']}/{point['landmark']}/{point['frame']}"
            kick.client.delete(f"/api/reps/{kick.rep}/points/{spot}").raise_for_status()
        kick.client.put(f"/api/reps/{kick.rep}/tracks", json=coco).raise_for_status()
        assert kick.client.get(f"/api/reps/{kick.rep}/rep.json").json()["bodies"] == before

    def test_what_was_placed_by_hand_stays(self, kick: Kick) -> None:
        coco = kick.client.get(f"/api/reps/{kick.rep}/coco.json").json()
        assert "not placed already" in kick.client.put(f"/api/reps/{kick.rep}/tracks", json=coco).json()["message"]

    @pytest.mark.parametrize(
        ("content", "words"),
        [
            (b"{", "no JSON"),
            (b"[" * 60_000, "levels deep"),
            (b"[]", "neither"),
            (
                json.dumps({"annotations": [], "images": [], "categories": [OTHER]}).encode(),
                "another skeleton",
            ),
            (json.dumps({"lacertus_rep": 1}).encode(), "missing"),
        ],
    )
    def test_a_file_of_another_kind_is_refused_and_nothing_is_stored(self, kick: Kick, content: bytes, words: str) -> None:
        before = kick.client.get(f"/api/reps/{kick.rep}/rep.json").json()
        headers = {"Content-Type": "application/json"}
        answer = kick.client.put(f"/api/reps/{kick.rep}/tracks", content=content, headers=headers)
        assert (answer.status_code, words in answer.json()["message"]) == (400, True), answer.text
        assert kick.client.get(f"/api/reps/{kick.rep}/rep.json").json() == before

    def test_cues_and_schedule_are_read_by_other_libraries(self, kick: Kick) -> None:
        drawn = kick.correct()
        (cue,) = webvtt.from_string(kick.client.get(f"/api/reviews/{kick.review}/corrections.vtt").text)
        assert cue.text == drawn["cue"]
        kick.finish()
        page = kick.client.get(f"/api/reviews/{kick.review}/sheet").json()
        (event,) = icalendar.Calendar.from_ical(kick.client.get(f"/api/reviews/{kick.review}/schedule.ics").content).walk("VEVENT")
        assert event.decoded("dtstart").isoformat() == page["next_on"]
        assert "Front kick" in event["summary"]


def test_nothing_of_a_review_is_shown_to_another_academy(kick: Kick, server: Server, db: Session) -> None:
    drawn = kick.correct()
    kick.finish()
    kick.link()
    (link,) = kick.client.get(f"/api/reviews/{kick.review}/sheet").json()["links"]
    hall(db, "Elsewhere", "other@example.test")
    review, correction = f"/api/reviews/{kick.review}", f"/api/corrections/{drawn['id']}"
    with httpx.Client(base_url=server.url, timeout=30) as other:
        other.post("/api/session", json={"email": "other@example.test", "password": "straw-ledger-nine"}).raise_for_status()
        reads = ["sheet", "sheet.html", "sheet.pdf", "measures.csv", "corrections.vtt", "schedule.ics", "marked.mp4", "marked.vtt"]
        paths = [f"{review}/{name}" for name in reads]
        paths += [f"{correction}/{name}" for name in ("still", "beside", "beside/picture", "voice")]
        paths += [f"/api/reps/{kick.rep}/{name}" for name in ("rep.json", "coco.json", "drawn")]
        assert {path: other.get(path).status_code for path in paths} == dict.fromkeys(paths, 404)
        writes: list[tuple[str, str, Any]] = [
            ("POST", f"{review}/links", {"days": 3}),
            ("POST", f"{review}/mail", {"to": "a@b.example"}),
            ("POST", f"{review}/reopen", {"why": "x"}),
            ("POST", f"{review}/marked", None),
            ("PUT", f"{review}/words", {"good": "x"}),
            ("DELETE", f"/api/links/{link['id']}", None),
            ("DELETE", correction, None),
            ("PUT", f"{correction}/example", {"source": "reference"}),
        ]
        answers = {(method, path): other.request(method, path, json=body).status_code for method, path, body in writes}
        assert set(answers.values()) == {404}, answers


class TestStudentsList:
    def send(self, client: httpx.Client, text: str | bytes) -> httpx.Response:
        return client.post("/api/students/list", content=text, headers={"Content-Type": "text/csv"})

    def test_a_list_adds_students_once(self, client: httpx.Client) -> None:
        text = "\ufeffname,side_policy,email\r\nAna,left,ana@home.example\r\nBo,,\r\nA Student,right,\r\n"
        assert [(one["name"], one["side_policy"]) for one in self.send(client, text).json()] == [("Ana", "left"), ("Bo", "both")]
        assert self.send(client, text).json() == []
        assert len(client.get("/api/students").json()) == 3

    def test_a_list_may_tell_all_that_is_known_of_a_student(self, client: httpx.Client) -> None:
        text = "name,born_on,groups,guardian,language\nCleo,2014-05-04,Tuesday; kids,A Parent,de\n"
        (made,) = self.send(client, text).json()
        assert (made["born_on"], made["groups"], made["guardian"]) == ("2014-05-04", ["Tuesday", "kids"], "A Parent")
        assert made["language"] == "de"

    @pytest.mark.parametrize(
        ("text", "words"),
        [
            ("name,born_on\nAna,4 May\n", "line 2: born_on is a day"),
            ("name,language\nAna,xx\n", "line 2: sheets are written in"),
            ("", "names the columns"),
            ("surname\nAna\n", "names the columns"),
            ("name,belt\nAna,blue\n", "names the columns"),
            ("name,side_policy\nAna,left\nBo,up\n", "line 3: side_policy"),
            ("name\nAna\n \n", "line 3: a student’s name is missing"),
            ("name,note\nAna\n", "line 2: it has more or fewer cells"),
            ("name,email\nAna,nobody\n", "line 2: this is not an e-mail address"),
            ('name\n"Ana\n', "no CSV"),
            ("name\n" + "x" * 300 + "\n", "longer than 200"),
            (b"name\n\xff\xfe\n", "UTF-8"),
        ],
    )
    def test_a_list_that_does_not_fit_stores_nothing(self, client: httpx.Client, text: str | bytes, words: str) -> None:
        answer = self.send(client, text)
        assert (answer.status_code, words in answer.json()["message"]) == (400, True), answer.text
        assert len(client.get("/api/students").json()) == 1
