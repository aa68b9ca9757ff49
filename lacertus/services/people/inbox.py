"""What came in from students and guardians, in one place, until somebody of the academy has dealt with it."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Literal

from sqlalchemy import func, or_, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, defer

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_text
from lacertus.outputs.mail import plain_mail
from lacertus.services import outbox
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.settings import settings
from lacertus.store.tables import Academy, Account, Clip, InboxRow, Student

Kind = Literal["answer", "question", "pain", "clip", "opened", "consent", "forget"]
LONGEST = 1000
MOST_OPEN = 200
"""So much of one student waits at most: a link that got about cannot fill the database."""
WRITTEN: tuple[Kind, ...] = ("answer", "question", "pain", "forget")
"""What is limited so. A link that is opened or a clip that has arrived is never refused for want of room here."""
MOST_SHOWN = 300


@dataclass(frozen=True, kw_only=True)
class Item:
    """Something on its way in. With a key of its own it is one item, however often it is sent."""

    kind: Kind
    sent_by: Literal["student", "guardian"] = "student"
    words: str = ""
    key: uuid.UUID | None = None
    review: uuid.UUID | None = None
    clip: uuid.UUID | None = None
    technique: str = ""
    checkpoint: str = ""


@dataclass(frozen=True, kw_only=True)
class Shown:
    """An item as the inbox shows it: whose it is, and who dealt with it."""

    row: InboxRow
    student: Student
    by: str
    clip_name: str


def put(db: Session, student: Student, item: Item) -> tuple[InboxRow, bool]:
    """Keep an item; tells too whether it is new.

    Raises:
        BadInput: the words are too long, or its key is another student's.
        Conflict: too much of this student waits already.
    """
    words = checked_text(item.words, "what you wrote", LONGEST + 200) if item.words.strip() else ""
    key = item.key or uuid.uuid4()
    waiting = select(func.count()).where(InboxRow.student_id == student.id, InboxRow.done_at.is_(None))
    if item.kind in WRITTEN and (db.scalar(waiting) or 0) >= MOST_OPEN and find(db, student, key) is None:
        raise Conflict("Very much is waiting for an answer already. Nothing was sent; tell your coach in person.")
    made = insert(InboxRow).values(
        id=uuid.uuid4(), academy_id=student.academy_id, student_id=student.id, key=key, kind=item.kind, sent_by=item.sent_by,
        words=words, review_id=item.review, clip_id=item.clip, technique=item.technique, checkpoint=item.checkpoint, reply="",
    )  # fmt: skip
    # Sent twice at the same moment, one of them waits here for the other.
    new = db.scalar(made.on_conflict_do_nothing(index_elements=["academy_id", "key"]).returning(InboxRow.id)) is not None
    found = find(db, student, key)
    if found is None:
        raise BadInput("what was sent has a key that is in use; nothing was stored")
    return found, new


def find(db: Session, student: Student, key: uuid.UUID) -> InboxRow | None:
    """A student's item by its key."""
    return db.scalar(select(InboxRow).where(InboxRow.student_id == student.id, InboxRow.key == key))


def open_count(db: Session, academy: uuid.UUID) -> int:
    """How many items nobody has dealt with yet."""
    return db.scalar(select(func.count()).where(InboxRow.academy_id == academy, InboxRow.done_at.is_(None))) or 0


def items(db: Session, academy: uuid.UUID, done: bool = False) -> list[Shown]:
    """What waits, pain first and then the oldest; or what was dealt with, the newest first."""
    found = (
        select(InboxRow, Student, Account.name, Clip.name)
        .join(Student, Student.id == InboxRow.student_id)
        .outerjoin(Account, Account.id == InboxRow.account_id)
        .outerjoin(Clip, Clip.id == InboxRow.clip_id)
        .where(InboxRow.academy_id == academy, InboxRow.done_at.is_not(None) if done else InboxRow.done_at.is_(None))
    )
    order = (InboxRow.done_at.desc(),) if done else (InboxRow.kind != "pain", InboxRow.created_at)
    rows = db.execute(found.order_by(*order).limit(MOST_SHOWN))
    return [Shown(row=row, student=student, by=by or "", clip_name=clip or "") for row, student, by, clip in rows]


def of_clip(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> list[Shown]:
    """What the student of a clip asked that nobody has answered: with this clip, or besides any clip.

    Raises:
        NotFound: no such clip.
    """
    clip = db.scalar(select(Clip).where(Clip.academy_id == academy, Clip.id == clip_id).options(defer(Clip.pts_s)))
    if clip is None:
        raise NotFound("There is no such clip in your academy.")
    asked = (InboxRow.academy_id == academy, InboxRow.done_at.is_(None), InboxRow.kind.in_(("question", "pain", "clip")))
    own = or_(InboxRow.clip_id == clip_id, InboxRow.clip_id.is_(None) & (InboxRow.student_id == clip.student_id))
    found = select(InboxRow, Student).join(Student, Student.id == InboxRow.student_id).where(*asked, own, InboxRow.words != "")
    rows = db.execute(found.order_by(InboxRow.kind != "pain", InboxRow.created_at))
    return [Shown(row=row, student=student, by="", clip_name=clip.name) for row, student in rows]


def said_with(db: Session, student: Student, take: int = 20) -> Sequence[InboxRow]:
    """What a student sent in words, the newest first, with the replies."""
    found = select(InboxRow).where(InboxRow.student_id == student.id, InboxRow.words != "")
    return list(db.scalars(found.order_by(InboxRow.created_at.desc()).limit(take)))


@needs(Right.ANSWER)
def reply(db: Session, academy: uuid.UUID, item_id: uuid.UUID, words: str, account: uuid.UUID, mail: bool = False) -> InboxRow:
    """Answer an item; the reply stands on the student's page, and goes out by mail where that is wanted.

    Raises:
        BadInput: no words, or no address to mail to.
        NotFound: no such item.
        NotSent: the mail relay refused the mail; the reply is kept.
    """
    found = _find(db, academy, item_id)
    student = people.student(db, academy, found.student_id)
    address = student.guardian_email if found.sent_by == "guardian" else student.email
    if mail and not address:
        raise BadInput("no e-mail address is known for this student; reply without a mail, or add one. Nothing was sent")
    found.reply = checked_text(words, "the reply", LONGEST)
    found.replied_at, found.account_id = datetime.now(UTC), account
    found.done_at = found.done_at or found.replied_at
    db.flush()
    if mail:
        _send(db, found, student, address)
    return found


def _send(db: Session, found: InboxRow, student: Student, address: str) -> None:
    by, academy = db.get_one(Account, found.account_id).name, db.get_one(Academy, found.academy_id).name
    asked = f"You wrote: “{found.words}”\n\n" if found.words else ""
    text = f"Hello,\n\n{asked}{found.reply}\n\n{by}, {academy}\n"
    # The reply is kept before the mail leaves: nobody is to read a reply that the academy does not know of.
    db.commit()
    outbox.send(plain_mail(f"Reply from {academy}", text, address, settings().mail_from, datetime.now(UTC)))


@needs(Right.ANSWER)
def settle(db: Session, academy: uuid.UUID, item_id: uuid.UUID, done: bool, account: uuid.UUID) -> InboxRow:
    """Put an item away as dealt with, or take it back. Raises NotFound where there is none."""
    found = _find(db, academy, item_id)
    found.done_at, found.account_id = (datetime.now(UTC), account) if done else (None, None)
    db.flush()
    return found


def _find(db: Session, academy: uuid.UUID, item_id: uuid.UUID) -> InboxRow:
    found = db.scalar(select(InboxRow).where(InboxRow.academy_id == academy, InboxRow.id == item_id))
    if found is None:
        raise NotFound("There is no such item in your inbox.")
    return found
