"""Mails about accounts: an invitation, a link for a new password."""

from __future__ import annotations

from datetime import UTC, datetime

from lacertus.outputs.mail import plain_mail
from lacertus.services import outbox
from lacertus.services.people.links import Made
from lacertus.settings import settings

_SUBJECTS = {"invite": "Your invitation to {academy}", "reset": "A new password for {academy}"}
_TEXTS = {
    "invite": "Hello {name},\n\nyou are invited to {academy} on Lacertus as {role}. Choose a password here:\n\n{link}\n\n"
    "The link works once, until {until} UTC. If you do not expect this mail, delete it.\n",
    "reset": "Hello {name},\n\nchoose a new password here:\n\n{link}\n\nThe link works once, until {until} UTC. "
    "If you did not ask for it, delete this mail: your password stays as it is.\n",
}


def page_of(site: str, made: Made) -> str:
    """The address of a link's page. What stands behind # is sent to no server, so the token is in no log."""
    return f"{site}/#/welcome/{made.token}"


def send(made: Made, academy: str, site: str) -> None:
    """Mail a link to whom it is for.

    Raises:
        NotSent: the relay refused it.
    """
    link = made.link
    words = {
        "academy": academy,
        "name": link.name,
        "role": link.role,
        "link": page_of(site, made),
        "until": f"{link.expires_at:%Y-%m-%d %H:%M}",
    }
    subject, text = _SUBJECTS[link.kind].format(**words), _TEXTS[link.kind].format(**words)
    outbox.send(plain_mail(subject, text, link.email, settings().mail_from, datetime.now(UTC)))
