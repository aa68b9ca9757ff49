"""A mark's answer on a review of ten reps: one coach alone, and ten at once, each on a review of their own."""

from __future__ import annotations

import json
import logging
import tempfile
import threading
import time
import uuid
from datetime import date
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
import structlog
from fastapi.testclient import TestClient
from numpy.typing import NDArray
from rich.console import Console
from rich.table import Table

from lacertus.core.measuring.repfile import read_rep
from lacertus.local.postgres import free_port
from lacertus.services.review.kept import held
from lacertus.services.techniques import catalogue
from lacertus.services.transfer import rep_files
from lacertus.store import database
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of
from lacertus.web.app import create_app
from tests.bench.yardstick import Yardstick
from tests.halls import PASSWORD, hall
from tests.place import Server, place
from tests.watch_reading import reading

REPS, COACHES, MARKS = 10, 10, 24
SCRIPT = {
    "lacertus_script": 1,
    "id": "marks",
    "technique": "front-kick",
    "camera": {"size": [1280, 720]},
    "recording": {"fps": 60},
    "reps": [{"faults": {"low-chamber": 57.0}}],
}
EVERY = 12
"""So many frames lie between two points of a landmark, as after tracking and some cleaning up."""


def main() -> None:
    with tempfile.TemporaryDirectory() as name, place(Path(name)) as environment:
        server = Server(free_port(), environment, Path(name) / "log")
        try:
            Console(width=110).print(measured(server))
        finally:
            server.stop()
        Console(width=110).print(read_once())


def measured(server: Server) -> Table:
    yardstick = Yardstick()
    columns = ("coaches at once", "median, ms", "95 %, ms", "marks a second", "on a desk computer, ms", "there, at the server, ms")
    table = Table(*columns, title=f"a mark on a review of {REPS} reps")
    with database.session() as db:
        catalogue.store_shipped(db)
    reviews = [review_of_ten(number) for number in range(COACHES)]
    for coaches in (1, COACHES):
        took: list[float] = []
        factors: list[float] = []
        beside = (yardstick, factors) if coaches == 1 else None
        started = time.perf_counter()
        threads = [threading.Thread(target=_mark, args=(server, *review, took, beside)) for review in reviews[:coaches]]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        spent = time.perf_counter() - started
        ms = np.array(took) * 1000
        desk = [f"{np.median(of / np.array(factors)):.0f}" for of in (ms, _at_the_server(server, MARKS))] if factors else ["", ""]
        rate = f"{len(took) / spent:.1f}" if beside is None else ""
        table.add_row(str(coaches), f"{np.median(ms):.0f}", f"{np.percentile(ms, 95):.0f}", rate, *desk)
    table.caption = str(yardstick)
    return table


def _at_the_server(server: Server, count: int) -> NDArray[np.float64]:
    """What the server says that its last so many marks took, milliseconds, from its log."""
    lines = (json.loads(line) for line in server.log.read_text().splitlines() if line.startswith("{"))
    marks = [line["ms"] for line in lines if line.get("event") == "request" and line["method"] == "PUT"]
    return np.array(marks[-count:])


def read_once() -> Table:
    """One coach's marks in this process: a review read and judged once a request, and by each part that asks for it."""
    table = Table("a review is", "statements a mark", "median, ms", "ratio", title="reading a review once a request")
    email, _, reps = review_of_ten(COACHES)
    medians: list[float] = []
    with TestClient(create_app()) as client:
        # A line for each request would stand between the tables.
        structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(logging.WARNING))
        client.post("/api/session", json={"email": email, "password": PASSWORD}).raise_for_status()
        for name, patched in (("read by each that asks", True), ("read once", False)):
            counts: list[int] = []
            took: list[float] = []
            with pytest.MonkeyPatch.context() as patch:
                if patched:
                    patch.setattr(held, "worked_out", lambda db, review, work: work())
                    patch.setattr(held, "held", lambda db, review_id: None)
                for turn in range(MARKS):
                    path, body = change(uuid.UUID(reps[turn % REPS]), turn)
                    started = time.perf_counter()
                    with reading(patch) as counted:
                        client.put(path, json=body).raise_for_status()
                    took.append(time.perf_counter() - started)
                    counts.append(len(counted.statements))
            medians.append(float(np.median(took[REPS:])))
            ms, ratio = 1000 * medians[-1], medians[-1] / medians[0]
            table.add_row(name, f"{np.median(counts):.0f}", f"{ms:.0f}", f"{ratio:.2f}")
    return table


def review_of_ten(number: int) -> tuple[str, str, list[str]]:
    """An academy with an open review of ten reps; returns who signs in, the review, and its reps."""
    email = f"coach{number}@example.test"
    body = truth(shots_of(read_script(SCRIPT))[0])["reps"][0]
    for data in body["bodies"].values():
        data["landmarks"] = {name: points[::EVERY] for name, points in data["landmarks"].items()}
    rep = read_rep(body)
    with database.session() as db:
        where = hall(db, f"Hall {number}", email)
        review = rep_files.bring_in(db, where.academy, where.student, "kick", date(2026, 5, 4), [rep] * REPS)
        return email, str(review.id), [str(one.id) for one in review.reps]


Beside = tuple[Yardstick, list[float]]
"""Marks are told for a desk computer by what was timed just before and after: the machine’s pace changes within seconds."""


def _mark(server: Server, email: str, review: str, reps: list[str], took: list[float], beside: Beside | None) -> None:
    with httpx.Client(base_url=server.url, timeout=60) as client:
        client.post("/api/session", json={"email": email, "password": PASSWORD}).raise_for_status()
        # The page of a review reads it before anything is marked.
        shown = client.get(f"/api/reviews/{review}").raise_for_status().json()
        for turn in range(MARKS):
            path, body = change(uuid.UUID(reps[turn % REPS]), turn)
            # Pages tell which points they hold.
            held = {"X-Points": ",".join(rep["points_version"] for rep in shown["reps"])}
            before = beside[0].measure() if beside else 1.0
            started = time.perf_counter()
            answer = client.put(path, json=body, headers=held).raise_for_status()
            took.append(time.perf_counter() - started)
            if beside:
                beside[1].append((before + beside[0].measure()) / 2)
            shown = answer.json()


def change(rep: uuid.UUID, turn: int) -> tuple[str, dict[str, Any]]:
    if turn % 2:
        return f"/api/reps/{rep}/points/performer/right_knee/{20 + turn % 30}", {"x": 600.0 + turn % 200, "y": 400.0}
    return f"/api/reps/{rep}/events/knee_top", {"frames": [30 + turn % 7]}


if __name__ == "__main__":
    main()
