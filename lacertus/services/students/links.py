"""Secret links to a student's own page, for the student and for a guardian, until they are withdrawn."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Literal

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from lacertus.services import site
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import audit, inbox, people
from lacertus.services.people.rights import Right, needs
from lacertus.store import apart
from lacertus.store.tables import Student, StudentLink

SALT = "lacertus.student"
MOST = 20
"""So many links of one student are kept, the withdrawn ones among them."""
CLOSED = "This link does not open anything: it was withdrawn, or was copied in part. Ask your coach for a new one."
Holder = Literal["student", "guardian"]


class NoSuchPage(NotFound):
    """A link that opens nothing; which of the reasons it is, is not told."""

    def __init__(self) -> None:
        super().__init__(CLOSED)


@dataclass(frozen=True, kw_only=True)
class OwnLink:
    """A link as it is shown to a coach: with its token."""

    link: StudentLink
    token: str


@dataclass(frozen=True, kw_only=True)
class OpenedPage:
    """Whose page a link opens, and who holds the link."""

    link: StudentLink
    student: Student

    @property
    def academy(self) -> uuid.UUID:
        return self.student.academy_id

    @property
    def holder(self) -> Holder:
        return "guardian" if self.link.holder == "guardian" else "student"


@needs(Right.SHARE)
def make(db: Session, academy: uuid.UUID, student_id: uuid.UUID, account: uuid.UUID | None, holder: Holder) -> OwnLink:
    """A new link to a student's page.

    Raises:
        Conflict: a guardian is not named yet, or there are too many links.
        NotFound: no such student.
    """
    student = people.student(db, academy, student_id)
    if holder == "guardian" and not student.guardian:
        raise Conflict("Name the guardian on the student’s page first. Nothing was made.")
    if (db.scalar(select(func.count()).where(StudentLink.student_id == student_id)) or 0) >= MOST:
        raise Conflict(f"A student has at most {MOST} links. Use one that is there.")
    link = StudentLink(student_id=student_id, account_id=account, holder=holder)
    db.add(link)
    db.flush()
    audit.write(db, academy, f"link to the {holder}’s page made", str(student_id))
    return OwnLink(link=link, token=token_of(db, link))


def token_of(db: Session, link: StudentLink) -> str:
    """A link's token: its random id, signed, so that none can be made up or altered."""
    return site.token_of(db, SALT, link.id)


def of_student(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> list[OwnLink]:
    """The links of a student, the newest first. Raises NotFound where there is no such student."""
    people.student(db, academy, student_id)
    found = select(StudentLink).where(StudentLink.student_id == student_id).order_by(StudentLink.created_at.desc())
    return [OwnLink(link=link, token=token_of(db, link)) for link in db.scalars(found)]


@needs(Right.SHARE)
def revoke(db: Session, academy: uuid.UUID, link_id: uuid.UUID) -> StudentLink:
    """Withdraw a link: it opens nothing from now on. Raises NotFound where there is none."""
    mine = select(StudentLink).join(Student, Student.id == StudentLink.student_id)
    found = db.scalar(mine.where(Student.academy_id == academy, StudentLink.id == link_id))
    if found is None:
        raise NotFound("There is no such link in your academy.")
    if found.revoked_at is None:
        found.revoked_at = datetime.now(UTC)
        audit.write(db, academy, f"link to the {found.holder}’s page withdrawn", str(found.student_id))
    db.flush()
    return found


def opened(db: Session, token: str, *, count: bool = False) -> OpenedPage:
    """What a token opens; `count` writes down that it was opened.

    Raises:
        NoSuchPage: it is made up or altered, or was withdrawn.
    """
    link_id = site.link_of(db, SALT, token)
    link = db.get(StudentLink, link_id) if link_id else None
    if link is None:
        raise NoSuchPage()
    student = db.get_one(Student, link.student_id)
    if link.revoked_at is not None or student.archived_at is not None:
        raise NoSuchPage()
    apart.work_for(db, student.academy_id)
    audit.act_for(db, f"the {link.holder}’s page")
    if count:
        _count(db, link, student)
    return OpenedPage(link=link, student=student)


def _count(db: Session, link: StudentLink, student: Student) -> None:
    now, is_first = datetime.now(UTC), link.first_opened_at is None
    first = func.coalesce(StudentLink.first_opened_at, now)
    seen = {"opened": StudentLink.opened + 1, "last_opened_at": now, "first_opened_at": first}
    db.execute(update(StudentLink).where(StudentLink.id == link.id).values(seen))
    if is_first:
        audit.write(db, student.academy_id, f"{link.holder}’s page opened by its link", str(student.id), who="a link")
        inbox.put(
            db, student, inbox.Item(kind="opened", sent_by="guardian" if link.holder == "guardian" else "student", key=link.id)
        )
