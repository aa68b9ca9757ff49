"""Slowing down whoever guesses passwords, without shutting out the coach whose password is guessed.

An attempt counts for its address and e-mail together, for its address alone, and for the e-mail from wherever; one from a device
that has signed in to this account before counts for that device alone. Attempts are counted before the password is looked at,
one after the other, so that many at once are no more than as many in a row.
"""

from __future__ import annotations

import hashlib
import ipaddress
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from lacertus.services.errors import Busy, TooManyTries
from lacertus.store.tables import SignInAttempt

MOST_FAILURES = 10
"""For an address and e-mail together, or for a known device: more than anybody mistypes."""
MOST_OF_ADDRESS = 60
"""For an address, whatever the e-mails: a whole academy behind one address, each mistyping a few times."""
MOST_OF_EMAIL = 200
"""For an e-mail, from wherever. Known devices do not count and are not held up."""
KEPT = timedelta(minutes=15)
MOST_HASHING = 2
"""Passwords that are checked at once: each takes 64 MB."""
MOST_WAITING = 12
LONGEST_WAIT_S = 10.0


@dataclass(frozen=True, kw_only=True)
class Key:
    """What attempts are counted for, and how many within a quarter of an hour."""

    name: str
    most: int


def keys_of(email: str, address: str, device: str | None) -> tuple[Key, ...]:
    """What an attempt counts for. `device` is a device that is known to have signed in to this account before."""
    if device is not None:
        return (Key(name=_name("device", device), most=MOST_FAILURES),)
    where = bucket_of(address)
    return (
        Key(name=_name("pair", where, email), most=MOST_FAILURES),
        Key(name=_name("address", where), most=MOST_OF_ADDRESS),
        Key(name=_name("email", email), most=MOST_OF_EMAIL),
    )


def bucket_of(address: str) -> str:
    """The address itself; of one of version 6 the network that a household or a server gets whole (64 bits)."""
    try:
        found = ipaddress.ip_address(address)
    except ValueError:
        return "unknown"
    if isinstance(found, ipaddress.IPv6Address):
        return str(found.ipv4_mapped or ipaddress.ip_network((found, 64), strict=False))
    return str(found)


def _name(*parts: str) -> str:
    """Hashed, so that what people typed by mistake, a password among it, is kept nowhere."""
    return f"{parts[0]}:{hashlib.sha256(repr(parts).encode()).hexdigest()[:32]}"


def note(db: Session, keys: Sequence[Key]) -> list[int]:
    """Count an attempt, and commit; returns its rows.

    Raises:
        TooManyTries: there are too many already; this one is not counted.
    """
    since = datetime.now(UTC) - KEPT
    # In one order, so that two attempts never wait for each other.
    for key in sorted(keys, key=lambda one: one.name):
        db.execute(text("select pg_advisory_xact_lock(hashtextextended(:key, 0))"), {"key": key.name})
        count = db.scalar(select(func.count()).where(SignInAttempt.key == key.name, SignInAttempt.at > since)) or 0
        if count >= key.most:
            db.rollback()
            raise TooManyTries()
    rows = [SignInAttempt(key=key.name) for key in keys]
    db.add_all(rows)
    db.flush()
    found = [row.id for row in rows]
    db.commit()
    return found


def forgive(db: Session, keys: Sequence[Key], rows: Sequence[int]) -> None:
    """Somebody has signed in: this attempt no longer counts, nor the earlier ones of the same pair or device."""
    own = [key.name for key in keys if key.name.startswith(("pair:", "device:"))]
    db.execute(delete(SignInAttempt).where(SignInAttempt.id.in_(rows) | SignInAttempt.key.in_(own)))
    db.execute(delete(SignInAttempt).where(SignInAttempt.at < datetime.now(UTC) - KEPT))


_hashing = threading.BoundedSemaphore(MOST_HASHING)
_waiting = threading.BoundedSemaphore(MOST_WAITING)


@contextmanager
def turn_to_hash() -> Iterator[None]:
    """A turn to check a password: a few at once, a few more wait, and the rest are told to come again.

    Raises:
        Busy: too many wait.
    """
    if not _waiting.acquire(blocking=False):
        raise Busy()
    try:
        if not _hashing.acquire(timeout=LONGEST_WAIT_S):
            raise Busy()
    finally:
        _waiting.release()
    try:
        yield
    finally:
        _hashing.release()
