"""A sheet as a mail: the link in words, the PDF with it."""

from __future__ import annotations

import re
from datetime import datetime
from email.message import EmailMessage
from email.utils import format_datetime, make_msgid

from lacertus.core.errors import BadInput
from lacertus.core.sheets.sheet import Sheet

_ADDRESS = re.compile(r"[^\s@<>,;:\"()\[\]\\]+@[^\s@<>,;:\"()\[\]\\]+")
LONGEST_ADDRESS = 254


def checked_address(text: str) -> str:
    """One plain address; raises BadInput for anything else, so that no header can be slipped in."""
    text = text.strip()
    if len(text) > LONGEST_ADDRESS or not _ADDRESS.fullmatch(text) or any(ord(c) < 32 for c in text):
        raise BadInput("this is not an e-mail address; nothing was sent")
    return text


def plain_mail(subject: str, text: str, to: str, sender: str, now: datetime) -> EmailMessage:
    """A mail of words alone."""
    mail = EmailMessage()
    mail["From"] = sender
    mail["To"] = to
    mail["Subject"] = " ".join(subject.split())
    mail["Date"] = format_datetime(now)
    mail["Message-ID"] = make_msgid(domain="lacertus")
    mail.set_content(text)
    return mail


def sheet_mail(sheet: Sheet, link: str, until: datetime, to: str, sender: str, pdf: bytes, now: datetime) -> EmailMessage:
    """The mail that brings a student the sheet."""
    fixes = "\n".join(f"{number}. {fix.ask}: “{fix.cues[0]}”" for number, fix in enumerate(sheet.fixes, 1))
    work = f"Work on this:\n{fixes}\n" if fixes else "Nothing was missed: keep it.\n"
    text = (
        f"Hello {sheet.student},\n\nyour review of {sheet.filmed_on} is ready.\n\n{work}\n"
        f"The sheet with the pictures and the marked clip: {link}\n"
        f"The link works until {until:%Y-%m-%d}. It is yours: do not pass it on.\n\n"
        f"The sheet is attached as a PDF too.\n\n{sheet.coach}, {sheet.academy}\n"
    )
    mail = plain_mail(f"Your review of {sheet.filmed_on}: {', '.join(sheet.techniques)}", text, to, sender, now)
    mail.add_attachment(pdf, maintype="application", subtype="pdf", filename=f"review-{sheet.filmed_on}.pdf")
    return mail
