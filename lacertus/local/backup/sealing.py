"""Encrypting a backup for a key whose secret half is kept elsewhere, by the age format (pyrage)."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

import pyrage

from lacertus.core.errors import BadInput
from lacertus.local.backup.archive import BadBackup

HEAD = b"age-encryption.org/"
"""A sealed file begins with it."""


class BadKeyFile(BadInput):
    """This is no key for backups. Nothing was done."""


def make_key(file: Path) -> str:
    """Write a new secret key into a file that only its owner may read; returns the public key to encrypt for.

    Raises:
        BadKeyFile: there is a file of that name.
    """
    identity = pyrage.x25519.Identity.generate()
    try:
        handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError as error:
        raise BadKeyFile(f"{file} is there already; a key is never overwritten") from error
    with os.fdopen(handle, "w") as out:
        out.write(f"# public key: {identity.to_public()}\n{identity}\n")
    return str(identity.to_public())


def recipient_of(text: str) -> pyrage.x25519.Recipient:
    """A public key as it is written.

    Raises:
        BadKeyFile: it is none.
    """
    try:
        return pyrage.x25519.Recipient.from_str(text.strip())
    except pyrage.RecipientError as error:
        raise BadKeyFile("this is not a public key for backups; make one with `lacertus backup-key FILE`") from error


def is_sealed(file: Path) -> bool:
    with file.open("rb") as content:
        return content.read(len(HEAD)) == HEAD


def seal(target: Path, public_key: str, write: Callable[[BinaryIO], None]) -> None:
    """Encrypt into a file what `write` writes, as it comes.

    Raises:
        BadKeyFile: the public key is none.
        OSError: the file cannot be written.
    """
    recipient = recipient_of(public_key)
    out_of, into = os.pipe()
    failed: list[BaseException] = []

    def feed() -> None:
        try:
            with os.fdopen(into, "wb") as sink:
                write(sink)
        except BaseException as error:  # noqa: BLE001 (raised again by whoever waits for this thread)
            failed.append(error)

    with os.fdopen(out_of, "rb") as source, target.open("wb") as out:
        thread = threading.Thread(target=feed)
        thread.start()
        try:
            pyrage.encrypt_io(source, out, [recipient])
        finally:
            # A writer that still writes is told that nobody reads.
            source.close()
            thread.join()
    if failed:
        raise failed[0]


def unseal(file: Path, key_file: Path | None, target: Path) -> None:
    """Decrypt a backup into a file.

    Raises:
        BadKeyFile: there is no key, or it is none.
        BadBackup: it was encrypted for another key, or is not whole.
    """
    if key_file is None:
        raise BadKeyFile(f"{file.name} is encrypted; name the file of its secret key with --key")
    try:
        lines = [line for line in key_file.read_text().splitlines() if line.strip() and not line.startswith("#")]
        identities = [pyrage.x25519.Identity.from_str(line.strip()) for line in lines]
    except (OSError, UnicodeDecodeError, pyrage.IdentityError) as error:
        raise BadKeyFile(f"{key_file} holds no secret key for backups") from error
    try:
        with file.open("rb") as source, target.open("wb") as out:
            pyrage.decrypt_io(source, out, identities)
    except (pyrage.DecryptError, OSError) as error:
        raise BadBackup(f"{file.name} was encrypted for another key, or is not whole; nothing was changed") from error
