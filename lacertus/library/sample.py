"""A sample rep for any technique: a figure is bent until each measured checkpoint lies well inside its range, or well outside
where a fault is wanted.

Every reading tells how it follows each placed point (its ingredients), so each checkpoint that is off moves just the
points that it reads, the least way there, again and again until all hold.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise, permutations
from typing import Any

import numpy as np
from scipy.optimize import linprog

from lacertus.core.errors import BadInput, Unreadable
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.measures.base import Reading
from lacertus.core.measuring.measures.scalar import owner_of
from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique


class NoSample(BadInput):
    """No rep can keep everything that this technique asks."""


FPS = 60.0
STANDING = {
    "head_top": (0, 400), "nose": (8, 365), "left_ear": (-6, 370), "right_ear": (6, 370), "chin": (6, 345), "neck": (0, 335),
    "left_shoulder": (-40, 325), "right_shoulder": (40, 325), "left_elbow": (-48, 255), "right_elbow": (48, 255),
    "left_wrist": (-50, 195), "right_wrist": (50, 195), "left_hand": (-50, 175), "right_hand": (50, 175),
    "left_hip": (-30, 205), "right_hip": (30, 205), "left_knee": (-45, 105), "right_knee": (45, 105),
    "left_ankle": (-60, 20), "right_ankle": (60, 20), "left_heel": (-66, 0), "right_heel": (54, 0),
    "left_toe": (-6, 0), "right_toe": (114, 0),
}  # fmt: skip
"""Offsets in pixels from the middle between the feet, y up; 400 tall; feet of 60, turned to the right."""

SIGMA = 0.4
FEET = {"performer": (500.0, 640.0), "partner": (640.0, 640.0)}


LEAST_ROOM_S = 0.03


class _Times:
    """A linear programme for the times of events, seconds: rows ask that one comes later than another by so much.

    No event comes before 0.4 s, room is as wide as it can be up to a tenth of a second, the whole short. A soft row may
    be broken at a price: what a wanted fault contradicts gives way to it.
    """

    def __init__(self, keys: list[str]) -> None:
        self.keys = keys
        self.rows: list[dict[str, float]] = []
        self.limits: list[float] = []
        self.soft = False

    def later(self, then: str, first: str, by: float, room: float = 1.0) -> None:
        """then − first ≥ by + room."""
        row = {first: 1.0, then: -1.0, "room": room}
        self.rows.append(row | ({f"slack {len(self.rows)}": -1.0} if self.soft else {}))
        self.limits.append(-by)

    def solve(self) -> dict[str, float] | None:
        """Seconds of every event, or None where the rows contradict each other."""
        names = dict.fromkeys([*self.keys, "room", *(name for row in self.rows for name in row)])
        columns = {key: i for i, key in enumerate(names)}
        table = np.zeros((len(self.rows), len(columns)))
        for i, row in enumerate(self.rows):
            for key, weight in row.items():
                table[i, columns[key]] += weight
        slack = len(columns) - len(self.keys) - 1
        costs = np.array([0.001] * len(self.keys) + [-1.0] + [5.0] * slack)
        bounds = [(0.4, 20.0)] * len(self.keys) + [(LEAST_ROOM_S, 0.1)] + [(0.0, None)] * slack
        found = linprog(costs, A_ub=table if self.rows else None, b_ub=self.limits or None, bounds=bounds)
        if not found.success:
            return None
        return {key: float(found.x[columns[key]]) for key in self.keys}


def frames_of(technique: Technique, wrong: frozenset[str] = frozenset()) -> dict[str, list[int]]:
    """Frames of all events, chosen so that every order, interval, window and togetherness has room to spare.

    Checkpoints in `wrong` are missed instead, by more than they can be unsure.

    Raises:
        NoSample: the times contradict each other.
    """
    keys = list(technique.events)
    times = _Times(keys)
    asked = _asked(technique, wrong)
    for checkpoint in asked:
        if checkpoint.id in wrong:
            times.soft = False
            others = {event for c in asked if c.id in wrong - {checkpoint.id} for event in c.measure.events_used}
            _ask_wrong_time(checkpoint, times, others)
        else:
            times.soft = bool(wrong)
            _ask_time(checkpoint, keys, times.later)
    found = times.solve()
    if found is None:
        raise NoSample(f"no rep of “{technique.id}” can keep all its orders and times at once; look at them together")
    events = {key: [round(found[key] * FPS)] for key in keys}
    for checkpoint in asked:
        _repeat_and_leave_out(checkpoint, technique, checkpoint.id in wrong, events)
    return events | _reactions(technique, [c for c in asked if c.id in wrong], events)


def choices_of(technique: Technique, wrong: frozenset[str]) -> dict[str, str]:
    """The usual choice of every option, and where a wanted fault is asked under another one, that."""
    found = {key: group.default for key, group in technique.options.items()}
    for checkpoint in technique.checkpoints:
        if checkpoint.id in wrong:
            for group, wanted in checkpoint.when.items():
                choices = (wanted,) if isinstance(wanted, str) else wanted
                if group in found and found[group] not in choices:
                    found[group] = choices[0]
    return found


def _asked(technique: Technique, wrong: frozenset[str]) -> list[Checkpoint]:
    """The checkpoints that are asked under those choices."""
    chosen = choices_of(technique, wrong)
    return [c for c in technique.checkpoints if all(_among(chosen.get(group), wanted) for group, wanted in c.when.items())]


def _among(choice: str | None, wanted: str | tuple[str, ...]) -> bool:
    """Whether a choice is among those that are wanted; facts of a rep that are no options are left open."""
    return choice is None or choice in ((wanted,) if isinstance(wanted, str) else wanted)


def _reactions(technique: Technique, wrong: list[Checkpoint], events: dict[str, list[int]]) -> dict[str, list[int]]:
    """The partner does nothing, but for what a wanted fault is asked after: there the answer that it wants follows."""
    needed = {event for checkpoint in technique.checkpoints for event in checkpoint.events_used}
    found: dict[str, list[int]] = {reaction.event: [] for reaction in technique.reactions if reaction.event not in needed}
    for checkpoint in wrong:
        for name, answers in checkpoint.branch.items():
            reaction = technique.reaction(name)
            if reaction is None:
                continue
            taken = (answers,) if isinstance(answers, str) else answers
            found |= {other.event: [] for other in (*reaction.answers, *reaction.wrong) if other.event not in taken}
            found[reaction.event] = [events[taken[0]][0] - REACTS_FRAMES]
    return found


REACTS_FRAMES = 12
"""A wanted answer comes so long after its reaction: a fifth of a second."""


def _repeat_and_leave_out(checkpoint: Checkpoint, technique: Technique, wrong: bool, events: dict[str, list[int]]) -> None:
    measure: Any = checkpoint.measure
    if checkpoint.kind == "count" and checkpoint.within:
        least = int(checkpoint.within[0] or 0)
        first = events[measure.event][0]
        events[measure.event] = [first + 24 * i for i in range(max(least, 1) - wrong)]
    if wrong and checkpoint.kind == "interval" and measure.start.event == measure.end.event:
        # From one marking to the next of the same event: the next one comes too late.
        first = events[measure.start.event][0]
        events[measure.start.event] = [first, first + round(((checkpoint.within or (0, None))[1] or 0) / 1000 * FPS) + 12]
    if checkpoint.kind == "window":
        for other in set(measure.wrong) - _needed(technique):
            events[other] = []
        if wrong and checkpoint.within is None:
            events[measure.answers[0]] = []


def _needed(technique: Technique) -> set[str]:
    return {event for c in technique.checkpoints if c.kind != "window" for event in c.measure.events_used}


WRONG_BY_S = 0.12
"""A wanted fault of time is so much beyond the limit: over 1.645 u at 60 frames a second."""


def _ask_wrong_time(checkpoint: Checkpoint, times: _Times, others: set[str]) -> None:
    """Rows for a fault of time; `others` are events that other wanted faults are read at."""
    measure: Any = checkpoint.measure
    lo, hi = checkpoint.within or (None, None)
    if checkpoint.kind == "order":
        pairs = list(pairwise(event.event for event in measure.events))
        first, then = next((pair for pair in pairs if not others & set(pair)), pairs[0])
        times.later(first, then, WRONG_BY_S, 0.0)
    elif checkpoint.kind == "together":
        first, then = [event.event for event in measure.events][:2]
        times.later(then, first, (hi or 0.0) / 1000 + WRONG_BY_S, 0.0)
    elif checkpoint.kind == "window":
        times.later(measure.answers[0], measure.cue, (hi or 0.0) / 1000 + WRONG_BY_S, 0.0)
    elif checkpoint.kind == "interval":
        first, then = measure.start.event, measure.end.event
        if first == then:
            return
        if hi is not None:
            times.later(then, first, hi / 1000 + WRONG_BY_S, 0.0)
        else:
            times.later(first, then, WRONG_BY_S - (lo or 0.0) / 1000, 0.0)
    elif checkpoint.kind == "peak" and measure.than is not None:
        times.later(measure.than.event, measure.end.event, (hi or 0.0) / 1000 + WRONG_BY_S, 0.0)
    else:
        _ask_time(checkpoint, times.keys, times.later)


def _ask_time(checkpoint: Checkpoint, keys: list[str], later: Callable[..., None]) -> None:
    measure: Any = checkpoint.measure
    lo, hi = checkpoint.within or (None, None)
    if checkpoint.kind == "order":
        names = [event.event for event in measure.events]
        for first, then in pairwise(names):
            later(then, first, 0.03)
    elif checkpoint.kind == "together":
        for first, then in permutations([event.event for event in measure.events], 2):
            later(first, then, -(hi or 0.0) / 1000 + 0.02, 0.3)
    elif checkpoint.kind == "window":
        later(measure.answers[0], measure.cue, 0.05)
        later(measure.cue, measure.answers[0], -(hi or 1000.0) / 1000 + 0.02)
        for wrong in measure.wrong:
            # As the events are written: a wrong answer that comes before the cue is none, nor one after the right one.
            if keys.index(wrong) < keys.index(measure.cue):
                later(measure.cue, wrong, 0.02, 0.2)
            else:
                later(wrong, measure.answers[0], 0.02, 0.2)
    elif checkpoint.kind == "interval" and measure.start.event != measure.end.event:
        first, then = measure.start.event, measure.end.event
        # The second marking of a counted event comes 24 frames after its first.
        more = 0.4 * (measure.start.nth == 2)
        if lo is not None:
            later(then, first, lo / 1000 + 0.02 + more)
        if hi is not None:
            later(first, then, -hi / 1000 + 0.02 - more)
    elif checkpoint.kind != "floor" and hasattr(measure, "start") and measure.start is not None and measure.end is not None:
        later(measure.end.event, measure.start.event, 0.25 + 0.4 * (measure.start.nth == 2), 0.0)


PATIENCE = 6
"""Turns in which nothing new comes to hold, after which it never will."""


class Figure:
    """Two bodies with a pose at each event's frame; checkpoints in `wrong` are to be missed."""

    def __init__(self, technique: Technique, wrong: frozenset[str] = frozenset()) -> None:
        self.technique = technique
        self.wrong = wrong
        self.asked = [c for c in technique.in_phase_order if c in _asked(technique, wrong)]
        self.events = frames_of(technique, wrong)
        self.last = max(frame for frames in self.events.values() for frame in frames) + 30
        used = sorted({frame for frames in self.events.values() for frame in frames})
        keyed = sorted({*used, 4, self.last - 4})
        # A little sway, so that no way begins and ends on the same spot.
        self.at = {
            (body, name, frame): [x0 + x + 6.0 * i + 3 * (i % 2), y0 - y]
            for body, (x0, y0) in FEET.items()
            for name, (x, y) in STANDING.items()
            for i, frame in enumerate(keyed)
        }

    def rep(self) -> RepFile:
        bodies: dict[str, Any] = {body: {"height_px": 400.0, "landmarks": {}} for body in FEET}
        for (body, name, frame), (x, y) in self.at.items():
            entry = {"frame": frame, "x": x, "y": y, "sigma": SIGMA}
            bodies[body]["landmarks"].setdefault(name, []).append(entry)
        seen = {c.id: dict.fromkeys(("coach", "partner", "student"), c.id not in self.wrong) for c in self.technique.checkpoints}
        return read_rep(
            {
                "lacertus_rep": 1, "technique": self.technique.id, "options": choices_of(self.technique, self.wrong),
                "side": "right", "heading": "right", "size": [1280, 720],
                "pts_s": [k / FPS for k in range(self.last + 1)], "range": [1, self.last - 1], "camera_motion": None,
                "events": self.events, "seen": seen, "bodies": bodies, "view": "angle", "upright": {"deg": 0.0, "u": 0.2},
            }
        )  # fmt: skip

    def bend(self, turns: int = 120, patience: int = 120) -> RepFile:
        """Move points until every measured checkpoint holds, the same ones stay open for so many turns, or the turns are over.

        Those that are to be missed are waited for to the last turn.
        """
        open_before, unchanged = frozenset[str](), 0
        for _ in range(turns):
            rep = self.rep()
            scene = Scene(rep, self.technique.edges, flat=True)
            # A wanted fault has the last word where it reads the same points as another checkpoint.
            order = sorted(self.asked, key=lambda c: c.id in self.wrong)
            moved = frozenset([c.id for c in order if self._mend(c, scene)])
            unchanged = unchanged + 1 if moved == open_before and not moved & self.wrong else 0
            if not moved or unchanged >= patience:
                break
            open_before = moved
        return self.rep()

    def _mend(self, checkpoint: Checkpoint, scene: Scene) -> bool:
        """Move the points of one checkpoint if it is not well inside; True where it was moved."""
        kind = KINDS[checkpoint.kind]
        if kind.by_eye or checkpoint.within is None:
            return False
        try:
            reading = kind.read(checkpoint.measure, scene, checkpoint.id)
        except Unreadable:
            return False
        wanted = self._wanted(checkpoint, reading)
        if checkpoint.kind == "peak":
            # The top lies between placed points: the one nearest to it is moved.
            placed = [f for frames in self.events.values() for f in frames if self._between(checkpoint, scene, f)]
            nearest = min(placed, key=lambda f: abs(f - reading.frames[0]), default=reading.frames[0])
            if checkpoint.measure.than is None:  # type: ignore[attr-defined]
                reading = replace(reading, parts=checkpoint.measure.scalar.at(scene, nearest).parts)  # type: ignore[attr-defined]
        slopes = {
            (name[2], name[3], int(name[4]), name[0]): part / (SIGMA * 0.5**0.5)
            for name, part in reading.parts.items()
            if len(name) == 5 and name[1] == "own"
        }
        steep = sum(slope * slope for slope in slopes.values())
        if wanted is None:
            return False
        level = checkpoint.kind == "inclination" and reading.value <= reading.u
        if level or (checkpoint.id in self.wrong and (steep < 1e-12 or abs(reading.value) < 1e-6)):
            # Upright or on the same spot, nothing tells which way leads out: a small push does.
            return self._push(checkpoint, scene, reading)
        if steep < 1e-12:
            return False
        step = max(min((wanted - reading.value) / steep, 40 / steep**0.5), -40 / steep**0.5)
        for (body, name, frame, axis), slope in slopes.items():
            self.at[body, name, frame]["xy".index(axis)] += step * slope
        return True

    def _push(self, checkpoint: Checkpoint, scene: Scene, reading: Reading) -> bool:
        """Move the first point that a checkpoint reads a little aside and up: for a change at its end alone, else throughout."""
        if not checkpoint.measure.points_used:
            return False
        body, landmark = scene.landmarks_of(owner_of(checkpoint.measure.points_used[0]))[0]
        for key in self.at:
            if key[:2] == (body, landmark) and (checkpoint.kind != "change" or key[2] == reading.frames[-1]):
                self.at[key][0] += 3.0
                self.at[key][1] -= 3.0
        return True

    @staticmethod
    def _between(checkpoint: Checkpoint, scene: Scene, frame: int) -> bool:
        measure: Any = checkpoint.measure
        return scene.frame_of(measure.start) < frame < scene.frame_of(measure.end)

    def _wanted(self, checkpoint: Checkpoint, reading: Reading) -> float | None:
        """A value well inside the range, or well outside for a fault, where it is not there yet."""
        lo, hi = checkpoint.within or (None, None)
        least, most = checkpoint.measure.natural_bounds
        margin = 2.5 * reading.u + 1e-6
        if checkpoint.id in self.wrong:
            out = [lo - 2 * margin] if lo is not None and lo - margin > least else []
            out += [hi + 2 * margin] if hi is not None and hi + margin < most else []
            is_out = (lo is not None and reading.value <= lo - margin) or (hi is not None and reading.value >= hi + margin)
            return None if is_out or not out else min(out, key=lambda value: abs(value - reading.value))
        low = None if lo is None or lo <= least else lo + margin
        high = None if hi is None or hi >= most else hi - margin
        if low is not None and reading.value < low:
            return low if high is None else min(low + margin, (low + high) / 2)
        if high is not None and reading.value > high:
            return high if low is None else max(high - margin, (low + high) / 2)
        return None


def faultless(technique: Technique) -> RepFile:
    """A rep in which every measured checkpoint that can be is met.

    Raises:
        NoSample: its times contradict each other.
    """
    return Figure(technique).bend()


def faulty(technique: Technique, *checkpoints: str) -> RepFile:
    """A rep in which these checkpoints are missed; what does not hang on them is met as far as it can be.

    Raises:
        NoSample: its times contradict each other.
    """
    # What the wanted faults contradict never settles.
    return Figure(technique, frozenset(checkpoints)).bend(turns=40, patience=PATIENCE)
