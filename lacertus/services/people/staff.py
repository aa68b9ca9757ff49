"""The people of an academy who sign in: their roles, their devices, and who has left."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import audit, second_factor
from lacertus.services.people.rights import ROLES, Right, needs
from lacertus.store.tables import Academy, Account, SignIn

LAST_OWNER = "An academy needs an owner. Make somebody else an owner first. Nothing was changed."


def everyone(db: Session, academy: uuid.UUID) -> list[Account]:
    """All who have or had an account, those who left last."""
    found = select(Account).where(Account.academy_id == academy).order_by(Account.left_at.is_not(None), Account.name)
    return list(db.scalars(found))


@needs(Right.PEOPLE)
def change_role(db: Session, academy: uuid.UUID, account_id: uuid.UUID, role: str) -> Account:
    """Give somebody another role.

    Raises:
        BadInput: no such role.
        NotFound: no such account in this academy.
        Conflict: it is the last owner.
    """
    if role not in ROLES:
        raise BadInput(f"a role is one of {', '.join(ROLES)}")
    account = _of(db, academy, account_id)
    if role != "owner":
        _check_not_last_owner(db, account)
    if account.role != role:
        account.role = role
        audit.write(db, academy, f"made {role}", account.name)
    db.flush()
    return account


@needs(Right.PEOPLE)
def leave(db: Session, academy: uuid.UUID, account_id: uuid.UUID) -> Account:
    """End an account: it is signed out everywhere and cannot sign in again. Its name stays on what it judged.

    Raises:
        NotFound: no such account in this academy.
        Conflict: it is the last owner.
    """
    account = _of(db, academy, account_id)
    _check_not_last_owner(db, account)
    account.left_at = datetime.now(UTC)
    # So that the address can be invited again; nobody can sign in with what stands there now.
    account.email = f"left-{account.id}"
    account.password_hash, account.totp_secret = "", None
    db.execute(delete(SignIn).where(SignIn.account_id == account.id))
    audit.write(db, academy, "account ended", account.name)
    db.flush()
    return account


@needs(Right.PEOPLE)
def forget_second_factor(db: Session, academy: uuid.UUID, account_id: uuid.UUID) -> None:
    """For somebody who has lost their phone; raises NotFound where there is no such account."""
    second_factor.forget(db, _of(db, academy, account_id))


def devices(db: Session, account_id: uuid.UUID) -> list[SignIn]:
    """The browsers in which an account is signed in, the one used last first."""
    found = select(SignIn).where(SignIn.account_id == account_id, SignIn.expires_at > datetime.now(UTC))
    return list(db.scalars(found.order_by(SignIn.seen_at.desc())))


def sign_out_device(db: Session, account_id: uuid.UUID, sign_in_id: uuid.UUID) -> None:
    """Sign one browser out; raises NotFound where it is not signed in."""
    gone = delete(SignIn).where(SignIn.account_id == account_id, SignIn.id == sign_in_id).returning(SignIn.id)
    if db.scalar(gone) is None:
        raise NotFound("This device is not signed in any more.")


def sign_out_others(db: Session, account_id: uuid.UUID, own: uuid.UUID | None) -> int:
    """Sign out every browser but one's own; returns how many."""
    gone = delete(SignIn).where(SignIn.account_id == account_id, SignIn.id != own).returning(SignIn.id)
    return len(list(db.scalars(gone)))


def _of(db: Session, academy: uuid.UUID, account_id: uuid.UUID) -> Account:
    found = db.scalar(select(Account).where(Account.id == account_id, Account.academy_id == academy, Account.left_at.is_(None)))
    if found is None:
        raise NotFound("There is no such account in your academy.")
    return found


def _check_not_last_owner(db: Session, account: Account) -> None:
    """Two owners who step down at the same moment wait for each other."""
    db.execute(select(Academy.id).where(Academy.id == account.academy_id).with_for_update())
    db.refresh(account)
    owners = select(func.count()).where(
        Account.academy_id == account.academy_id, Account.role == "owner", Account.left_at.is_(None), Account.id != account.id
    )
    if account.role == "owner" and not db.scalar(owners):
        raise Conflict(LAST_OWNER)
