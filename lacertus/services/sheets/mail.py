"""Sending a sheet by mail: into the outbox, a folder of mail files, or through a relay where one is set."""

from __future__ import annotations

import smtplib
import uuid
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from email.message import EmailMessage
from pathlib import Path

from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput, LacertusError
from lacertus.outputs.mail import checked_address, sheet_mail
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.sheets import rendering, share, sheet
from lacertus.settings import settings
from lacertus.store.tables import ShareLink

RELAY_WAIT_S = 20.0


class NotSent(LacertusError):
    """The mail relay did not take the mail. The link was made and can be copied; look into the relay, and send again."""


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
    return Mailed(link=link, token=token, to=address, file=_mail_out(mail))


def _mail_out(mail: EmailMessage) -> str | None:
    relay = settings().mail_relay
    if not relay:
        return _into_outbox(mail)
    host, _, port = relay.partition(":")
    try:
        with smtplib.SMTP(host, int(port or 25), timeout=RELAY_WAIT_S) as server:
            if server.has_extn("starttls"):
                server.starttls()
            server.send_message(mail)
    except (OSError, smtplib.SMTPException) as error:
        raise NotSent() from error
    return None


def _into_outbox(mail: EmailMessage) -> str:
    """Write the mail whole into the outbox; returns the file's name."""
    folder = Path(settings().outbox_dir)
    folder.mkdir(parents=True, exist_ok=True)
    with suppress(OSError):
        folder.chmod(0o700)
    name = f"{datetime.now(UTC):%Y%m%dT%H%M%S}-{uuid.uuid4().hex[:8]}.eml"
    part = folder / f"{name}.part"
    part.write_bytes(bytes(mail))
    part.replace(folder / name)
    return name
