"""How well points are followed: flow alone, the pose model alone, and both reconciled, against the studio's truth; and how fast."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from rich.console import Console
from rich.table import Table

from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.repfile import Body, read_rep
from lacertus.core.measuring.timebase import TimeBase
from lacertus.core.review.reconcile import Observed, path_of
from lacertus.settings import settings
from lacertus.studio.clips import record
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of
from lacertus.video.tracking.bodies import track_bodies
from lacertus.video.tracking.flow import Seed, read_pictures, track_seeds
from lacertus.video.tracking.points import track_points
from lacertus.video.tracking.pose import pose_model

FPS = 60
LANDMARKS = tuple(f"{side}_{joint}" for side in ("left", "right") for joint in ("shoulder", "wrist", "hip", "knee", "ankle", "toe"))
PACES = ((0.0, 0.5, "under 0.5"), (0.5, 1.5, "0.5–1.5"), (1.5, 99.0, "over 1.5"))
"""Standing heights a second."""
MARKED_EVERY_S = 0.75
"""The coach places the points on frames so far apart, as on events."""
console = Console(width=120)


@dataclass
class Errors:
    """Errors of one way of following, as shares of standing height, with the stated σ."""

    off: list[float] = field(default_factory=list)
    z: list[float] = field(default_factory=list)
    asked: int = 0

    def row(self) -> list[str]:
        if not self.off:
            return ["0 %", "–", "–", "–"]
        off, z = np.array(self.off), np.array(self.z)
        share = f"{100 * len(off) / self.asked:.0f} %"
        return [share, f"{100 * np.median(off):.1f} %", f"{100 * np.quantile(off, 0.9):.1f} %", f"{100 * np.mean(z <= 2.45):.0f} %"]


def cases(folder: Path, seeds: int = 1) -> Iterator[tuple[str, Path, dict[str, Any]]]:
    """A clip of every move of the studio, with its truth."""
    for name in MOVES:
        for seed in range(seeds):
            data: dict[str, Any] = {
                "lacertus_script": 1,
                "id": f"{name}-{seed}",
                "technique": name,
                "seed": seed + 20,
                "reps": [{}],
            }
            data |= {"recording": {"fps": FPS}, "camera": {"size": [1280, 720]}}
            script = read_script(data)
            shot = shots_of(script)[0]
            path = folder / f"{name}-{seed}.mp4"
            record(shot, path, script.recording)
            yield name, path, truth(shot)["reps"][0]


def placed(rep: dict[str, Any], every: int) -> dict[BodyName, Body]:
    """The bodies as a coach has placed them: some landmarks, on some frames."""
    first, last = rep["range"]
    frames = {*range(first, last + 1, every), last}
    bodies: dict[BodyName, Body] = {}
    for name, data in rep["bodies"].items():
        landmarks = {
            landmark: [e | {"by": "placed", "sigma": None} for e in data["landmarks"].get(landmark, []) if e["frame"] in frames]
            for landmark in LANDMARKS
        }
        bodies[name] = Body.model_validate({"height_px": data["height_px"], "landmarks": {k: v for k, v in landmarks.items() if v}})
    return bodies


def main() -> None:
    found: dict[tuple[str, str, str], Errors] = {}
    with tempfile.TemporaryDirectory() as folder:
        paths = list(cases(Path(folder)))
        for name, path, rep in paths:
            _measure(found, name, path, rep)
        table = Table(
            "clip",
            "pace, heights/s",
            "by",
            "reached",
            "median",
            "90 %",
            "±2.45σ holds",
            title="points followed (of standing height)",
        )
        for key in sorted(found):
            table.add_row(*key, *found[key].row())
        console.print(table)
        speeds(paths[1][1], paths[1][2])


def _measure(found: dict[tuple[str, str, str], Errors], name: str, path: Path, rep: dict[str, Any]) -> None:
    first, last = rep["range"]
    bodies = placed(rep, round(MARKED_EVERY_S * FPS))
    times = TimeBase(tuple(rep["pts_s"])).real_s
    flow, _ = track_points(path, bodies, first, last)
    both = track_bodies(path, bodies, (first, last), {}, Path(settings().pose_model), times)
    for body, data in bodies.items():
        height = data.height_px or 1.0
        for landmark, points in data.landmarks.items():
            seen = both.observed[body].get(landmark, Observed())
            marked = {p.frame for p in points}
            tracks = {
                "flow": {p.frame: (p.x, p.y, p.sigma or 1.0) for p in flow[body].landmarks[landmark] if p.by == "tracked"},
                "model": {frame: (x, y, sigma) for frame, x, y, sigma in seen.model},
                "reconciled": {
                    p.frame: (p.x, p.y, p.sigma or 1.0) for p in path_of(times, landmark, data, seen, height) if p.by == "tracked"
                },
            }
            _compare(found, name, tracks, rep["bodies"][body]["landmarks"][landmark], times, height, marked)


def _compare(
    found: dict[tuple[str, str, str], Errors], name: str, tracks: dict[str, dict[int, tuple[float, float, float]]],
    entries: list[dict[str, Any]], times: tuple[float, ...], height: float, marked: set[int],
) -> None:  # fmt: skip
    true = {entry["frame"]: (entry["x"], entry["y"]) for entry in entries}
    for frame, (x, y) in true.items():
        if frame in marked or frame - 2 not in true or frame + 2 not in true:
            continue
        (x0, y0), (x1, y1) = true[frame - 2], true[frame + 2]
        pace = float(np.hypot(x1 - x0, y1 - y0)) / height / (times[frame + 2] - times[frame - 2])
        band = next(words for low, high, words in PACES if low <= pace < high)
        for by, track in tracks.items():
            errors = found.setdefault((name, band, by), Errors())
            errors.asked += 1
            if frame in track:
                px, py, sigma = track[frame]
                off = float(np.hypot(px - x, py - y))
                errors.off.append(off / height)
                errors.z.append(off / sigma)


def speeds(path: Path, rep: dict[str, Any]) -> None:
    """Flow against bare decoding and optical flow, and the pose assist against the bare model, each in one run."""
    first, last = rep["range"]
    bodies = placed(rep, last - first + 1)
    seeds = [
        Seed(name=(body, landmark), frame=p.frame, x=p.x, y=p.y, sigma=2.0)
        for body, data in bodies.items()
        for landmark, points in data.landmarks.items()
        for p in points[:1]
    ][:20]
    bare, ours = _took(lambda: _bare_flow(path, first, last, len(seeds))), _took(lambda: track_seeds(path, seeds, first, last))
    console.print(
        f"flow, {len(seeds)} points, {last - first + 1} frames: {ours / bare:.2f} × bare decoding and flow (to reach: 1.3)"
    )
    times = TimeBase(read_rep(rep).pts_s).real_s
    alone: dict[BodyName, Body] = {name: data for name, data in bodies.items() if name == "performer"}
    bundle = Path(settings().pose_model)
    flow = _took(lambda: track_bodies(path, alone, (first, last), {}, None, times))
    pose = _took(lambda: track_bodies(path, alone, (first, last), {}, bundle, times)) - flow
    model = _took(lambda: _bare_model(path, first, last, bundle))
    console.print(f"pose assist, one body: {pose / model:.2f} × decoding and the bare model (to reach: 1.2)")
    _, data = next(iter(alone.items()))
    landmark = next(iter(data.landmarks))
    seen = track_bodies(path, alone, (first, last), {}, bundle, times).observed["performer"][landmark]
    mended = _took(lambda: path_of(times, landmark, data, seen, data.height_px or 1.0))
    console.print(f"one landmark's path made again over {last - first + 1} frames: {1000 * mended:.0f} ms")


def _took(work: Callable[[], object]) -> float:
    best = float("inf")
    for _ in range(2):
        start = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - start)
    return best


def _bare_flow(path: Path, first: int, last: int, points: int) -> None:
    """Decoding, and every point tracked to the next frame and back again."""
    before = None
    spots = np.random.default_rng(1).uniform(100, 600, (points, 1, 2)).astype(np.float32)
    for picture in read_pictures(path, first, last):
        if before is not None:
            for a, b in ((before, picture.grey), (picture.grey, before)):
                cv2.calcOpticalFlowPyrLK(a, b, spots, None, winSize=(21, 21), maxLevel=3)
        before = picture.grey


def _bare_model(path: Path, first: int, last: int, bundle: Path) -> None:
    with pose_model(bundle) as model:
        for picture in read_pictures(path, first, last):
            rgb = cv2.cvtColor(picture.grey, cv2.COLOR_GRAY2RGB)
            model.find(rgb[:, 200:1000])
