"""What tests share: small scenes, clips of known frames, a database of their own, and a running server."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import hypothesis
import pytest
import sqlalchemy as sa
import structlog
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher
from sqlalchemy.orm import Session

from lacertus.studio.clips import record
from lacertus.studio.scene import Shot, truth
from lacertus.studio.script import Script, read_script, shots_of
from tests import watch
from tests.halls import Hall, hall
from tests.place import Server, place

# A slow machine is no failure.
hypothesis.settings.register_profile("untimed", deadline=None)
hypothesis.settings.load_profile("untimed")

SMALL: dict[str, Any] = {"camera": {"size": [480, 270]}, "scatter": 0.0, "lacertus_script": 1}
LOW = [{"faults": {"low-chamber": 57.0, "no-return": 260}}]
SCRIPTS: dict[str, dict[str, Any]] = {
    "constant": {"technique": "front-kick", "reps": LOW, "recording": {"fps": 60}},
    "variable": {
        "technique": "advancing-foot-sweep",
        "reps": [{"faults": {"late-sweep": 190, "bent-sweep": 30}}],
        "recording": {"fps": 40, "variable": True},
        "seed": 5,
    },
    "long_gop": {"technique": "front-kick", "reps": LOW, "recording": {"fps": 30, "group": 250, "b_frames": 3}},
}

# By itself a fault is drawn in the log with all that its variables hold, which takes half a minute where a session is among them.
_plain = structlog.dev.ConsoleRenderer(colors=False, exception_formatter=structlog.dev.plain_traceback)
structlog.configure(processors=[structlog.contextvars.merge_contextvars, structlog.processors.add_log_level, _plain])

watch.watch()


@pytest.fixture(autouse=True)
def nothing_is_changed_without_a_lock() -> Iterator[None]:
    """Every test: a change to a review is made while nobody else can make one, or one of the two is lost."""
    watch.unlocked.clear()
    yield
    assert watch.unlocked == []


@pytest.fixture(scope="session")
def scripts() -> dict[str, Script]:
    return {name: read_script(SMALL | {"id": name.replace("_", "-")} | script) for name, script in SCRIPTS.items()}


@pytest.fixture(scope="session")
def shots(scripts: dict[str, Script]) -> dict[str, Shot]:
    return {name: shots_of(script)[0] for name, script in scripts.items()}


@pytest.fixture(scope="session")
def clips(tmp_path_factory: pytest.TempPathFactory, scripts: dict[str, Script], shots: dict[str, Shot]) -> dict[str, Path]:
    """Three real clips: constant rate, variable rate, long groups of pictures with B-frames."""
    folder = tmp_path_factory.mktemp("clips")
    found = {}
    for name, shot in shots.items():
        found[name] = folder / f"{name}.mp4"
        record(shot, found[name], scripts[name].recording)
    return found


@pytest.fixture(scope="session")
def truths(shots: dict[str, Shot]) -> dict[str, dict]:  # type: ignore[type-arg]
    return {name: truth(shot) for name, shot in shots.items()}


@pytest.fixture(scope="session")
def environment(tmp_path_factory: pytest.TempPathFactory) -> Iterator[dict[str, str]]:
    """A database, media and uploads of the tests' own, in this process's environment; passwords are hashed quickly."""

    from lacertus.services.people import accounts

    quick = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=8, parallelism=1),))
    with place(tmp_path_factory.mktemp("lacertus")) as values, pytest.MonkeyPatch.context() as patch:
        patch.setattr(accounts, "_hasher", lambda: quick)
        yield values


@pytest.fixture(scope="session")
def shipped(environment: dict[str, str]) -> list[uuid.UUID]:
    """The shipped techniques' rows, stored once."""
    from lacertus.services.techniques import catalogue
    from lacertus.store import database
    from lacertus.store.tables import TechniqueVersion

    with database.session() as first:
        catalogue.store_shipped(first)
        return list(first.scalars(sa.select(TechniqueVersion.id)))


@pytest.fixture
def db(shipped: list[uuid.UUID]) -> Iterator[Session]:
    """A session on a database that is empty but for the shipped techniques."""
    from lacertus.store import database

    for tries_left in (2, 1, 0):
        try:
            _empty(shipped)
            break
        except database.SameMoment:
            # A worker of the test before still writes.
            if tries_left == 0:
                raise
    with database.session() as current:
        yield current


def _empty(shipped: list[uuid.UUID]) -> None:
    """Delete every row but the shipped techniques: that takes a tenth of the time that emptying forty tables takes."""
    from lacertus.store import database
    from lacertus.store.tables import Base, TechniqueVersion

    with watch.paused(), database.session() as cleaner:
        # The audit trail goes with its academy: nothing else can delete it.
        for table in reversed([table for table in Base.metadata.sorted_tables if table.name != "audit"]):
            kept = TechniqueVersion.id.in_(shipped) if table is TechniqueVersion.__table__ else sa.false()
            cleaner.execute(sa.delete(table).where(~kept))
        cleaner.execute(sa.text("delete from procrastinate_jobs"))


@pytest.fixture
def where(db: Session) -> Hall:
    """An academy with a coach and a student."""
    return hall(db)


@pytest.fixture
def clip(db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path) -> uuid.UUID:
    """A clip that has been read."""
    from tests.halls import read_in

    return read_in(db, where, clips["constant"], tmp_path)


@pytest.fixture
def review(db: Session, where: Hall, clip: uuid.UUID) -> uuid.UUID:
    from lacertus.services.review import review as reviewing

    found = reviewing.open_review(db, where.academy, clip).id
    db.commit()
    return found


@pytest.fixture
def rep(db: Session, where: Hall, review: uuid.UUID, truths: dict[str, Any]) -> uuid.UUID:
    from tests.halls import cut

    return cut(db, where, review, truths["constant"]["reps"][0])


@pytest.fixture(scope="session")
def server(environment: dict[str, str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """The real server and worker."""
    from lacertus.local.postgres import free_port

    found = Server(free_port(), environment, tmp_path_factory.mktemp("server") / "log")
    yield found
    found.stop()


@pytest.fixture
def client(server: Server, db: Session) -> Iterator[httpx.Client]:
    """A coach signed in by HTTP, in an academy with one student."""
    from tests.halls import EMAIL, PASSWORD, hall

    hall(db)
    with httpx.Client(base_url=server.url, timeout=30) as found:
        found.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        yield found
