"""Looking after a site from the command line: back up, restore, write a student out and bring one in."""

from __future__ import annotations

import asyncio
import io
import json
import os
import random
import subprocess
import sys
import tarfile
import threading
import uuid
import zipfile
from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import psycopg
import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.jobs import worker
from lacertus.local.backup.nightly import DAYS, MONTHS, WEEKS, kept
from lacertus.services.clips import intake
from lacertus.services.people import accounts
from lacertus.store import database
from lacertus.store.media import media
from lacertus.store.tables import Clip, Student
from tests.halls import Hall, read_in


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
    told = json.loads(done.stdout)
    of_the_site = [*media().files(f"clips/{clip}"), *media().files("references")]
    assert (told["restored"], told["files"]) == (str(backup), len(of_the_site))
    assert len(of_the_site) >= 4
    assert told["rows"] >= 4
    with psycopg.connect(elsewhere["LACERTUS_DATABASE_URL"]) as connection:
        assert connection.execute("select name from student").fetchall() == [("A Student",)]
        assert connection.execute("select id, state from clip").fetchall() == [(clip, "ready")]
    copied = tmp_path / "copied" / "clips" / str(clip)
    assert (copied / "review.mp4").stat().st_size > 1000
    again = run("restore", str(backup), environment=elsewhere)
    assert (again.returncode, "holds an academy already" in again.stderr) == (2, True)


@pytest.mark.parametrize(
    "case", ["torn", "another file", "a path", "a link", "no dump", "a name twice", "no manifest", "a file less"]
)
def test_a_bad_backup_changes_nothing(backup: Path, elsewhere: dict[str, str], tmp_path: Path, case: str) -> None:
    bad = tmp_path / "bad.tar"
    if case == "torn":
        bad.write_bytes(backup.read_bytes()[:3000])
    elif case == "another file":
        bad.write_bytes(b"hello")
    else:
        leave_out = {"no dump": "database.dump", "no manifest": "manifest.json", "a file less": "review.mp4"}.get(case, "nothing")
        with tarfile.open(backup) as old, tarfile.open(bad, "w") as new:
            for member in old.getmembers():
                if not member.name.endswith(leave_out):
                    new.addfile(member, old.extractfile(member))
                if case == "a name twice" and member.name == "database.dump":
                    new.addfile(member, old.extractfile(member))
            evil = tarfile.TarInfo("media/clips/../../../evil" if case == "a path" else "media/clips/link")
            if case == "a link":
                evil.type, evil.linkname = tarfile.SYMTYPE, "/etc/passwd"
            if case in ("a path", "a link"):
                new.addfile(evil, io.BytesIO())
    done = run("restore", str(bad), environment=elsewhere)
    assert done.returncode == 2
    assert len(done.stderr.strip().splitlines()) <= 3
    with psycopg.connect(elsewhere["LACERTUS_DATABASE_URL"]) as connection:
        assert connection.execute("select to_regclass('academy')").fetchone() == (None,)
    assert not (tmp_path / "copied").exists()


def test_a_media_file_that_was_altered_is_found(backup: Path, elsewhere: dict[str, str], tmp_path: Path) -> None:
    bad = tmp_path / "bad.tar"
    with tarfile.open(backup) as old, tarfile.open(bad, "w") as new:
        for member in old.getmembers():
            content = old.extractfile(member)
            assert content is not None
            data = bytearray(content.read())
            if member.name.endswith("review.mp4"):
                data[len(data) // 2] ^= 1
            new.addfile(member, io.BytesIO(data))
    done = run("restore", str(bad), environment=elsewhere)
    assert (done.returncode, "review.mp4 in this backup is damaged" in done.stderr) == (1, True)


class TestEncrypted:
    @pytest.fixture
    def key(self, tmp_path: Path) -> tuple[Path, str]:
        file = tmp_path / "kept-elsewhere.key"
        made = json.loads(run("backup-key", str(file), "--json").stdout)
        assert file.stat().st_mode & 0o077 == 0
        assert made["public_key"].startswith("age1") and made["public_key"] in file.read_text()
        return file, str(made["public_key"])

    def test_a_drill_while_the_site_runs(
        self, db: Session, where: Hall, clips: dict[str, Path], key: tuple[Path, str], elsewhere: dict[str, str], tmp_path: Path
    ) -> None:
        """Clips come and go while the backup is written; what is restored is one moment of it, whole."""
        first = [read_in(db, where, clips["constant"], tmp_path) for _ in range(6)]
        stop = threading.Event()

        def busy() -> None:
            with database.session() as own:
                while not stop.is_set():
                    new = read_in(own, where, clips["constant"], tmp_path)
                    clips_now = list(own.scalars(select(Clip.id).where(Clip.id != new).order_by(Clip.created_at)))
                    # However slow the machine is, four of the six stay.
                    if clips_now[0] in first[:2]:
                        intake.delete_clip(own, where.academy, clips_now[0])
                    own.commit()

        target = tmp_path / "site.tar.age"
        work = threading.Thread(target=busy)
        work.start()
        try:
            done = run("backup", str(target), "--public-key", key[1])
        finally:
            stop.set()
            work.join()
        assert done.returncode == 0, done.stderr
        assert b"PGDMP" not in target.read_bytes() and b"ftyp" not in target.read_bytes()
        done = run("restore", str(target), "--key", str(key[0]), environment=elsewhere)
        assert done.returncode == 0, done.stderr
        with psycopg.connect(elsewhere["LACERTUS_DATABASE_URL"]) as connection:
            found = {str(one) for (one,) in connection.execute("select id from clip")}
        copied = tmp_path / "copied" / "clips"
        assert len(found) >= 4
        assert {path.name for path in copied.iterdir()} >= found
        assert all((copied / clip / "original").is_file() and (copied / clip / "review.mp4").is_file() for clip in found)
        assert list(tmp_path.rglob(".frozen-*")) == []

    def test_without_its_key_nothing_is_restored(
        self, backup: Path, key: tuple[Path, str], elsewhere: dict[str, str], tmp_path: Path
    ) -> None:
        target = tmp_path / "site.tar.age"
        assert run("backup", str(target), "--public-key", key[1]).returncode == 0
        other = tmp_path / "other.key"
        run("backup-key", str(other))
        torn = tmp_path / "torn.tar.age"
        torn.write_bytes(target.read_bytes()[:-50_000])
        for file, options, word in (
            (target, [], "encrypted"),
            (target, ["--key", str(other)], "another key"),
            (target, ["--key", str(backup)], "no secret key"),
            (torn, ["--key", str(key[0])], "not whole"),
        ):
            done = run("restore", str(file), *options, environment=elsewhere)
            assert (done.returncode, word in done.stderr) == (2, True), done.stderr
        with psycopg.connect(elsewhere["LACERTUS_DATABASE_URL"]) as connection:
            assert connection.execute("select to_regclass('academy')").fetchone() == (None,)

    def test_a_key_is_never_overwritten_and_a_bad_one_is_told(self, key: tuple[Path, str], where: Hall, tmp_path: Path) -> None:
        before = key[0].read_text()
        assert run("backup-key", str(key[0])).returncode == 2
        assert key[0].read_text() == before
        done = run("backup", str(tmp_path / "x.tar"), "--public-key", "age1nonsense")
        assert (done.returncode, "backup-key" in done.stderr) == (2, True)
        assert not (tmp_path / "x.tar").exists()


class TestNightly:
    def test_old_backups_are_thinned_out(self) -> None:
        """Two years of nights, one after the other: a week of days, five weeks and a year of months are left."""
        there: set[date] = set()
        for night in range(730):
            there.add(date(2025, 1, 1) + timedelta(days=night))
            there = kept(there)
        newest = max(there)
        assert newest == date(2026, 12, 31)
        assert all(newest - timedelta(days=back) in there for back in range(DAYS))
        assert len({day.isocalendar()[:2] for day in there if newest - day < timedelta(days=7 * WEEKS)}) == WEEKS
        assert {(day.year, day.month) for day in there} == {(2026, month) for month in range(1, 13)}
        assert len(there) <= DAYS + WEEKS + MONTHS

    def test_what_is_newest_is_always_kept_and_few_are_all_kept(self) -> None:
        chance = random.Random(4)
        for _ in range(300):
            days = {date(2026, 1, 1) + timedelta(days=chance.randrange(700)) for _ in range(chance.randrange(1, 80))}
            found = kept(days)
            assert max(days) in found
            assert found <= days
            assert len(found) >= min(len(days), DAYS)
            assert kept(found) == found

    def test_one_is_written_a_night(self, where: Hall, clip: uuid.UUID, tmp_path: Path) -> None:
        folder = tmp_path / "nights"
        environment = {"LACERTUS_BACKUP_DIR": str(folder)}
        folder.mkdir()
        for old in ("lacertus-2020-01-01.tar", "lacertus-2020-01-02.tar", "notes.txt"):
            (folder / old).write_bytes(b"x")
        for night in range(1, 20):
            (folder / f"lacertus-2026-01-{night:02}.tar").write_bytes(b"x")
        done = run("backup", "--nightly", "--json", environment=environment)
        assert done.returncode == 0, done.stderr
        made = Path(json.loads(done.stdout)["file"])
        assert made.stat().st_size > 10_000 and made.stat().st_mode & 0o077 == 0
        names = {path.name for path in folder.iterdir()}
        assert {made.name, "notes.txt", "lacertus-2026-01-19.tar"} <= names
        assert "lacertus-2020-01-01.tar" not in names and "lacertus-2026-01-05.tar" not in names
        assert json.loads(run("backup", "--nightly", "--json", environment=environment).stdout) == {"file": None}

    def test_the_worker_asks_for_it_and_tells_where_it_failed(
        self, where: Hall, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setenv("LACERTUS_BACKUP_DIR", str(tmp_path / "nights"))
        assert asyncio.run(worker.back_up())
        assert len(list((tmp_path / "nights").iterdir())) == 1
        (tmp_path / "a file").write_text("x")
        monkeypatch.setenv("LACERTUS_BACKUP_DIR", str(tmp_path / "a file"))
        assert not asyncio.run(worker.back_up())

    @pytest.mark.parametrize("command", [("backup",), ("backup", "x.tar", "--nightly"), ("backup", "--nightly")])
    def test_what_cannot_be_meant_is_told(self, where: Hall, command: tuple[str, ...]) -> None:
        done = run(*command)
        assert done.returncode in (1, 2)
        assert len(done.stderr.strip().splitlines()) == 1


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
