"""What a checkpoint asks, worked out of the joints in space: a second reading of each kind, slow and plain, that shares no
formula with the judge's. A move is written for the right side with the target along +x, so that is the frame of everything here.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.body import DERIVED, PROPORTIONS
from lacertus.core.measuring.mass import mass_weights
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.measures.nested import Nested
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.review.asking import wanted_range, why_not_asked
from lacertus.core.techniques.definition import Technique
from lacertus.studio.scene import Scene

Array = NDArray[np.float64]
ROOM = 0.02
"""A value so little outside its range is the rounding of an event to a frame, as a share of the limit."""
STEP_S = 0.005
WORDS = {"working": "right", "lead": "right", "near": "right", "other": "left", "rear": "left", "far": "left"}


class NoTruth(Exception):
    """The kind has no reading here."""


@dataclass(frozen=True, kw_only=True)
class InSpace:
    """A rep of a scene in space: joints at any time, and the instants of its events, seconds."""

    scene: Scene
    events: Mapping[str, float]

    # --- places ---------------------------------------------------------------------------------

    def spot(self, name: str, time_s: float) -> Array:
        body, _, landmark = name.rpartition(".")
        word, _, rest = landmark.partition("_")
        landmark = f"{self._side(body, word)}_{rest}" if word in WORDS else landmark
        return self.landmark(body or "performer", landmark, time_s)

    def _side(self, body: str, word: str) -> str:
        """The partner's own lead is on the other side where the two stand in opposite leads."""
        crossed = body == "partner" and word in ("lead", "rear") and self.scene.move.stance == "opposite_lead"
        return WORDS[word] if not crossed else {"left": "right", "right": "left"}[WORDS[word]]

    def landmark(self, body: str, landmark: str, time_s: float) -> Array:
        joints = self.scene.moment(time_s)[body]
        if landmark == "centre_of_mass":
            parts = mass_weights(lambda name: True, "mean")
            return np.asarray(sum(self.landmark(body, name, time_s) * weight for name, weight in parts.items()))
        if landmark in DERIVED:
            return np.asarray(sum(self.landmark(body, name, time_s) * weight for name, weight in DERIVED[landmark]))
        return joints.at[landmark]

    def place(self, ref: Any, time_s: float) -> Array:
        if ref.on is None:
            return self.spot(ref.name, time_s)
        a, b = (self.spot(name, time_s) for name in ref.on)
        return np.asarray(a + (b - a) * ref.share)

    def body_of(self, ref: Any) -> str:
        name = ref.name or ref.on[0]
        return "partner" if name.startswith("partner.") else "performer"

    def metres(self, unit: str, ref: Any) -> float:
        bare = unit.rpartition(".")[2]
        body = unit.rpartition(".")[0] or self.body_of(ref)
        stature = self.scene.looks[body].stature_m  # type: ignore[index]
        if bare == "cm":
            return 0.01
        if bare == "shoulder_width":
            # The studio's shoulders are narrower than the table's.
            a, b = (self.landmark(body, f"{side}_shoulder", 0.0) for side in ("left", "right"))
            return float(np.linalg.norm(a - b))
        return stature if bare == "height" else PROPORTIONS[bare] * stature

    def at(self, ref: Any) -> float:
        return self.events[ref.event]

    # --- values -----------------------------------------------------------------------------------

    def value(self, nested: Nested, time_s: float | None = None) -> float:
        """The value of a measure: degrees, milliseconds, shares, or its own unit of length.

        Raises:
            NoTruth: the kind is not read here.
        """
        rule = getattr(self, f"_{nested.kind}", None)
        if rule is None:
            raise NoTruth(nested.kind)
        measure: Any = nested.measure
        own = getattr(measure, "at", None)
        when = self.at(own) if own is not None and not isinstance(own, tuple) else time_s
        return float(rule(measure, when))

    def _angle(self, measure: Any, t: float) -> float:
        a, v, b = (self.place(ref, t) for ref in measure.points)
        return between(a - v, b - v)

    def _inclination(self, measure: Any, t: float) -> float:
        along = self.place(measure.to_point, t) - self.place(measure.from_point, t)
        if isinstance(measure.against, tuple):
            p, q = (self.place(ref, t) for ref in measure.against)
            return between(along, q - p)
        off = between(along, np.array([0.0, 0.0, 1.0]))
        if measure.against == "mat":
            return 90.0 - off
        # Signed, it lies along the line to the target: what leans aside does not count (docs/measurement.md).
        return math.degrees(math.atan2(along[0], along[2])) if measure.signed else off

    def _line(self, measure: Any, t: float) -> float:
        spots = [self.place(ref, t) for ref in measure.points]
        if measure.unit == "deg":
            return 180.0 - between(spots[0] - spots[1], spots[2] - spots[1])
        return max(to_line(p, spots[0], spots[-1]) for p in spots[1:-1]) / float(np.linalg.norm(spots[-1] - spots[0]))

    def _relation(self, measure: Any, t: float) -> float:
        p, word = self.place(measure.point, t), measure.word
        others = [self.place(ref, t) for ref in measure.others]
        if word == "along":
            a, b = others
            return float((p - a) @ (b - a) / ((b - a) @ (b - a)))
        unit = self.metres(measure.unit, measure.point)
        if word == "between":
            a, b = others
            along = float((p - a) @ (b - a) / np.linalg.norm(b - a))
            return min(along, float(np.linalg.norm(b - a)) - along) / unit
        if word in ("inside", "outside"):
            other = "partner" if self.body_of(measure.point) == "performer" else "performer"
            hip, top = (self.landmark(other, name, t) for name in ("mid_hip", "mid_shoulder"))
            off = [across(spot, hip, top) for spot in (p, others[0])]
            return (off[1] - off[0] if word == "inside" else off[0] - off[1]) / unit
        held = others[0] if others else np.zeros(3)
        axis, sign = {"above": (2, 1), "below": (2, -1), "towards": (0, 1), "behind": (0, -1)}[word]
        return sign * float(p[axis] - held[axis]) / unit

    def _gap(self, measure: Any, t: float) -> float:
        times = [self.at(ref) for ref in measure.at] if isinstance(measure.at, tuple) else [t] * 3
        spots = [self.place(ref, when) for ref, when in zip(measure.points_used, times, strict=False)]
        unit = self.metres(measure.unit, measure.points_used[0])
        if len(spots) == 2:
            return float(np.linalg.norm(spots[0] - spots[1])) / unit
        p, a, b = spots
        share = float(np.clip((p - a) @ (b - a) / ((b - a) @ (b - a)), 0, 1))
        return float(np.linalg.norm(p - a - (b - a) * share)) / unit

    def _interval(self, measure: Any, _: float | None) -> float:
        return (self.at(measure.end) - self.at(measure.start)) * 1000

    def _together(self, measure: Any, _: float | None) -> float:
        times = [self.at(ref) for ref in measure.events]
        return (max(times) - min(times)) * 1000

    def _order(self, measure: Any, _: float | None) -> float:
        times = [self.at(ref) for ref in measure.events]
        return float(sum(b < a for a, b in pairwise(times)))

    def _stretch(self, measure: Any) -> Array:
        times = np.arange(self.at(measure.start), self.at(measure.end), STEP_S)
        self.scene.moments(times.tolist())  # together they are posed much sooner than one by one
        return times

    def _dwell(self, measure: Any, _: float | None) -> float:
        times = self._stretch(measure)
        held = [measure_any(measure)(self._within(state, float(t)) for state in measure.states) for t in times]
        if measure.pick == "share":
            return float(np.mean(held))
        longest = run = 0
        for one in held:
            run = run + 1 if one else 0
            longest = max(longest, run)
        return (longest if measure.pick == "longest" else sum(held)) * STEP_S * 1000

    def _within(self, state: Nested, t: float) -> bool:
        lo, hi = state.within or (None, None)
        value = self.value(state, t)
        return (lo is None or value >= lo) and (hi is None or value <= hi)

    def _change(self, measure: Any, _: float | None) -> float:
        return self.value(measure.of, self.at(measure.end)) - self.value(measure.of, self.at(measure.start))

    def _compare(self, measure: Any, t: float | None) -> float:
        one, other = self.value(measure.of, t), self.value(measure.against, t)
        return one / other if measure.how == "ratio" else one - other

    def _peak(self, measure: Any, _: float | None) -> float:
        times = self._stretch(measure)
        values = [self.value(measure.scalar, float(t)) for t in times]
        best = int(np.argmax(values) if measure.pick == "highest" else np.argmin(values))
        if measure.than is not None:
            return (float(times[best]) - self.at(measure.than)) * 1000
        if measure.zone is not None:
            raise NoTruth("zones")
        return float(values[best])

    def _path(self, measure: Any, _: float | None) -> float:
        way = np.array([self.place(measure.point, float(t)) for t in self._stretch(measure)])
        if measure.relative_to is not None:
            way = way - np.array([self.place(measure.relative_to, float(t)) for t in self._stretch(measure)])
        chord, length = float(np.linalg.norm(way[-1] - way[0])), float(np.linalg.norm(np.diff(way, axis=0), axis=1).sum())
        if measure.pick == "straightness":
            return chord / length
        if measure.pick == "turn":
            raise NoTruth("turning lies in the picture")
        found = {
            "chord": chord,
            "length": length,
            "bulge": max(to_line(p, way[0], way[-1]) for p in way),
            "travel": float(np.linalg.norm(way - way.mean(axis=0), axis=1).max()),
        }
        return found[measure.pick] / self.metres(measure.unit, measure.point)

    def _speed(self, measure: Any, t: float | None) -> float:
        if measure.point is None:
            raise NoTruth("speed of an angle")
        times = self._stretch(measure) if measure.at is None else np.array([self.at(measure.at)])
        paces = []
        for when in times:
            a, b = (self.place(measure.point, float(when) + off) for off in (-STEP_S, STEP_S))
            paces.append(float(np.linalg.norm(b - a)) / (2 * STEP_S))
        body = self.body_of(measure.point)
        pick = max(paces) if measure.pick == "highest" else float(np.mean(paces))
        return pick / self.scene.looks[body].stature_m  # type: ignore[index]

    def _facing(self, measure: Any, t: float) -> float:
        joints = self.scene.moment(t)[measure.body]
        frame = {"hips": joints.pelvis, "shoulders": joints.chest, "head": joints.head}.get(measure.line)
        if frame is None:
            raise NoTruth("feet")
        ahead = level(frame.forward)
        if measure.towards == "target":
            return float(ahead[0])
        if measure.towards == "partner":
            other = "partner" if measure.body == "performer" else "performer"
            way = self.landmark(other, "mid_hip", t) - self.landmark(measure.body, "mid_hip", t)
            return float(ahead @ level(way))
        raise NoTruth(measure.towards)

    def _floor(self, measure: Any, _: float | None) -> float:
        def foot(name: str, t: float) -> Array:
            prefix, _, word = name.rpartition(".")
            stem = f"{prefix}.{word}_" if prefix else f"{word}_"
            return np.asarray((self.spot(f"{stem}heel", t) + self.spot(f"{stem}toe", t))[:2] / 2)

        length = 1.0 if measure.unit != "foot" else PROPORTIONS["foot"] * self.scene.looks["performer"].stature_m
        if measure.pick == "base_width":
            t = self.at(measure.moment)
            return float(np.linalg.norm(foot("working", t) - foot("other", t))) / length
        start, end = self.at(measure.start), self.at(measure.end)
        step = foot(measure.foot, end) - foot(measure.foot, start)
        if measure.pick == "step_length":
            return float(np.linalg.norm(step)) / length
        raise NoTruth(measure.pick)


@dataclass(frozen=True, kw_only=True)
class Read:
    """What a rep is in space, by the ids of its measured checkpoints."""

    inside: frozenset[str]
    outside: Mapping[str, str]
    """Each with its value and the wanted range, in words."""
    unread: frozenset[str]
    """Asked, and of a kind that has no reading here."""


def read_in_space(technique: Technique, rep: RepFile, scene: Scene) -> Read:
    """Every measured checkpoint that a rep is asked, held against its range in space."""
    space = InSpace(scene=scene, events=scene.reps[0].events_s)
    inside, outside, unread = set(), {}, set()
    for checkpoint in technique.checkpoints:
        kind = KINDS[checkpoint.kind]
        wanted = wanted_range(checkpoint, technique, rep)
        if kind.by_eye or kind.over_reps or why_not_asked(checkpoint, technique, rep) is not None or wanted is None:
            continue
        try:
            value = space.value(Nested(kind=checkpoint.kind, measure=checkpoint.measure, within=wanted))
        except (NoTruth, KeyError):
            unread.add(checkpoint.id)
            continue
        lo, hi = wanted
        low = lo is not None and value < lo - ROOM * abs(lo) - 1e-6
        high = hi is not None and value > hi + ROOM * abs(hi) + 1e-6
        if low or high:
            outside[checkpoint.id] = f"{value:.3f}, wanted {wanted}"
        else:
            inside.add(checkpoint.id)
    return Read(inside=frozenset(inside), outside=outside, unread=frozenset(unread))


def measure_any(measure: Any) -> Any:
    return any if measure.any_ else all


def between(u: Array, v: Array) -> float:
    """The angle between two arrows, degrees."""
    return math.degrees(math.acos(float(np.clip(u @ v / np.linalg.norm(u) / np.linalg.norm(v), -1, 1))))


def to_line(p: Array, a: Array, b: Array) -> float:
    """Distance of a point from the line through two others, metres."""
    along = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
    return float(np.linalg.norm((p - a) - along * ((p - a) @ along)))


def across(p: Array, hip: Array, top: Array) -> float:
    """How far aside of a body's upright midplane a point lies, metres: across the line to the target."""
    return abs(float(p[1] - (hip[1] + top[1]) / 2)) if abs(top[2] - hip[2]) > 0.1 else to_line(p, hip, top)


def level(v: Array) -> Array:
    flat = np.array([v[0], v[1], 0.0])
    return np.asarray(flat / max(float(np.linalg.norm(flat)), 1e-9))
