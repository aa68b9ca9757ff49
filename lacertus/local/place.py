"""Database, worker and server together on one machine, in a folder of their own, until they are stopped."""

from __future__ import annotations

import hashlib
import os
import signal
import ssl
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import IO

from lacertus.core.errors import LacertusError
from lacertus.local.postgres import LocalPostgres, free_port

Say = Callable[[str], None]
START_LIMIT_S = 120


class NotStarted(LacertusError):
    """Database, worker and server could not be started together."""


class LocalPlace:
    """What runs on this machine for one folder.

    Several may run at once from one folder: they share the database, and the last to end stops it.

    Args:
        folder: where database, media and uploads lie; made if missing.
        root: the checkout.
        say: told what is being done.
    """

    def __init__(self, folder: Path, root: Path, say: Say) -> None:
        self.folder, self.root, self.say = folder.resolve(), root, say
        self.postgres = LocalPostgres(self.folder / "postgres")
        self._users = self.folder / "users"
        self._processes: list[subprocess.Popen[bytes]] = []

    def prepare(self) -> None:
        """Start the database, and bring it up to date."""
        self._users.mkdir(parents=True, exist_ok=True)
        (self._users / str(os.getpid())).touch()
        self.postgres.start()
        os.environ["LACERTUS_DATABASE_URL"] = self.postgres.url
        os.environ.setdefault("LACERTUS_MEDIA_URL", f"file://{self.folder}/media")
        os.environ.setdefault("LACERTUS_UPLOADS_DIR", f"{self.folder}/uploads")
        os.environ.setdefault("LACERTUS_WORK_DIR", f"{self.folder}/work")
        os.environ.setdefault("LACERTUS_UI_DIR", f"{self.root}/ui/dist")
        os.umask(0o077)
        if not self.is_prepared():
            self.fill()
            self._prepared.write_text(schema_mark())

    def is_prepared(self) -> bool:
        """Whether the database was brought up to date, and filled, for the same schema before."""
        return self._prepared.is_file() and self._prepared.read_text() == schema_mark()

    def fill(self) -> None:
        """Bring the database up to date."""
        # Imported late: settings are read from the environment that was just set, and a second start needs none of it.
        from lacertus.logs import configure_logs
        from lacertus.store import upgrade

        with (self.folder / "log").open("a") as log:
            configure_logs(log)
            upgrade.upgrade()

    @property
    def _prepared(self) -> Path:
        """Kept with the cluster, so that it goes when the cluster goes."""
        return self.postgres.data / "lacertus-prepared"

    def start(self, port: int | None, serve: Sequence[str] = (), scheme: str = "http") -> str:
        """Start worker and server; returns the address on this machine.

        Args:
            port: a free one unless given.
            serve: more arguments of the server.
            scheme: `https` where they make it speak TLS.

        Raises:
            NotStarted: the server did not answer in time.
        """
        address = f"{scheme}://127.0.0.1:{port or free_port()}"
        with (self.folder / "log").open("ab") as log:
            # One after the other: together they would make each other slow, and people wait for the server.
            self._start_process(log, "serve", "--port", address.rsplit(":", 1)[1], *serve)
            self._wait_for(address)
            self._start_process(log, "worker")
        return address

    def _start_process(self, log: IO[bytes], *command: str) -> None:
        arguments = [sys.executable, "-m", "lacertus.cli", *command]
        self._processes.append(subprocess.Popen(arguments, stdin=subprocess.DEVNULL, stdout=log, stderr=log, cwd=self.root))

    def _wait_for(self, address: str) -> None:
        # It is our own process on this machine that is asked, whatever its certificate says.
        context = ssl.create_default_context()
        context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
        deadline = time.monotonic() + START_LIMIT_S
        while time.monotonic() < deadline:
            if any(process.poll() is not None for process in self._processes):
                break
            try:
                with urllib.request.urlopen(f"{address}/api/health", timeout=2, context=context):
                    return
            except (urllib.error.URLError, OSError):
                time.sleep(0.05)
        raise NotStarted(f"the server did not start; its log is {self.folder / 'log'}")

    def wait(self) -> None:
        """Wait until a process ends or this one is interrupted."""
        while all(process.poll() is None for process in self._processes):
            time.sleep(0.3)

    def stop(self) -> None:
        """End what was started here; the database too, unless another one uses it."""
        for process in self._processes:
            process.send_signal(signal.SIGTERM)
        for process in self._processes:
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()
        (self._users / str(os.getpid())).unlink(missing_ok=True)
        if not self._others():
            self.postgres.stop()

    def _others(self) -> list[int]:
        """Other demos that still run; marks left by ones that died are cleared away."""
        alive = []
        for mark in self._users.iterdir():
            try:
                os.kill(int(mark.name), 0)
                alive.append(int(mark.name))
            except (ValueError, ProcessLookupError):
                mark.unlink(missing_ok=True)
            except PermissionError:
                alive.append(int(mark.name))
        return alive


def schema_mark() -> str:
    """A mark of the migrations: another one asks for an upgrade."""
    folder = Path(__file__).resolve().parent.parent / "store" / "migrations" / "versions"
    digest = hashlib.sha256()
    for path in sorted(folder.glob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()
