"""Thirty coaches at once on two cores: each marks every five seconds, two of them drag, ten films are sent, and a worker reads.

They are shared out among servers as a proxy does it, one for each core unless `LACERTUS_BENCH_SERVERS` says otherwise. One coach
alone is timed first, in the same run. The servers' memory is told, and so is what a queue that is full answers.
"""

from __future__ import annotations

import asyncio
import gc
import json
import os
import re
import tempfile
import threading
import time
import uuid
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import numpy as np
from rich.console import Console
from rich.table import Table
from websockets.sync.client import connect

from lacertus.local.postgres import free_port
from lacertus.services.techniques import catalogue
from lacertus.store import database
from tests.bench.marks import change, review_of_ten
from tests.bench.yardstick import Yardstick
from tests.faults.running import small_clip
from tests.halls import PASSWORD
from tests.place import Server, place
from tests.web.uploading import send, start_upload

COACHES, DRAGGING, UPLOADS = 30, 2, 10
MINUTES = float(os.environ.get("LACERTUS_BENCH_MINUTES", "4"))
PACE = float(os.environ.get("LACERTUS_BENCH_PACE", "1"))
"""So many times as fast, for an hour of requests in less: memory goes by requests. The times of such a run do not count."""
EVERY_S, PAUSE_S = 5.0 / PACE, 0.05 / PACE**2
SERVERS = int(os.environ.get("LACERTUS_BENCH_SERVERS", "2"))
_VERSION = re.compile(rb'"points_version": ?"([^"]*)"')
FLOOD = 600
"""So many requests at once are what a full queue is tried with."""


@dataclass
class Took:
    """What was timed, seconds."""

    marks: list[float] = field(default_factory=list)
    drags: list[float] = field(default_factory=list)
    desk_marks: list[float] = field(default_factory=list)
    desk_drags: list[float] = field(default_factory=list)


class Coach:
    """Marks a review of ten reps, one mark every five seconds; or drags a point of it without a pause."""

    def __init__(self, server: Server, number: int) -> None:
        self.server = server
        email, self.review, self.reps = review_of_ten(number)
        self.client = httpx.Client(base_url=server.url, timeout=60)
        self.client.post("/api/session", json={"email": email, "password": PASSWORD}).raise_for_status()
        self.versions = _versions(self.client.get(f"/api/reviews/{self.review}").raise_for_status())
        self.told_to_wait = 0
        self._turn = 0

    @property
    def cookie(self) -> str:
        return "; ".join(f"{name}={value}" for name, value in self.client.cookies.items())

    def mark(self) -> float:
        path, body = change(uuid.UUID(self.reps[self._turn % len(self.reps)]), self._turn)
        self._turn += 1
        held = {"X-Points": ",".join(self.versions)}
        started = time.perf_counter()
        while (answer := self.client.put(path, json=body, headers=held)).status_code == httpx.codes.SERVICE_UNAVAILABLE:
            # A page tries again by itself; the coach waits for all of it.
            self.told_to_wait += 1
            time.sleep(float(answer.headers["Retry-After"]))
        answer.raise_for_status()
        took = time.perf_counter() - started
        self.versions = _versions(answer)
        return took

    def keep_marking(self, until: float, took: list[float], first_s: float) -> None:
        time.sleep(first_s)
        while time.monotonic() < until:
            began = time.monotonic()
            took.append(self.mark())
            time.sleep(max(EVERY_S - (time.monotonic() - began), 0.0))

    def keep_dragging(self, until: float, took: list[float], pause_s: float = PAUSE_S) -> None:
        headers = {"Cookie": self.cookie, "Origin": self.server.url}
        with connect(self.server.url.replace("http", "ws") + "/api/live", additional_headers=headers) as socket:
            turn = 0
            while time.monotonic() < until:
                turn += 1
                asked = {"rep": self.reps[0], "body": "performer", "landmark": "right_knee", "frame": 36, "x": 600.0 + turn % 50}
                started = time.perf_counter()
                socket.send(json.dumps(asked | {"y": 400.0, "turn": turn}))
                json.loads(socket.recv(timeout=60))
                took.append(time.perf_counter() - started)
                time.sleep(pause_s)


def _versions(answer: httpx.Response) -> list[str]:
    """The versions of the reps' points, as a page tells which it holds. The rest is for the coach's own machine to read: here it
    would take the servers' two cores, and 32 threads would wait for each other."""
    return [version.decode() for version in _VERSION.findall(answer.content)]


def main() -> None:
    console = Console(width=130)
    with tempfile.TemporaryDirectory() as name, place(Path(name)) as environment:
        with database.session() as db:
            catalogue.store_shipped(db)
        # Workers give way, as they do unless they are set otherwise.
        environment["LACERTUS_WORKER_NICE"] = "10"
        servers = [
            Server(free_port(), environment, Path(name) / f"log-{number}", has_worker=number == 0) for number in range(SERVERS)
        ]
        try:
            film = small_clip(Path(name))[0].read_bytes()
            coaches = [Coach(servers[number % SERVERS], number) for number in range(COACHES)]
            yardstick = Yardstick()
            # Looking for garbage stops all the coaches of this process for up to half a second; theirs are thirty machines.
            gc.collect()
            gc.freeze()
            gc.disable()
            alone = _alone(coaches[0], yardstick)
            memory: list[int] = []
            together = _together(servers, coaches, film, memory)
            flood = _flood(coaches)
        finally:
            for server in servers:
                server.stop()
        after = Yardstick()
        for _ in range(20):
            after.measure()
        # Nobody can time it while both cores are busy: the pace before and after stands for the time between.
        factor = (yardstick.factor + after.factor) / 2
        together.desk_marks = [one / factor for one in together.marks]
        together.desk_drags = [one / factor for one in together.drags]
        console.print(_table(alone, together))
        console.print(f"yardstick while one coach worked alone: {yardstick}\nafter all: {after}")
        console.print(f"marks that were told to come again, and did: {sum(one.told_to_wait for one in coaches)}")
        console.print(f"memory of {SERVERS} servers together, MB, every half minute: {', '.join(str(one) for one in memory)}")
        console.print(f"{FLOOD} requests at once: {flood}")


def _alone(coach: Coach, yardstick: Yardstick) -> Took:
    took = Took()
    for _ in range(20):
        before = yardstick.measure()
        took.marks.append(coach.mark())
        took.desk_marks.append(took.marks[-1] / ((before + yardstick.measure()) / 2))
    factor = yardstick.measure()
    coach.keep_dragging(time.monotonic() + 6, took.drags)
    factor = (factor + yardstick.measure()) / 2
    took.desk_drags = [one / factor for one in took.drags]
    return took


def _together(servers: list[Server], coaches: list[Coach], film: bytes, memory: list[int]) -> Took:
    took = Took()
    until = time.monotonic() + 60 * MINUTES
    threads = [
        threading.Thread(target=one.keep_marking, args=(until, took.marks, EVERY_S * number / COACHES))
        for number, one in enumerate(coaches)
    ]
    threads += [threading.Thread(target=one.keep_dragging, args=(until, took.drags)) for one in coaches[:DRAGGING]]
    threads += [threading.Thread(target=_send_film, args=(coaches[number].client, film)) for number in range(UPLOADS)]
    for thread in threads:
        thread.start()
    while time.monotonic() < until:
        memory.append(sum(_resident_mb(server.web.pid) for server in servers))
        time.sleep(min(30.0, max(until - time.monotonic(), 0.0)))
    for thread in threads:
        thread.join()
    memory.append(sum(_resident_mb(server.web.pid) for server in servers))
    return took


def _send_film(client: httpx.Client, film: bytes) -> None:
    """In pieces with pauses, as over a telephone."""
    data = film + b"\x00\x00\x00\x18free" + uuid.uuid4().bytes
    location = start_upload(client, len(data)).headers["location"]
    step = len(data) // 8 + 1
    for at in range(0, len(data), step):
        send(client, location, data[at : at + step], at).raise_for_status()
        time.sleep(1.0)


def _resident_mb(pid: int) -> int:
    pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") // 1_000_000


def _flood(coaches: list[Coach]) -> str:
    """More at once than can be worked on: what is not taken is told so, and the server answers as before afterwards."""

    async def crowd() -> list[int]:
        limits, address = httpx.Limits(max_connections=None), coaches[0].client.base_url
        async with httpx.AsyncClient(base_url=address, timeout=120, limits=limits) as many:
            senders = [coaches[number % COACHES] for number in range(FLOOD)]
            asked = (many.get(f"/api/reviews/{one.review}", headers={"Cookie": one.cookie}) for one in senders)
            return [answer.status_code for answer in await asyncio.gather(*asked)]

    codes = Counter(asyncio.run(crowd()))
    after = coaches[0].mark()
    told = ", ".join(f"{count} answered {code}" for code, count in sorted(codes.items()))
    return f"{told}; the next mark took {1000 * after:.0f} ms"


def _table(alone: Took, together: Took) -> Table:
    title = (
        f"{COACHES} coaches mark every {EVERY_S:g} s, {DRAGGING} drag, {UPLOADS} films are sent, a worker reads: {MINUTES:g} min"
    )
    table = Table("", "how many", "median, ms", "95 %, ms", "95 % on a desk computer", "to reach, 95 %", title=title)
    for name, took, desk, goal in (
        ("mark, one coach alone", alone.marks, alone.desk_marks, ""),
        ("mark, all together", together.marks, together.desk_marks, "150"),
        ("drag, one coach alone", alone.drags, alone.desk_drags, ""),
        ("drag, all together", together.drags, together.desk_drags, "60"),
    ):
        ms = 1000 * np.array(took)
        told = f"{1000 * np.percentile(desk, 95):.0f}"
        table.add_row(name, str(len(took)), f"{np.median(ms):.0f}", f"{np.percentile(ms, 95):.0f}", told, goal)
    return table


if __name__ == "__main__":
    main()
