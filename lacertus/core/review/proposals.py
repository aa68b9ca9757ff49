"""Where events that are not marked yet seem to be: read off tracked points, or taken from a rep that is marked already."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.core.clips.onsets import Onset
from lacertus.core.errors import Unreadable
from lacertus.core.measuring.measures.mat import mat_level
from lacertus.core.measuring.measures.scalar import level, owner_of
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.events import Found

LEAST_SEEN = 0.8
"""A rule is read where its points are there in this share of the frames at least. A convention."""
OFF_MAT = 0.02
"""A sole is off the mat when it lies this share of standing height higher. A convention."""
HELD_FRAMES = 3
"""A foot that is off the mat stays so for as many frames. A convention."""
AT_REST = 0.15
"""A point rests at less than this share of its fastest pace. A convention."""
Array = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Proposed:
    """An event, the frame that it seems to be at, and why."""

    event: str
    frame: int
    why: str


@dataclass(frozen=True, kw_only=True)
class MarkedRep:
    """A rep of the same technique that is marked already: what it is called, its range, and its events' first frames."""

    name: str
    range: tuple[int, int]
    events: Mapping[str, int]


def proposed_events(
    technique: Technique,
    rep: RepFile,
    others: Sequence[MarkedRep] = (),
    sounds: Sequence[Onset] = (),
    scene: Scene | None = None,
) -> tuple[Proposed, ...]:
    """A proposal for every event that is not marked and can be read off the tracks or heard, else off another rep.

    Each is looked for between the events around it, marked or proposed before it, in the order of the technique.
    `scene` is the rep's, where it is at hand.
    """
    scene = scene or Scene(rep, technique.edges)
    found: dict[str, Proposed] = {}
    order = list(technique.events)
    for i, key in enumerate(order):
        if key in rep.events:
            continue
        before = [at for other in order[:i] if (at := _frame(other, rep, found)) is not None]
        after = [at for other in order[i + 1 :] if (at := _frame(other, rep, {})) is not None]
        first, last = max(before, default=rep.range[0]), min(after, default=rep.range[1])
        rule = technique.events[key].found
        proposal = _by_ear(key, rule, scene, first, last, sounds) or _from_tracks(key, rule, scene, first, last)
        proposal = proposal or _from_rep(key, rep, others)
        if proposal is not None and first <= proposal.frame <= last:
            found[key] = proposal
    return tuple(found.values())


def points_read(technique: Technique, rep: RepFile) -> frozenset[tuple[str, str]]:
    """Body and landmark of every point that events are proposed from."""
    scene = Scene(rep, technique.edges)
    refs = [ref for event in technique.events.values() if event.found is not None for ref in event.found.of]
    names = [name for ref in refs for name in (ref.on or (ref.name or "",))]
    return frozenset(place for name in names for place in scene.landmarks_of(name))


def _frame(event: str, rep: RepFile, found: Mapping[str, Proposed]) -> int | None:
    marked = rep.events.get(event)
    if marked:
        return marked[0]
    return found[event].frame if event in found else None


def _from_rep(event: str, rep: RepFile, others: Sequence[MarkedRep]) -> Proposed | None:
    """As far into the rep as it was into the nearest marked one, which may be longer or shorter."""
    for other in others:
        if event in other.events:
            share = (other.events[event] - other.range[0]) / max(other.range[1] - other.range[0], 1)
            frame = rep.range[0] + round(share * (rep.range[1] - rep.range[0]))
            return Proposed(event=event, frame=frame, why=f"as in {other.name}")
    return None


def _by_ear(event: str, rule: Found | None, scene: Scene, first: int, last: int, sounds: Sequence[Onset]) -> Proposed | None:
    """The frame that a sound begins in: the loudest slap or thud of the stretch, or the first call."""
    if rule is None or rule.rule not in ("heard", "called"):
        return None
    times = scene.rep.pts_s
    inside = [sound for sound in sounds if times[first] <= sound.time_s <= times[last] and sound.voiced == (rule.rule == "called")]
    if not inside:
        return None
    sound = inside[0] if rule.rule == "called" else max(inside, key=lambda one: one.strength)
    frame = min(bisect_left(times, sound.time_s), last)
    return Proposed(event=event, frame=frame, why="a call is heard" if rule.rule == "called" else "a slap or thud is heard")


def _from_tracks(event: str, rule: Found | None, scene: Scene, first: int, last: int) -> Proposed | None:
    if rule is None or rule.rule not in RULES or last - first < 2:
        return None
    frames = np.arange(first, last + 1)
    try:
        places = level(scene.places(rule.of, frames), scene)
        seen = ~np.isnan(places).any(axis=(0, 1))
        if seen.mean() < LEAST_SEEN:
            return None
        at = RULES[rule.rule](places[:, :, seen], scene, rule)
    except Unreadable:
        return None
    return None if at is None else Proposed(event=event, frame=int(frames[seen][at]), why=f"{_words(rule)} by the tracked points")


def _words(rule: Found) -> str:
    name = owner_of(rule.of[len(rule.of) // 2]).replace("_", " ")
    says = {"straightest": "straightest", "most_bent": "most bent", "leaves": "leaves the mat", "lands": "meets the mat"}
    says |= {"leaves_first": says["leaves"], "lands_first": says["lands"]}
    return f"{name} {says.get(rule.rule, rule.rule)}"


def _highest(places: Array, scene: Scene, rule: Found) -> int | None:
    return int(np.argmax(places[0, 1]))


def _lowest(places: Array, scene: Scene, rule: Found) -> int | None:
    return int(np.argmin(places[0, 1]))


def _opening(places: Array) -> Array:
    a, b = places[0] - places[1], places[2] - places[1]
    return np.asarray(np.arctan2(np.abs(a[0] * b[1] - a[1] * b[0]), (a * b).sum(axis=0)))


def _straightest(places: Array, scene: Scene, rule: Found) -> int | None:
    return int(np.argmax(_opening(places)))


def _most_bent(places: Array, scene: Scene, rule: Found) -> int | None:
    return int(np.argmin(_opening(places)))


def _over_mat(places: Array, scene: Scene, rule: Found) -> Array:
    """Heights over the mat as shares of standing height; raises NotSeen where neither is known."""
    body, _ = scene.resolve(owner_of(rule.of[0]))
    return np.asarray((places[0, 1] - mat_level(scene, body, scene.rep.range[0])) / scene.height_px(body))


def _leaves(places: Array, scene: Scene, rule: Found) -> int | None:
    """The first frame off the mat after the last one on it, before the highest."""
    heights = _over_mat(places, scene, rule)
    on = np.flatnonzero(heights[: int(np.argmax(heights)) + 1] <= OFF_MAT)
    return None if on.size == 0 or on[-1] + 1 >= len(heights) else int(on[-1]) + 1


def _lands(places: Array, scene: Scene, rule: Found) -> int | None:
    """The first frame on the mat after the highest."""
    heights = _over_mat(places, scene, rule)
    top = int(np.argmax(heights))
    on = np.flatnonzero(heights[top:] <= OFF_MAT)
    return None if heights[top] <= OFF_MAT or on.size == 0 else top + int(on[0])


def _over_its_rest(places: Array, scene: Scene, rule: Found) -> Array:
    """Heights over where the point itself rests, as shares of standing height: a far foot stands higher in the picture."""
    body, _ = scene.resolve(owner_of(rule.of[0]))
    heights = places[0, 1]
    return np.asarray((heights - np.quantile(heights, 0.1)) / scene.height_px(body))


def _leaves_first(places: Array, scene: Scene, rule: Found) -> int | None:
    """The first frame off the mat that is followed by more of them."""
    off = _over_its_rest(places, scene, rule) > OFF_MAT
    held = np.convolve(off, np.ones(HELD_FRAMES), "valid") == HELD_FRAMES
    return None if off[0] or not held.any() else int(np.argmax(held))


def _lands_first(places: Array, scene: Scene, rule: Found) -> int | None:
    """The first frame on the mat after having been off it."""
    on = _over_its_rest(places, scene, rule) <= OFF_MAT
    off = np.flatnonzero(~on)
    landed = np.flatnonzero(on[off[0] :]) if off.size else off
    return None if landed.size == 0 else int(off[0] + landed[0])


def _stops(places: Array, scene: Scene, rule: Found) -> int | None:
    """The first slow frame after the fastest."""
    pace = np.hypot(*np.gradient(places[0], axis=1))
    fastest = int(np.argmax(pace))
    slow = np.flatnonzero(pace[fastest:] < AT_REST * pace[fastest])
    return None if slow.size == 0 else fastest + int(slow[0])


def _nearest(places: Array, scene: Scene, rule: Found) -> int | None:
    return int(np.argmin(np.hypot(*(places[0] - places[1]))))


RULES = {
    "highest": _highest,
    "lowest": _lowest,
    "straightest": _straightest,
    "most_bent": _most_bent,
    "leaves": _leaves,
    "lands": _lands,
    "leaves_first": _leaves_first,
    "lands_first": _lands_first,
    "stops": _stops,
    "nearest": _nearest,
}
"""One reader for each rule: level places (points × 2 × n, pixels, y up), the scene and the rule → index of a frame."""
