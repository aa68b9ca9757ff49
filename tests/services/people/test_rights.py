"""The table of rights: what the docs say, what services refuse, and what every route asks for."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from lacertus.services.errors import NotAllowed
from lacertus.services.people import accounts, people
from lacertus.services.people.rights import ALLOWED, ROLES, Right, Role, act_as, check
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from tests.halls import PASSWORD, Hall, one_app, read_in

DOCS = Path(__file__).parents[3] / "docs" / "rights.md"
ASSISTANTS_MAY = {
    ("PUT", "/api/clips/names"),
    ("POST", "/api/clips/{clip_id}/stop"),
    ("POST", "/api/clips/{clip_id}/read-again"),
    ("POST", "/api/jobs/{job_id}/stop"),
    ("POST", "/api/jobs/{job_id}/again"),
    ("POST", "/api/eye/sets"),
    ("POST", "/api/eye/answers"),
    ("PUT", "/api/eye/named"),
    ("POST", "/api/students"),
    ("POST", "/api/students/list"),
    ("POST", "/api/students/{student_id}/notes"),
    ("DELETE", "/api/students/{student_id}/notes/{note_id}"),
    ("POST", "/api/naming"),
    ("POST", "/api/students/{student_id}/practice"),
    ("POST", "/api/calendar/feed"),
    ("POST", "/api/calendar/feed/renew"),
    ("POST", "/api/classes/{lesson_id}/clock"),
    ("PUT", "/api/classes/{lesson_id}/came/{student_id}"),
    ("POST", "/api/floor"),
    ("PUT", "/api/floor/{note_id}/done"),
    ("DELETE", "/api/floor/{note_id}/done"),
    ("DELETE", "/api/floor/{note_id}"),
    ("POST", "/api/rounds"),
    ("POST", "/api/rounds/{round_id}/clock"),
    ("POST", "/api/rounds/{round_id}/taps"),
    ("POST", "/api/techniques/check"),
    ("POST", "/api/techniques/sampled"),
    ("POST", "/api/techniques/figure"),
}
OWNERS_ALONE = {
    ("POST", "/api/people/invitations"),
    ("DELETE", "/api/people/invitations/{link_id}"),
    ("PUT", "/api/people/{account_id}/role"),
    ("POST", "/api/people/{account_id}/leave"),
    ("POST", "/api/people/{account_id}/reset"),
    ("DELETE", "/api/people/{account_id}/second-factor"),
    ("PUT", "/api/academy/settings"),
    ("GET", "/api/academy/audit"),
    ("DELETE", "/api/students/{student_id}"),
}


def rows() -> dict[str, list[str]]:
    cells = [
        [cell.strip() for cell in line.strip("|").split("|")]
        for line in DOCS.read_text(encoding="utf-8").splitlines()
        if line.startswith("| ")
    ]
    assert cells[0] == ["right", *ROLES]
    return {name: given for name, *given in cells[1:]}


def test_the_table_in_the_docs_is_the_one_that_is_checked() -> None:
    told = {str(right): ["yes" if right in ALLOWED[role] else "no" for role in ROLES] for right in Right}
    assert rows() == told


@pytest.mark.parametrize("role", ROLES)
@pytest.mark.parametrize("right", list(Right))
def test_a_session_may_do_what_its_role_may(db: Session, role: Role, right: Right) -> None:
    check(db, right)
    act_as(db, role)
    if right in ALLOWED[role]:
        check(db, right)
    else:
        with pytest.raises(NotAllowed, match=f"You may not {right}"):
            check(db, right)


def test_services_themselves_refuse_an_assistant(db: Session, where: Hall) -> None:
    act_as(db, "assistant")
    with pytest.raises(NotAllowed, match="change students"):
        people.change_student(db, where.academy, where.student, {"name": "Other"})
    assert people.student(db, where.academy, where.student).name == "A Student"
    assert people.create_student(db, where.academy, "New One").name == "New One"


def test_an_assistant_looks_at_a_review_that_is_there_and_starts_none(
    db: Session, where: Hall, review: uuid.UUID, clips: dict[str, Path], tmp_path: Path
) -> None:
    other = read_in(db, where, clips["variable"], tmp_path)
    clip = loading.load(db, where.academy, review).clip_id
    act_as(db, "assistant")
    assert reviewing.open_review(db, where.academy, clip).id == review
    with pytest.raises(NotAllowed, match="review reps"):
        reviewing.open_review(db, where.academy, other)


def asked(spec: dict[str, Any]) -> Iterator[tuple[str, str]]:
    """Every route that changes something, and those that only owners may read."""
    for path, methods in spec["paths"].items():
        for method in (name.upper() for name in methods):
            if method != "GET" or (method, path) in OWNERS_ALONE:
                yield method, path


LOOKED_UP_FIRST = {
    ("POST", "/api/clips/{clip_id}/review"),
    ("DELETE", "/api/reps/{rep_id}"),
    ("POST", "/api/corrections/{correction_id}/copy"),
    ("DELETE", "/api/corrections/{correction_id}"),
    ("PUT", "/api/corrections/{correction_id}/voice"),
    ("DELETE", "/api/corrections/{correction_id}/voice"),
    ("PUT", "/api/techniques/{technique_id}/starts/{name}"),
}
"""Routes that need what they are about before they ask for anything to be done; here there is none, so they say that."""


PUBLIC = ("/api/links/", "/api/session", "/api/account")
"""For anybody, and one's own account, whatever the role."""


def body_of(method: str, path: str, spec: dict[str, Any]) -> Any:
    """A body that fits the route, so that it is refused for the right and for nothing else."""
    content = spec["paths"][path][method.lower()].get("requestBody", {}).get("content", {})
    schema = next(iter(content.values()))["schema"] if content else None
    return None if schema is None else example(schema, spec)


def example(schema: dict[str, Any], spec: dict[str, Any]) -> Any:
    if "$ref" in schema:
        name = schema["$ref"].rsplit("/", 1)[1]
        return {"reps": 5} if name == "Dose" else example(spec["components"]["schemas"][name], spec)
    for key in ("anyOf", "oneOf"):
        if key in schema:
            return example(schema[key][0], spec)
    if "allOf" in schema:
        return example(schema["allOf"][0], spec)
    if "examples" in schema:
        return schema["examples"][0]
    if "const" in schema or "enum" in schema:
        return schema.get("const", schema.get("enum", [None])[0])
    kind = schema.get("type", "object")
    if kind == "object":
        return {name: example(schema["properties"][name], spec) for name in schema.get("required", ())}
    if kind == "array":
        return [example(schema["items"], spec)] * max(schema.get("minItems", 0), 1) if "items" in schema else []
    if kind == "string":
        formats = {"uuid": str(uuid.UUID(int=7)), "date": "2026-05-04", "date-time": "2026-05-04T12:00:00Z"}
        return formats.get(schema.get("format", ""), "word" * (1 + schema.get("minLength", 0) // 4))
    return {"boolean": True, "integer": 1, "number": 1.0}[kind]


def sent(client: TestClient, method: str, path: str, spec: dict[str, Any]) -> tuple[int, str]:
    values = {
        "body": "performer", "landmark": "right_knee", "frame": "1", "event": "begin", "checkpoint": "c", "technique": "front-kick",
        "name": "x", "on": "2026-05-04", "purpose": "filming", "planned_on": "2026-05-04",
    }  # fmt: skip
    filled = path
    for part in [piece[1:-1] for piece in path.split("/") if piece.startswith("{")]:
        filled = filled.replace(f"{{{part}}}", values.get(part, str(uuid.UUID(int=7))))
    answer = client.request(method, filled, json=body_of(method, path, spec))
    return answer.status_code, answer.json().get("code", "") if isinstance(answer.json(), dict) else ""


@pytest.mark.parametrize("role", ["assistant", "coach"])
def test_every_route_asks_for_its_right(db: Session, where: Hall, role: Role) -> None:
    """As an assistant, or a coach: what is not theirs is refused before anything is looked up; all else is not."""
    accounts.create_account(db, where.academy, "helper@example.test", "A Helper", PASSWORD, role)
    db.commit()
    app = one_app()
    spec = app.openapi()
    wrong = []
    with TestClient(app) as client:
        client.post("/api/session", json={"email": "helper@example.test", "password": PASSWORD}).raise_for_status()
        routes = [(method, path) for method, path in asked(spec) if not path.startswith(PUBLIC)]
        assert len(routes) > 60
        for method, path in routes:
            status, code = sent(client, method, path, spec)
            refused = (method, path) in OWNERS_ALONE or (role == "assistant" and (method, path) not in ASSISTANTS_MAY)
            if refused and (method, path) in LOOKED_UP_FIRST and status in (404, 422):
                continue
            if (status == 403 and code == "not_allowed") != refused:
                wrong.append((method, path, status, code))
    assert not wrong, "\n".join(map(str, wrong))
