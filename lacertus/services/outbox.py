"""Mail on its way out: into the outbox, a folder of mail files, or through a relay where one is set."""

from __future__ import annotations

import smtplib
import uuid
from collections.abc import Collection
from contextlib import suppress
from datetime import UTC, datetime
from email import message_from_bytes, policy
from email.message import EmailMessage
from pathlib import Path

from lacertus.core.errors import LacertusError
from lacertus.settings import settings

RELAY_WAIT_S = 20.0


class NotSent(LacertusError):
    """The mail relay did not take the mail. The link was made and can be copied; look into the relay, and send again."""


def send(mail: EmailMessage) -> str | None:
    """Send a mail; returns the file's name in the outbox, where it went there.

    Raises:
        NotSent: the relay refused it.
    """
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


def waiting(addresses: Collection[str], words: Collection[str]) -> list[Path]:
    """Mails in the outbox that go to one of some addresses, or hold one of some words, such as the token of a link."""
    folder = Path(settings().outbox_dir)
    wanted = {address.lower() for address in addresses}
    found = []
    for path in sorted(folder.glob("*.eml")):
        mail = message_from_bytes(path.read_bytes(), policy=policy.default)
        to = {address.addr_spec.lower() for address in mail["To"].addresses} if mail["To"] else set()
        body = mail.get_body(("plain",))
        text = body.get_content() if body is not None else ""
        if to & wanted or any(word in text for word in words):
            found.append(path)
    return found
