"""Sharing a sheet: links that expire and can be revoked, what the student answers, and mail into the outbox."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Literal, TypeVar

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.phrases import Say, in_english
from lacertus.core.sheets.phrases import Phrase
from lacertus.core.sheets.sheet import Sheet
from lacertus.core.texts import checked_text
from lacertus.services import site
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import audit, inbox
from lacertus.services.people.rights import Right, needs
from lacertus.services.sheets import sheet as sheets
from lacertus.store import apart
from lacertus.store.tables import Correction, Review, Revision, ShareLink, SheetAnswer, Student

T = TypeVar("T")
SALT = "lacertus.sheet"
LONGEST_DAYS = 365
MOST_LINKS = 50
MOST_ANSWERS = 100
"""So many answers are kept of one review: a link that got about cannot fill the database."""
LONGEST_ANSWER = 1000
CLOSED = "This link does not open anything: it has expired, was withdrawn, or was copied in part. Ask your coach for a new one."


class NoSuchLink(NotFound):
    """A link that opens nothing; which of the reasons it is, is not told."""

    def __init__(self) -> None:
        super().__init__(CLOSED)


@dataclass(frozen=True, kw_only=True)
class Opened:
    """What a link opens: the review, its newest revision, and the sheet."""

    link: ShareLink | None
    """None where it was opened from the student's own page."""
    review: Review
    revision: Revision
    sheet: Sheet


@needs(Right.SHARE)
def make_link(
    db: Session, academy: uuid.UUID, review_id: uuid.UUID, account: uuid.UUID, days: int, sent_to: str = ""
) -> tuple[ShareLink, str]:
    """A link to a finished review's sheet, and its token.

    Raises:
        BadInput: it would never expire, or too late.
        Conflict: the review has too many.
        NotFound: no such review, or it has not been finished.
    """
    if not 1 <= days <= LONGEST_DAYS:
        raise BadInput(f"a link holds for 1 to {LONGEST_DAYS} days")
    sheets.latest(db, academy, review_id)
    if (db.scalar(select(func.count()).where(ShareLink.review_id == review_id)) or 0) >= MOST_LINKS:
        raise Conflict(f"A review has at most {MOST_LINKS} links; use one that is there.")
    link = ShareLink(
        academy_id=academy,
        review_id=review_id,
        account_id=account,
        sent_to=sent_to,
        expires_at=datetime.now(UTC) + timedelta(days=days),
    )
    db.add(link)
    db.flush()
    audit.write(db, academy, "link to a sheet made", f"review {review_id}")
    return link, token_of(db, link)


def token_of(db: Session, link: ShareLink) -> str:
    """A link's token: its random id, signed, so that none can be made up or altered."""
    return site.token_of(db, SALT, link.id)


def links(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> list[ShareLink]:
    """The links of a review, the newest first."""
    mine = select(ShareLink).where(ShareLink.academy_id == academy, ShareLink.review_id == review_id)
    return list(db.scalars(mine.order_by(ShareLink.created_at.desc())))


@needs(Right.SHARE)
def revoke(db: Session, academy: uuid.UUID, link_id: uuid.UUID) -> ShareLink:
    """Withdraw a link: it opens nothing from now on.

    Raises:
        NotFound: no such link.
    """
    found = db.scalar(select(ShareLink).where(ShareLink.academy_id == academy, ShareLink.id == link_id))
    if found is None:
        raise NotFound("There is no such link in your academy.")
    found.revoked_at = found.revoked_at or datetime.now(UTC)
    db.flush()
    return found


def opened(db: Session, token: str, *, count: bool = False) -> Opened:
    """What a token opens; `count` writes down that it was opened.

    Raises:
        NoSuchLink: it is made up or altered, has expired, or was revoked.
    """
    link_id = site.link_of(db, SALT, token)
    link = db.get(ShareLink, link_id) if link_id else None
    if link is None:
        raise NoSuchLink()
    if link.revoked_at is not None or link.expires_at <= datetime.now(UTC):
        raise NoSuchLink()
    apart.work_for(db, link.academy_id)
    review, revision = sheets.latest(db, link.academy_id, link.review_id)
    if count:
        now, is_first = datetime.now(UTC), link.first_opened_at is None
        first = func.coalesce(ShareLink.first_opened_at, now)
        seen = {"opened": ShareLink.opened + 1, "last_opened_at": now, "first_opened_at": first}
        db.execute(update(ShareLink).where(ShareLink.id == link.id).values(seen))
        if is_first:
            audit.write(db, link.academy_id, "sheet opened by its link", f"review {link.review_id}", who="a link")
            student = db.get_one(Student, review.student_id)
            inbox.put(db, student, inbox.Item(kind="opened", key=link.id, review=review.id, clip=review.clip_id))
    return Opened(link=link, review=review, revision=revision, sheet=revision.sheet)


def correction_on(found: Opened, correction_id: uuid.UUID) -> Correction:
    """A correction whose picture stands on an opened sheet.

    Raises:
        NoSuchLink: it is none of this sheet's.
    """
    shown = {picture.correction for fix in found.sheet.fixes for picture in fix.pictures}
    correction = next((c for c in found.review.corrections if c.id == correction_id), None)
    if correction is None or str(correction_id) not in shown:
        raise NoSuchLink()
    return correction


def answer(db: Session, found: Opened, given: Mapping[str, str], sent_by: Literal["student", "guardian"] = "student") -> None:
    """Keep what a student answers on a sheet: about one of its fixes, or about the whole. With the same `key` it is kept once.

    Raises:
        BadInput: it is about nothing on the sheet, empty, or too long.
        Conflict: the review has too many.
    """
    technique, checkpoint = given.get("technique", ""), given.get("checkpoint", "")
    if (technique or checkpoint) and not any(f.technique == technique and f.checkpoint == checkpoint for f in found.sheet.fixes):
        raise BadInput("this answer is about nothing that stands on the sheet")
    words = given.get("words", "").strip()
    kept = SheetAnswer(
        review_id=found.review.id,
        link_id=found.link.id if found.link else None,
        technique=technique,
        checkpoint=checkpoint,
        felt=_one_of(given, "felt", {"right": "right", "off": "off"}),
        tried=_one_of(given, "tried", {"yes": True, "no": False}),
        sure=_one_of(given, "sure", {"yes": True, "no": False}),
        words=checked_text(words, "the answer", LONGEST_ANSWER) if words else "",
    )
    if not words and kept.felt is None and kept.tried is None and kept.sure is None:
        raise BadInput("the answer is empty: choose something, or write a word")
    student = db.get_one(Student, found.review.student_id)
    item = inbox.Item(
        kind="answer", sent_by=sent_by, words=in_words(kept), key=key_of(given), review=found.review.id, clip=found.review.clip_id,
        technique=technique, checkpoint=checkpoint,
    )  # fmt: skip
    if item.key is not None and inbox.find(db, student, item.key) is not None:
        return
    if (db.scalar(select(func.count()).where(SheetAnswer.review_id == found.review.id)) or 0) >= MOST_ANSWERS:
        raise Conflict("There are very many answers on this sheet already; tell your coach in person.")
    if inbox.put(db, student, item)[1]:
        db.add(kept)
    db.flush()


def key_of(given: Mapping[str, str]) -> uuid.UUID | None:
    """The key that a form was sent with; raises BadInput where it is none."""
    text = given.get("key", "")
    try:
        return uuid.UUID(text) if text else None
    except ValueError as error:
        raise BadInput("what was sent has a key that is none; reload the page") from error


def _one_of(given: Mapping[str, str], key: str, known: Mapping[str, T]) -> T | None:
    value = given.get(key, "")
    if value and value not in known:
        raise BadInput(f"“{key}” is {' or '.join(known)}")
    return known.get(value)


def answers(db: Session, review_id: uuid.UUID) -> list[SheetAnswer]:
    """What the student answered on a review's sheet, the newest first."""
    return list(db.scalars(select(SheetAnswer).where(SheetAnswer.review_id == review_id).order_by(SheetAnswer.created_at.desc())))


@dataclass(frozen=True, kw_only=True)
class SaidInWords:
    """What a student answered, about which checkpoint or the whole, in a sentence."""

    technique: str
    checkpoint: str
    words: str


def answers_in_words(db: Session, review_id: uuid.UUID, say: Say = in_english) -> list[SaidInWords]:
    """The same as sentences."""
    said = answers(db, review_id)
    return [SaidInWords(technique=one.technique, checkpoint=one.checkpoint, words=in_words(one, say)) for one in said]


def in_words(said: SheetAnswer, say: Say = in_english) -> str:
    """An answer in a sentence."""
    felt = {"right": Phrase.THOUGHT_RIGHT, "off": Phrase.FELT_OFF}.get(said.felt or "")
    tried = None if said.tried is None else Phrase.TRIED if said.tried else Phrase.NOT_TRIED
    sure = None if said.sure is None else Phrase.SURE if said.sure else Phrase.UNSURE
    parts = [*(say(phrase) for phrase in (felt, tried, sure) if phrase is not None), *([f"“{said.words}”"] if said.words else [])]
    return "; ".join(parts)
