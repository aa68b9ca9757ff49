"""Uploads as rows and files: quota, what is taken in twice, what is swept."""

from __future__ import annotations

import os
import time
import uuid
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest
import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services import jobs
from lacertus.services.clips import intake, spool, uploads
from lacertus.services.clips.intake import Sent
from lacertus.services.errors import Conflict, Held, HereAlready, NotFound, TooLarge
from lacertus.settings import settings
from lacertus.store import apart, queue
from lacertus.store.broker import QueueFull
from lacertus.store.tables import Clip, JobRow, UploadRow
from tests.halls import Hall, hall

SENT = Sent(name="kick.mp4", filmed_on=date(2026, 5, 4))


def begun(db: Session, where: Hall, content: bytes) -> uuid.UUID:
    upload = uploads.begin(db, where.academy, len(content), SENT).id
    db.commit()
    with spool.held(where.academy, upload) as slot:
        slot.write(content)
    return upload


def test_a_whole_upload_becomes_the_clip_of_its_id_and_only_once(db: Session, where: Hall, clips: dict[str, Path]) -> None:
    upload = begun(db, where, clips["long_gop"].read_bytes())
    assert uploads.find(db, where.academy, upload).stored is False
    clip = uploads.take_in(db, where.academy, upload)
    db.commit()
    assert clip is not None and clip.id == upload
    # The answer was lost, or the file was not deleted any more: whoever asks again is told that it is stored.
    assert uploads.take_in(db, where.academy, upload) is None
    found = uploads.find(db, where.academy, upload)
    assert (found.stored, found.offset) == (True, found.length)
    asked = sa.text("select count(*) from procrastinate_jobs where args->>'clip' = :clip")
    assert db.scalar(asked, {"clip": str(upload)}) == 1


def test_what_was_not_committed_is_taken_in_at_the_next_try(db: Session, where: Hall, clips: dict[str, Path]) -> None:
    upload = begun(db, where, clips["long_gop"].read_bytes())
    uploads.take_in(db, where.academy, upload)
    db.rollback()
    assert uploads.find(db, where.academy, upload).stored is False
    assert uploads.take_in(db, where.academy, upload) is not None


def test_the_same_film_twice_is_told_apart_from_other_conflicts(db: Session, where: Hall, clips: dict[str, Path]) -> None:
    uploads.take_in(db, where.academy, begun(db, where, clips["long_gop"].read_bytes()))
    db.commit()
    with pytest.raises(HereAlready, match=r"here already as “kick\.mp4”"):
        uploads.take_in(db, where.academy, begun(db, where, clips["long_gop"].read_bytes()))


def test_a_full_queue_says_so_before_anything_is_sent_and_keeps_what_is_here(
    db: Session, where: Hall, clips: dict[str, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(queue, "MOST_WAITING", 2)
    ready = [begun(db, where, clips[name].read_bytes()) for name in ("long_gop", "constant", "variable")]
    for upload in ready[:2]:
        uploads.take_in(db, where.academy, upload)
    with pytest.raises(QueueFull, match=r"2 pieces of work .* Nothing was stored"):
        uploads.begin(db, where.academy, 100, SENT)
    assert uploads.take_in(db, where.academy, ready[2]) is not None, "what was sent is taken in all the same"
    other = hall(db, "Other hall", "other@example.test")
    assert uploads.begin(db, other.academy, 100, SENT), "one academy fills the queue of no other"


def test_each_job_tells_how_many_of_all_academies_wait_before_it(db: Session, where: Hall, clips: dict[str, Path]) -> None:
    waiting = db.scalar(sa.select(sa.func.count()).where(JobRow.state == "waiting")) or 0
    other = hall(db, "Other hall", "other@example.test")
    for hall_, name in ((other, "long_gop"), (where, "constant"), (where, "long_gop")):
        uploads.take_in(db, hall_.academy, begun(db, hall_, clips[name].read_bytes()))
        db.commit()
    apart.work_for(db, where.academy)
    own = [one.ahead for one in jobs.listing(db, where.academy)]
    assert own[-2:] == [waiting + 2, waiting + 1]
    assert {one.job.academy_id for one in jobs.listing(db, where.academy)} == {where.academy}


def test_one_that_is_not_whole_is_not_taken_in(db: Session, where: Hall) -> None:
    upload = uploads.begin(db, where.academy, 100, SENT).id
    with pytest.raises(BadInput, match="not whole"):
        uploads.take_in(db, where.academy, upload)


def test_nobody_waits_for_another_sender(db: Session, where: Hall) -> None:
    upload = begun(db, where, b"x")
    started = time.monotonic()
    with (
        spool.held(where.academy, upload),
        pytest.raises(Held, match="Another connection is uploading this file right"),
        spool.held(where.academy, upload),
    ):
        pass
    assert time.monotonic() - started < 1


def test_another_academy_knows_nothing_of_it(db: Session, where: Hall) -> None:
    upload = begun(db, where, b"x")
    other = hall(db, "Other", "other@example.test").academy
    for act in (uploads.find, uploads.drop, uploads.take_in):
        with pytest.raises(NotFound, match="no such upload"):
            act(db, other, upload)
    with pytest.raises(NotFound, match="There is no such upload"), spool.held(other, upload):
        pass


def limited(monkeypatch: pytest.MonkeyPatch, **values: int) -> None:
    now = type(settings())(**(vars(settings()) | values))
    for module in (uploads, intake):
        monkeypatch.setattr(module, "settings", lambda: now)


def test_an_academy_keeps_so_much_and_no_more(db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch) -> None:
    """What is stored and what is on its way count together; another academy's does not."""
    limited(monkeypatch, academy_bytes=1000)
    db.add(Clip(academy_id=where.academy, name="old.mp4", filmed_on=SENT.filmed_on, size_bytes=500))
    uploads.begin(db, where.academy, 300, SENT)
    with pytest.raises(TooLarge, match="delete clips first"):
        uploads.begin(db, where.academy, 201, SENT)
    uploads.begin(db, where.academy, 200, SENT)
    uploads.begin(db, hall(db, "Other", "other@example.test").academy, 900, SENT)


def test_a_full_disk_is_told_before_anything_is_sent(db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(uploads, "SPARE_BYTES", 10**18)
    with pytest.raises(TooLarge, match="disk is nearly full"):
        uploads.begin(db, where.academy, 10, SENT)


def test_only_so_many_are_begun_at_once(db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(uploads, "MOST_OPEN", 2)
    for _ in range(2):
        uploads.begin(db, where.academy, 10, SENT)
    with pytest.raises(Conflict, match="cancel some"):
        uploads.begin(db, where.academy, 10, SENT)


def test_what_nobody_goes_on_with_is_deleted_with_its_bytes(db: Session, where: Hall) -> None:
    old, new = begun(db, where, b"old"), begun(db, where, b"new")
    db.execute(sa.update(UploadRow).where(UploadRow.id == old).values(touched_at=datetime.now(UTC) - timedelta(days=8)))
    stray = spool.path_of(where.academy, uuid.uuid4())
    stray.write_bytes(b"nobody's")
    two_days_ago = time.time() - 2 * 86_400
    os.utime(stray, (two_days_ago, two_days_ago))
    db.commit()
    assert uploads.sweep(db) == 1
    assert [spool.path_of(where.academy, one).exists() for one in (old, new)] == [False, True]
    assert not stray.exists()
    with pytest.raises(NotFound, match="a week"):
        uploads.find(db, where.academy, old)


def test_others_on_the_machine_cannot_read_what_comes_in(db: Session, where: Hall) -> None:
    upload = begun(db, where, b"x")
    assert spool.path_of(where.academy, upload).stat().st_mode & 0o077 == 0
