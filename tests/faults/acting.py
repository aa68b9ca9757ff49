"""Who works at a site while it is hit: each keeps what was acknowledged, and tells afterwards what of it is not there."""

from __future__ import annotations

import hashlib
import random
import socket
import threading
import time
import uuid
from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import httpx

from tests.halls import EMAIL, PASSWORD
from tests.web.uploading import TUS, metadata, send

PAUSE_S = 0.15
REST_S = 4.0
"""Between two clips, and between two pieces of other work: about what a worker takes for one."""
MOST_LINKS = 40
TRUSTED = (200, 201, 204)
GIVEN_UP_S = 90.0


class Actor(threading.Thread, ABC):
    """Does the same thing again and again until it is told to stop. What failed is done again, or left."""

    least = 4
    """So often it is to be acknowledged before all is looked over."""

    def __init__(self, url: str, seed: int) -> None:
        super().__init__(daemon=True)
        self.url = url
        self.chance = random.Random(seed)
        self.done, self.failed = 0, 0
        self.broken: list[str] = []
        self._ends = threading.Event()
        self._client = httpx.Client(base_url=url, timeout=20)

    @abstractmethod
    def act(self) -> bool:
        """Do it once; False where there was nothing to do yet."""

    @abstractmethod
    def lost(self) -> list[str]:
        """What was acknowledged and is not there, told once all is quiet."""

    def run(self) -> None:
        while not self._ends.is_set():
            try:
                self.done += self.act()
            except (httpx.HTTPError, OSError):
                self.failed += 1
            except Exception as error:  # noqa: BLE001 (told at the end: a thread that dies tells nobody)
                self.broken.append(repr(error))
            self._ends.wait(PAUSE_S * self.chance.random())

    def end(self) -> None:
        self._ends.set()
        self.join(60)

    def sign_in(self) -> None:
        """Signing in outlives every fault but is tried until it is there."""
        for _ in range(60):
            try:
                self._client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
                return
            except httpx.HTTPError:
                time.sleep(0.5)
        raise AssertionError("nobody could sign in")

    def ask(self, method: str, path: str, body: Any = None, *, may_refuse: bool = False) -> Any:
        """What is acknowledged; None where it was refused and may be. What breaks off, or is a fault of the server's, raises."""
        answer = self._client.request(method, path, json=body)
        if answer.status_code >= 500:
            raise httpx.HTTPError(f"{answer.status_code}")
        if may_refuse and 400 <= answer.status_code < 500:
            return None
        if answer.status_code not in TRUSTED:
            raise AssertionError(f"{method} {path}: {answer.status_code} {answer.text[:200]}")
        return answer.json() if answer.content else None


class Uploader(Actor):
    """Sends clips in pieces, some of them cut off in the middle of a piece."""

    least = 2

    def __init__(self, url: str, seed: int, clip: Path, student: uuid.UUID, most: int) -> None:
        super().__init__(url, seed)
        self._clip, self._student, self._most = clip.read_bytes(), student, most
        self.whole: dict[str, str] = {}
        self.cut, self._next = 0, 0.0

    def act(self) -> bool:
        if len(self.whole) >= self._most or time.monotonic() < self._next:
            return False
        self._next = time.monotonic() + REST_S * 2 * self.chance.random()
        data = self._clip + b"\x00\x00\x00\x18free" + uuid.uuid4().bytes
        said = metadata(filename="kick.mp4", filetype="video/mp4", student=str(self._student), filmed_on="2026-05-04")
        begun = self._client.post("/api/uploads/", headers=TUS | {"Upload-Length": str(len(data)), "Upload-Metadata": said})
        begun.raise_for_status()
        location, until = begun.headers["location"], time.monotonic() + GIVEN_UP_S
        while time.monotonic() < until:
            try:
                at = int(self._client.head(location, headers=TUS).raise_for_status().headers["upload-offset"])
                if at == len(data):
                    self.whole[location.rpartition("/")[2]] = hashlib.sha256(data).hexdigest()
                    return True
                piece = data[at : at + max(1, len(data) // self.chance.choice((1, 3, 7)))]
                if self.chance.random() < 0.3:
                    self._cut(location, piece, at)
                else:
                    send(self._client, location, piece, at).raise_for_status()
            except (httpx.HTTPError, OSError, KeyError):
                self.failed += 1
                time.sleep(0.3)
        return False

    def _cut(self, location: str, piece: bytes, at: int) -> None:
        """Break off in the middle of a piece, as a phone does that loses its network."""
        place = urlsplit(self.url)
        cookie = "; ".join(f"{name}={value}" for name, value in self._client.cookies.items())
        head = (
            f"PATCH {location} HTTP/1.1\r\nHost: {place.netloc}\r\nCookie: {cookie}\r\n"
            f"Tus-Resumable: 1.0.0\r\nUpload-Offset: {at}\r\n"
            f"Content-Type: application/offset+octet-stream\r\nContent-Length: {len(piece)}\r\n\r\n"
        )
        with socket.create_connection((str(place.hostname), place.port or 80), timeout=5) as line:
            line.sendall(head.encode() + piece[: len(piece) // 2])
        self.cut += 1

    def lost(self) -> list[str]:
        from lacertus.store.database import session
        from lacertus.store.media import media, original_key
        from lacertus.store.tables import Clip

        found = []
        with session() as db:
            for key, digest in self.whole.items():
                clip = db.get(Clip, uuid.UUID(key))
                if clip is None:
                    found.append(f"clip {key} was acknowledged and is not there")
                    continue
                size = media().size(original_key(clip.id))
                if hashlib.sha256(b"".join(media().read(original_key(clip.id), 0, size))).hexdigest() != digest:
                    found.append(f"clip {key} is not what was sent")
        return found


class Marker(Actor):
    """Marks an event and places a point of a rep, each time elsewhere."""

    def __init__(self, url: str, seed: int, review: uuid.UUID, rep: uuid.UUID, frames: tuple[int, int]) -> None:
        super().__init__(url, seed)
        self._review, self._rep, self._frames = review, rep, frames
        self._may: dict[str, list[Any]] = {}
        """By what is marked: the last value that was acknowledged, and those that were sent since and may have been stored."""

    def act(self) -> bool:
        if self.chance.random() < 0.5:
            frame = self.chance.randrange(*self._frames)
            self._send("event", f"/api/reps/{self._rep}/events/knee_top", {"frames": [frame]}, frame)
        else:
            x = round(100 + 100 * self.chance.random(), 3)
            self._send("point", f"/api/reps/{self._rep}/points/performer/right_knee/{self._frames[0]}", {"x": x, "y": 90.0}, x)
        return True

    def _send(self, what: str, path: str, body: Any, value: Any) -> None:
        self._may.setdefault(what, []).append(value)
        self.ask("PUT", path, body)
        self._may[what] = [value]

    def lost(self) -> list[str]:
        (rep,) = [one for one in self.ask("GET", f"/api/reviews/{self._review}")["reps"] if one["id"] == str(self._rep)]
        knee = [p["x"] for p in rep["points"] if (p["landmark"], p["frame"]) == ("right_knee", self._frames[0])]
        now = {"event": rep["events"].get("knee_top", [None])[0], "point": knee[0] if knee else None}
        return [f"{what} is {now[what]} and not {may}" for what, may in self._may.items() if now[what] not in may]


@dataclass(frozen=True, kw_only=True)
class OwnReview:
    """A review of its asker's own, with a correction that is drawn again and again."""

    review: uuid.UUID
    rep: uuid.UUID
    correction: uuid.UUID
    checkpoint: str
    frame: int


class Asker(Actor):
    """Asks the worker for everything else: points tracked through a rep, the picture of a correction, the marked clip, the film
    of a comparison."""

    least = 1

    def __init__(self, url: str, seed: int, tracked: uuid.UUID, own: OwnReview, frames: tuple[int, int]) -> None:
        super().__init__(url, seed)
        self._tracked, self._own, self._frames, self._next = tracked, own, frames, 0.0
        self._films: list[str] = []
        self._drawn = [own.frame]
        """The frame of the correction that was acknowledged last, and those that were sent since."""

    def act(self) -> bool:
        if time.monotonic() < self._next:
            return False
        self._next = time.monotonic() + REST_S * 2 * self.chance.random()
        ask = self.chance.choice((self._track, self._still, self._marked_clip, self._film))
        return ask() is not None

    def _track(self) -> Any:
        stretch = {"first": self._frames[0], "last": self._frames[1]}
        return self.ask("POST", f"/api/reps/{self._tracked}/track", stretch, may_refuse=True)

    def _still(self) -> Any:
        frame = self.chance.randrange(self._frames[0] + 10, self._frames[1] - 10)
        mark = {"kind": "force", "spots": [{"x": 200, "y": 150}, {"x": 200, "y": 100}]}
        drawn = {
            "checkpoint": self._own.checkpoint,
            "frame": frame,
            "first_frame": frame - 3,
            "last_frame": frame + 3,
            "marks": [mark],
        }
        self._drawn.append(frame)
        path = f"/api/reps/{self._own.rep}/corrections/{self._own.correction}"
        found = self.ask("PUT", path, drawn | {"cue": "Knee first"}, may_refuse=True)
        if found is not None:
            self._drawn = [frame]
        return found

    def _marked_clip(self) -> Any:
        return self.ask("POST", f"/api/reviews/{self._own.review}/marked", may_refuse=True)

    def _film(self) -> Any:
        """A sheet has so many films at most: an old one gives way."""
        path = f"/api/reviews/{self._own.review}"
        self.ask("POST", f"{path}/finish", may_refuse=True)
        try:
            while self._films:
                # Whether it was deleted is not known where the answer breaks off: it is not looked for afterwards.
                self.ask("DELETE", f"/api/films/{self._films.pop()}", may_refuse=True)
            wish = {"sides": [f"rep.{self._own.rep}", "studio.right"], "anchor": "full_reach", "speed": 1.0}
            found = self.ask("POST", f"/api/reps/{self._own.rep}/films", wish, may_refuse=True)
            self._films = [one["id"] for one in found or ()]
        finally:
            self.ask("POST", f"{path}/reopen", {"why": "more to be drawn"}, may_refuse=True)
        return found

    def lost(self) -> list[str]:
        review = self.ask("GET", f"/api/reviews/{self._own.review}")
        frames = {one["frame"] for one in review["corrections"] if one["id"] == str(self._own.correction)}
        films = {one["id"] for one in self.ask("GET", f"/api/reviews/{self._own.review}/films")}
        found = [f"film {film} is not there" for film in self._films if film not in films]
        if not frames & set(self._drawn):
            found.append(f"the correction is at {frames} and not {self._drawn}")
        return found


class Finisher(Actor):
    """Finishes a review, shares its sheet, and opens it again."""

    def __init__(self, url: str, seed: int, review: uuid.UUID) -> None:
        super().__init__(url, seed)
        self._review = review
        self._finished, self.links = 0, []  # type: ignore[var-annotated]

    def act(self) -> bool:
        path = f"/api/reviews/{self._review}"
        if self.ask("GET", path)["finished_at"] is None:
            self.ask("POST", f"{path}/finish")
            self._finished += 1
        if len(self.links) < MOST_LINKS and self.chance.random() < 0.3:
            self.links.append(self.ask("POST", f"{path}/links", {"days": 30})["address"])
        self.ask("POST", f"{path}/reopen", {"why": "looked at again"})
        return True

    def lost(self) -> list[str]:
        revisions = self.ask("GET", f"/api/reviews/{self._review}")["revisions"]
        found = [] if revisions >= self._finished else [f"{self._finished} times finished, and {revisions} revisions are there"]
        shut = [link for link in self.links if httpx.get(link, timeout=20).status_code != 200]
        return [*found, *(f"a link does not open: {link}" for link in shut)]


class OnTheFloor(Actor):
    """Notes from the floor and taps of a live round, sent again with their key until they are acknowledged."""

    def __init__(self, url: str, seed: int, student: uuid.UUID) -> None:
        super().__init__(url, seed)
        self._student = student
        self.noted: set[str] = set()
        self._waiting: tuple[str, str] | None = None

    def act(self) -> bool:
        key, at = self._waiting = self._waiting or (str(uuid.uuid4()), datetime.now(UTC).isoformat())
        note = {"kind": "remark", "students": [str(self._student)], "key": key, "at": at, "words": key}
        self.ask("POST", "/api/floor", note)
        self.noted.add(key)
        self._waiting = None
        return True

    def lost(self) -> list[str]:
        from sqlalchemy import select

        from lacertus.store.database import session
        from lacertus.store.tables import FloorNote

        with session() as db:
            told = list(db.scalars(select(FloorNote.words)))
        twice = [key for key in set(told) if told.count(key) > 1]
        return [*(f"note {key} is not there" for key in self.noted - set(told)), *(f"note {key} is there twice" for key in twice)]


def until(done: Callable[[], bool], seconds: float) -> bool:
    """Whether something came about in time."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if done():
            return True
        time.sleep(0.2)
    return False
