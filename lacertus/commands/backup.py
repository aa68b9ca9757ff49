"""`lacertus backup`, `backup-key` and `restore`: looking after a site's data."""

from __future__ import annotations

import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from lacertus.core.errors import BadInput

AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]


def _say(text: str) -> None:
    print(text, file=sys.stderr, flush=True)


def backup(
    out: Annotated[Path | None, typer.Argument(metavar="FILE")] = None,
    nightly: Annotated[bool, typer.Option("--nightly", help="Today's, into LACERTUS_BACKUP_DIR.")] = False,
    public_key: Annotated[
        str | None, typer.Option(help="Encrypt for this key; LACERTUS_BACKUP_KEY unless given.", metavar="AGE1…")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Write the database and all media of one moment into one file, while the site runs."""
    from lacertus.local.backup import back_up
    from lacertus.local.backup.nightly import run
    from lacertus.settings import settings
    from lacertus.store.private import keep_private

    # Also while it is written the file is for this account alone.
    keep_private()
    if nightly == (out is not None):
        raise BadInput("name the file to write, or ask for --nightly")
    if out is not None:
        back_up(out, _say, settings().backup_key if public_key is None else public_key)
    made = run(_say) if out is None else out
    print(json.dumps({"file": made and str(made)})) if as_json else typer.echo(
        str(made or "today's backup is there already, or is being written")
    )


def backup_key(file: Path, as_json: AsJson = False) -> None:
    """Make a key for backups: the secret goes into FILE, to be kept elsewhere; the public key is printed."""
    from lacertus.local.backup.sealing import make_key

    made = make_key(file)
    print(json.dumps({"file": str(file), "public_key": made})) if as_json else typer.echo(made)


def restore(
    file: Path,
    key: Annotated[Path | None, typer.Option(help="The file of the secret key, where the backup is encrypted.")] = None,
    as_json: AsJson = False,
) -> None:
    """Restore a backup into an empty database, and check that all of it is there."""
    from lacertus.local.backup import restore as put_back
    from lacertus.store.private import keep_private

    keep_private()
    found = put_back(file, _say, key)
    if as_json:
        print(json.dumps({"restored": str(file), **asdict(found)}))
    else:
        typer.echo(f"restored and checked: {found.files} media files")
