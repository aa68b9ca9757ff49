"""A rep's points tracked through its clip: from placed points to a point on every frame between and around them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import SHARED_SHARE, BodyName
from lacertus.core.measuring.repfile import Body, PointEntry
from lacertus.core.review.reconcile import point_sigma
from lacertus.video.inspect import Progress
from lacertus.video.tracking.flow import Seed, TrackedSpot, Way, track_seeds

MADE = ("tracked", "interpolated")
"""Where points came from that are made anew."""


@dataclass(frozen=True, kw_only=True)
class Lost:
    """A landmark that could not be followed: from which placed frame, and the frame in which it was lost."""

    body: str
    landmark: str
    since: int
    frame: int

    def __str__(self) -> str:
        name = self.landmark.replace("_", " ")
        owner = "" if self.body == "performer" else f"{self.body}’s "
        return f"{owner}{name}, placed at frame {self.since}, was lost at frame {self.frame}; place it there"


def track_points(
    source: Path,
    bodies: Mapping[BodyName, Body],
    first: int,
    last: int,
    progress: Progress | None = None,
    shown: tuple[int, int] | None = None,
) -> tuple[dict[BodyName, Body], tuple[Lost, ...]]:
    """TrackingTask every placed point of a stretch of frames through it.

    Placed points stay as they are; between two of them what comes from both sides is put together by its variance. Points
    that were tracked before are made anew.

    Returns:
        The bodies with a point on every frame that was reached, and what was lost where.

    Raises:
        BadInput: no point lies in the stretch, or the clip cannot be read.
    """
    first, last = min(first, last), max(first, last)
    seeds = seeds_of(bodies, first, last)
    ways = track_seeds(source, seeds, first, last, progress, shown)
    found = {
        body: _with_ways(data, [way for way in ways if way.seed.name[0] == body], first, last) for body, data in bodies.items()
    }
    lost = tuple(
        Lost(body=way.seed.name[0], landmark=way.seed.name[1], since=way.seed.frame, frame=way.lost)
        for way in ways
        if way.lost is not None
    )
    return found, lost


def seeds_of(bodies: Mapping[BodyName, Body], first: int, last: int) -> list[Seed]:
    """Every point of a stretch that was not made, to be tracked up to the next one of its landmark on either side.

    Raises:
        BadInput: there is none.
    """
    found = []
    for body, data in bodies.items():
        for landmark, points in data.landmarks.items():
            own = [point for point in points if first <= point.frame <= last and point.by not in MADE]
            frames = [first - 1, *(point.frame for point in own), last + 1]
            for at, point in enumerate(own, 1):
                sigma = point_sigma(point, landmark, data)
                place = {"frame": point.frame, "x": point.x, "y": point.y, "sigma": sigma}
                reach = {"first": frames[at - 1] + 1, "last": frames[at + 1] - 1}
                found.append(Seed(name=(body, landmark), **place, **reach))  # type: ignore[arg-type]
    if not found:
        raise BadInput(f"no placed point lies in the frames {first}–{last}, so there is nothing to track_seeds")
    return found


def _with_ways(data: Body, ways: list[Way], first: int, last: int) -> Body:
    landmarks = {}
    for landmark, points in data.landmarks.items():
        kept = {point.frame: point for point in points if point.by not in MADE or not first <= point.frame <= last}
        reached: dict[int, list[TrackedSpot]] = {}
        for way in ways:
            if way.seed.name[1] == landmark:
                for spot in way.spots:
                    reached.setdefault(spot.frame, []).append(spot)
        tracked = {frame: _together(spots) for frame, spots in reached.items() if frame not in kept}
        landmarks[landmark] = tuple(sorted((*kept.values(), *tracked.values()), key=lambda point: point.frame))
    return data.model_copy(update={"landmarks": landmarks})


def _together(spots: list[TrackedSpot]) -> PointEntry:
    """One point out of what came from both sides, weighted by 1/σ²; where they disagree by more than that, σ says so."""
    weights = np.array([1 / spot.sigma**2 for spot in spots])
    places = np.array([(spot.x, spot.y) for spot in spots])
    x, y = weights @ places / weights.sum()
    apart = float(np.hypot(*(places.max(axis=0) - places.min(axis=0)))) / 2
    sigma = max(float(weights.sum() ** -0.5), apart)
    return PointEntry(
        frame=spots[0].frame, x=round(float(x), 2), y=round(float(y), 2), sigma=round(sigma, 3), shared=SHARED_SHARE, by="tracked"
    )
