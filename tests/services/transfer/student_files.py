"""Students' files for tests: a whole one, its rows, and others with other rows."""

from __future__ import annotations

import json
import uuid
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.core.sheets.words import read_words
from lacertus.services.corrections import correct, examples
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepChanges
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import student_out
from lacertus.services.transfer.archive_child import ROWS as NAME
from lacertus.services.transfer.rows import PARTS
from lacertus.store.media import media
from tests.drawn import default_of_rep
from tests.halls import Hall, cut

UUID = r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}"


def written(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truths: dict[str, Any], tmp_path: Path) -> Path:
    """The file of a student with a finished and revised review, a linked rep, a correction with voice, and an adaptation."""
    second = cut(db, where, review, truths["constant"]["reps"][0])
    reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"linked_to": second}))
    drawn = default_of_rep(db, where, rep)
    correct.keep_voice(db, where.academy, drawn.id, b"sound", 2.0)
    examples.put_example(db, where.academy, drawn.id, "reference")
    finishing.finish(db, where.academy, review)
    finishing.change_words(db, where.academy, review, read_words({"good": "Hands up."}))
    # A worker that runs beside the tests is not to add pictures meanwhile.
    db.execute(sa.text("delete from procrastinate_jobs"))
    db.commit()
    target = tmp_path / "student.zip"
    student_out.write(db, where.academy, where.student, target)
    return target


def clips_with_files() -> set[str]:
    """The clips that have media. A worker that runs beside the tests may still add to one of them, but never begins one."""
    return {key.split("/")[1] for key in media().files("clips")}


def rows(path: Path) -> dict[str, Any]:
    """All rows of a file, those in entries of their own among the others, as in a file of version 1."""
    with zipfile.ZipFile(path) as file:
        found: dict[str, Any] = json.loads(file.read(NAME))
        for name in PARTS:
            entries = [entry for entry in sorted(file.namelist()) if entry.startswith(f"{name}/")]
            found[name] = [row for entry in entries for row in json.loads(file.read(entry))]
    return found


def changed(whole: Path, change: Callable[[dict[str, Any]], object], extra: dict[str, bytes] | None = None) -> Path:
    """The file with other rows, and with other entries."""
    data = rows(whole)
    change(data)
    target = whole.with_name(f"{uuid.uuid4().hex}.zip")
    with zipfile.ZipFile(whole) as old, zipfile.ZipFile(target, "w") as new:
        for entry in old.infolist():
            if entry.filename != NAME and not entry.filename.endswith(".json"):
                new.writestr(entry, old.read(entry))
        new.writestr(NAME, json.dumps(data))
        for name, content in (extra or {}).items():
            new.writestr(name, content)
    return target


def first(data: dict[str, Any], table: str, /, **values: Any) -> None:
    data[table][0].update(values)
