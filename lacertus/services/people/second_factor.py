"""The second factor: codes of six digits from an app, by time (TOTP)."""

from __future__ import annotations

import time
import uuid

import pyotp
from itsdangerous import BadData, URLSafeTimedSerializer
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services import site
from lacertus.services.errors import Conflict
from lacertus.services.people import audit
from lacertus.store.tables import Academy, Account

STEP_S = 30
_OFFER_S = 900
_SALT = "lacertus.second-factor"


def offer(db: Session, account_id: uuid.UUID) -> tuple[str, str]:
    """A new secret, as the address that apps read as a QR code, and signed, for `turn_on`. Nothing is stored yet."""
    account = db.get_one(Account, account_id)
    secret = pyotp.random_base32()
    address = pyotp.TOTP(secret, interval=STEP_S).provisioning_uri(name=account.email, issuer_name="Lacertus")
    return address, _signer(db).dumps([str(account_id), secret])


def turn_on(db: Session, account_id: uuid.UUID, offered: str, code: str) -> None:
    """Ask for codes from now on, once a first one was typed.

    Raises:
        BadInput: the offer is too old, or the code is not its.
    """
    try:
        owner, secret = _signer(db).loads(offered, max_age=_OFFER_S)
    except BadData as error:
        raise BadInput("this code was offered too long ago; begin anew") from error
    if owner != str(account_id):
        raise BadInput("this code was offered to somebody else; begin anew")
    account = db.get_one(Account, account_id, with_for_update=True)
    step = _step_of(secret, code)
    if step is None:
        raise BadInput("this is not the code that the app shows now; nothing was changed")
    account.totp_secret, account.totp_used = secret, step
    audit.write(db, account.academy_id, "second factor turned on", account.name)


def turn_off(db: Session, account_id: uuid.UUID) -> None:
    """Ask for no codes any more.

    Raises:
        Conflict: the academy asks everybody for them.
    """
    account = db.get_one(Account, account_id)
    if db.get_one(Academy, account.academy_id).needs_second_factor:
        raise Conflict("Your academy asks everybody for a second factor. Nothing was changed.")
    forget(db, account)


def forget(db: Session, account: Account) -> None:
    account.totp_secret = account.totp_used = None
    audit.write(db, account.academy_id, "second factor turned off", account.name)


def fits(account: Account, code: str) -> bool:
    """Whether a code is the account's, and has not been used before; it is used up then."""
    assert account.totp_secret is not None
    step = _step_of(account.totp_secret, code)
    if step is None or (account.totp_used is not None and step <= account.totp_used):
        return False
    account.totp_used = step
    return True


def _step_of(secret: str, code: str) -> int | None:
    """The time step of a code: that of now, or the one before or after, as clocks differ."""
    now = int(time.time()) // STEP_S
    totp = pyotp.TOTP(secret, interval=STEP_S)
    digits = code.replace(" ", "")
    return next((now + off for off in (0, -1, 1) if pyotp.utils.strings_equal(totp.generate_otp(now + off), digits)), None)


def _signer(db: Session) -> URLSafeTimedSerializer:
    return URLSafeTimedSerializer(site.secret(db), salt=_SALT)
