"""Handing work to the queue, and its state for whoever asked: in the transaction of the change that asks for it, or not at all."""

from __future__ import annotations

import uuid
from bisect import bisect_left
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from types import MappingProxyType

import structlog
from sqlalchemy import Select, func, select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.store import broker
from lacertus.store.apart import everywhere
from lacertus.store.broker import QueueFull
from lacertus.store.tables import Clip, JobRow


class TakenOver(LacertusError):
    """Another worker has taken this work over, as this one was not heard of, and has ended it. Nothing of it was kept here."""


READ_CLIP = "read_clip"
DRAW_STILL = "draw_still"
TRACK_POINTS = "track_points"
DRAW_EXAMPLE = "draw_example"
MAKE_MARKED_CLIP = "make_marked_clip"
MAKE_COMPARED_FILM = "make_compared_film"
ABOUT = {
    READ_CLIP: "clip",
    DRAW_STILL: "correction",
    TRACK_POINTS: "rep",
    DRAW_EXAMPLE: "correction",
    MAKE_MARKED_CLIP: "review",
    MAKE_COMPARED_FILM: "film",
}
"""What each is about: also the name of the argument."""
RUNNING = ("waiting", "running")

MOST_WAITING = 500
"""So much work of one academy may wait. More is asked for once some of it is done, so that no academy fills the queue of all."""


def check_room(db: Session, academy: uuid.UUID) -> None:
    """Raise QueueFull where an academy has as much work waiting as it may have.

    Pictures of corrections are asked for all the same: they are drawn in a moment, and belong to what a coach has just saved.
    """
    waiting = select(func.count()).where(JobRow.academy_id == academy, JobRow.state == "waiting")
    if (db.scalar(waiting) or 0) >= MOST_WAITING:
        raise QueueFull(
            f"{MOST_WAITING} pieces of work of this academy wait to be done already. Nothing was stored; try again once some of "
            "them are done, or stop some under “Jobs”."
        )


def ahead(db: Session, jobs: Iterable[JobRow]) -> dict[uuid.UUID, int]:
    """By job that waits: how many of all academies' were asked for before it and wait as well. Nothing else is told of them."""
    own = {job.id: job.asked_at for job in jobs if job.state == "waiting"}
    if not own:
        return {}
    with everywhere(db):
        waiting = list(db.scalars(select(JobRow.asked_at).where(JobRow.state == "waiting").order_by(JobRow.asked_at)))
    return {job: bisect_left(waiting, asked_at) for job, asked_at in own.items()}


def ask(
    db: Session,
    task: str,
    about: uuid.UUID,
    clip: uuid.UUID,
    arguments: Mapping[str, int] = MappingProxyType({}),
    at: datetime | None = None,
) -> None:
    """Ask for work on something of a clip, or ask anew. It commits with the change that asks for it.

    Raises:
        QueueError: the queue did not take it.
    """
    request = structlog.contextvars.get_contextvars().get("request")
    academy = db.scalar(select(Clip.academy_id).where(Clip.id == clip))
    assert academy is not None
    new = {
        "arguments": dict(arguments), "state": "waiting", "done": 0, "of": None, "reason": None, "stop_asked": False,
        "request": request, "asked_at": datetime.now(UTC), "ended_at": None,
    }  # fmt: skip
    row = insert(JobRow).values(id=uuid.uuid4(), academy_id=academy, clip_id=clip, task=task, about=about, **new)
    db.execute(row.on_conflict_do_update(index_elements=["task", "about"], set_=new))
    hand_in(db, task, about, arguments, at)


def hand_in(
    db: Session,
    task: str,
    about: uuid.UUID,
    arguments: Mapping[str, int] = MappingProxyType({}),
    at: datetime | None = None,
) -> None:
    """Put work into the queue whose state stands in its row already."""
    db.flush()
    broker.defer(db, task, lock=f"{task}-{about}", at=at, arguments={ABOUT[task]: str(about), **arguments})


@dataclass(frozen=True, kw_only=True)
class Standing:
    """How the queue stands: work by task and state, how long the oldest that could be begun has waited, and workers alive."""

    counts: Mapping[tuple[str, str], int]
    oldest_s: float
    workers: int


ALIVE_S = 12.0
"""A worker that was heard of so recently is alive."""


def standing(db: Session) -> Standing:
    """How the queue stands now."""
    counted = select(JobRow.task, JobRow.state, func.count()).group_by(JobRow.task, JobRow.state)
    oldest = text(
        "select coalesce(max(extract(epoch from now() - job.asked_at)), 0) from job where job.state = 'waiting' and exists ("
        "select from procrastinate_jobs held where held.task_name = job.task and held.status = 'todo'"
        " and (held.scheduled_at is null or held.scheduled_at <= now())"
        " and held.lock = job.task || '-' || job.about::text)"
    )
    alive = text("select count(*) from procrastinate_workers where last_heartbeat > now() - make_interval(secs => :alive)")
    return Standing(
        counts={(task, state): count for task, state, count in db.execute(counted)},
        oldest_s=float(db.scalar(oldest) or 0.0),
        workers=int(db.scalar(alive, {"alive": ALIVE_S}) or 0),
    )


# --- what the shell of every job notes ----------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Started:
    """Work that a worker has begun: when it was asked for, by which request, and of which academy."""

    asked_at: datetime | None = None
    request: str | None = None
    academy: uuid.UUID | None = None


def start(db: Session, task: str, about: uuid.UUID) -> Started | None:
    """Note that a worker is at it; None where it was stopped or done meanwhile. What was put into the queue by an earlier version
    has no row, and is done all the same."""
    row = db.scalar(_row(task, about).with_for_update())
    if row is None:
        return Started()
    if row.state not in RUNNING or row.stop_asked:
        return None
    row.state, row.done, row.of = "running", 0, None
    return Started(asked_at=row.asked_at, request=row.request, academy=row.academy_id)


def check_held(db: Session, task: str, about: uuid.UUID, asked: Started) -> None:
    """Hold the row of a job until this transaction ends, so that it ends once.

    Raises:
        TakenOver: another worker, which took this one for dead, has ended it since.
    """
    row = db.scalar(_row(task, about).with_for_update())
    if row is not None and row.asked_at == asked.asked_at and row.state not in RUNNING:
        raise TakenOver()


def note(db: Session, task: str, about: uuid.UUID, done: int, of: int | None) -> bool:
    """Note how far it is; True where it should stop."""
    change = update(JobRow).where(JobRow.task == task, JobRow.about == about).values(done=done, of=of)
    return bool(db.scalar(change.returning(JobRow.stop_asked)))


def end(db: Session, task: str, about: uuid.UUID, state: str, reason: str | None = None, asked_at: datetime | None = None) -> None:
    """Note how it ended. What was asked anew since `asked_at` waits on."""
    change = update(JobRow).where(JobRow.task == task, JobRow.about == about, JobRow.state.in_(RUNNING))
    if asked_at is not None:
        change = change.where(JobRow.asked_at == asked_at)
    db.execute(change.values(state=state, reason=reason, ended_at=datetime.now(UTC)))


def state_of(db: Session, task: str, about: uuid.UUID) -> JobRow | None:
    """How a piece of work stands; None where it was never asked for."""
    return db.scalar(_row(task, about))


def lost(db: Session, after_s: float) -> list[tuple[str, uuid.UUID]]:
    """Task and subject of what waits or runs, was asked for longer ago than this, and is in no job of the queue."""
    held = text(
        "not exists (select from procrastinate_jobs held where held.task_name = job.task and held.status in ('todo', 'doing')"
        " and exists (select from jsonb_each_text(held.args) argument where argument.value = job.about::text))"
    )
    before = datetime.now(UTC) - timedelta(seconds=after_s)
    rows = select(JobRow.task, JobRow.about).where(JobRow.state.in_(RUNNING), JobRow.asked_at < before, held)
    return [(task, about) for task, about in db.execute(rows)]


def runs(db: Session, task: str, about: uuid.UUID) -> bool:
    row = state_of(db, task, about)
    return row is not None and row.state in RUNNING


def _row(task: str, about: uuid.UUID) -> Select[JobRow]:
    return select(JobRow).where(JobRow.task == task, JobRow.about == about).execution_options(populate_existing=True)
