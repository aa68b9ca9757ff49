"""The worker as a process: killed in the middle, taken up, given up; nothing is left lying about."""

from __future__ import annotations

import asyncio
import os
import signal
import time
import uuid
from collections.abc import Callable
from contextlib import AbstractContextManager
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest
import sqlalchemy as sa
from sqlalchemy import text
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.jobs import scratch, tasks, worker
from lacertus.services.clips import intake, uploads
from lacertus.services.clips.intake import Sent
from lacertus.settings import settings
from lacertus.store import broker, queue
from lacertus.store.database import DatabaseAway, session
from lacertus.store.media import media, original_key, review_key
from lacertus.store.tables import Clip, UploadRow
from tests.halls import Hall, taken_in
from tests.place import Server
from tests.video.readers import children

PATIENCE_S = 90.0


@pytest.fixture(scope="module")
def long_clip(clips: dict[str, Path], tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A clip that takes some seconds to read: the short one, over and over."""
    import av

    path = tmp_path_factory.mktemp("long") / "long.mp4"
    with av.open(str(path), "w") as out:
        stream = None
        for turn in range(12):
            with av.open(str(clips["constant"])) as source:
                video = source.streams.video[0]
                stream = stream or out.add_stream_from_template(video)
                for packet in source.demux(video):
                    if packet.size and packet.pts is not None and packet.dts is not None:
                        shift = turn * (video.duration or 0)
                        packet.pts, packet.dts, packet.stream = packet.pts + shift, packet.dts + shift, stream
                        out.mux(packet)
    return path


def until(what: Callable[[], bool]) -> None:
    deadline = time.monotonic() + PATIENCE_S
    while not what():
        assert time.monotonic() < deadline, "it never came to that"
        time.sleep(0.05)


def state_of(clip: uuid.UUID) -> tuple[str, int, str | None]:
    with session() as db:
        found = db.get_one(Clip, clip)
        return found.state, found.frames_done, found.failure


def exists(key: str) -> bool:
    try:
        return media().size(key) > 0
    except LacertusError:
        return False


def rooms() -> list[Path]:
    return list(Path(settings().work_dir).glob("job-*"))


def test_a_worker_killed_in_the_middle_leaves_nothing_and_another_reads_the_clip(
    server: Server, db: Session, where: Hall, long_clip: Path, tmp_path: Path
) -> None:
    clip = taken_in(db, where, long_clip, tmp_path)
    queue.ask(db, queue.READ_CLIP, clip, clip)
    db.commit()
    until(lambda: state_of(clip)[1] > 30)
    server.kill_worker()
    # The reader dies with it, and no review copy was stored.
    until(lambda: children() == [])
    assert not exists(review_key(clip))
    assert state_of(clip)[0] == "reading"
    assert len(rooms()) == 1
    server.start_worker()
    until(lambda: state_of(clip)[0] == "ready")
    until(lambda: rooms() == [])
    assert exists(review_key(clip))
    assert exists(original_key(clip))
    with session() as now:
        found = intake.clip(now, where.academy, clip)
        assert found.frames_done == len(found.pts_s or ())


def test_a_clip_whose_worker_dies_again_and_again_ends_with_a_reason(
    server: Server, db: Session, where: Hall, long_clip: Path, tmp_path: Path
) -> None:
    """The job as the third dead worker leaves it."""
    server.kill_worker()
    try:
        clip = taken_in(db, where, long_clip, tmp_path)
        queue.ask(db, queue.READ_CLIP, clip, clip)
        dead = datetime.now(UTC) - timedelta(minutes=5)
        db.execute(text("insert into procrastinate_workers (last_heartbeat) values (:at)"), {"at": dead})
        db.execute(
            text(
                "update procrastinate_jobs set status = 'doing', attempts = 2, "
                "worker_id = (select max(id) from procrastinate_workers)"
            )
        )
        db.get_one(Clip, clip).state = "reading"
        db.commit()
    finally:
        server.start_worker()
    until(lambda: state_of(clip)[0] == "failed")
    assert "stopped 3 times" in (state_of(clip)[2] or "")
    assert "Read again" in (state_of(clip)[2] or "")


def test_a_clip_that_waits_without_a_job_is_given_one(
    server: Server, db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path
) -> None:
    """The server ended between keeping the clip and asking for it to be read."""
    clip = taken_in(db, where, clips["variable"], tmp_path)
    until(lambda: state_of(clip)[0] == "ready")


def test_a_fault_of_ours_ends_with_a_reason_and_no_process(
    db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    clip = taken_in(db, where, clips["constant"], tmp_path)

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("lacertus.jobs.read_clip.read_apart", full)
    tasks.read_clip(str(clip))
    state, _, failure = state_of(clip)
    assert state == "failed"
    assert "Reading this clip failed" in (failure or "")
    assert "OSError" in (failure or "")
    # A worker of another test may still be at work in a room of its own.
    until(lambda: rooms() == [])


def test_rooms_of_the_dead_are_cleared_and_those_in_use_kept(environment: dict[str, str]) -> None:
    dead = Path(settings().work_dir) / "job-dead"
    dead.mkdir(parents=True)
    (dead / scratch.LOCK).touch()
    with scratch.room() as mine:
        assert scratch.clear_abandoned() == 1
        assert mine.is_dir()
        assert not dead.exists()
    # A worker of another test may still be at work in a room of its own.
    until(lambda: rooms() == [])


def test_media_without_a_clip_are_swept_once_they_are_old(db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path) -> None:
    kept = taken_in(db, where, clips["variable"], tmp_path)
    orphan, young = uuid.uuid4(), uuid.uuid4()
    for clip in (orphan, young):
        media().put(clips["variable"], original_key(clip))
    old = time.time() - 2 * intake.ORPHAN_AGE.total_seconds()
    with media().as_local(original_key(orphan), tmp_path) as path:
        os.utime(path.resolve().parent, (old, old))
    assert intake.sweep(db) == 1
    assert [exists(original_key(clip)) for clip in (kept, orphan, young)] == [True, False, True]
    media().delete(f"clips/{young}")


def test_the_worker_ends_on_a_polite_signal(server: Server) -> None:
    server.worker.send_signal(signal.SIGTERM)
    try:
        assert server.worker.wait(30) == 0
    finally:
        server.start_worker()


def test_rows_of_failed_jobs_and_uploads_that_nobody_goes_on_with_are_cleared_away(db: Session, where: Hall) -> None:
    broker.defer(db, "nothing", lock=None, arguments={}, at=datetime(2100, 1, 1, tzinfo=UTC))
    broker.defer(db, "nothing", lock=None, arguments={}, at=datetime(2100, 1, 1, tzinfo=UTC))
    upload = uploads.begin(db, where.academy, 10, Sent(name="kick.mp4", filmed_on=date(2026, 5, 4))).id
    db.execute(text("update procrastinate_jobs set status = 'failed'"))
    old = datetime.now(UTC) - timedelta(hours=worker.FAILED_KEPT_HOURS + 1)
    first = "(select min(id) from procrastinate_jobs)"
    db.execute(text(f"update procrastinate_events set at = :at where job_id = {first}"), {"at": old})
    db.execute(sa.update(UploadRow).values(touched_at=datetime.now(UTC) - timedelta(days=8)))
    db.commit()

    async def clear() -> None:
        async with tasks.worker_app().open_async():
            await worker.clear_old()

    asyncio.run(clear())
    assert db.scalar(text("select count(*) from procrastinate_jobs")) == 1
    assert db.get(UploadRow, upload, populate_existing=True) is None


def test_a_worker_that_starts_while_the_database_is_away_waits_for_it(
    environment: dict[str, str], monkeypatch: pytest.MonkeyPatch
) -> None:
    waited: list[float] = []

    def away_twice() -> AbstractContextManager[Session]:
        if len(waited) < 2:
            raise DatabaseAway()
        return session()

    monkeypatch.setattr(worker, "session", away_twice)
    monkeypatch.setattr(time, "sleep", waited.append)
    with worker._once_there() as db:
        assert db.scalar(text("select 1")) == 1
    assert waited == [1.0, 1.0]
    # One that never comes is told to whoever looks after services.
    waited.clear()
    monkeypatch.setattr(worker, "PATIENCE_S", -1.0)
    with pytest.raises(DatabaseAway, match="does not answer"), worker._once_there():
        pass
