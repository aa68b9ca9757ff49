"""Placed, model and flow points of one landmark made into one path: a state-space smoother in both directions.

The state is place and pace, driven by white-noise acceleration (Bar-Shalom, Li and Kirubarajan 2001, Estimation with
Applications to Tracking and Navigation, section 6.2.2); forwards a Kalman filter, backwards the smoother of Rauch, Tung and
Striebel (1965). x and y are two such paths with the same uncertainty. How lively the landmark is, is chosen by likelihood. A
model point that lies off is believed less, a placed one never: the coach's points rule.

What a model gets wrong in one frame it gets wrong in the next ones too: its errors fade into others within a quarter of a
second. So a placed point tells the model's error around it, as far as that reaches: the frames around are moved with it, by
Gaussian process regression with an exponential kernel (Rasmussen and Williams 2006, chapter 2), and σ is what is left of it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import model_validator

from lacertus.core.measuring.body import SHARED_SHARE, SIGMA_SHARE, joint_of
from lacertus.core.measuring.repfile import Body, PointEntry
from lacertus.core.model import Record

LIVELINESS = (0.3, 1.0, 3.0, 10.0, 30.0, 100.0)
"""Accelerations to choose from, standing heights a second² over √s: a resting joint to a kicking foot."""
UNSEEN_ACCELERATION = 8.0
"""What a joint may do where nothing was seen of it, standing heights a second²: half of it times the time squared is added to σ
in quadrature. A convention; on the studio's clips σ then holds in gaps."""
WHITE_SHARE = 0.25
"""Share of a model's σ that is new in each frame; the rest lasts (`ERROR_LASTS_S`), and smoothing would only blunt the motion."""
DENSE_PER_S, SPARSE_LIVELINESS = 12.0, 30.0
"""Where the model saw less a second, what lies between is unknown, and flow is lost where it goes fast: it is taken as lively."""
DOUBT_LASTS_S = 1.0
"""Where the model lies off a placed point by more than its σ, it is doubted as far around it. A convention."""
REACH, TOLERANCE = 3, 2.0
"""A model point that lies over two of its σ off what up to three frames on either side say is believed less. Conventions."""
MOST_GAP_S = 0.2
"""Nothing is said further than this from any observation. A convention."""


ERROR_LASTS_S = 0.25
"""Time in which a model's error falls to 1/e of itself: on the studio's clips 0.62 is left after 0.1 s, 0.39 after 0.27 s, 0.21
after 0.4 s (docs/benchmarks.md)."""
MOST_SIGMA_SHARE = 0.1
"""A point more unsure than this share of standing height is left out: it could be on any limb."""
PLAIN_SIGMA_PX = 2.0
"""σ of a placed point where neither it nor the body's height tells. A convention."""
Array = NDArray[np.float64]
Row = tuple[int, float, float, float]


class Observed(Record):
    """What was seen of one landmark besides the coach's points: rows of frame, x, y and σ, pixels.

    `model` are places; `flow` are steps from the frame before; `reached` are places that flow alone reached.
    """

    model: tuple[Row, ...] = ()
    flow: tuple[Row, ...] = ()
    reached: tuple[Row, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _read_before(cls, data: Any) -> Any:
        """What was tracked with an earlier version has another name for `reached`."""
        if isinstance(data, dict) and "carried" in data:
            return {("reached" if key == "carried" else key): value for key, value in data.items()}
        return data


@dataclass(frozen=True, kw_only=True)
class Seen:
    """An observed place on a frame, pixels, with σ; `ruled` where the coach placed it."""

    x: float
    y: float
    sigma: float
    ruled: bool = False


@dataclass(frozen=True, kw_only=True)
class Step:
    """How far flow saw the landmark go to this frame from the frame before, pixels, with σ."""

    dx: float
    dy: float
    sigma: float


@dataclass(frozen=True, kw_only=True)
class Spot:
    """Where the landmark is on a frame, pixels, and its σ."""

    frame: int
    x: float
    y: float
    sigma: float


@dataclass(frozen=True, kw_only=True)
class _Pace:
    """Pace at a frame, pixels a second, with σ."""

    vx: float
    vy: float
    sigma: float


@dataclass
class _State:
    """Place and pace in x and y, and the covariance that both share."""

    x: float
    vx: float
    y: float
    vy: float
    p: float
    c: float
    v: float


def point_sigma(point: PointEntry, landmark: str, data: Body) -> float:
    """σ of a placed point in pixels: its own, else the joint's share of standing height, else a plain one."""
    if point.sigma is not None:
        return point.sigma
    if data.height_px is None:
        return PLAIN_SIGMA_PX
    return SIGMA_SHARE[joint_of(landmark)] * data.height_px


def path_of(times_s: Sequence[float], landmark: str, data: Body, seen: Observed, height_px: float) -> tuple[PointEntry, ...]:
    """The path of one landmark: the coach's points as they are, and a tracked one on every frame between and around them.

    Args:
        times_s: real time of every frame, seconds.
        landmark: which landmark.
        data: its body, with the coach's points.
        seen: what the model and flow saw.
        height_px: standing height, or what stands in for it, pixels.
    """
    kept = {p.frame: p for p in data.landmarks.get(landmark, ()) if p.by == "placed"}
    places = {frame: Seen(x=x, y=y, sigma=sigma) for frame, x, y, sigma in seen.model}
    places |= {p.frame: Seen(x=p.x, y=p.y, sigma=point_sigma(p, landmark, data), ruled=True) for p in kept.values()}
    if not places:
        return ()
    first, last = min(places), max(places)
    steps = {frame: Step(dx=dx, dy=dy, sigma=sigma) for frame, dx, dy, sigma in seen.flow if first < frame <= last}
    reached = {frame: Seen(x=x, y=y, sigma=sigma) for frame, x, y, sigma in seen.reached}
    return tuple(
        kept.get(spot.frame) or _entry(spot)
        for spot in reconciled(times_s, places, steps, height_px, reached)
        if spot.frame in kept or spot.sigma <= MOST_SIGMA_SHARE * height_px
    )


def _entry(spot: Spot) -> PointEntry:
    x, y, sigma = round(spot.x, 2), round(spot.y, 2), max(round(spot.sigma, 3), 0.001)
    return PointEntry(frame=spot.frame, x=x, y=y, sigma=sigma, shared=SHARED_SHARE, by="tracked")


def reconciled(
    times_s: Sequence[float],
    places: Mapping[int, Seen],
    steps: Mapping[int, Step],
    height_px: float,
    reached: Mapping[int, Seen] | None = None,
) -> tuple[Spot, ...]:
    """One path out of all that was seen of a landmark.

    Args:
        times_s: real time of every frame of the clip, seconds.
        places: observed places by frame.
        steps: flow from the frame before, by frame.
        height_px: standing height, the measure of liveliness.
        reached: places that flow alone reached from the coach's points, with the σ that it grew to.

    Returns:
        A spot for every frame from the first observed place to the last that lies near enough to one; those that the coach
        placed are as they were placed.
    """
    if not places:
        return ()
    frames = range(min(places), max(places) + 1)
    model = {frame: seen for frame, seen in places.items() if not seen.ruled}
    ruled = {frame: seen for frame, seen in places.items() if seen.ruled}
    far = {frame: seen for frame, seen in ruled.items() if _far_from(times_s, frame, model)}
    path, weighed = _path(times_s, frames, model | far, _paces(times_s, steps), height_px)
    if model:
        path = _corrected(times_s, frames, path, weighed, ruled)
    return tuple(_spots(times_s, frames, path, places, reached or {}, height_px))


def _far_from(times_s: Sequence[float], frame: int, model: Mapping[int, Seen]) -> bool:
    """Whether the model saw nothing around a frame, or the frame is an end of what was seen."""
    if not model or not min(model) <= frame <= max(model):
        return True
    return not any(abs(times_s[other] - times_s[frame]) <= ERROR_LASTS_S for other in model)


def _path(
    times_s: Sequence[float], frames: range, places: Mapping[int, Seen], paces: Mapping[int, _Pace], height_px: float
) -> tuple[list[_State], dict[int, Seen]]:
    """The smoothed path, and the places as they were believed in the end."""
    weighed = {frame: _believed(frame, places) for frame in places}
    jittered = {frame: _jitter(seen) for frame, seen in weighed.items()}
    lively = SPARSE_LIVELINESS
    seen = sum(not one.ruled for one in places.values())
    if seen >= DENSE_PER_S * (times_s[frames[-1]] - times_s[frames[0]]):
        likely = {q: _filtered(times_s, frames, jittered, paces, q * height_px)[1] for q in LIVELINESS}
        lively = max(likely, key=lambda q: likely[q])
    return _smoothed(times_s, frames, jittered, paces, lively * height_px), weighed


def _jitter(seen: Seen) -> Seen:
    return seen if seen.ruled else Seen(x=seen.x, y=seen.y, sigma=WHITE_SHARE * seen.sigma)


def _corrected(
    times_s: Sequence[float], frames: range, path: Sequence[_State], believed: Mapping[int, Seen], ruled: Mapping[int, Seen]
) -> list[_State]:
    """The path moved by what the placed points tell of the model's error, with the σ that is left."""
    times = np.array([times_s[frame] for frame in frames])
    held = sorted(frame for frame, seen in believed.items() if not seen.ruled)
    # Each frame's error before anything is known of it: the model's σ there, or that of the frames around.
    prior = np.interp(times, [times_s[frame] for frame in held], [believed[frame].sigma for frame in held])
    at = np.array([frame - frames[0] for frame in ruled], dtype=np.int64)
    told = np.array([(seen.x - path[i].x, seen.y - path[i].y) for i, seen in zip(at, ruled.values(), strict=True)]).reshape(-1, 2)
    prior = prior * _doubt(times, at, told, prior, ruled)
    kernel = prior[:, None] * prior[at] * np.exp(-np.abs(times[:, None] - times[at]) / ERROR_LASTS_S)
    noise = np.diag([seen.sigma**2 for seen in ruled.values()])
    weights = np.linalg.solve(kernel[at] + noise, kernel.T).T if ruled else kernel
    moved = weights @ told
    left = np.maximum(prior**2 - np.einsum("ij,ij->i", weights, kernel), 0.0)
    return [
        _State(s.x + float(dx), s.vx, s.y + float(dy), s.vy, max(float(v), s.p), s.c, s.v)
        for s, (dx, dy), v in zip(path, moved, left, strict=True)
    ]


def _doubt(times: Array, at: NDArray[np.int64], told: Array, prior: Array, ruled: Mapping[int, Seen]) -> Array:
    """By how much the model's σ grows on every frame, as the coach's points lie off it: it may be on another limb, or body."""
    if not ruled:
        return np.ones(len(times))
    noise = np.array([seen.sigma for seen in ruled.values()])
    off = np.hypot(told[:, 0], told[:, 1]) / np.sqrt(2) / np.hypot(prior[at], noise)
    near = np.exp(-np.abs(times[:, None] - times[at]) / DOUBT_LASTS_S)
    return np.asarray(1 + (np.maximum(off - 1, 0) * near).max(axis=1))


def _paces(times_s: Sequence[float], steps: Mapping[int, Step]) -> dict[int, _Pace]:
    """Pace at each frame from the steps on both sides of it: one step alone is the pace half a frame before, which adds up.

    Two neighbours share a step, so each is taken as √2 less sure.
    """
    found = {}
    for frame, step in steps.items():
        after = steps.get(frame + 1)
        gap = times_s[frame] - times_s[frame - 1]
        if after is None:
            found[frame] = _Pace(vx=step.dx / gap, vy=step.dy / gap, sigma=step.sigma / gap)
            continue
        gap += times_s[frame + 1] - times_s[frame]
        sigma = math.hypot(step.sigma, after.sigma) * math.sqrt(2) / gap
        found[frame] = _Pace(vx=(step.dx + after.dx) / gap, vy=(step.dy + after.dy) / gap, sigma=sigma)
    return found


def _believed(frame: int, places: Mapping[int, Seen]) -> Seen:
    """A model's place with its σ widened where it lies off what the frames around it say: the middle of pairs on either side."""
    seen = places[frame]
    pairs = [(places[frame - k], places[frame + k]) for k in range(1, REACH + 1) if frame - k in places and frame + k in places]
    if seen.ruled or len(pairs) < 2:
        return seen
    x, y = (median((getattr(a, axis) + getattr(b, axis)) / 2 for a, b in pairs) for axis in ("x", "y"))
    off = math.hypot(seen.x - x, seen.y - y) / math.sqrt(2)
    return Seen(x=seen.x, y=seen.y, sigma=seen.sigma * max(1.0, (off / (TOLERANCE * seen.sigma)) ** 2))


def _spots(
    times_s: Sequence[float],
    frames: range,
    path: Sequence[_State],
    places: Mapping[int, Seen],
    reached: Mapping[int, Seen],
    height_px: float,
) -> list[Spot]:
    """The path with what flow tracked from the coach's points, each by its σ; beyond the path, what flow alone reached."""
    found = [Spot(frame=f, x=s.x, y=s.y, sigma=s.sigma) for f, s in reached.items() if f not in frames]
    held = sorted({*places, *(frame for frame in reached if frame in frames)})
    near = 0
    for frame, state in zip(frames, path, strict=True):
        while near + 1 < len(held) and abs(times_s[held[near + 1]] - times_s[frame]) <= abs(times_s[held[near]] - times_s[frame]):
            near += 1
        seen = places.get(frame)
        if seen is not None and seen.ruled:
            found.append(Spot(frame=frame, x=seen.x, y=seen.y, sigma=seen.sigma))
        elif (gap := abs(times_s[held[near]] - times_s[frame])) <= MOST_GAP_S + 1e-9:
            unseen = (UNSEEN_ACCELERATION * height_px * gap**2 / 2) ** 2
            found.append(_together(frame, state, max(state.p, 1e-6) + unseen, reached.get(frame)))
    return sorted(found, key=lambda spot: spot.frame)


def _together(frame: int, state: _State, own: float, reached: Seen | None) -> Spot:
    """Path (with its variance) and flow of one frame, weighted by 1/σ²; where they disagree by more than that, σ says so."""
    if reached is None:
        return Spot(frame=frame, x=state.x, y=state.y, sigma=math.sqrt(own))
    share = own / (own + reached.sigma**2)
    dx, dy = reached.x - state.x, reached.y - state.y
    sigma = math.sqrt(own * reached.sigma**2 / (own + reached.sigma**2))
    # Twice their common σ apart they do not see the same: the truth lies nearer to the surer one, but who knows.
    excess = math.hypot(dx, dy) / math.sqrt(2 * (own + reached.sigma**2))
    return Spot(frame=frame, x=state.x + share * dx, y=state.y + share * dy, sigma=sigma * max(1.0, excess / 2))


def _filtered(
    times_s: Sequence[float], frames: range, places: Mapping[int, Seen], paces: Mapping[int, _Pace], noise: float
) -> tuple[list[tuple[_State, _State]], float]:
    """Forwards: for every frame the state expected and the state after what was seen, and the log likelihood."""
    first = places[frames[0]]
    # Nothing is known of the pace at first: ten heights a second would be no surprise.
    state = _State(first.x, 0.0, first.y, 0.0, first.sigma**2, 0.0, (10.0 * noise) ** 2 + 1e4)
    found, likely = [(state, state)], 0.0
    for frame in frames[1:]:
        gap = times_s[frame] - times_s[frame - 1]
        expected = _ahead(state, gap, noise * noise)
        state = expected
        if frame in paces:
            pace = paces[frame]
            state, worth = _paced(state, pace.vx, pace.vy, pace.sigma**2)
            likely += worth
        if frame in places:
            seen = places[frame]
            state, worth = _placed(state, seen.x, seen.y, seen.sigma**2)
            likely += worth
        found.append((expected, state))
    return found, likely


def _ahead(s: _State, gap: float, q: float) -> _State:
    """The state expected a gap later."""
    p = s.p + 2 * gap * s.c + gap * gap * s.v + q * gap**3 / 3
    c = s.c + gap * s.v + q * gap * gap / 2
    return _State(s.x + gap * s.vx, s.vx, s.y + gap * s.vy, s.vy, p, c, s.v + q * gap)


def _placed(s: _State, x: float, y: float, r: float) -> tuple[_State, float]:
    """The state after a place was seen with variance r, and the log likelihood of that."""
    dx, dy, total = x - s.x, y - s.y, s.p + r
    k, kv = s.p / total, s.c / total
    new = _State(s.x + k * dx, s.vx + kv * dx, s.y + k * dy, s.vy + kv * dy, (1 - k) * s.p, (1 - k) * s.c, s.v - kv * s.c)
    return new, _likely(dx, dy, total)


def _paced(s: _State, vx: float, vy: float, r: float) -> tuple[_State, float]:
    """The state after a pace was seen with variance r, and the log likelihood of that."""
    dx, dy, total = vx - s.vx, vy - s.vy, s.v + r
    k, kv = s.c / total, s.v / total
    new = _State(s.x + k * dx, s.vx + kv * dx, s.y + k * dy, s.vy + kv * dy, s.p - k * s.c, (1 - kv) * s.c, (1 - kv) * s.v)
    return new, _likely(dx, dy, total)


def _likely(dx: float, dy: float, total: float) -> float:
    return -math.log(total) - (dx * dx + dy * dy) / (2 * total)


def _smoothed(
    times_s: Sequence[float], frames: range, places: Mapping[int, Seen], paces: Mapping[int, _Pace], noise: float
) -> list[_State]:
    """Backwards over the filtered states, so that each frame knows what came before and after it."""
    found, _ = _filtered(times_s, frames, places, paces, noise)
    after = found[-1][1]
    path = [after]
    for i in range(len(found) - 2, -1, -1):
        here, expected = found[i][1], found[i + 1][0]
        after = _smoothed_state(here, expected, after, times_s[frames[i + 1]] - times_s[frames[i]])
        path.append(after)
    return path[::-1]


def _smoothed_state(here: _State, expected: _State, after: _State, gap: float) -> _State:
    """A filtered state with what the frames after it tell (Rauch, Tung and Striebel)."""
    # Gain G = P Fᵀ E⁻¹, with P here's covariance, E the expected one, F one gap ahead.
    a, b, c, d = here.p + gap * here.c, here.c, here.c + gap * here.v, here.v
    det = max(expected.p * expected.v - expected.c**2, 1e-12)
    g11, g12 = (a * expected.v - b * expected.c) / det, (b * expected.p - a * expected.c) / det
    g21, g22 = (c * expected.v - d * expected.c) / det, (d * expected.p - c * expected.c) / det
    ep, ec, ev = after.p - expected.p, after.c - expected.c, after.v - expected.v
    p = here.p + g11 * (g11 * ep + g12 * ec) + g12 * (g11 * ec + g12 * ev)
    cc = here.c + g21 * (g11 * ep + g12 * ec) + g22 * (g11 * ec + g12 * ev)
    v = here.v + g21 * (g21 * ep + g22 * ec) + g22 * (g21 * ec + g22 * ev)
    dx, dvx, dy, dvy = after.x - expected.x, after.vx - expected.vx, after.y - expected.y, after.vy - expected.vy
    return _State(
        here.x + g11 * dx + g12 * dvx,
        here.vx + g21 * dx + g22 * dvx,
        here.y + g11 * dy + g12 * dvy,
        here.vy + g21 * dy + g22 * dvy,
        p,
        cc,
        v,
    )
