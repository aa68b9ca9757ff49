"""Accounts, signing in, and students."""

from __future__ import annotations

import csv
import hashlib
import io
import secrets
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import cache
from typing import Any

from pwdlib import PasswordHash
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.outputs.mail import checked_address
from lacertus.services.errors import NotFound, SignInRefused, TooManyTries
from lacertus.settings import settings
from lacertus.store.tables import Academy, Account, FailedSignIn, SignIn, Student

MOST_FAILURES = 10
FAILURES_KEPT = timedelta(minutes=15)
LEAST_PASSWORD = 10


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
    academy = Academy(name=checked_text(name, "the academy’s name"))
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
        raise BadInput("this is no e-mail address")
    account = Account(
        academy_id=academy, email=email.strip().lower(), name=checked_text(name, "a name"), password_hash=_hasher().hash(password)
    )
    db.add(account)
    db.flush()
    return account


def sign_in(db: Session, email: str, password: str) -> str:
    """Check a password and open a session; returns its token.

    A wrong password is kept, to slow down guessing, and nothing else is written.

    Raises:
        SignInRefused: no account with this e-mail and password.
        TooManyTries: ten wrong ones within a quarter of an hour.
    """
    email = email.strip().lower()
    now = datetime.now(UTC)
    recent = select(func.count()).where(FailedSignIn.email == email, FailedSignIn.at > now - FAILURES_KEPT)
    if (db.scalar(recent) or 0) >= MOST_FAILURES:
        raise TooManyTries()
    account = db.scalar(select(Account).where(Account.email == email))
    fits = _hasher().verify(password, account.password_hash if account else _nobodys_hash())
    if account is None or not fits:
        db.add(FailedSignIn(email=email))
        db.commit()
        raise SignInRefused()
    return _open_session(db, account, now)


def _open_session(db: Session, account: Account, now: datetime) -> str:
    token = secrets.token_urlsafe(32)
    db.execute(delete(SignIn).where(SignIn.expires_at < now))
    db.execute(delete(FailedSignIn).where(FailedSignIn.at < now - FAILURES_KEPT))
    db.execute(delete(FailedSignIn).where(FailedSignIn.email == account.email))
    expires = now + timedelta(hours=settings().session_hours)
    db.add(SignIn(token_hash=_hash(token), account_id=account.id, expires_at=expires))
    return token


def signed_in(db: Session, token: str | None) -> Coach:
    """Who a token belongs to.

    Raises:
        SignInRefused: nobody, or it has expired.
    """
    found = select(Account, Academy).join(SignIn, SignIn.account_id == Account.id).join(Academy, Academy.id == Account.academy_id)
    found = found.where(SignIn.token_hash == _hash(token or ""), SignIn.expires_at > datetime.now(UTC))
    row = db.execute(found).first()
    if row is None:
        raise SignInRefused("You are not signed in, or the session has ended. What you saved is kept; sign in again.")
    account, academy = row
    return Coach(id=account.id, academy_id=academy.id, name=account.name, email=account.email, academy=academy.name)


def sign_out(db: Session, token: str | None) -> None:
    db.execute(delete(SignIn).where(SignIn.token_hash == _hash(token or "")))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def students(db: Session, academy: uuid.UUID) -> list[Student]:
    return list(db.scalars(select(Student).where(Student.academy_id == academy).order_by(Student.name)))


def student(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> Student:
    """One student.

    Raises:
        NotFound: not in this academy.
    """
    found = db.scalar(select(Student).where(Student.academy_id == academy, Student.id == student_id))
    if found is None:
        raise NotFound("There is no such student in your academy.")
    return found


def create_student(db: Session, academy: uuid.UUID, name: str, side_policy: str = "both", note: str = "", **more: Any) -> Student:
    """Add a student; `more` is as in `change_student`."""
    created = Student(academy_id=academy, name=checked_text(name, "a student’s name"), side_policy=side_policy, note=note)
    _apply(created, more)
    db.add(created)
    db.flush()
    return created


def change_student(db: Session, academy: uuid.UUID, student_id: uuid.UUID, change: Mapping[str, Any]) -> Student:
    """Change name, side policy, note, e-mail, or whether pictures may stand beside others' corrections.

    Raises:
        BadInput: no name, or no e-mail address.
        NotFound: no such student.
    """
    found = student(db, academy, student_id)
    _apply(found, change)
    db.flush()
    return found


def _apply(found: Student, change: Mapping[str, Any]) -> None:
    for key, value in change.items():
        if key == "name":
            value = checked_text(value, "a student’s name")
        if key == "email" and value:
            value = checked_address(value)
        setattr(found, key, value)


def checked_text(text: str, what: str, most: int = 200) -> str:
    """Trimmed text; raises BadInput where it is empty, too long or holds control characters."""
    text = text.strip()
    if not text:
        raise BadInput(f"{what} is missing")
    if len(text) > most:
        raise BadInput(f"{what} is longer than {most} characters")
    if any(ord(character) < 32 and character not in "\n\t" for character in text):
        raise BadInput(f"{what} holds characters that cannot be shown")
    return text


MOST_ROWS = 5000
_COLUMNS = ("name", "side_policy", "note", "email")
_SIDES = ("both", "left", "right")


def import_students(db: Session, academy: uuid.UUID, text: str) -> list[Student]:
    """Add students from a CSV with a head: `name`, and optionally `side_policy` (both, left, right), `note`, `email`.

    Those whose name is there already are left as they are, so that a list may be sent again.

    Raises:
        BadInput: a column or a row does not fit, with its line; nothing is stored then.
    """
    reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")), strict=True)
    known = {student.name for student in students(db, academy)}
    added: list[Student] = []
    try:
        unknown = set(reader.fieldnames or ()) - set(_COLUMNS)
        if unknown or "name" not in (reader.fieldnames or ()):
            raise BadInput(f"the first line names the columns: name, and any of {', '.join(_COLUMNS[1:])}; nothing was stored")
        for row in reader:
            if reader.line_num > MOST_ROWS:
                raise BadInput(f"a list holds at most {MOST_ROWS} lines; nothing was stored")
            made = _student_of(academy, row, reader.line_num)
            if made.name not in known:
                known.add(made.name)
                added.append(made)
    except csv.Error as error:
        raise BadInput(f"line {reader.line_num}: this is no CSV ({error}); nothing was stored") from error
    db.add_all(added)
    db.flush()
    return added


def _student_of(academy: uuid.UUID, row: Mapping[str | None, Any], line: int) -> Student:
    if None in row or any(value is None for value in row.values()):
        raise BadInput(f"line {line}: it has more or fewer cells than the first line; nothing was stored")
    values = {str(key): str(value).strip() for key, value in row.items()}
    side = values.get("side_policy") or "both"
    if side not in _SIDES:
        raise BadInput(f"line {line}: side_policy is one of {', '.join(_SIDES)}, not “{side[:40]}”; nothing was stored")
    try:
        note = values.get("note", "")
        made = Student(academy_id=academy, name=checked_text(values["name"], "a student’s name"), side_policy=side)
        _apply(made, {"note": checked_text(note, "the note", 2000) if note else "", "email": values.get("email", "")})
    except BadInput as error:
        raise BadInput(f"line {line}: {error}; nothing was stored") from error
    return made
