"""A PostgreSQL cluster in a folder, on loopback, with a random password.

PostgreSQL refuses to run as root; where we are root, Debian's `postgres` account runs it.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import shutil
import socket
import subprocess
import time
from pathlib import Path

import psycopg

from lacertus.core.errors import LacertusError

ACCOUNT = "postgres"
DATABASE = "lacertus"
QUIET = ["fsync=on", "log_min_messages=warning", "max_connections=60"]
LOOPBACK = "127.0.0.1"
RECOVERY_S = 300
"""How long a start may take, seconds: after an interruption the server reads its log and syncs every file before it answers."""


class NoPostgres(LacertusError):
    """PostgreSQL could not be started."""


def binaries() -> Path:
    """Folder of Debian's newest PostgreSQL binaries.

    Raises:
        NoPostgres: it is not installed.
    """
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: float(path.parts[-3]))
    if found:
        return found[-1].parent
    on_path = shutil.which("initdb")
    if on_path is None:
        raise NoPostgres("PostgreSQL is not installed: as root, run apt-get install postgresql")
    return Path(on_path).parent


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind((LOOPBACK, 0))
        return int(probe.getsockname()[1])


class LocalPostgres:
    """A cluster below `folder`, made at the first start and kept.

    Args:
        folder: made if missing; its password file has mode 600.
        durable: False trades safety on power loss for speed, for tests.
        port: where it listens; one that is free at each start unless given.
        address: on which address; its own subnet may connect then, as other machines of one site do.
    """

    def __init__(self, folder: Path, *, durable: bool = True, port: int | None = None, address: str = LOOPBACK) -> None:
        self.folder = folder.resolve()
        self.durable, self.port, self.address = durable, port, address
        self._password_file = self.folder / "password"
        self.data = self._data_folder()

    def _data_folder(self) -> Path:
        """In the folder itself, unless the account that runs PostgreSQL cannot reach it there."""
        self.folder.mkdir(parents=True, exist_ok=True)
        if os.geteuid() != 0 or _run([*_as_account(), "test", "-x", str(self.folder)], check=False).returncode == 0:
            return self.folder / "cluster"
        mark = hashlib.sha256(str(self.folder).encode()).hexdigest()[:12]
        return Path("/var/lib/postgresql") / f"lacertus-{mark}"

    @property
    def url(self) -> str:
        """Connection URL of the running cluster.

        Raises:
            NoPostgres: it is not running.
        """
        port = self._running_port()
        if port is None:
            raise NoPostgres("the database is not running")
        return f"postgresql://{DATABASE}:{self._password_file.read_text().strip()}@{self.address}:{port}/{DATABASE}"

    def start(self) -> None:
        """Start the cluster unless it runs already; a stale one is started anew.

        Raises:
            NoPostgres: with what to do and the end of the server's log.
        """
        if not (self.data / "PG_VERSION").is_file():
            self._make()
        if not self._password_file.is_file():
            raise NoPostgres(
                f"the database in {self.data} is there, but its password is gone ({self._password_file}); nothing was changed."
                " Restore that file, or move the database's folder away and start again: an empty database is made."
            )
        if self._answers():
            return
        self._control("stop", "-m", "immediate", check=False)
        (self.data / "postmaster.pid").unlink(missing_ok=True)
        self._start_server()
        self._make_database()

    def _make(self) -> None:
        shutil.rmtree(self.data, ignore_errors=True)
        self.data.mkdir(parents=True, mode=0o700)
        self._password_file.touch(mode=0o600)
        self._password_file.chmod(0o600)
        self._password_file.write_text(secrets.token_hex(24))
        handed = self.data.parent / f"{self.data.name}.pw"
        handed.touch(mode=0o600)
        handed.write_text(self._password_file.read_text())
        if os.geteuid() == 0:
            shutil.chown(self.data, ACCOUNT, ACCOUNT)
            shutil.chown(handed, ACCOUNT, ACCOUNT)
        command = [str(binaries() / "initdb"), "-D", str(self.data), "-U", DATABASE, "--auth=scram-sha-256", f"--pwfile={handed}"]
        try:
            _run([*_as_account(), *command, "-E", "UTF8", "--locale=C.UTF-8", "--no-instructions"])
        finally:
            handed.unlink(missing_ok=True)
        if self.address != LOOPBACK:
            with (self.data / "pg_hba.conf").open("a") as rules:
                rules.write("host all all samenet scram-sha-256\n")

    def _start_server(self) -> None:
        for _ in range(5):
            values = [*QUIET, f"listen_addresses={self.address}", f"port={self.port or free_port()}", "unix_socket_directories="]
            if not self.durable:
                values += ["fsync=off", "synchronous_commit=off", "full_page_writes=off"]
            options = " ".join(f"-c {value}" for value in values)
            if self._control("start", "-w", "-t", str(RECOVERY_S), "-o", options, check=False) == 0:
                return
        log = self.data / "server.log"
        tail = log.read_text(errors="replace")[-600:] if log.is_file() else ""
        raise NoPostgres(
            f"PostgreSQL did not start; nothing in {self.data} was changed. If its files are damaged, move that folder away and"
            f" start again: an empty database is made, and the demo is filled again. Its log is {log}, which ends: {tail}"
        )

    def _make_database(self) -> None:
        deadline = time.monotonic() + 20
        admin = self.url.rsplit("/", 1)[0] + "/postgres"
        while True:
            try:
                with psycopg.connect(admin, autocommit=True) as connection:
                    there = connection.execute("select 1 from pg_database where datname = %s", (DATABASE,)).fetchone()
                    if there is None:
                        connection.execute(f"create database {DATABASE}")
                return
            except psycopg.OperationalError:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.1)

    def stop(self) -> None:
        self._control("stop", "-m", "fast", check=False)

    @property
    def pid(self) -> int:
        """The process that all others of the cluster are children of.

        Raises:
            NoPostgres: it is not running.
        """
        try:
            return int((self.data / "postmaster.pid").read_text().splitlines()[0])
        except (OSError, IndexError, ValueError) as error:
            raise NoPostgres("the database is not running") from error

    def destroy(self) -> None:
        """Stop the cluster and delete it with all that is in it."""
        self.stop()
        shutil.rmtree(self.data, ignore_errors=True)
        shutil.rmtree(self.folder, ignore_errors=True)

    def _control(self, action: str, *more: str, check: bool = True) -> int:
        log = str(self.data / "server.log")
        command = [str(binaries() / "pg_ctl"), action, "-D", str(self.data), "-s", "-l", log, *more]
        return _run([*_as_account(), *command], check=check).returncode

    def _running_port(self) -> int | None:
        try:
            return int((self.data / "postmaster.pid").read_text().splitlines()[3])
        except (OSError, IndexError, ValueError):
            return None

    def _answers(self) -> bool:
        if self._running_port() is None:
            return False
        try:
            with psycopg.connect(self.url, connect_timeout=3):
                return True
        except psycopg.OperationalError:
            return False


def _as_account() -> list[str]:
    return ["runuser", "-u", ACCOUNT, "--"] if os.geteuid() == 0 else []


def _run(command: list[str], *, check: bool = True) -> subprocess.CompletedProcess[bytes]:
    # A log file for output: a server that is started keeps its pipes open.
    result = subprocess.run(command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, cwd="/")
    if check and result.returncode != 0:
        raise NoPostgres(f"this did not work: {' '.join(command)}")
    return result
