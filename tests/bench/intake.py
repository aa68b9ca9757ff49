"""What taking a clip in costs: against one bare encode, in memory, and what a seek costs afterwards."""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from fractions import Fraction
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import av
import httpx
import numpy as np
from av.video.frame import VideoFrame
from playwright.sync_api import Page
from rich.console import Console
from rich.table import Table

from lacertus.local.postgres import free_port
from lacertus.store import database
from lacertus.studio.clips import record
from lacertus.studio.script import read_script, shots_of
from lacertus.video.inspect import Limits
from lacertus.video.intake.apart import Bounds
from lacertus.video.intake.reading import REVIEW, read_whole
from lacertus.video.review_copy import ENCODER
from tests.browser import walk
from tests.halls import EMAIL, PASSWORD, hall
from tests.place import ROOT, Server, place

SIZE, FPS = (1920, 1080), 60
BARE_FRAMES = 120
ROUNDS = 3
SEEKS = 120
TUS = {"Tus-Resumable": "1.0.0"}
console = Console(width=110)


def phone_clip(folder: Path) -> Path:
    """Five seconds of 1080p60 as a phone writes it: H.264 with B-frames and long groups of pictures, with sound."""
    script = {
        "lacertus_script": 1, "id": "bench", "technique": "front-kick", "reps": [{}, {}], "camera": {"size": list(SIZE)},
        "recording": {"fps": FPS, "group": 250, "b_frames": 3},
    }  # fmt: skip
    read = read_script(script)
    path = folder / "phone.mp4"
    record(shots_of(read)[0], path, read.recording)
    return path


def repeated(clip: Path, minutes: float, target: Path) -> Path:
    """A clip over and over until it lasts so many minutes; nothing is encoded anew."""
    with av.open(str(target), "w") as out:
        stream, shift = None, 0
        while stream is None or float(shift * (stream.time_base or 0)) < 60 * minutes:
            with av.open(str(clip)) as source:
                video = source.streams.video[0]
                stream = stream or out.add_stream_from_template(video)
                for packet in source.demux(video):
                    if packet.size and packet.pts is not None and packet.dts is not None:
                        packet.pts, packet.dts, packet.stream = packet.pts + shift, packet.dts + shift, stream
                        out.mux(packet)
                shift += round(video.frames / FPS / (video.time_base or 1))
    return target


def decoded(clip: Path, most: int) -> list[VideoFrame]:
    with av.open(str(clip)) as container:
        return [frame for _, frame in zip(range(most), container.decode(video=0), strict=False)]


def bare_encode(frames: list[VideoFrame], target: Path, options: dict[str, object]) -> float:
    """Seconds for one libx264 encode of frames that lie decoded in memory."""
    start = time.perf_counter()
    with av.open(str(target), "w", format="mp4") as out:
        stream = out.add_stream("libx264", rate=FPS)
        stream.width, stream.height, stream.pix_fmt, stream.options = *SIZE, "yuv420p", options
        for number, frame in enumerate(frames):
            frame.pts, frame.time_base = number, Fraction(1, FPS)
            frame.pict_type = 0
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return time.perf_counter() - start


def against_one_encode(clip: Path, folder: Path) -> None:
    frames = decoded(clip, BARE_FRAMES)
    with av.open(str(clip)) as container:
        count = container.streams.video[0].frames
    names = (
        "an encode with the same settings",
        "an encode by libx264 as it comes",
        "decoding and an encode with the same settings",
    )
    ratios: dict[str, list[float]] = {name: [] for name in names}
    whole = []
    for _ in range(ROUNDS):
        made = Path(tempfile.mkdtemp(dir=folder))
        start = time.perf_counter()
        read_whole(clip, made)
        whole.append((time.perf_counter() - start) / count)
        same = bare_encode(frames, folder / "bare.mp4", ENCODER) / len(frames)
        usual = bare_encode(frames, folder / "bare.mp4", {}) / len(frames)
        start = time.perf_counter()
        decode = len(decoded(clip, BARE_FRAMES)) and (time.perf_counter() - start) / BARE_FRAMES
        for name, bare in zip(names, (same, usual, decode + same), strict=True):
            ratios[name].append(whole[-1] / bare)
    table = Table("intake of 1080p60, everything it makes, against", "ratio", "to reach")
    for name, found in ratios.items():
        table.add_row(name, f"{statistics.median(found):.2f} ×", "≤ 1.25 ×" if name == names[0] else "")
    console.print(table)


def quiet_clip(folder: Path) -> Path:
    """Five seconds of 1080p60 of an empty hall: memory goes by size and length, and this is read in a quarter of the time."""
    script = {
        "lacertus_script": 1, "id": "bench", "technique": "front-kick", "reps": [{}], "camera": {"size": list(SIZE)},
        "recording": {"fps": 5},
    }  # fmt: skip
    read = read_script(script)
    few = folder / "few.mp4"
    record(shots_of(read)[0], few, read.recording)
    path = folder / "quiet.mp4"
    (picture,) = decoded(few, 1)
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=FPS)
        stream.width, stream.height, stream.pix_fmt, stream.options = *SIZE, "yuv420p", {"preset": "veryfast", "bf": "2"}
        for number in range(5 * FPS):
            picture.pts, picture.time_base, picture.pict_type = number, Fraction(1, FPS), 0
            out.mux(stream.encode(picture))
        out.mux(stream.encode(None))
    return path


def peak_memory(clip: Path, folder: Path) -> tuple[int, float]:
    """Peak resident bytes of the process that reads a clip, and its seconds."""
    made = Path(tempfile.mkdtemp(dir=folder))
    limits, bounds = json.dumps(asdict(Limits())), json.dumps(asdict(Bounds(most_bytes=64_000_000_000, most_seconds=36_000)))
    start = time.perf_counter()
    # As lacertus.video.intake.apart starts it.
    environment = {"PATH": os.environ["PATH"], "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    process = subprocess.Popen(
        [sys.executable, "-m", "lacertus.video.intake.child", str(clip), str(made), limits, bounds],
        stdout=subprocess.DEVNULL, env=environment,
    )  # fmt: skip
    # The process's own peak: what the system sums up for a child counts what this one had when it was started.
    most = 0
    while process.poll() is None:
        most = max(most, _memory(process.pid, "VmHWM"))
        time.sleep(0.1)
    assert process.returncode == 0
    return most, time.perf_counter() - start


def memory(clip: Path, folder: Path) -> None:
    table = Table("clip of 1080p60", "peak memory of the reader", "to reach")
    for minutes in (1, 10):
        size, _ = peak_memory(repeated(clip, minutes, folder / f"{minutes}.mp4"), folder)
        table.add_row(f"{minutes} min", f"{size / 1e6:.0f} MB", "flat, ≤ 500 MB")
        console.print(f"{minutes} min: {size / 1e6:.0f} MB")
    console.print(table)


# --- seeks ------------------------------------------------------------------------------------------

SEEK = """
async ([url, pts, frames]) => {
  const video = document.createElement('video')
  video.muted = true; video.preload = 'auto'; video.src = url; video.width = 800
  document.body.append(video)
  await new Promise((done) => video.addEventListener('canplay', done, { once: true }))
  const times = []
  for (const frame of frames) {
    const middle = (pts[frame] + (pts[frame + 1] ?? pts[frame] + 0.016)) / 2
    const start = performance.now()
    await new Promise((done) => { video.requestVideoFrameCallback(done); video.currentTime = middle })
    times.push(performance.now() - start)
  }
  return times
}
"""

STEP = """
async (count) => {
  const told = () => Number(document.querySelector('[data-testid=frame]').textContent)
  const painted = () => new Promise((done) => requestAnimationFrame(() => {
    const channel = new MessageChannel()
    channel.port1.onmessage = done
    channel.port2.postMessage(0)
  }))
  const press = (key) => {
    window.dispatchEvent(new KeyboardEvent('keydown', { key, code: key, bubbles: true }))
    window.dispatchEvent(new KeyboardEvent('keyup', { key, code: key, bubbles: true }))
  }
  const times = []
  for (let k = 0; k < count; k++) {
    const wanted = told() + 1
    const start = performance.now()
    press('ArrowRight')
    while (told() !== wanted) await new Promise((done) => setTimeout(done))
    await painted()
    times.push(performance.now() - start)
    // As quick as somebody steps who looks at each frame.
    await new Promise((done) => setTimeout(done, 80))
  }
  return times
}
"""
HELD = """
async (ms) => {
  const told = () => Number(document.querySelector('[data-testid=frame]').textContent)
  const seen = new Set([told()])
  const began = performance.now(), from = told()
  const key = { key: 'ArrowRight', code: 'ArrowRight', bubbles: true }
  window.dispatchEvent(new KeyboardEvent('keydown', key))
  window.dispatchEvent(new KeyboardEvent('keydown', { ...key, repeat: true }))
  while (performance.now() - began < ms) {
    await new Promise((done) => requestAnimationFrame(done))
    seen.add(told())
  }
  window.dispatchEvent(new KeyboardEvent('keyup', key))
  const passed = performance.now() - began
  return [1000 * (seen.size - 1) / passed, told() - from + 1 - seen.size]
}
"""


class _Ranges(SimpleHTTPRequestHandler):
    """A folder by HTTP with ranges, which browsers need to seek."""

    def log_message(self, *_: Any) -> None:
        pass

    def do_GET(self) -> None:
        path = Path(self.translate_path(self.path))
        if not path.is_file():
            return super().do_GET()
        data = path.read_bytes()
        first, _, last = (self.headers.get("Range") or "bytes=0-").removeprefix("bytes=").partition("-")
        begin, end = int(first or 0), min(int(last) if last else len(data) - 1, len(data) - 1)
        self.send_response(206)
        self.send_header("Content-Type", "video/mp4" if path.suffix == ".mp4" else "text/html")
        self.send_header("Accept-Ranges", "bytes")
        self.send_header("Content-Range", f"bytes {begin}-{end}/{len(data)}")
        self.send_header("Content-Length", str(end - begin + 1))
        self.end_headers()
        self.wfile.write(data[begin : end + 1])
        return None


@contextmanager
def served(folder: Path) -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), partial(_Ranges, directory=str(folder)))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()


def _line(table: Table, what: str, times: list[float], wanted: str) -> None:
    table.add_row(what, f"{statistics.median(times):.0f} ms", f"{float(np.percentile(times, 95)):.0f} ms", wanted)


def seeks(clip: Path, folder: Path) -> None:
    made = folder / "served"
    made.mkdir()
    reading = read_whole(clip, made)
    (made / "phone.mp4").write_bytes(clip.read_bytes())
    (made / "index.html").write_text("<!doctype html><body></body>")
    pts = list(reading.facts.pts_s)
    chance = np.random.default_rng(5)
    scattered = [int(frame) for frame in chance.integers(0, len(pts), SEEKS)]
    back = list(range(len(pts) - 2, len(pts) - 2 - SEEKS, -1))
    table = Table("1080p60", "median", "95 %", "to reach")
    found: dict[str, list[float]] = {}
    with walk.chromium() as browser, served(made) as url:
        page = browser.new_page()
        for name, file in (("review copy", REVIEW), ("the phone’s own file", "phone.mp4")):
            for how, frames in (("at random", scattered), ("stepping back", back)):
                page.goto(f"{url}/index.html")
                found[f"{name}, {how}"] = page.evaluate(SEEK, [f"{url}/{file}", pts, frames])
        page.close()
        for what, times in found.items():
            _line(table, f"seek, {what}", times, "")
        steps = stepped(browser.new_page(), clip, folder)
        _line(table, "arrow key → right frame painted, on the bench", steps.times, "≤ 25 / ≤ 50 ms")
    console.print(table)
    console.print(f"the first step after opening: {steps.first:.0f} ms (to reach: 300)")
    rate, skipped = steps.held
    console.print(f"a held key: {rate:.0f} frames a second, {skipped:.0f} of them passed over (to reach: 30, none)")
    for how in ("at random", "stepping back"):
        ratio = statistics.median(found[f"the phone’s own file, {how}"]) / statistics.median(found[f"review copy, {how}"])
        console.print(f"{how}: the review copy is {ratio:.1f} × as quick (to reach when stepping: ≥ 4 ×)")


@dataclass(frozen=True, kw_only=True)
class Steps:
    """Milliseconds from key to painted frame; the first one after opening; and of a held key frames a second and those skipped."""

    times: list[float]
    first: float
    held: tuple[float, float]


def stepped(page: Page, clip: Path, folder: Path) -> Steps:
    """Steps on the real bench."""
    from datetime import date

    from lacertus.jobs import tasks
    from lacertus.services.clips import intake
    from lacertus.services.clips.intake import Sent

    with place(folder / "place") as environment:
        server = Server(free_port(), environment, folder / "log")
        with database.session() as db:
            where = hall(db)
            sent = Sent(name="phone.mp4", filmed_on=date(2026, 5, 4), student=where.student)
            clip_id = intake.take_in(db, where.academy, clip, sent).id
        tasks.read_clip(str(clip_id))
        walk.sign_in(page, server.url)
        page.get_by_role("heading", name="Clips").wait_for()
        page.goto(f"{server.url}#/bench/{clip_id}")
        page.get_by_test_id("frame").wait_for()
        page.locator("video").first.wait_for()
        walk.first_shown(page)
        (first,) = page.evaluate(STEP, 1)
        page.wait_for_timeout(1500)
        times: list[float] = page.evaluate(STEP, SEEKS)
        held = tuple(page.evaluate(HELD, 3000))
        upload_memory(server, clip, folder)
        server.stop()
    return Steps(times=times, first=first, held=held)


# --- a large upload -----------------------------------------------------------------------------------


def _memory(pid: int, what: str = "VmRSS") -> int:
    """Bytes of a process by /proc: VmRSS now, VmHWM at most so far; 0 where it has ended."""
    try:
        lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    except OSError:
        return 0
    return next((int(line.split()[1]) * 1024 for line in lines if line.startswith(f"{what}:")), 0)


def upload_memory(server: Server, clip: Path, folder: Path, size: int = 2_000_000_000) -> None:
    """How much the server grows while 2 GB are sent to it."""
    del folder
    import base64

    start = clip.read_bytes()
    rest = size - len(start)
    head = start + (rest).to_bytes(4, "big") + b"free"
    with httpx.Client(base_url=server.url, timeout=120) as client:
        client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).raise_for_status()
        said = {"filename": "large.mp4", "filetype": "video/mp4", "student": "", "filmed_on": "2026-05-04"}
        words = ",".join(f"{key} {base64.b64encode(value.encode()).decode()}" for key, value in said.items())
        made = client.post("/api/uploads/", headers=TUS | {"Upload-Length": str(size), "Upload-Metadata": words})
        location = made.headers["location"]
        before = most = _memory(server.web.pid)
        offset, piece = 0, 4_000_000
        while offset < size:
            data = (head[offset : offset + piece] or b"").ljust(min(piece, size - offset), b"\0")
            headers = TUS | {"Upload-Offset": str(offset), "Content-Type": "application/offset+octet-stream"}
            client.patch(location, content=data, headers=headers).raise_for_status()
            offset += len(data)
            most = max(most, _memory(server.web.pid))
    table = Table("uploading 2 GB", "server memory grows by", "to reach")
    table.add_row("in pieces of 4 MB", f"{(most - before) / 1e6:.0f} MB", "≤ 200 MB")
    console.print(table)


def main() -> None:
    (ROOT / ".run").mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory(dir=ROOT / ".run") as name:
        folder = Path(name)
        clip = phone_clip(folder)
        console.print(f"{os.cpu_count()} cores; ratios of one run")
        against_one_encode(clip, folder)
        seeks(clip, folder)


def memory_main() -> None:
    """Apart, as ten minutes of 1080p60 take a while to read."""
    (ROOT / ".run").mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory(dir=ROOT / ".run") as name:
        memory(quiet_clip(Path(name)), Path(name))
