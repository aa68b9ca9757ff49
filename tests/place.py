"""A place of one's own to run Lacertus in: a database, media and uploads that are gone afterwards, server and worker."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import psycopg

from lacertus.local.postgres import LocalPostgres

ROOT = Path(__file__).resolve().parent.parent


@contextmanager
def place(folder: Path, postgres: LocalPostgres | None = None) -> Iterator[dict[str, str]]:
    """The environment, set in this process too, with the database migrated and the queue open."""
    (ROOT / ".run").mkdir(exist_ok=True)
    postgres = postgres or LocalPostgres(ROOT / ".run" / f"test-{os.getpid()}", durable=False)
    postgres.start()
    values = {
        "LACERTUS_DATABASE_URL": postgres.url,
        "LACERTUS_MEDIA_URL": f"file://{folder}/media",
        "LACERTUS_UPLOADS_DIR": f"{folder}/uploads",
        "LACERTUS_WORK_DIR": f"{folder}/work",
        # Tests wait for their worker while others keep the machine busy.
        "LACERTUS_WORKER_NICE": "0",
        "LACERTUS_EYE_FILMS": "0",
        "LACERTUS_OUTBOX_DIR": f"{folder}/outbox",
        "LACERTUS_UI_DIR": str(ROOT / "ui" / "dist"),
    }
    os.environ.update(values)
    from lacertus.settings import settings
    from lacertus.store import database, upgrade

    settings.cache_clear()
    try:
        upgrade.upgrade()
        yield values
    finally:
        database.engine().dispose()
        postgres.destroy()


@contextmanager
def owner() -> Iterator[psycopg.Connection]:
    """A connection of the database's owner: the application's own role changes no table and ends no connection."""
    from lacertus.settings import settings

    with psycopg.connect(settings().database_url, autocommit=True) as connection:
        yield connection


class Server:
    """A running server with a worker beside it, as processes of their own; each can be killed and started again."""

    def __init__(self, port: int, environment: dict[str, str], log: Path, *, has_worker: bool = True) -> None:
        self.port, self.environment, self.log = port, environment, log
        self.url = f"http://127.0.0.1:{port}"
        self._has_worker = has_worker
        if has_worker:
            self.start_worker()
        self.web = self._start("serve", "--port", str(port))
        self.wait()

    def _start(self, *command: str) -> subprocess.Popen[bytes]:
        with self.log.open("ab") as log:
            return subprocess.Popen(
                [sys.executable, "-m", "lacertus.cli", *command], env=os.environ | self.environment, stdout=log, stderr=log
            )

    def wait(self) -> None:
        from lacertus.local.place import START_LIMIT_S

        deadline = time.monotonic() + START_LIMIT_S
        while True:
            try:
                httpx.get(f"{self.url}/api/health").raise_for_status()
                return
            except httpx.HTTPError:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.1)

    def kill_web(self) -> None:
        self.web.kill()
        self.web.wait(15)

    def start_web(self) -> None:
        self.web = self._start("serve", "--port", str(self.port))
        self.wait()

    def kill_worker(self) -> None:
        self.worker.kill()
        self.worker.wait(15)

    def start_worker(self) -> None:
        self.worker = self._start("worker")

    def stop(self) -> None:
        processes = (self.worker, self.web) if self._has_worker else (self.web,)
        for process in processes:
            process.terminate()
        for process in processes:
            process.wait(15)
