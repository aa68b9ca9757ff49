"""A site that is hit on purpose: processes are killed, database and disk taken away, and afterwards it is looked over."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from datetime import timedelta
from pathlib import Path

import sqlalchemy as sa

from lacertus.local.postgres import LocalPostgres, NoPostgres, free_port
from lacertus.services.clips import intake
from lacertus.store import database
from lacertus.store.media import CLIPS, UPLOADS, media, original_key, review_key
from lacertus.store.tables import Clip, JobRow
from tests.place import ROOT, Server, place

STEPS = ("begun", "in the middle", "near its end")
STANDS_S = 120.0
"""Work that has not moved for so long stands; it may take longer where others keep the machine busy."""
SMALL_DISK = "24m"


@dataclass
class Hits:
    """How often what was hit, and in which step of which work a worker was."""

    counts: Counter[str] = field(default_factory=Counter)
    steps: Counter[tuple[str, str]] = field(default_factory=Counter)


class Site:
    """Server, worker and database as processes of their own, each at the same place after it was killed."""

    def __init__(
        self, folder: Path, environment: dict[str, str], postgres: LocalPostgres, seed: int, *, has_small_disk: bool
    ) -> None:
        self.postgres, self.has_small_disk = postgres, has_small_disk
        self.server = Server(free_port(), environment, folder / "log")
        self.chance = random.Random(seed)
        self.hits = Hits()
        self._work = Path(environment["LACERTUS_WORK_DIR"])

    # --- hitting ----------------------------------------------------------------------------------------

    def kill_worker(self, wanted: tuple[str, str] | None = None, patience_s: float = 12.0) -> None:
        """Kill the worker at a random moment, or as soon as it is in the wanted step of some work."""
        end = time.monotonic() + patience_s
        found = self.step()
        while wanted is not None and found != wanted and time.monotonic() < end:
            time.sleep(0.02)
            found = self.step()
        self.server.kill_worker()
        self.hits.counts["worker killed"] += 1
        self.hits.steps[found or ("nothing", "waiting")] += 1
        self.server.start_worker()

    def step(self) -> tuple[str, str] | None:
        """What the worker is at: the work, and how far it is."""
        try:
            with database.session() as db:
                row = db.execute(sa.select(JobRow.task, JobRow.done, JobRow.of).where(JobRow.state == "running")).first()
        except database.DatabaseError:
            return None
        if row is None:
            return None
        share = row.done / row.of if row.of else 0.0
        return row.task, STEPS[0 if share == 0 else 1 if share < 0.8 else 2]

    def kill_server(self) -> None:
        self.server.kill_web()
        self.hits.counts["server killed"] += 1
        self.server.start_web()

    def kill_database(self) -> None:
        """Kill the process that all of the database's others belong to; they end by themselves."""
        os.kill(self.postgres.pid, signal.SIGKILL)
        self.hits.counts["database killed"] += 1
        self._start_database()

    def outage(self, seconds: float) -> None:
        """The database is away for a while."""
        self.postgres.stop()
        time.sleep(seconds)
        self.hits.counts[f"database away for {seconds:g} s"] += 1
        self._start_database()

    def _start_database(self) -> None:
        for _ in range(40):
            try:
                self.postgres.start()
                return
            except NoPostgres:
                time.sleep(0.5)
        raise AssertionError("the database did not come back")

    def full_disk(self, seconds: float) -> None:
        """The disk on which workers work is full for a while."""
        filler = self._work / "filler"
        handle = os.open(filler, os.O_WRONLY | os.O_CREAT)
        with suppress(OSError):
            while os.write(handle, bytes(1 << 16)):
                pass
        os.close(handle)
        self.hits.counts["disk full"] += 1
        time.sleep(seconds)
        filler.unlink()

    # --- looking it over --------------------------------------------------------------------------------

    def settled(self) -> bool:
        """Whether all work has come to an end, as long as any of it moves on."""
        last, end = self._open_work(), time.monotonic() + STANDS_S
        while last and time.monotonic() < end:
            time.sleep(0.2)
            now = self._open_work()
            if now != last:
                last, end = now, time.monotonic() + STANDS_S
        return not last

    def _open_work(self) -> tuple[str, ...]:
        """What has not ended yet, and how far it is."""
        jobs = sa.select(JobRow.id, JobRow.state, JobRow.done).where(JobRow.state.in_(("waiting", "running")))
        clips = sa.select(Clip.id, Clip.state).where(Clip.state.in_(("waiting", "reading")))
        try:
            with database.session() as db:
                return tuple(sorted(str(tuple(row)) for of in (jobs, clips) for row in db.execute(of)))
        except database.DatabaseError as error:
            return (repr(error)[:80],)

    def wrong(self) -> list[str]:
        """What stands half, without a reason, or belongs to nobody."""
        found: list[str] = []
        with database.session() as db:
            for clip in db.scalars(sa.select(Clip)):
                kept = set(media().files(f"{CLIPS}/{clip.id}"))
                if clip.has_film and original_key(clip.id) not in kept:
                    found.append(f"clip {clip.id} has no original")
                if clip.state == "ready" and clip.has_film and review_key(clip.id) not in kept:
                    found.append(f"clip {clip.id} is ready without its review copy")
                if clip.state == "failed" and not clip.failure:
                    found.append(f"clip {clip.id} failed without a reason")
            for row in db.scalars(sa.select(JobRow)):
                if row.state not in ("done", "failed", "stopped"):
                    found.append(f"{row.task} stands as {row.state}")
                if row.state == "failed" and not row.reason:
                    found.append(f"{row.task} failed without a reason")
            left = db.scalar(sa.text("select count(*) from procrastinate_jobs where status = 'doing'"))
            if left:
                found.append(f"{left} jobs of the queue are held by nobody")
            old = intake.ORPHAN_AGE
            try:
                intake.ORPHAN_AGE = timedelta(seconds=-1)
                intake.sweep(db)
            finally:
                intake.ORPHAN_AGE = old
            known = {str(key) for key in db.scalars(sa.select(Clip.id))}
        found += [f"media of no clip: {name}" for name, _ in media().folders(CLIPS) if name not in known]
        parts = Path(media().root.removeprefix("file://")).rglob("*.part")
        found += [f"half a file: {path.name}" for path in parts]
        found += [f"a worker's room is left: {room.name}" for room in self._work.glob("job-*")]
        found += [f"a part of an upload in the media: {key}" for key in media().files(UPLOADS)]
        return found


@contextmanager
def site(folder: Path, seed: int = 23) -> Iterator[Site]:
    """A site whose database keeps what it has acknowledged, and whose workers work on a small disk of their own where root may
    mount one."""
    postgres = LocalPostgres(ROOT / ".run" / f"faults-{os.getpid()}", port=free_port())
    with place(folder, postgres) as environment:
        work = Path(environment["LACERTUS_WORK_DIR"])
        work.mkdir(parents=True)
        mounted = (
            subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={SMALL_DISK}", "tmpfs", str(work)], check=False).returncode == 0
        )
        try:
            found = Site(folder, environment, postgres, seed, has_small_disk=mounted)
            try:
                yield found
            finally:
                found.server.stop()
        finally:
            if mounted:
                subprocess.run(["umount", "-l", str(work)], check=False)
