"""What tests share: small scenes, clips of known frames, a database of their own, and a running server."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import httpx
import pytest
from sqlalchemy.orm import Session

from lacertus.local.postgres import LocalPostgres
from lacertus.studio.camera import Camera
from lacertus.studio.clips import Recording, even_times, record, uneven_times
from lacertus.studio.demo_scenes import ILSE, TOMAS, kicks, sweep
from lacertus.studio.foot_sweep import FootSweep
from lacertus.studio.front_kick import FrontKick
from lacertus.studio.scene import Scene, truth

ROOT = Path(__file__).resolve().parent.parent
LOW = FrontKick(thigh=62.0, return_s=0.45)


def small(scene: Scene) -> Scene:
    """The same scene on fewer pixels, quick to draw."""
    camera = scene.camera
    return replace(scene, camera=Camera(position=camera.position, target=camera.target, width=480, height=270))


SCENES = {
    "constant": (lambda: kicks(ILSE, [LOW], lambda s: even_times(s, 60)), Recording(group=30)),
    "variable": (lambda: sweep(TOMAS, FootSweep(sweep_s=0.19, knee=22.0), lambda s: uneven_times(s, 40, 5)), Recording(group=30)),
    "long_gop": (lambda: kicks(ILSE, [LOW], lambda s: even_times(s, 30)), Recording(group=250, b_frames=3)),
}


@pytest.fixture(scope="session")
def scenes() -> dict[str, Scene]:
    return {name: small(build()) for name, (build, _) in SCENES.items()}


@pytest.fixture(scope="session")
def clips(tmp_path_factory: pytest.TempPathFactory, scenes: dict[str, Scene]) -> dict[str, Path]:
    """Three real clips: constant rate, variable rate, long groups of pictures with B-frames."""
    folder = tmp_path_factory.mktemp("clips")
    found = {}
    for name, scene in scenes.items():
        found[name] = folder / f"{name}.mp4"
        record(scene, found[name], SCENES[name][1])
    return found


@pytest.fixture(scope="session")
def truths(scenes: dict[str, Scene]) -> dict[str, dict]:  # type: ignore[type-arg]
    return {name: truth(scene) for name, scene in scenes.items()}


@pytest.fixture(scope="session")
def environment(tmp_path_factory: pytest.TempPathFactory) -> Iterator[dict[str, str]]:
    """A database, media and uploads of the tests' own, in this process's environment."""
    folder = tmp_path_factory.mktemp("lacertus")
    (ROOT / ".run").mkdir(exist_ok=True)
    postgres = LocalPostgres(ROOT / ".run" / f"test-{os.getpid()}", durable=False)
    postgres.start()
    values = {
        "LACERTUS_DATABASE_URL": postgres.url,
        "LACERTUS_MEDIA_URL": f"file://{folder}/media",
        "LACERTUS_UPLOADS_DIR": f"{folder}/uploads",
        "LACERTUS_UI_DIR": str(ROOT / "ui" / "dist"),
    }
    os.environ.update(values)
    from lacertus.jobs.queue import open_queue
    from lacertus.settings import settings
    from lacertus.store import database

    settings.cache_clear()
    database.upgrade()
    open_queue()
    yield values
    database.engine().dispose()
    postgres.destroy()


@pytest.fixture
def db(environment: dict[str, str]) -> Iterator[Session]:
    """An empty database with the shipped techniques, and a session on it."""
    from lacertus.services import techniques
    from lacertus.store import database
    from lacertus.store.tables import Base

    with database.session() as cleaner:
        cleaner.connection().exec_driver_sql(f"truncate {', '.join(Base.metadata.tables)}, procrastinate_jobs cascade")
    with database.session() as current:
        techniques.store_shipped(current)
        current.commit()
        yield current


@dataclass(frozen=True)
class Server:
    """A running server with a worker beside it."""

    url: str
    worker: subprocess.Popen[bytes]


@pytest.fixture(scope="session")
def server(environment: dict[str, str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """The real server and worker, as processes of their own."""
    from lacertus.local.demo import START_LIMIT_S
    from lacertus.local.postgres import free_port

    port = free_port()
    log = (tmp_path_factory.mktemp("server") / "log").open("wb")
    processes = [
        subprocess.Popen([sys.executable, "-m", "lacertus.cli", *command], env=os.environ | environment, stdout=log, stderr=log)
        for command in (["worker"], ["serve", "--port", str(port)])
    ]
    url = f"http://127.0.0.1:{port}"
    deadline = time.monotonic() + START_LIMIT_S
    while True:
        try:
            httpx.get(f"{url}/api/health").raise_for_status()
            break
        except httpx.HTTPError:
            if time.monotonic() > deadline:
                raise
            time.sleep(0.1)
    yield Server(url, processes[0])
    for process in processes:
        process.terminate()
        process.wait(15)


@pytest.fixture
def client(server: Server, db: Session) -> Iterator[httpx.Client]:
    """A coach signed in by HTTP, in an academy with one student."""
    from tests.services.academy import EMAIL, PASSWORD, hall

    hall(db)
    with httpx.Client(base_url=server.url, timeout=30) as found:
        found.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        yield found
