"""Two academies in one database: the application's own role owns nothing, and sees one academy alone once somebody is signed in."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date

import psycopg
import pytest
import sqlalchemy as sa
from sqlalchemy.exc import ProgrammingError
from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.services.people import accounts
from lacertus.services.students import links
from lacertus.services.transfer import rep_files
from lacertus.settings import settings
from lacertus.store import apart, database, upgrade
from lacertus.store.tables import Academy, Base, Review, Student, TechniqueVersion
from tests.core.build import rep_data
from tests.halls import EMAIL, PASSWORD, Hall, hall

WHOSE = {name: "academy_id" for name, table in Base.metadata.tables.items() if "academy_id" in table.columns} | {"academy": "id"}
SHIPPED = {"technique_version", "account_link", "eye_take"}
"""Tables that also hold rows of nobody."""


@dataclass(frozen=True, kw_only=True)
class Two:
    """Two academies with a review each, and a session of somebody who is signed in at the first."""

    own: Hall
    other: Hall
    db: Session


@pytest.fixture
def two(db: Session) -> Iterator[Two]:
    own, other = hall(db), hall(db, "Other hall", "other@example.test")
    for where in (own, other):
        rep_files.bring_in(db, where.academy, where.student, "kick", date(2026, 5, 4), [read_rep(rep_data())])
        links.make(db, where.academy, where.student, None, "student")
    token = accounts.sign_in(db, EMAIL, PASSWORD).token
    db.commit()
    with database.session() as signed:
        accounts.signed_in(signed, token)
        yield Two(own=own, other=other, db=signed)


def test_each_table_that_says_whose_its_rows_are_has_the_wall(db: Session) -> None:
    with psycopg.connect(settings().database_url) as owner:
        walled = {
            name
            for (name,) in owner.execute(
                "select relname from pg_class join pg_policy on polrelid = pg_class.oid"
                " where relrowsecurity and polname = 'own_academy'"
            )
        }
    assert walled == set(WHOSE)
    assert len(walled) >= 20


def test_a_query_without_the_filter_sees_no_other_academy(two: Two) -> None:
    seen = 0
    for name, column in WHOSE.items():
        rows = list(two.db.scalars(sa.text(f"select {column} from {name}")))
        assert set(rows) <= {two.own.academy} | ({None} if name in SHIPPED else set()), name
        seen += sum(row == two.own.academy for row in rows)
    assert seen >= 7
    assert list(two.db.scalars(sa.select(Student.name))) == ["A Student"]
    assert two.db.get(Student, two.other.student) is None
    assert [review.academy_id for review in two.db.scalars(sa.select(Review))] == [two.own.academy]


def test_it_stays_so_in_the_next_transaction_of_the_same_session(two: Two) -> None:
    for end in (two.db.commit, two.db.rollback):
        end()
        assert list(two.db.scalars(sa.select(Academy.id))) == [two.own.academy]


def test_rows_of_others_are_not_changed_nor_made(two: Two) -> None:
    db = two.db
    changed = db.execute(sa.update(Student).where(Student.id == two.other.student).values(name="Ours now"))
    gone = db.execute(sa.delete(Academy).where(Academy.id == two.other.academy))
    assert (changed.rowcount, gone.rowcount) == (0, 0)  # type: ignore[attr-defined]
    with pytest.raises(ProgrammingError, match="row-level security"), db.begin_nested():
        db.execute(sa.insert(Student).values(id=uuid.uuid4(), academy_id=two.other.academy, name="Slipped in"))
    with pytest.raises(ProgrammingError, match="row-level security"), db.begin_nested():
        db.execute(sa.update(Student).where(Student.id == two.own.student).values(academy_id=two.other.academy))
    with pytest.raises(ProgrammingError, match="row-level security"), db.begin_nested():
        db.execute(sa.update(TechniqueVersion).where(TechniqueVersion.academy_id.is_(None)).values(version=99))
    assert db.scalar(sa.select(sa.func.max(TechniqueVersion.version)).where(TechniqueVersion.academy_id.is_(None))) != 99


def test_what_is_asked_of_all_is_asked_on_purpose_and_ends(two: Two) -> None:
    with apart.everywhere(two.db):
        assert two.db.scalar(sa.select(sa.func.count()).select_from(Student)) == 2
    assert two.db.scalar(sa.select(sa.func.count()).select_from(Student)) == 1


def test_somebody_else_who_signs_in_with_the_same_session_sees_their_own(two: Two) -> None:
    with database.session() as fresh:
        token = accounts.sign_in(fresh, "other@example.test", PASSWORD).token
    assert accounts.signed_in(two.db, token).academy_id == two.other.academy
    assert list(two.db.scalars(sa.select(Student.id))) == [two.other.student]


def test_an_opened_page_sees_its_own_academy(two: Two) -> None:
    with database.session() as db:
        made = links.make(db, two.other.academy, two.other.student, None, "student")
        token = made.token
    with database.session() as db:
        links.opened(db, token)
        assert list(db.scalars(sa.select(Student.id))) == [two.other.student]


def test_the_role_owns_nothing_and_may_not_tear_the_wall_down(two: Two) -> None:
    with psycopg.connect(settings().database_url) as owner:
        assert owner.execute("select count(*) from pg_class where relowner = %s::regrole", (apart.ROLE,)).fetchone() == (0,)
        kind = "select rolsuper, rolbypassrls, rolcreaterole, rolcanlogin from pg_roles where rolname = %s"
        assert owner.execute(kind, (apart.ROLE,)).fetchone() == (False, False, False, False)
    for statement in (
        "alter table student disable row level security",
        "drop policy own_academy on student",
        "drop table student",
        "truncate student cascade",
        "create table public.mine (id int)",
        "update alembic_version set version_num = '0001'",
    ):
        with pytest.raises(ProgrammingError, match=r"permission denied|must be owner"), two.db.begin_nested():
            two.db.execute(sa.text(statement))


def test_a_connection_that_says_nothing_of_an_academy_sees_nothing(two: Two) -> None:
    with psycopg.connect(settings().database_url, options=f"-c role={apart.ROLE}") as bare:
        assert bare.execute("select count(*) from student").fetchone() == (0,)


def test_an_owner_who_may_make_no_roles_is_told_what_to_do(db: Session) -> None:
    name = f"modest_{uuid.uuid4().hex[:8]}"
    with psycopg.connect(settings().database_url) as owner:
        owner.execute(f"create role {name} nologin")
        owner.execute(f"set local role {name}")
        with pytest.raises(apart.NoRole, match="create role lacertus_app nologin; grant lacertus_app to"):
            apart.make_role(owner)
        owner.rollback()


def test_bringing_it_up_to_date_again_changes_nothing(db: Session) -> None:
    upgrade.upgrade()
    with database.session() as current:
        assert current.scalar(sa.text("select current_user")) == apart.ROLE
