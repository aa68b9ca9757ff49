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
from sqlalchemy import ColumnElement, delete, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_name
from lacertus.outputs.mail import checked_address
from lacertus.services import site
from lacertus.services.errors import CodeNeeded, Conflict, NotSignedIn, SecondFactorLacking, SignInRefused, WrongCode, WrongPassword
from lacertus.services.people import attempts, audit, second_factor
from lacertus.services.people.academies import Wishes, apply
from lacertus.services.people.rights import ROLES, Role, act_as
from lacertus.settings import settings
from lacertus.store import apart
from lacertus.store.tables import Academy, Account, SignIn

LEAST_PASSWORD = 10
LONGEST_PASSWORD = 300
SEEN_EVERY = timedelta(minutes=5)
"""How often it is noted that a browser is still in use."""
DEVICE_SALT = "lacertus.device"
LONGEST_DEVICE = 400


@dataclass(frozen=True, kw_only=True)
class Coach:
    """Who is signed in, in which role, and to which academy."""

    id: uuid.UUID
    academy_id: uuid.UUID
    name: str
    email: str
    academy: str
    role: Role
    has_second_factor: bool = False
    lacks_second_factor: bool = False
    """The academy asks for one, and this account has none yet: it may do nothing but set it up."""
    sign_in: uuid.UUID | None = None
    """The browser that it is signed in with."""


@cache
def _hasher() -> PasswordHash:
    return PasswordHash.recommended()


@cache
def _nobodys_hash() -> str:
    """Checked when no account fits, so that an unknown e-mail takes as long as a wrong password."""
    return _hasher().hash(secrets.token_hex(16))


def create_academy(db: Session, name: str, wishes: Wishes | None = None) -> Academy:
    """Make an empty academy; raises BadInput where its name or its settings do not fit."""
    academy = Academy(name=name)
    apply(academy, wishes or Wishes(name=name))
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


def create_account(db: Session, academy: uuid.UUID, email: str, name: str, password: str, role: Role | None = None) -> Account:
    """Add an account. The first one of an academy is its owner's, the others are coaches, unless a role is given.

    Raises:
        BadInput: the password is too short, or the e-mail is none.
    """
    if "@" not in email:
        raise BadInput("this is not an e-mail address")
    if role is None:
        role = "owner" if db.scalar(select(Account.id).where(Account.academy_id == academy).limit(1)) is None else "coach"
    account = Account(academy_id=academy, email=email.strip().lower(), name=checked_name(name, "a name"), role=role)
    set_password(account, password)
    db.add(account)
    db.flush()
    return account


def set_password(account: Account, password: str) -> None:
    """Raises BadInput where it is too short or too long."""
    if len(password) < LEAST_PASSWORD:
        raise BadInput(f"a password has at least {LEAST_PASSWORD} characters")
    if len(password) > LONGEST_PASSWORD:
        raise BadInput(f"a password has at most {LONGEST_PASSWORD} characters")
    account.password_hash = _hasher().hash(password)


def change_own(
    db: Session, coach: Coach, password: str, *, name: str | None = None, email: str | None = None, new_password: str | None = None
) -> None:
    """Change what an account signs in with, or its name. A new password signs every other device out.

    Args:
        password: the current one, asked again as the browser may have been left open.

    Raises:
        WrongPassword: it is not the current one.
        TooManyTries: too many wrong ones within a quarter of an hour.
        BadInput: a name, an address or a password does not fit.
        Conflict: somebody has an account with this e-mail already.
    """
    # An open session is not to be a place to guess at: tries count as those of a device do.
    keys = attempts.keys_of("", "", f"account {coach.id}")
    counted = attempts.note(db, keys)
    with attempts.turn_to_hash():
        fits = _hasher().verify(password, db.get_one(Account, coach.id).password_hash)
    if not fits:
        raise WrongPassword()
    attempts.forgive(db, keys, counted)
    account = db.get_one(Account, coach.id, with_for_update=True)
    if name is not None:
        account.name = checked_name(name, "a name", 100)
    if email is not None:
        email = checked_address(email).lower()
        with apart.everywhere(db):
            taken = db.scalar(select(Account.id).where(Account.email == email, Account.id != coach.id))
        if taken is not None:
            raise Conflict("Somebody has an account with this e-mail address already. Nothing was changed.")
        account.email = email
        audit.write(db, coach.academy_id, "e-mail changed", account.name)
    if new_password is not None:
        set_password(account, new_password)
        db.execute(delete(SignIn).where(SignIn.account_id == coach.id, SignIn.id != coach.sign_in))
        audit.write(db, coach.academy_id, "password changed", account.name)
    db.flush()


@dataclass(frozen=True, kw_only=True)
class Opened:
    """A session that was opened: its token, and the token of the device, by which it is known again."""

    token: str
    device: str


def sign_in(
    db: Session, email: str, password: str, address: str = "", device: str | None = None, code: str = "", kind: str = ""
) -> Opened:
    """Check a password and open a session.

    An attempt that fails is kept for a while, to slow down guessing (`attempts`), and nothing else is written.

    Args:
        address: where it comes from.
        device: what the browser has from an earlier time, if anything.
        code: of the second factor, for accounts that have one.
        kind: what kind of device it is, in a word, to be told from others later.

    Raises:
        SignInRefused: no account with this e-mail and password, or the code is wrong.
        CodeNeeded: the password is right, and a code of the second factor is needed as well.
        TooManyTries: too many wrong ones within a quarter of an hour.
        Busy: too many passwords are being checked.
    """
    email = email.strip().lower()
    account = db.scalar(select(Account).where(Account.email == email, Account.left_at.is_(None)))
    known = account is not None and _is_device_of(db, account, device)
    keys = attempts.keys_of(email, address, device if known else None)
    counted = attempts.note(db, keys)
    # Nothing of the database is held meanwhile: checking takes a while, and may have to wait.
    with attempts.turn_to_hash():
        fits = _hasher().verify(password, account.password_hash if account else _nobodys_hash())
    if account is None or not fits:
        raise SignInRefused()
    if account.totp_secret is not None:
        if not code:
            # The attempt still counts, so that nobody learns of a right password more often than they may guess.
            raise CodeNeeded()
        account = db.get_one(Account, account.id, with_for_update=True)
        if not second_factor.fits(account, code):
            raise WrongCode()
    attempts.forgive(db, keys, counted)
    audit.write(db, account.academy_id, "signed in", kind, who=account.name)
    return Opened(token=_open_session(db, account, kind), device=device if known and device else _device_of(db, account))


def note_attempt(db: Session, email: str, address: str) -> None:
    """Count something else that can be guessed or sent too often; raises TooManyTries as signing in does."""
    attempts.note(db, attempts.keys_of(email.strip().lower(), address, None))


def open_for(db: Session, account: Account, kind: str = "") -> Opened:
    """Sign somebody in who has just proved who they are by a link."""
    return Opened(token=_open_session(db, account, kind), device=_device_of(db, account))


def _open_session(db: Session, account: Account, kind: str = "") -> str:
    token, now = secrets.token_urlsafe(32), datetime.now(UTC)
    db.execute(delete(SignIn).where(SignIn.expires_at < now))
    expires = now + timedelta(hours=settings().session_hours)
    db.add(SignIn(token_hash=token_hash(token), account_id=account.id, expires_at=expires, device=kind))
    db.flush()
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
    return URLSafeSerializer(site.secret(db), salt=f"{DEVICE_SALT}.{token_hash(account.password_hash)}")


def signed_in(db: Session, token: str | None) -> Coach:
    """Who a token belongs to; from here on the session works for them, with their rights.

    Raises:
        NotSignedIn: nobody, or it has expired.
    """
    return _signed_in(db, SignIn.token_hash == token_hash(token or ""))


def fully_signed_in(db: Session, token: str | None) -> Coach:
    """The same, of whoever may do more than see to their own account; raises SecondFactorLacking where they may not yet."""
    coach = signed_in(db, token)
    if coach.lacks_second_factor:
        raise SecondFactorLacking()
    return coach


def again(db: Session, coach: Coach) -> Coach:
    """Somebody who is signed in, as their account is by now; raises NotSignedIn where it was ended meanwhile."""
    return _signed_in(db, SignIn.id == coach.sign_in)


def _signed_in(db: Session, fits: ColumnElement[bool]) -> Coach:
    now = datetime.now(UTC)
    apart.anew(db)
    # From here on the database shows nothing of other academies: narrowed by the same statement that finds out whose this is.
    found = select(Account, Academy, SignIn, apart.set_to(Academy.id)).join(SignIn, SignIn.account_id == Account.id)
    found = found.join(Academy, Academy.id == Account.academy_id)
    row = db.execute(found.where(fits, SignIn.expires_at > now)).first()
    if row is None:
        raise NotSignedIn()
    account, academy, opened, _ = row
    apart.works_for(db, academy.id)
    if now - opened.seen_at > SEEN_EVERY:
        opened.seen_at = now
    role: Role = next(role for role in ROLES if role == account.role)
    act_as(db, role)
    audit.act_for(db, account.name)
    has = account.totp_secret is not None
    return Coach(
        id=account.id, academy_id=academy.id, name=account.name, email=account.email, academy=academy.name, role=role,
        has_second_factor=has, lacks_second_factor=academy.needs_second_factor and not has, sign_in=opened.id,
    )  # fmt: skip


def sign_out(db: Session, token: str | None) -> None:
    db.execute(delete(SignIn).where(SignIn.token_hash == token_hash(token or "")))


def token_hash(token: str) -> str:
    """What is stored of a token that opens something: not the token itself."""
    return hashlib.sha256(token.encode()).hexdigest()
