"""A scene: who moves how in front of which camera, and what is true in each of its frames."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Any, Literal

import numpy as np

from lacertus.core.measuring.body import DERIVED, LANDMARKS, SEGMENTS, BodyName, mirrored
from lacertus.studio.body import settle
from lacertus.studio.body.contact import Solids, solids_of
from lacertus.studio.body.figure import Channels, Joints, Look, placed, placed_points, pose, rest_channels
from lacertus.studio.body.motion import Motion, Step, keyed, scattered
from lacertus.studio.body.move import Finder, How, Moment, Move, flights_of
from lacertus.studio.body.vectors import UP, Vector, turn
from lacertus.studio.picture.camera import Camera, background_motion

LEAD_IN_S, LEAD_OUT_S = 0.4, 0.35
DEPTH_U, TRUNK_U = 0.04, 0.06
"""Standard uncertainty of a reference length as a share of it: depth before the camera, and a trunk that bends."""
SEARCH_GRIDS = (11, 17, 17)
"""Times tried in an event's window, then between the neighbours of the best: 320 ms to half a millisecond or less."""
MOST_AT_ONCE = 600
"""Times whose figures are posed together: more at once is no quicker."""


@dataclass(frozen=True, kw_only=True)
class Rep:
    """One rep of a scene: its stretch of time, its events' instants (seconds), and how it was done."""

    start_s: float
    end_s: float
    events_s: Mapping[str, float]
    how: How
    again_s: Mapping[str, tuple[float, ...]] = field(default_factory=dict)
    """Instants at which an event happens once more."""


@dataclass(frozen=True, kw_only=True)
class Scene:
    """A move done several times by one pair.

    `side` mirrors the move; `turn_deg` turns the pair before the camera (0: the target to the right,
    180: to the left, 90: away from the camera).
    """

    move: Move
    looks: Mapping[BodyName, Look]
    hows: tuple[How, ...]
    side: Literal["left", "right"] = "right"
    seed: int = 0
    scatter: float = 1.0

    @cached_property
    def _timeline(self) -> tuple[list[Step], list[tuple[float, list[Step]]]]:
        """All steps of the scene, and each rep's own with its start."""
        chance = np.random.default_rng(self.seed)
        steps: list[Step] = []
        reps: list[tuple[float, list[Step]]] = []
        clock = LEAD_IN_S
        for number, how in enumerate(self.hows):
            own = [replace(step, at=step.at * how.slow) for step in self.move.steps(how)]
            own = scattered(own, chance, self.scatter)
            over = sum(not before.reaction for before in self.hows[:number])
            turned = sum(self.move.turns_in(before) for before in self.hows[:number])
            own = [_wound(replace(step, at=step.at + clock), self.move, turned, over) for step in own]
            steps += own
            reps.append((clock, own))
            clock = own[-1].at
        return steps, reps

    @cached_property
    def length_s(self) -> float:
        return self._timeline[0][-1].at + LEAD_OUT_S

    @cached_property
    def motions(self) -> dict[BodyName, Motion]:
        """Both figures' channels over the time of the whole scene."""
        steps, reps = self._timeline
        flights = [flight for _, own in reps for flight in flights_of(self.move, own)]
        return {
            body: Motion(keyed(steps, body), [f for f in flights if f.body == body], look.stature_m)
            for body, look in self.looks.items()
        }

    @cached_property
    def _known(self) -> dict[float, Moment]:
        return {}

    def moment(self, time_s: float) -> Moment:
        """Both figures at a time as the move is written: right side, target along +x."""
        return self.moments([time_s])[0]

    def moments(self, times_s: Sequence[float]) -> list[Moment]:
        """Both figures at each of some times; asked for together they cost little more than one."""
        # Two cameras, the picture and the truth ask for the same times.
        by_rep: dict[int, list[float]] = {}
        for time_s in dict.fromkeys(times_s):
            if time_s not in self._known:
                by_rep.setdefault(self._rep_at(time_s), []).append(time_s)
        for number, times in by_rep.items():
            for start in range(0, len(times), MOST_AT_ONCE):
                part = times[start : start + MOST_AT_ONCE]
                self._known.update(zip(part, self._posed(part, self.hows[number]), strict=True))
        return [self._known[time_s] for time_s in times_s]

    def _posed(self, times_s: Sequence[float], how: How) -> list[Moment]:
        times = np.array(times_s)
        found = self._figures(times, how, self._ways_at(times))
        frames = {body: joints.frames(len(times_s)) for body, joints in found.items()}
        return [{body: of_body[i] for body, of_body in frames.items()} for i in range(len(times_s))]

    def _figures(self, times: Vector, how: How, ways: Vector | None) -> dict[str, Joints]:
        """Both figures at many times, the body that gives way moved by `ways` (times, 3), metres."""
        channels = {body: motion.at(times) for body, motion in self.motions.items()}
        if ways is not None and self.move.gives is not None:
            of_body, stature_m = channels[self.move.gives], self.looks[self.move.gives].stature_m
            for axis, by in zip("xyz", (*ways.T[:2], ways[:, 2] / stature_m), strict=True):
                of_body[axis] = of_body[axis] + by
        found: dict[str, Joints] = {body: pose(channels[body], look) for body, look in self.looks.items()}
        # Each holds on to where the other is; a second round settles what moves with what.
        self._hold(found, channels, how, ("performer", "partner", "performer") if "partner" in found else ("performer",))
        return found

    @cached_property
    def _ways_out(self) -> Vector:
        """How far the body that gives way is moved at each time of a grid (settle.py)."""
        times = np.arange(0.0, self.length_s + 1 / settle.RATE, 1 / settle.RATE)
        numbers = np.array([self._rep_at(time) for time in times])
        ways = np.zeros((len(times), 3))
        for number, how in enumerate(self.hows):
            of_rep = numbers == number
            ways[of_rep] = settle.ways_out(times[of_rep], partial(self._solids, how))
        return ways

    def _solids(self, how: How, ways: Vector, times: Vector) -> tuple[Solids, Solids]:
        """Of the body that gives way, and of the other one."""
        gives: BodyName = "partner" if self.move.gives == "partner" else "performer"
        stays: BodyName = "performer" if gives == "partner" else "partner"
        found = self._figures(times, how, ways)
        return solids_of(found[gives], self.looks[gives]), solids_of(found[stays], self.looks[stays])

    def _ways_at(self, times: Vector) -> Vector | None:
        if self.move.gives is None:
            return None
        ways = self._ways_out
        grid = np.arange(len(ways)) / settle.RATE
        return np.stack([np.interp(times, grid, ways[:, axis]) for axis in range(3)], axis=1)

    def _rep_at(self, time_s: float) -> int:
        """The number of the rep that runs at a time; before the first one, the first."""
        return max(sum(start <= time_s for start, _ in self._timeline[1]) - 1, 0)

    def _hold(self, found: dict[str, Joints], channels: Mapping[BodyName, Channels], how: How, order: Sequence[str]) -> None:
        for body in order:
            other = found.get("partner" if body == "performer" else "performer", found[body])
            holds = {limb: anchor(found[body], other) for limb, anchor in self.move.held(how, body).items()}
            for limb, usual in self.move.holds.get(body, {}).items():
                if limb.endswith("hand"):
                    switched = np.asarray(channels[body][f"{limb.split('_')[0]}_switch"])[..., None]  # type: ignore[index]
                    holds[limb] = usual(found[body], other) * (1 - switched) + holds[limb] * switched
            if holds:
                found[body] = pose(channels[body], self.looks[body], holds)  # type: ignore[index]

    @cached_property
    def reps(self) -> tuple[Rep, ...]:
        """Every rep with its events found in the motion."""
        return tuple(self._rep(how, start, steps) for how, (start, steps) in zip(self.hows, self._timeline[1], strict=True))

    def _rep(self, how: How, start: float, steps: Sequence[Step]) -> Rep:
        at = {step.name: step.at for step in steps if step.name}
        finders = self.move.events(how)
        looked_for = {name: finder for name, finder in finders.items() if finder.measure and finder.rule != "step"}
        found = self._search(looked_for, at, how.slow)
        events = {name: found.get(name, at[finder.step]) for name, finder in finders.items()}
        again = {name: tuple(at[step] for step in finder.again) for name, finder in finders.items() if finder.again}
        return Rep(start_s=start - 0.3, end_s=at.get("end", steps[-1].at) - 0.02, events_s=events, how=how, again_s=again)

    def _search(self, finders: Mapping[str, Finder], at: Mapping[str, float], slow: float) -> dict[str, float]:
        """The instants of events in the motion, seconds: all looked for together, in ever finer grids of times."""
        brackets = {name: _window(finder, at[finder.step], slow) for name, finder in finders.items()}
        best: dict[str, float] = {}
        for number, count in enumerate(SEARCH_GRIDS):
            grids = {name: np.linspace(*bracket, count) for name, bracket in brackets.items()}
            self.moments([time for grid in grids.values() for time in grid.tolist()])
            for name, grid in grids.items():
                finder = finders[name]
                values = np.array([finder.measure(moment) for moment in self.moments(grid.tolist())])  # type: ignore[misc]
                narrow = _extreme if finder.rule in ("highest", "lowest") else _crossing
                values = (values - finder.level) * (1.0 if finder.rule in ("highest", "rises") else -1.0)
                best[name], brackets[name] = narrow(grid, values, first=number == 0)
        return best


def _wound(step: Step, move: Move, turns: int, over: int) -> Step:
    """A step after so many whole turns, and after `over` throws: the same pose, so that nobody unwinds between reps."""
    if not turns and not (over and move.flips):
        return step

    def wound(body: str, channels: Mapping[str, float]) -> dict[str, float]:
        turned = 360.0 * (turns if body == "performer" else 0)
        flipped = 360.0 * over * move.flips.get(body, 0)
        return {k: v + (turned if k.endswith("yaw") else flipped if k == "lean" else 0.0) for k, v in channels.items()}

    return replace(step, performer=wound("performer", step.performer), partner=wound("partner", step.partner))


def _window(finder: Finder, near: float, slow: float) -> tuple[float, float]:
    """The times between which an event is looked for, around its step's."""
    return near - finder.before_s * slow, near + finder.after_s * slow


def _extreme(grid: Vector, values: Vector, *, first: bool) -> tuple[float, tuple[float, float]]:
    """Where a value is highest on a grid of times, and the stretch between its neighbours."""
    at = int(np.argmax(values))
    return float(grid[at]), (float(grid[max(at - 1, 0)]), float(grid[min(at + 1, len(grid) - 1)]))


def _crossing(grid: Vector, values: Vector, *, first: bool) -> tuple[float, tuple[float, float]]:
    """Where a value first becomes positive on a grid of times, and the step in which it does."""
    above = values > 0
    crossed = next((i for i in range(1, len(grid)) if above[i] and not above[i - 1]), None)
    if crossed is not None:
        return float(grid[crossed]), (float(grid[crossed - 1]), float(grid[crossed]))
    # Above all along: it has begun before; below all along: it comes no sooner than the end.
    end = float(grid[0] if first and above[0] else grid[-1])
    return end, (end, end)


@dataclass(frozen=True, kw_only=True)
class Shot:
    """A scene as one camera films it: how the pair is turned, the hand that holds it, and the frames' times.

    `times_s` are real seconds of the scene; `slowed` is how many times longer the file lasts.
    """

    scene: Scene
    camera: Camera
    times_s: tuple[float, ...]
    turn_deg: float = 0.0
    handheld: float = 0.0
    slowed: float = 1.0

    def figures(self, time_s: float) -> Moment:
        """Both figures before the camera."""
        moment = self._moments.get(time_s) or self.scene.moment(time_s)
        return {body: _shifted(placed(joints, self.turn_deg, self._mirror), self._shift) for body, joints in moment.items()}

    def pixels(self, body: BodyName, landmarks: Sequence[str], times_s: Sequence[float]) -> Vector:
        """Where landmarks of a body are in the picture at some times: (times, landmarks, 2)."""
        names = [mirrored(name) if self._mirror else name for name in landmarks]
        places = np.array([[moment[body].at[name] for name in names] for moment in self.scene.moments(times_s)])
        places = placed_points(places, self.turn_deg, self._mirror) + self._shift
        if self.handheld == 0:
            return self.camera.pixels(places)
        return np.stack([self.camera_at(time_s).pixels(at) for time_s, at in zip(times_s, places, strict=True)])

    @property
    def _mirror(self) -> bool:
        return self.scene.side == "left"

    @cached_property
    def _shift(self) -> Vector:
        """What keeps the middle of the mat in its place as the pair is turned about it."""
        middle = self.scene.move.middle
        about = np.array([middle[0], -middle[1] if self._mirror else middle[1], 0.0])
        return np.asarray(about - turn(about, UP, self.turn_deg))

    @cached_property
    def _moments(self) -> dict[float, Moment]:
        return dict(zip(self.times_s, self.scene.moments(self.times_s), strict=True))

    def camera_at(self, time_s: float) -> Camera:
        return self.camera.shaken(time_s, self.handheld, self.scene.seed + 101)

    @property
    def target(self) -> Vector:
        """Direction of the target on the mat."""
        return turn(np.array([1.0, 0.0, 0.0]), UP, self.turn_deg)

    @property
    def view(self) -> str:
        """Name of the view: from the side within 20°, from front or back within 20°, else from an angle."""
        off = abs((self.turn_deg + 180.0) % 360.0 - 180.0)
        if off <= 20 or off >= 160:
            return "side"
        if 70 <= off <= 110:
            return "behind" if self.target[1] > 0 else "front"
        return "angle"

    @property
    def heading(self) -> str:
        right = self.camera.axes[0]
        return "right" if float(np.dot(self.target, right)) >= 0 else "left"


def _shifted(joints: Joints, by: Vector) -> Joints:
    if not by.any():
        return joints
    return replace(joints, at={name: place + by for name, place in joints.at.items()})


def frame_at(times_s: Sequence[float], instant_s: float) -> int:
    """The first frame at or after an instant: “the first frame in which”."""
    return min(bisect_left(times_s, instant_s), len(times_s) - 1)


def truth(shot: Shot, only_events: bool = False) -> dict[str, Any]:
    """A rep file for each rep, with every landmark of both bodies in every frame, every event, and the faults put in.

    `only_events` leaves out the frames in which no event happens: all that a coach would have placed.
    """
    scene = shot.scene
    tracks: dict[str, dict[str, list[dict[str, Any]]]] = {}
    landmarks = sorted(LANDMARKS)
    marked = {frame_at(shot.times_s, instant) for rep in scene.reps for instant in rep.events_s.values()}
    frames = [frame for frame in range(len(shot.times_s)) if not only_events or frame in marked]
    for body in scene.looks:
        pixels = np.round(shot.pixels(body, landmarks, [shot.times_s[frame] for frame in frames]), 3)
        tracks[body] = {
            landmark: [
                {"frame": frame, "x": x, "y": y, "sigma": 0.5, "by": "truth"} for frame, (x, y) in zip(frames, of_one, strict=True)
            ]
            for landmark, of_one in zip(landmarks, pixels.swapaxes(0, 1).tolist(), strict=True)
        }
    bodies = {name: {**_lengths(shot, name), "landmarks": tracks[name]} for name in scene.looks}
    faults = [
        {"rep": number, "fault": code, "degree": degree, "unit": fault.unit, "says": fault.says}
        for number, rep in enumerate(scene.reps)
        for code, degree in rep.how.faults.items()
        if (fault := scene.move.fault(code)) is not None
    ]
    return {"reps": [_rep_file(shot, rep, bodies) for rep in scene.reps], "faults": faults}


def _lengths(shot: Shot, body: BodyName) -> dict[str, Any]:
    """Standing height and segments' lengths in pixels, as they are square to the camera in the middle of the mat.

    A limb a quarter of a metre nearer at four metres looks 6 % longer, so a length is no better known
    than DEPTH_U; a trunk bends besides.
    """
    look = shot.scene.looks[body]
    middle = np.array([*shot.scene.move.middle, 0.9])
    at = dict(pose(rest_channels(), look).at)
    for name, parts in DERIVED.items():
        at[name] = sum((at[part] * weight for part, weight in parts), np.zeros(3))
    lengths = {}
    for segment, (a, b) in SEGMENTS.items():
        px = shot.camera.height_px(float(np.linalg.norm(at[a] - at[b])), middle)
        u = px * (TRUNK_U if "trunk" in segment else DEPTH_U)
        lengths[segment] = {"px": round(px, 2), "u": round(u, 2)}
    return {"height_px": round(shot.camera.height_px(look.stature_m, middle), 2), "reference_lengths_px": lengths}


SEAM_Y_M = 0.5
MAT_EDGE_Y_M = 1.9
"""Across the picture, metres: a seam of the mats behind the pair, and the edge of the mat."""


def _floor(shot: Shot) -> list[dict[str, float]]:
    """Four spots of the mat that can be made out, in the first frame's picture, and in metres with X to the target."""
    ahead, left = shot.target[:2], turn(shot.target, UP, 90.0)[:2]
    x = float(np.floor(shot.scene.move.middle[0] + 0.5))
    spots = [(x - 1, SEAM_Y_M), (x + 1, SEAM_Y_M), (x + 1, MAT_EDGE_Y_M), (x - 1, MAT_EDGE_Y_M)]
    camera, found = shot.camera_at(shot.times_s[0]), []
    for spot in spots:
        px, py, _ = camera.project(np.array([*spot, 0.0]))
        found.append({"x": round(px, 3), "y": round(py, 3), "X": round(float(spot @ ahead), 4), "Y": round(float(spot @ left), 4)})
    return found


def _rep_file(shot: Shot, rep: Rep, bodies: Mapping[BodyName, Any]) -> dict[str, Any]:
    scene, times = shot.scene, shot.times_s
    real = [time - times[0] for time in times]
    moving = shot.handheld > 0
    first = shot.camera_at(times[0])
    motion = [np.round(background_motion(shot.camera_at(t), first), 6).tolist() for t in times] if moving else None
    return {
        "lacertus_rep": 1,
        "floor": _floor(shot),
        "technique": scene.move.technique,
        "options": dict(rep.how.options),
        "side": scene.side,
        "partner": "person" if "partner" in scene.looks else "none",
        "rung": scene.move.rung,
        **({} if scene.move.stance is None else {"stance": scene.move.stance}),
        "pace": "slow" if rep.how.slow > 1.3 else "full",
        "purpose": "attempt",
        "outcome": "completed",
        "view": shot.view,
        "heading": shot.heading,
        "size": [shot.camera.width, shot.camera.height],
        "pts_s": [round(time * shot.slowed, 6) for time in real],
        "capture_rate": [[0, shot.slowed]],
        "camera_motion": motion,
        "range": [frame_at(times, rep.start_s), frame_at(times, rep.end_s)],
        "events": {
            name: [frame_at(times, at) for at in (instant, *rep.again_s.get(name, ()))] for name, instant in rep.events_s.items()
        },
        "bodies": bodies,
    }
