"""Deleting a student with everything, joining two, archiving: nothing of who was deleted is left, and nothing of others is lost."""

from __future__ import annotations

import uuid
from datetime import date
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.academy import common_faults, roster
from lacertus.services.clips import intake, uploads
from lacertus.services.clips.intake import Sent
from lacertus.services.errors import Conflict, NotAllowed, NotFound
from lacertus.services.people import notes, people
from lacertus.services.people.rights import act_as
from lacertus.services.progress import follow_up
from lacertus.services.sheets import mail, share
from lacertus.services.transfer import forget
from lacertus.settings import settings
from lacertus.store.media import media
from lacertus.store.tables import Account, AuditRow, Base, Clip, JudgementRow, RepRow, Student, Tally
from tests import watch
from tests.halls import Hall
from tests.services.progress.rung_reps import done
from tests.services.transfer.student_files import written

NAME, EMAIL = "Zephyrine Quillfeather", "zephyrine@example.test"


def text_of(db: Session, table: sa.Table) -> str:
    """Everything in a table, as text."""
    return "\n".join(str(tuple(row)) for row in db.execute(sa.select(table)))


@pytest.fixture
def whole(
    db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truths: dict[str, Any], tmp_path: Path
) -> tuple[Hall, uuid.UUID]:
    """A student of whom there is something in nearly every table, in the media, the uploads and the outbox."""
    told = {"name": NAME, "email": EMAIL, "born_on": date(2014, 5, 4), "guardian": "Ada Quillfeather", "groups": ["Tuesday"]}
    people.change_student(db, where.academy, where.student, told)
    written(db, where, review, rep, truths, tmp_path)
    account = db.scalars(sa.select(Account.id).where(Account.academy_id == where.academy)).one()
    mail.send(db, where.academy, review, account, "https://lacertus.example", 30)
    link, _ = share.make_link(db, where.academy, review, account, 30)
    done(db, where, "front-kick", "solo", ["missed", "met", "missed"], 5)
    notes.add(db, where.academy, where.student, "Lands tired", account, date(2026, 5, 4))
    uploads.begin(db, where.academy, 9, Sent(name="next.mp4", filmed_on=date(2026, 5, 4), student=where.student))
    db.commit()
    assert link.sent_to == ""
    return where, review


def mails() -> list[Path]:
    return sorted(Path(settings().outbox_dir).glob("*.eml"))


def test_nothing_of_a_deleted_student_is_left_anywhere(db: Session, whole: tuple[Hall, uuid.UUID]) -> None:
    where, _ = whole
    clips = [str(clip) for clip in db.scalars(sa.select(Clip.id).where(Clip.student_id == where.student))]
    tables = [table for table in Base.metadata.sorted_tables if table.name != "audit"]
    full = [table.name for table in tables if str(where.student) in text_of(db, table)]
    assert len(full) >= 7, full
    outbox_before = [path for path in mails() if EMAIL.encode() in path.read_bytes()]
    assert len(outbox_before) == 1
    assert any(key.split("/")[1] in clips for key in media().files("clips"))
    told = forget.what_goes(db, where.academy, where.student)
    goes = forget.forget(db, where.academy, where.student)
    db.commit()
    assert goes == told
    assert (goes.clips, goes.links, goes.mails, goes.of_others) == (len(clips), 2, 1, 0)
    for table in tables:
        left = text_of(db, table)
        for trace in (str(where.student), NAME, EMAIL, "Quillfeather", *clips):
            assert trace not in left, f"{trace} is left in {table.name}"
    assert NAME not in text_of(db, Base.metadata.tables["audit"])
    assert not [key for key in media().files("clips") if key.split("/")[1] in clips]
    assert [path for path in mails() if path in outbox_before] == []
    assert db.scalars(sa.select(AuditRow.what).order_by(AuditRow.id.desc())).first() == "student deleted"


def test_no_table_refers_to_a_student_but_those_that_are_walked() -> None:
    """A later table with a column for a student is walked too: columns are read off the schema."""
    found = {(column.table.name, column.name) for column in forget.student_columns()}
    assert {("clip", "student_id"), ("judgement", "student_id"), ("rep", "student_id"), ("upload", "student_id")} <= found
    named = {
        (table.name, column.name)
        for table in Base.metadata.sorted_tables
        for column in table.columns
        if "student" in column.name or (column.name == "other_id" and table.name != "view_tie")
    }
    assert named == found, "a column that names a student has a foreign key"


def test_others_keep_what_is_theirs(db: Session, whole: tuple[Hall, uuid.UUID]) -> None:
    where, _ = whole
    other = people.create_student(db, where.academy, "Other").id
    own = Hall(academy=where.academy, student=other)
    done(db, own, "front-kick", "solo", ["missed", "met"], 6)
    db.commit()
    before = db.scalar(sa.select(sa.func.count()).where(JudgementRow.student_id == other))
    goes = forget.forget(db, where.academy, where.student)
    db.commit()
    assert goes.clips > 0
    assert db.scalar(sa.select(sa.func.count()).where(JudgementRow.student_id == other)) == before != 0
    assert people.student(db, where.academy, other).name == "Other"


def test_a_rep_in_a_clip_of_somebody_else_goes_and_the_clip_is_named(db: Session, whole: tuple[Hall, uuid.UUID]) -> None:
    where, review = whole
    guest = people.create_student(db, where.academy, "Guest").id
    with watch.paused():
        db.execute(sa.update(RepRow).where(RepRow.review_id == review).values(student_id=guest))
        db.execute(sa.update(JudgementRow).where(JudgementRow.review_id == review).values(student_id=guest))
    db.commit()
    goes = forget.forget(db, where.academy, guest)
    db.commit()
    assert (goes.clips, goes.reps > 0, len(goes.shown_in)) == (0, True, 1)
    assert db.scalar(sa.select(sa.func.count()).where(RepRow.review_id == review)) == 0
    assert str(guest) not in text_of(db, Base.metadata.tables["tally"])
    assert people.student(db, where.academy, where.student).name == NAME


def test_who_was_a_partner_is_nobody_then_and_the_rep_stays(db: Session, whole: tuple[Hall, uuid.UUID]) -> None:
    where, review = whole
    partner, twin = (people.create_student(db, where.academy, name).id for name in ("Partner", "Partner again"))
    named = sa.select(RepRow.partner_student_id).where(RepRow.review_id == review)

    def name(one: uuid.UUID) -> None:
        with watch.paused():
            db.execute(sa.update(RepRow).where(RepRow.review_id == review).values(partner_student_id=one))
        db.commit()

    name(twin)
    forget.join(db, where.academy, partner, twin)
    assert set(db.scalars(named)) == {partner}
    assert forget.forget(db, where.academy, partner).reps == 0
    db.commit()
    assert set(db.scalars(named)) == {None} and len(db.scalars(named).all()) > 0
    name(people.create_student(db, where.academy, "Double").id)
    double = db.scalars(named).first()
    assert double is not None
    forget.join(db, where.academy, where.student, double)
    db.commit()
    assert set(db.scalars(named)) == {None}, "nobody is their own partner"


def test_while_a_clip_is_being_read_nothing_goes(db: Session, whole: tuple[Hall, uuid.UUID]) -> None:
    where, _ = whole
    clip = db.scalars(sa.select(Clip).where(Clip.student_id == where.student)).first()
    assert clip is not None
    clip.state = "reading"
    db.commit()
    with pytest.raises(Conflict, match="is being read"):
        forget.forget(db, where.academy, where.student)
    db.rollback()
    assert people.student(db, where.academy, where.student).name == NAME
    assert intake.clip(db, where.academy, clip.id).name == clip.name


def test_only_an_owner_deletes_and_only_in_the_own_academy(db: Session, where: Hall) -> None:
    with pytest.raises(NotFound, match="no such student"):
        forget.forget(db, uuid.uuid4(), where.student)
    act_as(db, "coach")
    with pytest.raises(NotAllowed, match="delete students"):
        forget.forget(db, where.academy, where.student)


class TestJoining:
    def test_the_history_of_both_is_the_one_that_stays(self, db: Session, whole: tuple[Hall, uuid.UUID]) -> None:
        where, _ = whole
        kept = people.create_student(db, where.academy, "Zephyrine Q.", note="From the list").id
        done(db, Hall(academy=where.academy, student=kept), "front-kick", "solo", ["met", "met"], 3)
        db.commit()
        rows = sa.select(sa.func.count()).where(JudgementRow.student_id.in_([kept, where.student]))
        count = db.scalar(rows)
        sums = sa.select(sa.func.sum(Tally.exposures), sa.func.sum(Tally.misses))
        tally = db.execute(sums.where(Tally.student_id.in_([kept, where.student]))).one()
        joined = forget.join(db, where.academy, kept, where.student)
        db.commit()
        assert (joined.name, joined.email, joined.groups) == ("Zephyrine Q.", EMAIL, ["Tuesday"])
        assert db.scalar(sa.select(sa.func.count()).where(JudgementRow.student_id == kept)) == count
        assert db.execute(sums.where(Tally.student_id == kept)).one() == tally
        assert str(where.student) not in "".join(text_of(db, t) for t in Base.metadata.sorted_tables if t.name != "audit")
        assert len(follow_up.ledger_page(db, where.academy, kept).faults) > 0

    def test_one_is_not_joined_into_itself_nor_across_academies(self, db: Session, where: Hall) -> None:
        with pytest.raises(BadInput, match="one and the same"):
            forget.join(db, where.academy, where.student, where.student)
        with pytest.raises(NotFound, match="no such student"):
            forget.join(db, where.academy, where.student, uuid.uuid4())


class TestTheList:
    def test_it_tells_what_is_open_and_who_was_filmed(self, db: Session, whole: tuple[Hall, uuid.UUID]) -> None:
        where, _ = whole
        people.create_student(db, where.academy, "Abel")
        first, second = roster.roster(db, where.academy, date(2026, 6, 1))
        assert (first.student.name, first.open_faults, first.last_filmed) == ("Abel", 0, None)
        assert second.student.name == NAME
        assert second.open_faults >= 1
        assert second.last_filmed is not None

    def test_who_is_archived_is_left_out_and_comes_back(self, db: Session, where: Hall) -> None:
        people.archive(db, where.academy, where.student, True)
        assert roster.roster(db, where.academy, date(2026, 6, 1)) == ()
        assert len(roster.roster(db, where.academy, date(2026, 6, 1), archived=True)) == 1
        assert common_faults.page(db, where.academy, date(2026, 6, 1)).unseen == ()
        people.archive(db, where.academy, where.student, False)
        assert len(roster.roster(db, where.academy, date(2026, 6, 1))) == 1


class TestDoubles:
    @pytest.mark.parametrize("name", ["A Student", "a  student", "Á Studént", "A Studant"])
    def test_a_name_that_is_nearly_there_is_told(self, db: Session, where: Hall, name: str) -> None:
        assert [one.name for one in people.alike(db, where.academy, name)] == ["A Student"]

    @pytest.mark.parametrize("name", ["Somebody", "B", "Study"])
    def test_another_one_is_not(self, db: Session, where: Hall, name: str) -> None:
        assert people.alike(db, where.academy, name) == []


def test_a_student_table_holds_nobody_of_before(db: Session, where: Hall) -> None:
    forget.forget(db, where.academy, where.student)
    assert db.scalars(sa.select(Student.id)).all() == []
