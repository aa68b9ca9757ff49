"""Academies, accounts and signing in."""

from __future__ import annotations

import hashlib
import secrets
import uuid
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import cache

from itsdangerous import BadData, URLSafeSerializer
from pwdlib import PasswordHash
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_name
from lacertus.services import site
from lacertus.services.errors import NotSignedIn, SignInRefused
from lacertus.services.people import attempts
from lacertus.settings import settings
from lacertus.store.tables import Academy, Account, SignIn

LEAST_PASSWORD = 10
DEVICE_SALT = "lacertus.device"
LONGEST_DEVICE = 400


@dataclass(frozen=True, kw_only=True)
class Coach:
    """Who is signed in, and to which academy."""

    id: uuid.UUID
    academy_id: uuid.UUID
    name: str
    email: str
    academy: str


@cache
def _hasher() -> PasswordHash:
    return PasswordHash.recommended()


@cache
def _nobodys_hash() -> str:
    """Checked when no account fits, so that an unknown e-mail takes as long as a wrong password."""
    return _hasher().hash(secrets.token_hex(16))


def create_academy(db: Session, name: str) -> Academy:
    academy = Academy(name=checked_name(name, "the academy’s name"))
    db.add(academy)
    db.flush()
    return academy


def academy_named(db: Session, name: str | None) -> uuid.UUID:
    """The academy of a name, or the only one there is.

    Raises:
        BadInput: there is none, or more than one and no name is given.
    """
    found = list(db.execute(select(Academy.id, Academy.name)))
    fits = [key for key, own in found if name is None or own == name]
    if len(fits) != 1:
        names = ", ".join(sorted(own for _, own in found)) or "none"
        raise BadInput(f"say which academy by --academy; there are: {names}")
    return fits[0]


def create_account(db: Session, academy: uuid.UUID, email: str, name: str, password: str) -> Account:
    """Add a coach.

    Raises:
        BadInput: the password is too short, or the e-mail is none.
    """
    if len(password) < LEAST_PASSWORD:
        raise BadInput(f"a password has at least {LEAST_PASSWORD} characters")
    if "@" not in email:
        raise BadInput("this is not an e-mail address")
    account = Account(
        academy_id=academy, email=email.strip().lower(), name=checked_name(name, "a name"), password_hash=_hasher().hash(password)
    )
    db.add(account)
    db.flush()
    return account


@dataclass(frozen=True, kw_only=True)
class Opened:
    """A session that was opened: its token, and the token of the device, by which it is known again."""

    token: str
    device: str


def sign_in(db: Session, email: str, password: str, address: str = "", device: str | None = None) -> Opened:
    """Check a password and open a session.

    An attempt that fails is kept for a while, to slow down guessing (`attempts`), and nothing else is written.

    Args:
        address: where it comes from.
        device: what the browser has from an earlier time, if anything.

    Raises:
        SignInRefused: no account with this e-mail and password.
        TooManyTries: too many wrong ones within a quarter of an hour.
        Busy: too many passwords are being checked.
    """
    email = email.strip().lower()
    account = db.scalar(select(Account).where(Account.email == email))
    known = account is not None and _is_device_of(db, account, device)
    keys = attempts.keys_of(email, address, device if known else None)
    counted = attempts.note(db, keys)
    # Nothing of the database is held meanwhile: checking takes a while, and may have to wait.
    with attempts.turn_to_hash():
        fits = _hasher().verify(password, account.password_hash if account else _nobodys_hash())
    if account is None or not fits:
        raise SignInRefused()
    attempts.forgive(db, keys, counted)
    return Opened(token=_open_session(db, account), device=device if known and device else _device_of(db, account))


def _open_session(db: Session, account: Account) -> str:
    token, now = secrets.token_urlsafe(32), datetime.now(UTC)
    db.execute(delete(SignIn).where(SignIn.expires_at < now))
    expires = now + timedelta(hours=settings().session_hours)
    db.add(SignIn(token_hash=_hash(token), account_id=account.id, expires_at=expires))
    return token


def _device_of(db: Session, account: Account) -> str:
    """What a browser keeps to be known again: the account and a number of its own, signed. Another password makes it worthless."""
    return str(_devices(db, account).dumps([account.id.hex, secrets.token_hex(8)]))


def _is_device_of(db: Session, account: Account, device: str | None) -> bool:
    if device is None or len(device) > LONGEST_DEVICE:
        return False
    try:
        found = _devices(db, account).loads(device)
    except BadData:
        return False
    return isinstance(found, list) and found[:1] == [account.id.hex]


def _devices(db: Session, account: Account) -> URLSafeSerializer:
    return URLSafeSerializer(site.secret(db), salt=f"{DEVICE_SALT}.{_hash(account.password_hash)}")


def signed_in(db: Session, token: str | None) -> Coach:
    """Who a token belongs to.

    Raises:
        SignInRefused: nobody, or it has expired.
    """
    found = select(Account, Academy).join(SignIn, SignIn.account_id == Account.id).join(Academy, Academy.id == Account.academy_id)
    found = found.where(SignIn.token_hash == _hash(token or ""), SignIn.expires_at > datetime.now(UTC))
    row = db.execute(found).first()
    if row is None:
        raise NotSignedIn()
    account, academy = row
    return Coach(id=account.id, academy_id=academy.id, name=account.name, email=account.email, academy=academy.name)


def sign_out(db: Session, token: str | None) -> None:
    db.execute(delete(SignIn).where(SignIn.token_hash == _hash(token or "")))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
