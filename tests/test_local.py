"""Running it on one machine: the database in a folder, the demo's second start, settings and logs."""

from __future__ import annotations

import io
import json
import os
import shutil
import stat
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
import structlog

from lacertus.core.errors import BadInput
from lacertus.local.demo import Demo
from lacertus.local.place import NotStarted
from lacertus.local.postgres import LocalPostgres, NoPostgres, free_port
from lacertus.logs import configure_logs
from lacertus.settings import ENVIRONMENT, Settings, read_settings
from tests.place import ROOT


@pytest.fixture(scope="module")
def postgres() -> Iterator[LocalPostgres]:
    found = LocalPostgres(ROOT / ".run" / f"test-local-{os.getpid()}", durable=False)
    found.start()
    yield found
    found.destroy()


class TestPostgres:
    def test_it_listens_on_loopback_alone_with_a_password(self, postgres: LocalPostgres) -> None:
        with psycopg.connect(postgres.url) as connection:
            assert connection.execute("show listen_addresses").fetchone() == ("127.0.0.1",)
        with (
            pytest.raises(psycopg.OperationalError, match="password authentication failed"),
            psycopg.connect(postgres.url.replace("//lacertus:", "//lacertus:x"), connect_timeout=3),
        ):
            pass

    def test_its_password_is_for_its_owner_alone(self, postgres: LocalPostgres) -> None:
        assert stat.S_IMODE((postgres.folder / "password").stat().st_mode) == 0o600

    def test_where_its_password_is_gone_it_says_what_to_do(self, postgres: LocalPostgres) -> None:
        password = postgres.folder / "password"
        kept = password.read_text()
        password.unlink()
        try:
            with pytest.raises(NoPostgres, match="its password is gone"):
                postgres.start()
        finally:
            password.write_text(kept)
            password.chmod(0o600)

    def test_a_second_start_keeps_the_server_and_its_data(self, postgres: LocalPostgres) -> None:
        with psycopg.connect(postgres.url) as connection:
            connection.execute("create table kept (n int)")
        before = postgres.url
        postgres.start()
        assert postgres.url == before
        with psycopg.connect(postgres.url) as connection:
            assert connection.execute("select count(*) from kept").fetchone() == (0,)

    def test_a_stale_mark_of_a_dead_server_is_cleared(self, postgres: LocalPostgres) -> None:
        postgres.stop()
        pid_file = postgres.data / "postmaster.pid"
        pid_file.write_text(f"999999\n{postgres.data}\n1\n{free_port()}\n\n127.0.0.1\n")
        postgres.start()
        with psycopg.connect(postgres.url) as connection:
            assert connection.execute("select 1").fetchone() == (1,)

    def test_torn_files_are_told_with_what_to_do_and_the_next_start_is_new(self) -> None:
        torn = LocalPostgres(ROOT / ".run" / f"test-torn-{os.getpid()}", durable=False)
        try:
            torn.start()
            torn.stop()
            (torn.data / "global" / "pg_control").write_bytes(b"torn")
            with pytest.raises(NoPostgres, match="move that folder away and start again") as told:
                torn.start()
            assert str(torn.data) in str(told.value)
            torn.data.rename(torn.data.with_name(f"{torn.data.name}-aside"))
            torn.start()
            with psycopg.connect(torn.url) as connection:
                assert connection.execute("select 1").fetchone() == (1,)
        finally:
            shutil.rmtree(torn.data.with_name(f"{torn.data.name}-aside"), ignore_errors=True)
            torn.destroy()

    def test_one_that_does_not_run_is_told(self, tmp_path: Path) -> None:
        with pytest.raises(NoPostgres, match="not running"):
            LocalPostgres(tmp_path / "none").url  # noqa: B018


class TestDemo:
    def demo(self, folder: Path) -> Demo:
        return Demo(folder, ROOT, lambda _: None)

    def test_marks_of_demos_that_died_are_cleared_and_living_ones_kept(self, tmp_path: Path) -> None:
        demo = self.demo(tmp_path)
        users = tmp_path / "users"
        users.mkdir()
        (users / "999999").touch()
        (users / "no-pid").touch()
        (users / str(os.getpid())).touch()
        assert demo._others() == [os.getpid()]
        assert [path.name for path in users.iterdir()] == [str(os.getpid())]

    def test_the_sign_in_is_kept_for_its_owner_alone(self, tmp_path: Path) -> None:
        demo = self.demo(tmp_path)
        demo._keep_sign_in("coach@example.test", "three-plain-words")
        assert demo.sign_in_file.read_text() == "coach@example.test\nthree-plain-words\n"
        assert stat.S_IMODE(demo.sign_in_file.stat().st_mode) == 0o600

    def test_a_server_that_does_not_start_is_told_with_its_log(self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
        monkeypatch.setenv("LACERTUS_DATABASE_URL", "postgresql://127.0.0.1:1/none")
        demo = self.demo(tmp_path)
        with pytest.raises(NotStarted, match="its log is"):
            demo.start(None)
        for process in demo._processes:
            process.wait(10)
        assert (tmp_path / "log").read_text()


class TestSettings:
    def test_what_is_not_set_keeps_its_default(self) -> None:
        assert read_settings({}) == Settings()

    def test_each_variable_sets_its_own(self) -> None:
        text = {bool: "yes", int: "7", str: "words"}
        for name, variable in ENVIRONMENT.items():
            kind = type(getattr(Settings, name))
            changed = read_settings({variable: text[kind]})
            assert getattr(changed, name) == {bool: True, int: 7, str: "words"}[kind]
            assert [n for n in ENVIRONMENT if getattr(changed, n) != getattr(Settings, n)] == [name]

    @pytest.mark.parametrize("variable", ["LACERTUS_MOST_FRAMES", "LACERTUS_SESSION_HOURS"])
    def test_a_setting_that_is_no_number_is_told_by_name(self, variable: str) -> None:
        with pytest.raises(BadInput, match=variable):
            read_settings({variable: "many"})


def test_logs_are_one_line_of_json_an_event() -> None:
    stream, before = io.StringIO(), structlog.get_config()
    try:
        configure_logs(stream)
        structlog.get_logger().warning("clip not read", clip="a", reason="torn “file”")
        import logging

        logging.getLogger("other").warning("from a library")
    finally:
        configure_logs(sys.stderr)
        structlog.configure(**before)
    first, second = (json.loads(line) for line in stream.getvalue().splitlines())
    assert (first["event"], first["reason"], first["level"]) == ("clip not read", "torn “file”", "warning")
    assert second["event"] == "from a library"


@pytest.mark.parametrize("script", ["setup", "demo", "test", "bench", "client", "clips", "screenshots"])
def test_scripts_are_sound_and_run_from_any_folder(script: str) -> None:
    path = ROOT / "script" / script
    assert os.access(path, os.X_OK)
    assert subprocess.run(["bash", "-n", str(path)], check=False).returncode == 0
    assert 'source "$(dirname "${BASH_SOURCE[0]}")/lib.sh"' in path.read_text()
