"""The demo: database, academy, worker and server together, until it is stopped."""

from __future__ import annotations

import hashlib
import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import IO

from lacertus.core.errors import LacertusError
from lacertus.local.history import EMAIL, SECOND_EMAIL
from lacertus.local.postgres import LocalPostgres, free_port

Say = Callable[[str], None]
START_LIMIT_S = 120


class DemoFailed(LacertusError):
    """The demo could not be started."""


class Demo:
    """Everything that the demo runs, in a folder of its own.

    Several may run at once from one folder: they share the database, and the last to end stops it.
    """

    def __init__(self, folder: Path, root: Path, say: Say) -> None:
        self.folder, self.root, self.say = folder.resolve(), root, say
        self.postgres = LocalPostgres(self.folder / "postgres")
        self._users = self.folder / "users"
        self._processes: list[subprocess.Popen[bytes]] = []

    def prepare(self) -> None:
        """Start the database, bring it up to date, and make the academy at the first start."""
        self._users.mkdir(parents=True, exist_ok=True)
        (self._users / str(os.getpid())).touch()
        self.postgres.start()
        os.environ["LACERTUS_DATABASE_URL"] = self.postgres.url
        os.environ.setdefault("LACERTUS_MEDIA_URL", f"file://{self.folder}/media")
        os.environ.setdefault("LACERTUS_UPLOADS_DIR", f"{self.folder}/uploads")
        os.environ.setdefault("LACERTUS_WORK_DIR", f"{self.folder}/work")
        os.environ.setdefault("LACERTUS_UI_DIR", f"{self.root}/ui/dist")
        os.umask(0o077)
        self._load()

    def _load(self) -> None:
        """Upgrade and fill the database, unless that was done before for the same schema."""
        if self.sign_in_file.exists() and self._prepared.is_file() and self._prepared.read_text() == _schema_mark():
            return
        # Imported late: settings are read from the environment that was just set, and a second start needs none of it.
        from lacertus.local import academy
        from lacertus.logs import configure_logs
        from lacertus.store import upgrade

        with (self.folder / "log").open("a") as log:
            configure_logs(log)
            upgrade.upgrade()
            password = academy.load(academy.prepare(self.root / ".run" / "studio", self.say), None, self.say)
        if password is not None or not self.sign_in_file.exists():
            self._keep_sign_in(EMAIL, password or "set at an earlier start")
        self._prepared.write_text(_schema_mark())

    @property
    def _prepared(self) -> Path:
        """Kept with the cluster, so that it goes when the cluster goes."""
        return self.postgres.data / "lacertus-prepared"

    @property
    def sign_in_file(self) -> Path:
        return self.folder / "sign-in"

    def _keep_sign_in(self, email: str, password: str) -> None:
        part = self.sign_in_file.with_suffix(".part")
        part.touch(mode=0o600)
        part.write_text(f"{email}\n{password}\n")
        part.replace(self.sign_in_file)

    def start(self, port: int | None) -> str:
        """Start worker and server; returns the address.

        Raises:
            DemoFailed: the server did not answer in time.
        """
        address = f"http://127.0.0.1:{port or free_port()}"
        with (self.folder / "log").open("ab") as log:
            # One after the other: together they would make each other slow, and people wait for the server.
            self._start_process(log, "serve", "--port", address.rsplit(":", 1)[1])
            self._wait_for(address)
            self._start_process(log, "worker")
        return address

    def _start_process(self, log: IO[bytes], *command: str) -> None:
        arguments = [sys.executable, "-m", "lacertus.cli", *command]
        self._processes.append(subprocess.Popen(arguments, stdin=subprocess.DEVNULL, stdout=log, stderr=log, cwd=self.root))

    def _wait_for(self, address: str) -> None:
        deadline = time.monotonic() + START_LIMIT_S
        while time.monotonic() < deadline:
            if any(process.poll() is not None for process in self._processes):
                break
            try:
                with urllib.request.urlopen(f"{address}/api/health", timeout=2):
                    return
            except (urllib.error.URLError, OSError):
                time.sleep(0.05)
        raise DemoFailed(f"the server did not start; its log is {self.folder / 'log'}")

    def wait(self) -> None:
        """Wait until a process ends or the demo is interrupted."""
        while all(process.poll() is None for process in self._processes):
            time.sleep(0.3)

    def stop(self) -> None:
        """End what this demo started; the database too, unless another demo uses it."""
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


def _schema_mark() -> str:
    """A mark of the migrations: another one asks for an upgrade."""
    folder = Path(__file__).resolve().parent.parent / "store" / "migrations" / "versions"
    digest = hashlib.sha256()
    for path in sorted(folder.glob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()


def run(root: Path, port: int | None, say: Say, as_json: bool = False) -> None:
    """Run the demo until it is interrupted; `as_json` puts address and sign-in on standard output as one JSON object."""
    demo = Demo(root / ".run" / "demo", root, say)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        demo.prepare()
        address = demo.start(port)
        email, password = demo.sign_in_file.read_text().splitlines()[:2]
        if as_json:
            print(json.dumps({"address": address, "email": email, "password": password}), flush=True)
        say("")
        say(f"  Lacertus is at  {address}")
        say(f"  e-mail          {email}")
        say(f"  password        {password}")
        say(f"  second coach    {SECOND_EMAIL}, with the same password")
        say("")
        say("  Ctrl-C stops it.")
        demo.wait()
    except KeyboardInterrupt:
        say("stopping")
    finally:
        demo.stop()
