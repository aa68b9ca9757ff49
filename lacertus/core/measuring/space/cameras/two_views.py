"""Two pictures of one rep: where their cameras stood to one another is found from the bodies, and points are placed by both.

Either camera looks down by some pitch at the same place of the mat; the second one is turned about the vertical against the first.
Bodies' parts must come out as long as they are, and the two lines of sight to a point must meet (docs/measurement.md, “Two views”).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from lacertus.core.measuring.body import DERIVED, SEGMENTS, BodyName
from lacertus.core.measuring.space.draws import normal
from lacertus.core.measuring.space.order import right_is_nearer

if TYPE_CHECKING:
    from lacertus.core.measuring.space.solution import Space

Array = NDArray[np.float64]
Spots = dict[tuple[BodyName, str], Array]
"""Places of landmarks (2 × frames), pixels from the middle of a picture, x right, y up."""

FRAMES_USED = 8
LEAST_SHARED = 8
"""Two views need so many landmarks in common to be tied."""
LEAST_TURN_RAD = math.radians(20.0)
"""Views that look from so nearly the same side do not settle depth for each other. A convention."""
WORST_FIT = 3.0
"""Views fit where residuals are, in the root of the mean square, at most so many of their u. A convention."""
SCALE_U, FOCAL_U, PITCH_U_RAD, AIM_U_PX = 0.03, 0.3, math.radians(6.0), 4.0
"""How well it is known beforehand how much larger one picture shows the bodies, how long the lenses are, how far the cameras look
down, and where in the second picture the first one's middle of the bodies lies. Conventions."""
NAMES = ("focal", "focal there", "pitch", "pitch there", "roll", "roll there", "scale", "aim x", "aim y", "turn")


class ViewsDoNotFit(Exception):
    """Two pictures cannot be tied, with the reason in words."""


@dataclass(frozen=True, kw_only=True)
class Camera:
    """A camera that looks at a place: focal length (pixels), pitch, roll, turn about the vertical (radians), distance."""

    focal: Array
    pitch: Array
    roll: Array
    turn: Array
    away: Array
    aim: tuple[Array, Array]

    def sight(self, place: Array) -> Array:
        """Direction (3 × …, level axes: right, up, towards the first camera) of what is seen at a place, one unit of depth long."""
        x, y, z = place[0] / self.focal, place[1] / self.focal, -np.ones_like(place[0])
        c, s = np.cos(self.roll), np.sin(self.roll)
        x, y = c * x - s * y, s * x + c * y
        c, s = np.cos(self.pitch), np.sin(self.pitch)
        y, z = c * y + s * z, c * z - s * y
        c, s = np.cos(self.turn), np.sin(self.turn)
        return np.stack((c * x + s * z, y, c * z - s * x))

    def back(self, places: Array) -> Array:
        """Places (3 × …, level axes from what it looks at) in its own: right, up, towards it, from the picture’s middle."""
        x, y, z = self.turned_back(places)
        return np.stack((x + self.aim[0], y + self.aim[1], z))

    def turned_back(self, vectors: Array) -> Array:
        """Vectors (3 × …, level axes) along its own right, up, and towards it."""
        c, s = np.cos(self.pitch), np.sin(self.pitch)
        y, z = c * vectors[1] - s * vectors[2], c * vectors[2] + s * vectors[1]
        c, s = np.cos(self.roll), np.sin(self.roll)
        return np.stack((c * vectors[0] + s * y, c * y - s * vectors[0], z))

    @property
    def at(self) -> Array:
        """Where it stands (3 × …): back along its line of sight to the place that it is aimed at."""
        return np.asarray(-self.sight(np.stack(self.aim)) * self.away)


@dataclass(frozen=True, kw_only=True)
class Tied:
    """Two views tied: both cameras drawn as they may have stood, and how well the pictures fit (in u)."""

    cameras: tuple[Camera, Camera]
    fit: float

    def meet(self, here: Array, there: Array) -> Array:
        """Where the lines of sight through two places (2 × frames × DRAWS each) come nearest to one another (3 × …)."""
        return _meet(self.cameras, here, there)[0]


def _meet(cameras: tuple[Camera, Camera], here: Array, there: Array) -> tuple[Array, Array]:
    """The middle between two lines of sight where they are nearest, and how far they miss each other (3 × …)."""
    first, second = cameras
    a, b = first.sight(here), second.sight(there)
    apart = (second.at - first.at).reshape(3, *([1] * (a.ndim - 1 - (second.at.ndim - 1))), *second.at.shape[1:])
    aa, ab, bb = (a * a).sum(axis=0), (a * b).sum(axis=0), (b * b).sum(axis=0)
    da, db = (apart * a).sum(axis=0), (apart * b).sum(axis=0)
    low = np.maximum(aa * bb - ab * ab, 1e-9)
    s, t = (da * bb - db * ab) / low, (da * ab - db * aa) / low
    start = first.at.reshape(3, *([1] * (a.ndim - 1 - (first.at.ndim - 1))), *first.at.shape[1:])
    one, other = start + s * a, start + apart + t * b
    return (one + other) / 2, other - one


def tied(own: Space, other: Space, frames_there: Mapping[int, int]) -> Tied:
    """Find how two cameras stood to one another.

    Args:
        own: the rep as the first camera shows it.
        other: the same rep as the second one shows it.
        frames_there: which frame of the second shows what a frame of the first does.

    Raises:
        ViewsDoNotFit: too little is seen in both, they look from the same side, or no way of standing fits both pictures.
    """
    problem = _Problem.of(own, other, frames_there)
    starts = [math.radians(deg) for deg in range(-150, 151, 20)]
    rough = sorted(starts, key=lambda turn: float((problem.residuals(problem.start(turn)) ** 2).sum()))
    best = None
    for turn in rough[:4]:
        found = least_squares(problem.residuals, problem.start(turn), method="lm", max_nfev=120)
        cost = 2 * found.cost - problem.order_odds(found.x)
        if best is None or cost < best[0]:
            best = (cost, found)
    assert best is not None
    found = best[1]
    fit = math.sqrt(2 * found.cost / max(len(found.fun) - len(NAMES), 1))
    if fit > WORST_FIT:
        raise ViewsDoNotFit(f"the second view does not fit the first one (points miss each other by {fit:.1f} u)")
    if abs(math.sin(found.x[-1])) < math.sin(LEAST_TURN_RAD):
        raise ViewsDoNotFit("the second view looks from nearly the same side as the first one; film from a right angle")
    spread = np.linalg.inv(found.jac.T @ found.jac) * max(fit, 1.0) ** 2
    root = np.linalg.cholesky(spread)
    drawn = found.x[:, None] + root @ np.stack([normal(f"tie {name}") for name in NAMES])
    return Tied(cameras=problem.cameras(drawn), fit=fit)


@dataclass(frozen=True)
class _Problem:
    """What two pictures show in some frames, and what is known of the bodies beforehand."""

    here: Array
    there: Array
    names: list[tuple[BodyName, str]]
    sigma: Array
    parts: list[tuple[int, int, float, float]]
    before: Array
    known: Array
    odds: Array
    hips: list[tuple[int, int]]
    aims: tuple[Array, Array]

    @classmethod
    def of(cls, own: Space, other: Space, frames_there: Mapping[int, int]) -> _Problem:
        frames = _frames(own, other, frames_there)
        here, there = own.spots(frames), other.spots(np.array([frames_there[int(f)] for f in frames]))
        names = sorted(here.keys() & there.keys())
        names = [name for name in names if not (np.isnan(here[name]).any() or np.isnan(there[name]).any())]
        if len(names) < LEAST_SHARED:
            raise ViewsDoNotFit(
                f"only {len(names)} landmarks are placed in both views; {LEAST_SHARED} are needed in the same frames"
            )
        scale = _scale(own, other)
        sigma = np.array([math.hypot(own.sigma_px(*name), other.sigma_px(*name) / scale) for name in names])
        seen, away = (np.stack([spots[name] for name in names], axis=1) for spots in (here, there))
        aims = seen.mean(axis=(1, 2)), away.mean(axis=(1, 2))
        before = np.array([*_lens(own), *_lens(other), 0.0, 0.0])
        focal, pitch, focal_there, pitch_there = before[:4]
        start = np.array([focal, focal_there, pitch, pitch_there, own.roll_rad, other.roll_rad, math.log(scale), 0.0, 0.0])
        known = np.array(
            [FOCAL_U, FOCAL_U, PITCH_U_RAD, PITCH_U_RAD, own.roll_u_rad, other.roll_u_rad, SCALE_U, AIM_U_PX, AIM_U_PX]
        )
        index = {name: i for i, name in enumerate(names)}
        odds, hips = _orders(here, index)
        return cls(seen, away, names, sigma, _parts(own, index), start, known, odds, hips, aims)

    def start(self, turn: float) -> Array:
        return np.append(self.before, turn)

    def cameras(self, at: Array) -> tuple[Camera, Camera]:
        """The two cameras of some parameters (10, or 10 × DRAWS)."""
        focal, focal_there, pitch, pitch_there, roll, roll_there, scale, x, y, turn = at
        still = np.zeros_like(turn)
        first, second = np.exp(focal), np.exp(focal_there)
        aim = (self.aims[0][0] + still, self.aims[0][1] + still)
        aim_there = (self.aims[1][0] + x, self.aims[1][1] + y)
        return (
            Camera(focal=first, pitch=pitch, roll=roll, turn=still, away=first, aim=aim),
            Camera(focal=second, pitch=pitch_there, roll=roll_there, turn=turn, away=second / np.exp(scale), aim=aim_there),
        )

    def residuals(self, at: Array) -> Array:
        """What does not fit, in u: lines of sight that miss each other, parts too long or short, what was known beforehand."""
        middle, miss = _meet(self.cameras(at), self.here, self.there)
        lengths = [
            (np.sqrt(((middle[:, a] - middle[:, b]) ** 2).sum(axis=0)) - px) / u / math.sqrt(middle.shape[2])
            for a, b, px, u in self.parts
        ]
        off = np.sqrt((miss**2).sum(axis=0)) / self.sigma[:, None]
        return np.concatenate(
            (off.ravel(), np.concatenate(lengths) if lengths else np.empty(0), (at[:-1] - self.before) / self.known)
        )

    def order_odds(self, at: Array) -> float:
        """How well the order of hips in depth agrees with what the bends in the first picture tell: log odds, twice."""
        if not self.hips:
            return 0.0
        middle, _ = _meet(self.cameras(at), self.here, self.there)
        nearer = np.stack([np.sign(middle[2, right] - middle[2, left]) for left, right in self.hips])
        return float(2 * (nearer * self.odds).sum())


def _frames(own: Space, other: Space, frames_there: Mapping[int, int]) -> NDArray[np.int64]:
    """Frames, spread evenly, in which most landmarks are seen in both."""
    both = [
        frame
        for frame in sorted(frames_there)
        if own.seen_in(frame) >= LEAST_SHARED and other.seen_in(frames_there[frame]) >= LEAST_SHARED
    ]
    if not both:
        raise ViewsDoNotFit(f"no frame shows {LEAST_SHARED} landmarks in both views; place them at the same instants")
    chosen: NDArray[np.int64] = np.array(both, dtype=np.int64)[
        np.unique(np.linspace(0, len(both) - 1, FRAMES_USED).round().astype(int))
    ]
    return chosen


def _lens(space: Space) -> tuple[float, float]:
    """The middle of what the focal length (as a logarithm) and the pitch may be."""
    return float(np.log(space.lone_eye.focal_px).mean()), float(space.lone_eye.pitch_rad.mean())


def _scale(own: Space, other: Space) -> float:
    """How much larger the second picture shows the bodies."""
    ratios = [
        other.lengths[body][part].px / length.px
        for body, parts in own.lengths.items()
        for part, length in parts.items()
        if length.known and body in other.lengths and part in other.lengths[body] and other.lengths[body][part].known
    ]
    for body in own.lengths.keys() & other.lengths.keys():
        ratios.append(other.tall_px(body) / own.tall_px(body))
    return float(np.median(ratios)) if ratios else 1.0


def _parts(own: Space, index: Mapping[tuple[BodyName, str], int]) -> list[tuple[int, int, float, float]]:
    """Parts of known length between landmarks of both pictures: the two, the length and its u in pixels."""
    found = []
    for body, lengths in own.right_sided_lengths.items():
        for part, length in lengths.items():
            ends = SEGMENTS.get(part)
            if ends is None or not length.known or any(end in DERIVED or (body, end) not in index for end in ends):
                continue
            found.append((index[body, ends[0]], index[body, ends[1]], length.px, length.u))
    return found


def _orders(here: Spots, index: Mapping[tuple[BodyName, str], int]) -> tuple[Array, list[tuple[int, int]]]:
    odds, hips = [], []
    for body in {body for body, _ in index}:
        if (body, "left_hip") in index and (body, "right_hip") in index:
            at = {name: place for (owner, name), place in here.items() if owner == body}
            odds.append(right_is_nearer(with_middles(at)))
            hips.append((index[body, "left_hip"], index[body, "right_hip"]))
    return np.array(odds), hips


def with_middles(at: dict[str, Array]) -> dict[str, Array]:
    """Places of landmarks with the middles between left and right of hips, shoulders and ears."""
    for joint in ("hip", "shoulder", "ear"):
        if {f"left_{joint}", f"right_{joint}"} <= at.keys():
            at = {**at, f"mid_{joint}": (at[f"left_{joint}"] + at[f"right_{joint}"]) / 2}
    return at
