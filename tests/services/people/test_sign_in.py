"""Guessing passwords is slowed down; nobody whose password is guessed is shut out."""

from __future__ import annotations

import threading
from datetime import UTC, datetime, timedelta

import pytest
import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.services.errors import Busy, SignInRefused, TooManyTries
from lacertus.services.people import accounts, attempts
from lacertus.store import database
from lacertus.store.tables import Account, SignInAttempt
from tests.halls import EMAIL, PASSWORD, Hall, hall

HERE, THERE = "203.0.113.7", "198.51.100.9"


def refused(db: Session, times: int, email: str = EMAIL, address: str = THERE, device: str | None = None) -> None:
    for _ in range(times):
        with pytest.raises(SignInRefused, match="E-mail or password is wrong"):
            accounts.sign_in(db, email, "a wrong guess", address, device)


def test_a_stranger_who_guesses_does_not_shut_the_coach_out(db: Session, where: Hall) -> None:
    refused(db, attempts.MOST_FAILURES)
    with pytest.raises(TooManyTries, match="Too many wrong passwords"):
        accounts.sign_in(db, EMAIL, PASSWORD, THERE)
    assert accounts.sign_in(db, EMAIL, PASSWORD, HERE).token


def test_a_device_that_has_signed_in_before_gets_in_from_the_same_address_too(db: Session, where: Hall) -> None:
    """The stranger sits in the same hall, behind the same address."""
    device = accounts.sign_in(db, EMAIL, PASSWORD, HERE).device
    refused(db, attempts.MOST_FAILURES, address=HERE)
    with pytest.raises(TooManyTries, match="Too many wrong passwords"):
        accounts.sign_in(db, EMAIL, PASSWORD, HERE)
    opened = accounts.sign_in(db, EMAIL, PASSWORD, HERE, device)
    assert opened.device == device


def test_a_known_device_may_not_guess_for_ever_either(db: Session, where: Hall) -> None:
    device = accounts.sign_in(db, EMAIL, PASSWORD, HERE).device
    refused(db, attempts.MOST_FAILURES, address=HERE, device=device)
    with pytest.raises(TooManyTries, match="Too many wrong passwords"):
        accounts.sign_in(db, EMAIL, PASSWORD, HERE, device)


@pytest.mark.parametrize("trick", ["made up", "of another account", "of an old password", "altered"])
def test_a_device_that_is_none_counts_for_nothing(db: Session, where: Hall, trick: str) -> None:
    hall(db, "Other", "other@example.test")
    own = accounts.sign_in(db, EMAIL, PASSWORD, HERE).device
    device = {
        "made up": "WyJhIiwiYiJd.abc",
        "of another account": accounts.sign_in(db, "other@example.test", PASSWORD, HERE).device,
        "of an old password": own,
        "altered": own[:-1] + ("A" if own[-1] != "A" else "B"),
    }[trick]
    if trick == "of an old password":
        another = accounts._hasher().hash("another one now")
        db.execute(sa.update(Account).where(Account.email == EMAIL).values(password_hash=another))
    refused(db, attempts.MOST_FAILURES, address=HERE, device=device)
    with pytest.raises(TooManyTries, match="Too many wrong passwords"):
        accounts.sign_in(db, EMAIL, PASSWORD, HERE, device)


def test_a_spray_over_many_accounts_ends_too(db: Session, where: Hall) -> None:
    for number in range(attempts.MOST_OF_ADDRESS):
        refused(db, 1, f"somebody{number}@example.test")
    with pytest.raises(TooManyTries, match="Too many wrong passwords"):
        accounts.sign_in(db, EMAIL, PASSWORD, THERE)
    assert accounts.sign_in(db, EMAIL, PASSWORD, HERE).token


@pytest.mark.parametrize(
    ("one", "other", "same"),
    [
        ("2001:db8:1:2::1", "2001:db8:1:2:ffff::9", True),
        ("2001:db8:1:2::1", "2001:db8:1:3::1", False),
        ("::ffff:203.0.113.7", "203.0.113.7", True),
        ("203.0.113.7", "203.0.113.8", False),
        ("no address", "", True),
    ],
)
def test_an_address_is_what_one_sender_has(one: str, other: str, same: bool) -> None:
    assert (attempts.bucket_of(one) == attempts.bucket_of(other)) == same


def test_many_guesses_at_once_are_no_more_than_in_a_row(db: Session, where: Hall) -> None:
    counted: list[bool] = []
    keys = attempts.keys_of(EMAIL, THERE, None)
    ready = threading.Barrier(12)

    def guess() -> None:
        ready.wait(10)
        for _ in range(4):
            try:
                with database.session() as own:
                    attempts.note(own, keys)
                counted.append(True)
            except TooManyTries:
                counted.append(False)

    threads = [threading.Thread(target=guess) for _ in range(12)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert (len(counted), sum(counted)) == (48, attempts.MOST_FAILURES)


def test_old_attempts_no_longer_count_and_are_cleared_away(db: Session, where: Hall) -> None:
    refused(db, attempts.MOST_FAILURES)
    db.execute(sa.update(SignInAttempt).values(at=datetime.now(UTC) - attempts.KEPT - timedelta(minutes=1)))
    accounts.sign_in(db, EMAIL, PASSWORD, THERE)
    assert db.scalar(sa.select(sa.func.count()).select_from(SignInAttempt)) == 0


def test_what_was_typed_is_not_kept(db: Session, where: Hall) -> None:
    refused(db, 1, "a-password-in-the-wrong-field@example.test")
    assert not any("password" in row.key or "@" in row.key for row in db.scalars(sa.select(SignInAttempt)))


def test_at_most_two_passwords_are_checked_at_once_and_a_few_wait() -> None:
    inside, most, busy = 0, 0, 0
    lock, go = threading.Lock(), threading.Event()

    def check() -> None:
        nonlocal inside, most, busy
        try:
            with attempts.turn_to_hash():
                with lock:
                    inside += 1
                    most = max(most, inside)
                go.wait(10)
                with lock:
                    inside -= 1
        except Busy:
            with lock:
                busy += 1

    threads = [threading.Thread(target=check) for _ in range(40)]
    for thread in threads:
        thread.start()
    while sum(thread.is_alive() for thread in threads) > attempts.MOST_HASHING + attempts.MOST_WAITING:
        pass
    go.set()
    for thread in threads:
        thread.join(30)
    assert most == attempts.MOST_HASHING
    assert busy == 40 - attempts.MOST_HASHING - attempts.MOST_WAITING
