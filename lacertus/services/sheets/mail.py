"""Sending a sheet by mail: into the outbox, a folder of mail files, or through a relay where one is set."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.outputs.mail import checked_address, sheet_mail
from lacertus.services import outbox
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.sheets import rendering, share, sheet
from lacertus.settings import settings
from lacertus.store.tables import ShareLink


@dataclass(frozen=True, kw_only=True)
class Mailed:
    """A mail that was sent: its link, to whom, and the file in the outbox, where it went there."""

    link: ShareLink
    token: str
    to: str
    file: str | None


@needs(Right.SHARE)
def send(db: Session, academy: uuid.UUID, review_id: uuid.UUID, account: uuid.UUID, site: str, days: int, to: str = "") -> Mailed:
    """Make a link to a review's sheet and send it with the PDF; without an address to the student's own.

    Args:
        site: where the site is reached, such as https://lacertus.example.

    Raises:
        BadInput: no address, or none that can be one.
        NotSent: the relay refused it.
        NotFound: the review has not been finished.
    """
    review, _revision = sheet.latest(db, academy, review_id)
    address = to or people.student(db, academy, review.student_id).email
    if not address:
        raise BadInput("no e-mail address is known for this student; write one, or copy the link")
    address = checked_address(address)
    link, token = share.make_link(db, academy, review_id, account, days, address)
    found = share.opened(db, token)
    paper = rendering.pdf_of(found.review, found.sheet)
    mail = sheet_mail(found.sheet, f"{site}/s/{token}", link.expires_at, address, settings().mail_from, paper, datetime.now(UTC))
    # Written down before it leaves: a mail with a link that nobody knows of could not be revoked.
    db.commit()
    return Mailed(link=link, token=token, to=address, file=outbox.send(mail))
