"""Looking after a site from the command line: back up, restore, write a student out and bring one in."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import tarfile
import uuid
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.services.people import accounts
from lacertus.store.tables import Student
from tests.halls import Hall


def run(*command: str, environment: dict[str, str] | None = None) -> subprocess.CompletedProcess[str]:
    env = os.environ | (environment or {})
    return subprocess.run([sys.executable, "-m", "lacertus.cli", *command], env=env, capture_output=True, text=True, check=False)


@pytest.fixture
def elsewhere(environment: dict[str, str], tmp_path: Path) -> Iterator[dict[str, str]]:
    """An empty database and an empty media folder beside the tests' own."""
    name = f"copy_{uuid.uuid4().hex[:8]}"
    url = environment["LACERTUS_DATABASE_URL"]
    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute(f"create database {name}")
        yield {"LACERTUS_DATABASE_URL": f"{url.rpartition('/')[0]}/{name}", "LACERTUS_MEDIA_URL": f"file://{tmp_path}/copied"}
        connection.execute(f"drop database {name}")


@pytest.fixture
def backup(db: Session, where: Hall, clip: uuid.UUID, tmp_path: Path) -> Path:
    target = tmp_path / "site.tar"
    done = run("backup", str(target), "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout) == {"file": str(target)}
    return target


def test_a_site_is_restored_whole_into_an_empty_one(
    backup: Path, elsewhere: dict[str, str], clip: uuid.UUID, tmp_path: Path
) -> None:
    assert backup.stat().st_mode & 0o077 == 0
    done = run("restore", str(backup), "--json", environment=elsewhere)
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout) == {"restored": str(backup)}
    with psycopg.connect(elsewhere["LACERTUS_DATABASE_URL"]) as connection:
        assert connection.execute("select name from student").fetchall() == [("A Student",)]
        assert connection.execute("select id, state from clip").fetchall() == [(clip, "ready")]
    copied = tmp_path / "copied" / "clips" / str(clip)
    assert (copied / "review.mp4").stat().st_size > 1000
    again = run("restore", str(backup), environment=elsewhere)
    assert (again.returncode, "holds an academy already" in again.stderr) == (2, True)


@pytest.mark.parametrize("case", ["torn", "another file", "a path", "a link", "no dump"])
def test_a_bad_backup_changes_nothing(backup: Path, elsewhere: dict[str, str], tmp_path: Path, case: str) -> None:
    bad = tmp_path / "bad.tar"
    if case == "torn":
        bad.write_bytes(backup.read_bytes()[:3000])
    elif case == "another file":
        bad.write_bytes(b"hello")
    else:
        with tarfile.open(backup) as old, tarfile.open(bad, "w") as new:
            for member in old.getmembers():
                if case != "no dump" or member.name != "database.dump":
                    new.addfile(member, old.extractfile(member))
            evil = tarfile.TarInfo("media/clips/../../../evil" if case == "a path" else "media/clips/link")
            if case == "a link":
                evil.type, evil.linkname = tarfile.SYMTYPE, "/etc/passwd"
            if case != "no dump":
                new.addfile(evil, io.BytesIO())
    done = run("restore", str(bad), environment=elsewhere)
    assert done.returncode == 2
    assert len(done.stderr.strip().splitlines()) <= 3
    with psycopg.connect(elsewhere["LACERTUS_DATABASE_URL"]) as connection:
        assert connection.execute("select to_regclass('academy')").fetchone() == (None,)
    assert not (tmp_path / "copied").exists()


def test_a_student_is_written_out_and_brought_in(db: Session, where: Hall, clip: uuid.UUID, tmp_path: Path) -> None:
    target = tmp_path / "student.zip"
    done = run("export", "student", str(where.student), "--out", str(target), "--json")
    assert json.loads(done.stdout) == {"student": "A Student", "file": str(target)}, done.stderr
    assert target.stat().st_mode & 0o077 == 0
    with zipfile.ZipFile(target) as archive:
        assert f"media/{clip}/original" in archive.namelist()
    accounts.create_academy(db, "Elsewhere")
    db.commit()
    assert run("import", "student", str(target)).returncode == 2
    done = run("import", "student", str(target), "--academy", "Elsewhere", "--json")
    told: dict[str, Any] = json.loads(done.stdout)
    assert (told["name"], told["clips"]) == ("A Student", 1), done.stderr
    assert db.scalar(select(Student.name).where(Student.id == uuid.UUID(told["id"]))) == "A Student"


@pytest.mark.parametrize(
    "command",
    [
        ("export", "student", "nobody"),
        ("export", "student", str(uuid.uuid4())),
        ("import", "student", "no-such-file.zip"),
        ("restore", "no-such-file.tar"),
    ],
)
def test_what_is_not_there_is_told_in_one_line(
    where: Hall, tmp_path: Path, command: tuple[str, ...], elsewhere: dict[str, str]
) -> None:
    environment = elsewhere if command[0] == "restore" else None
    done = run(*command, environment=environment)
    assert done.returncode == 2
    assert len(done.stderr.strip().splitlines()) == 1
    assert "nothing" in done.stderr.lower() or "no student" in done.stderr or "no whole" in done.stderr
