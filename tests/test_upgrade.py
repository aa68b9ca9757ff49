"""A database as the version before left it (its dump is tests/data/version-0013.sql.gz) is brought to this one with all in it."""

from __future__ import annotations

import gzip
import uuid
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from sqlalchemy.engine import make_url

from lacertus.services.transfer import student_out
from lacertus.settings import settings
from lacertus.store import database, upgrade
from lacertus.store.tables import Base, Correction, JobRow, RepRow, Review, Student
from lacertus.web.app import create_app
from tests.halls import EMAIL, PASSWORD

BEFORE = Path(__file__).parent / "data" / "version-0013.sql.gz"
SINCE = {
    "job", "made_start", "reacted", "account_link", "audit", "student_link", "inbox", "consent",
    "prescription", "practice_log", "own_drill", "weekly_class", "class_member", "class_exception", "lesson", "attendance",
    "trained_with", "partner_rule", "layer_word", "floor_note", "round", "calendar_feed",
    "opinion_asked", "model_rep", "student_state", "compared_film", "compared_side", "review_change",
    "eye_take", "eye_card", "eye_answer",
}  # fmt: skip
"""Tables that the version before did not have."""


def forget_database() -> None:
    if database.engine.cache_info().currsize:
        database.engine().dispose()
    for cached in (settings, database.engine, database._maker):
        cached.cache_clear()


@pytest.fixture(scope="module")
def before(environment: dict[str, str]) -> Iterator[dict[str, int]]:
    """The old database, which this process works on meanwhile; gives its rows by table, counted before the upgrade."""
    name = f"before_{uuid.uuid4().hex[:8]}"
    url = make_url(environment["LACERTUS_DATABASE_URL"])
    with psycopg.connect(url.render_as_string(hide_password=False), autocommit=True) as server:
        server.execute(f"create database {name}")
    old = url.set(database=name).render_as_string(hide_password=False)
    with psycopg.connect(old, autocommit=True) as connection:
        connection.execute(gzip.decompress(BEFORE.read_bytes()))
        names = [row[0] for row in connection.execute("select tablename from pg_tables where schemaname = 'public'")]
        rows = {table: connection.execute(f'select count(*) from public."{table}"').fetchone() for table in names}
    with pytest.MonkeyPatch.context() as patch:
        forget_database()
        patch.setenv("LACERTUS_DATABASE_URL", old)
        upgrade.upgrade()
        yield {table: found[0] for table, found in rows.items() if found is not None}
        forget_database()
    forget_database()
    with psycopg.connect(url.render_as_string(hide_password=False), autocommit=True) as server:
        server.execute(f"drop database {name} with (force)")


@pytest.fixture
def coach(before: dict[str, int]) -> Iterator[TestClient]:
    with TestClient(create_app()) as client:
        client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        yield client


def test_every_row_is_there(before: dict[str, int]) -> None:
    tables = set(Base.metadata.tables) - SINCE
    assert tables <= set(before)
    assert sum(before[table] > 0 for table in tables) >= 17, "the dump has something in nearly every table"
    with database.session() as db:
        after = {table: db.scalar(sa.select(sa.func.count()).select_from(Base.metadata.tables[table])) for table in tables}
    assert after == {table: before[table] for table in tables}


def test_state_is_read_under_its_new_names(before: dict[str, int]) -> None:
    with database.session() as db:
        tracked = [rep.tracking for rep in db.scalars(sa.select(RepRow)) if rep.tracking is not None]
        assert len(tracked) == 1
        marked = [review.marked for review in db.scalars(sa.select(Review)) if review.marked is not None]
        assert [made.seconds > 0 for made in marked] == [True]
        examples = [correction.example for correction in db.scalars(sa.select(Correction))]
        assert sorted((example.source, example.ready) for example in examples if example) == [
            ("reference", False),
            ("reference", True),
        ]
        choice = db.scalars(sa.select(Student.fix_choice).where(Student.fix_choice.is_not(None))).one()
        assert choice is not None
        assert [(one.technique, one.fault) for one in choice.choices] == [("front-kick", "low-chamber")]


def test_work_that_failed_or_waits_is_in_the_table_of_jobs(before: dict[str, int]) -> None:
    with database.session() as db:
        jobs = {(job.task, job.state): job.reason for job in db.scalars(sa.select(JobRow))}
        queued = set(db.scalars(sa.text("select task_name from procrastinate_jobs where status = 'todo'")))
    assert jobs == {
        ("track_points", "failed"): "The film is damaged. Send it again.",
        ("make_marked_clip", "failed"): "The disk is full. Delete clips first.",
        ("draw_still", "failed"): "The clip is gone. Upload it again.",
        ("draw_example", "failed"): "Nothing to draw.",
        ("read_clip", "waiting"): None,
    }
    assert queued == {"read_clip", "track_points", "draw_still", "draw_example"}


def test_a_coach_goes_on_where_they_were(coach: TestClient) -> None:
    clips = coach.get("/api/clips").raise_for_status().json()
    assert len(clips) >= 3
    with database.session() as db:
        reviews = {str(review.id): review.finished_at is not None for review in db.scalars(sa.select(Review))}
        student = str(db.scalars(sa.select(Student.id).where(Student.fix_choice.is_not(None))).one())
    assert sorted(reviews.values()) == [False, True]
    for review, finished in reviews.items():
        shown = coach.get(f"/api/reviews/{review}").raise_for_status().json()
        assert shown["reps"], shown
        assert (shown["finished_at"] is not None) == finished
    page = coach.get(f"/api/students/{student}").raise_for_status().json()
    assert page["faults"]


def test_what_failed_is_tried_again(coach: TestClient) -> None:
    failed = [job for job in coach.get("/api/jobs").raise_for_status().json() if job["state"] == "failed"]
    assert len(failed) == 4
    still = next(job for job in failed if job["task"] == "draw_still")
    assert coach.post(f"/api/jobs/{still['id']}/again").raise_for_status().json()["state"] == "waiting"


def test_a_student_leaves_with_everything(before: dict[str, int], tmp_path: Path) -> None:
    with database.session() as db:
        student = db.scalars(sa.select(Student).where(Student.fix_choice.is_not(None))).one()
        student_out.write(db, student.academy_id, student.id, tmp_path / "student.zip")
    assert (tmp_path / "student.zip").stat().st_size > 10_000
