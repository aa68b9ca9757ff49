"""Films, uploads and mails are for the account alone that runs Lacertus: other users of the machine cannot read them."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from lacertus.settings import settings


def keep_private() -> None:
    """From here on this process makes files for its own account alone, and the folders that it writes to are closed to others."""
    os.umask(0o077)
    now = settings()
    folders = [now.uploads_dir, now.work_dir, now.outbox_dir]
    if now.media_url.startswith("file://"):
        folders.append(now.media_url.removeprefix("file://"))
    for name in folders:
        folder = Path(name).absolute()
        if not folder.is_dir():
            continue
        # Another account's folder is left as its owner wants it: what is written into it is private all the same.
        with suppress(PermissionError):
            folder.chmod(0o700)
