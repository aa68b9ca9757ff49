"""A rep's bodies followed through its clip: placed points, pose assist and flow, made into one path for each landmark."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.repfile import Body
from lacertus.core.review.reconcile import Observed, Row
from lacertus.core.review.tracking import LEAST_SEED_POINTS
from lacertus.video.errors import as_bad_video
from lacertus.video.inspect import Progress
from lacertus.video.tracking.flow import Way, check_stretch, displayed_frames, track_seeds
from lacertus.video.tracking.points import Lost, seeds_of
from lacertus.video.tracking.pose import (
    BodySeed,
    Rgb,
    TrackedBody,
    pose_model,
    pose_points,
    seed_height,
    track_body,
)

POSE_LINES = 720
"""The model is shown bodies at a fixed size, so no more lines than this are kept."""
NOT_FOUND = "was not found by the pose model"
TOO_LITTLE = (
    f"has too few points on one frame, or no height, to be followed by the pose model; place at least {LEAST_SEED_POINTS} and "
    "mark the height"
)
Observations = dict[BodyName, dict[str, Observed]]


@dataclass(frozen=True, kw_only=True)
class TrackedBodies:
    """What following gave: what was seen, and in words what was lost or could not be done."""

    observed: Observations
    lost: tuple[str, ...] = field(default=())


def track_bodies(
    source: Path,
    bodies: Mapping[BodyName, Body],
    frames: tuple[int, int],
    wanted: Mapping[BodyName, Collection[str]],
    bundle: Path | None,
    times_s: Sequence[float],
    progress: Progress | None = None,
    shown: tuple[int, int] | None = None,
    like: Mapping[BodyName, Mapping[str, tuple[float, float]]] | None = None,
) -> TrackedBodies:
    """Observe the landmarks of a rep's bodies over a stretch of a clip.

    Args:
        source: the clip.
        bodies: the bodies with the coach's placed points.
        frames: first and last frame of the stretch.
        wanted: by body, the landmarks to look for; those that are placed are followed as well.
        bundle: the pose model's bundle; None where there is none, and flow is all there is.
        times_s: real time of every frame of the clip, seconds.
        progress: told of steps done and steps in all.
        shown: displayed size of the clip where the file is a smaller copy.
        like: where the bodies were when another rep of the same pair began: a body of which nothing is placed here is looked for
            there by the model.

    Raises:
        BadInput: no placed point lies in the stretch and no other rep's is known, or the clip cannot be read.
    """
    first, last = frames
    check_stretch(first, last)
    body_seeds = [] if bundle is None else _body_seeds(bodies, first, last, like or {})
    seeds = [] if body_seeds and not _any_placed(bodies, first, last) else seeds_of(bodies, first, last)
    count = last - first + 1
    total = count * (2 if body_seeds else 1)
    flow_told = progress and (lambda done, _: progress(done, total))
    ways = track_seeds(source, seeds, first, last, flow_told, shown) if seeds else []
    bodies_seen: list[TrackedBody] = []
    if body_seeds and bundle is not None:
        told = progress and (lambda done, _: progress(count + done, total))
        with as_bad_video(source.name):
            bodies_seen = _pose(source, body_seeds, first, last, bundle, told, shown)
    observed = {body: _observed(body, data, ways, bodies_seen, wanted.get(body, ()), times_s) for body, data in bodies.items()}
    return TrackedBodies(observed=observed, lost=_told(ways, bodies_seen, bodies, observed, bundle))


def _any_placed(bodies: Mapping[BodyName, Body], first: int, last: int) -> bool:
    points = [point for data in bodies.values() for own in data.landmarks.values() for point in own]
    return any(point.by == "placed" and first <= point.frame <= last for point in points)


def _body_seeds(
    bodies: Mapping[BodyName, Body], first: int, last: int, like: Mapping[BodyName, Mapping[str, tuple[float, float]]]
) -> list[BodySeed]:
    """Each body's seed: where the coach placed it, else about where it began another rep."""
    found = []
    for body, data in bodies.items():
        seed = _seed(body, data, first, last)
        points = like.get(body, {})
        height = seed_height(points, data.height_px)
        if seed is not None:
            found.append(seed)
        elif len(points) >= LEAST_SEED_POINTS and height is not None:
            found.append(BodySeed(body=body, frame=first, points=points, height_px=height, about=True))
    return found


def _seed(body: BodyName, data: Body, first: int, last: int) -> BodySeed | None:
    """The frame on which most of a body was placed; None where too little was to tell which body it is."""
    frames: dict[int, dict[str, tuple[float, float]]] = {}
    for landmark, points in data.landmarks.items():
        for p in points:
            if p.by == "placed" and first <= p.frame <= last:
                frames.setdefault(p.frame, {})[landmark] = (p.x, p.y)
    if not frames:
        return None
    frame = max(frames, key=lambda at: len(frames[at]))
    height = seed_height(frames[frame], data.height_px)
    if len(frames[frame]) < LEAST_SEED_POINTS or height is None:
        return None
    return BodySeed(body=body, frame=frame, points=frames[frame], height_px=height, placed=frames)


def _pose(
    source: Path, seeds: Sequence[BodySeed], first: int, last: int, bundle: Path, progress: Progress | None,
    shown: tuple[int, int] | None,
) -> list[TrackedBody]:  # fmt: skip
    pictures, scale = _kept_pictures(source, first, last, shown)
    done = 0

    def picture(frame: int) -> Rgb:
        nonlocal done
        done += 1
        if progress is not None:
            progress(min(done, len(pictures)), len(pictures))
        return np.asarray(cv2.cvtColor(cv2.imdecode(pictures[frame - first], cv2.IMREAD_COLOR), cv2.COLOR_BGR2RGB), dtype=np.uint8)

    with pose_model(bundle) as model:
        found = track_body(model, picture, [seed.scaled(1 / scale) for seed in seeds], range(first, last + 1))
    return [one.scaled(scale) for one in found]


def _kept_pictures(source: Path, first: int, last: int, shown: tuple[int, int] | None) -> tuple[list[Rgb], float]:
    """The displayed frames as JPEG, small enough to be gone through both ways, and displayed pixels a pixel of theirs."""
    found: list[Rgb] = []
    scale = 1.0
    for _, frame, (width, _) in displayed_frames(source, first, last, shown):
        small = min(1.0, POSE_LINES / min(frame.width, frame.height))
        size = (round(frame.width * small), round(frame.height * small))
        scale = width / size[0]
        picture = cv2.resize(frame.to_ndarray(format="bgr24"), size, interpolation=cv2.INTER_AREA)
        found.append(cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, 94])[1])
    return found, scale


def _observed(
    body: BodyName, data: Body, ways: Sequence[Way], seen: Sequence[TrackedBody], wanted: Collection[str], times_s: Sequence[float]
) -> dict[str, Observed]:
    """By landmark, what the model and flow saw of one body."""
    joints = next((pose_points(one, times_s) for one in seen if one.seed.body == body), {})
    found = {}
    for landmark in dict.fromkeys((*data.landmarks, *wanted)):
        own = [way for way in ways if way.seed.name == (body, landmark)]
        model = tuple((frame, *row) for frame, row in sorted(joints.get(landmark, {}).items()))
        flow, reached = _steps(own), _reached(own)
        if model or flow:
            found[landmark] = Observed(model=model, flow=flow, reached=reached)
    return found


def _steps(ways: Sequence[Way]) -> tuple[Row, ...]:
    """Steps from frame to frame; where flow came over the same gap from both sides, weighted by 1/σ²."""
    steps: dict[int, list[tuple[float, float, float]]] = {}
    for way in ways:
        for a, b in zip(way.spots, way.spots[1:], strict=False):
            sigma = max(abs(b.sigma**2 - a.sigma**2) ** 0.5, 0.1)
            steps.setdefault(b.frame, []).append((b.x - a.x, b.y - a.y, sigma))
    return tuple((frame, *_mean(rows)) for frame, rows in sorted(steps.items()))


def _reached(ways: Sequence[Way]) -> tuple[Row, ...]:
    spots: dict[int, list[tuple[float, float, float]]] = {}
    for way in ways:
        for spot in way.spots:
            if spot.frame != way.seed.frame:
                spots.setdefault(spot.frame, []).append((spot.x, spot.y, spot.sigma))
    return tuple((frame, *_mean(rows)) for frame, rows in sorted(spots.items()))


def _mean(rows: Sequence[tuple[float, float, float]]) -> tuple[float, float, float]:
    weights = np.array([1 / sigma**2 for _, _, sigma in rows])
    x, y = weights @ np.array([row[:2] for row in rows]) / weights.sum()
    return round(float(x), 3), round(float(y), 3), round(float(weights.sum() ** -0.5), 3)


def _told(
    ways: Sequence[Way], seen: Sequence[TrackedBody], bodies: Mapping[BodyName, Body], observed: Observations, bundle: Path | None
) -> tuple[str, ...]:
    """In words, what was lost, and which body could not be followed by the model."""
    found: list[str] = []
    for one in seen:
        if one.lost is not None:
            where = f"was followed by the pose model as far as frame {one.lost}" if one.frames else NOT_FOUND
            found.append(f"the {one.seed.body} {where}; place more of its points around there")
    if bundle is not None:
        begun = {one.seed.body for one in seen}
        found += [
            f"the {body} {TOO_LITTLE}"
            for body, data in bodies.items()
            if body not in begun and any(p.by == "placed" for points in data.landmarks.values() for p in points)
        ]
    found += [
        str(Lost(body=way.seed.name[0], landmark=way.seed.name[1], since=way.seed.frame, frame=way.lost))
        for way in ways
        if way.lost is not None and not _held(observed, way)
    ]
    return tuple(found)


def _held(observed: Observations, way: Way) -> bool:
    """Whether the model saw the landmark where flow lost it."""
    body: BodyName = "performer" if way.seed.name[0] == "performer" else "partner"
    seen = observed[body].get(way.seed.name[1])
    return seen is not None and any(row[0] == way.lost for row in seen.model)
