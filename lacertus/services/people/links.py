"""Links that are used once and expire: to set up an academy, to join one, and to choose a new password.

Only the hash of a link's token is stored. Whoever makes a link is shown it once, to copy it; with an e-mail address it is mailed.
"""

from __future__ import annotations

import secrets
import uuid
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_name
from lacertus.outputs.mail import checked_address
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import accounts, audit
from lacertus.services.people.academies import Wishes
from lacertus.services.people.rights import ROLES, Right, Role, needs
from lacertus.store import apart
from lacertus.store.tables import Academy, Account, AccountLink, SignIn

Kind = Literal["setup", "invite", "reset"]
VALID = {"setup": timedelta(hours=24), "invite": timedelta(days=7), "reset": timedelta(hours=2)}
GONE = "This link was used before, has expired or was withdrawn. Ask for a new one."


@dataclass(frozen=True, kw_only=True)
class Made:
    """A link that was made just now. Its token is known here alone."""

    link: AccountLink
    token: str


@dataclass(frozen=True, kw_only=True)
class Opened:
    """What a link is for."""

    kind: Kind
    academy: str
    email: str
    name: str
    role: str


def setup(db: Session) -> Made:
    """A link by which an owner sets up a new academy."""
    return _make(db, "setup")


@needs(Right.PEOPLE)
def invite(db: Session, academy: uuid.UUID, email: str, name: str, role: str, by: uuid.UUID | None = None) -> Made:
    """Invite somebody to the academy.

    Raises:
        BadInput: no such role, no name, or no e-mail address.
        Conflict: somebody has an account with this e-mail already.
    """
    email = checked_address(email).lower()
    if role not in ROLES:
        raise BadInput(f"a role is one of {', '.join(ROLES)}")
    _check_free(db, email)
    made = _make(db, "invite", academy, by, email, checked_name(name, "a name", 100), role)
    audit.write(db, academy, f"invited as {role}", email)
    return made


@needs(Right.PEOPLE)
def reset(db: Session, academy: uuid.UUID, account_id: uuid.UUID) -> Made:
    """A link by which somebody of the academy chooses a new password.

    Raises:
        NotFound: no such account in this academy.
    """
    account = db.scalar(select(Account).where(Account.id == account_id, Account.academy_id == academy, Account.left_at.is_(None)))
    if account is None:
        raise NotFound("There is no such account in your academy.")
    return _reset(db, account)


def reset_asked(db: Session, email: str) -> Made | None:
    """The same for whoever has forgotten it; None where nobody has this e-mail, of which the answer tells nothing."""
    account = db.scalar(select(Account).where(Account.email == email.strip().lower(), Account.left_at.is_(None)))
    return None if account is None else _reset(db, account)


def _reset(db: Session, account: Account) -> Made:
    audit.write(db, account.academy_id, "link for a new password made", account.name)
    return _make(db, "reset", account.academy_id, account.id, account.email, account.name)


def _make(
    db: Session,
    kind: Kind,
    academy: uuid.UUID | None = None,
    account: uuid.UUID | None = None,
    email: str = "",
    name: str = "",
    role: str = "",
) -> Made:
    token = secrets.token_urlsafe(32)
    link = AccountLink(
        token_hash=accounts.token_hash(token), kind=kind, academy_id=academy, account_id=account, email=email, name=name, role=role,
        expires_at=datetime.now(UTC) + VALID[kind],
    )  # fmt: skip
    db.add(link)
    db.flush()
    return Made(link=link, token=token)


@needs(Right.PEOPLE)
def waiting(db: Session, academy: uuid.UUID) -> list[AccountLink]:
    """Invitations that are neither used nor expired."""
    valid = (AccountLink.used_at.is_(None), AccountLink.expires_at > datetime.now(UTC))
    found = select(AccountLink).where(AccountLink.academy_id == academy, AccountLink.kind == "invite", *valid)
    return list(db.scalars(found.order_by(AccountLink.created_at)))


@needs(Right.PEOPLE)
def withdraw(db: Session, academy: uuid.UUID, link_id: uuid.UUID) -> None:
    """Make an invitation worthless; raises NotFound where there is none."""
    link = next((link for link in waiting(db, academy) if link.id == link_id), None)
    if link is None:
        raise NotFound("There is no such invitation.")
    db.delete(link)
    audit.write(db, academy, "invitation withdrawn", link.email)


def look(db: Session, token: str) -> Opened:
    """What a link is for, without using it; raises NotFound where it is not valid."""
    link = _valid(db, token)
    academy = "" if link.academy_id is None else db.get_one(Academy, link.academy_id).name
    kind: Kind = "setup" if link.kind == "setup" else "invite" if link.kind == "invite" else "reset"
    return Opened(kind=kind, academy=academy, email=link.email, name=link.name, role=link.role)


def set_up(db: Session, token: str, wishes: Wishes, email: str, name: str, password: str) -> Account:
    """Make an academy with its owner by a link.

    Raises:
        NotFound: the link is not valid.
        BadInput: something is missing or does not fit; the link stays valid.
        Conflict: somebody has an account with this e-mail already.
    """
    link = _valid(db, token, "setup")
    email = checked_address(email).lower()
    _check_free(db, email)
    academy = accounts.create_academy(db, wishes.name, wishes)
    account = accounts.create_account(db, academy.id, email, name, password, "owner")
    _use(link)
    audit.write(db, academy.id, "academy set up", account.name, who=account.name)
    return account


def join(db: Session, token: str, name: str, password: str) -> Account:
    """Make an account by an invitation; raises as `set_up`."""
    link = _valid(db, token, "invite")
    assert link.academy_id is not None
    _check_free(db, link.email)
    role: Role = next(role for role in ROLES if role == link.role)
    account = accounts.create_account(db, link.academy_id, link.email, name, password, role)
    _use(link)
    audit.write(db, link.academy_id, f"joined as {role}", account.name, who=account.name)
    return account


def choose_password(db: Session, token: str, password: str) -> Account:
    """Set a new password by a link; every device of the account is signed out. Raises as `set_up`."""
    link = _valid(db, token, "reset")
    assert link.account_id is not None
    account = db.get_one(Account, link.account_id)
    accounts.set_password(account, password)
    for signed in db.scalars(select(SignIn).where(SignIn.account_id == account.id)):
        db.delete(signed)
    _use(link)
    audit.write(db, account.academy_id, "new password by a link", account.name, who=account.name)
    return account


def _valid(db: Session, token: str, kind: Kind | None = None) -> AccountLink:
    found = select(AccountLink).where(AccountLink.token_hash == accounts.token_hash(token)).with_for_update()
    link = db.scalar(found)
    if link is None or link.used_at is not None or link.expires_at <= datetime.now(UTC) or kind not in (None, link.kind):
        raise NotFound(GONE)
    return link


def _use(link: AccountLink) -> None:
    link.used_at = datetime.now(UTC)


def _check_free(db: Session, email: str) -> None:
    with apart.everywhere(db):
        taken = db.scalar(select(Account.id).where(Account.email == email))
    if taken is not None:
        raise Conflict("Somebody has an account with this e-mail address already. Nothing was changed.")
