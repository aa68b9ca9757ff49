"""Everything of a review's sheet that the coach sees to: its words, revisions, links, answers, and the marked clip."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from lacertus.core.sheets.sheet import Sheet, SheetFix
from lacertus.services.people import people
from lacertus.services.review.view import ReviewView, Work, view_of, work_on
from lacertus.services.sheets import finish, share, sheet
from lacertus.store.tables import Account, JudgementRow, Review, Revision, ShareLink, Student


@dataclass(frozen=True, kw_only=True)
class Link:
    """A link to a sheet, and the token in its address."""

    link: ShareLink
    token: str


@dataclass(frozen=True, kw_only=True)
class SheetPage:
    """A review's sheet. `revisions` come with the name of who finished it, the newest first."""

    review: Review
    view: ReviewView
    work: Work
    """What was asked of the worker, as it stood before the rest was read."""
    sheet: Sheet
    student: Student
    revisions: tuple[tuple[Revision, str], ...]
    links: tuple[Link, ...]
    to_compare: tuple[tuple[SheetFix, uuid.UUID], ...]
    """What is to be fixed, each with a rep of the student's own in which it was missed: what a comparison begins with."""


def sheet_page(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> SheetPage:
    """The page of a review's sheet.

    Raises:
        NotFound: no such review, or it has not been finished yet.
    """
    db.flush()
    work = work_on(db, review_id)
    review, revision = sheet.latest(db, academy, review_id)
    return SheetPage(
        review=review,
        view=view_of(review),
        work=work,
        sheet=revision.sheet,
        student=people.student(db, academy, review.student_id),
        revisions=tuple((one, _name(db, one)) for one in finish.revisions(db, review.id)),
        links=tuple(link_of(db, one) for one in share.links(db, academy, review.id)),
        to_compare=_to_compare(db, review, revision.sheet),
    )


def _to_compare(db: Session, review: Review, of: Sheet) -> tuple[tuple[SheetFix, uuid.UUID], ...]:
    missed = or_(JudgementRow.verdict == "missed", (JudgementRow.verdict == "borderline") & JudgementRow.safety)
    rows = (
        select(JudgementRow.technique, JudgementRow.checkpoint, JudgementRow.rep_id)
        .where(JudgementRow.review_id == review.id, JudgementRow.student_id == review.student_id, missed)
        .order_by(JudgementRow.first_frame.desc())
    )
    # Of several reps the first one stays.
    first = {(technique, checkpoint): rep for technique, checkpoint, rep in db.execute(rows) if rep is not None}
    return tuple((fix, rep) for fix in of.fixes if (rep := first.get((fix.technique, fix.checkpoint))) is not None)


def link_of(db: Session, link: ShareLink) -> Link:
    """A link as it stands in the database, with its token."""
    db.flush()
    db.refresh(link)
    return Link(link=link, token=share.token_of(db, link))


def _name(db: Session, revision: Revision) -> str:
    by = db.get(Account, revision.account_id) if revision.account_id else None
    return "" if by is None else by.name
