"""One rep as the rules see it: relative words resolved, points with their uncertainty, event times."""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Protocol, cast

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import DidNotHappen, NotSeen
from lacertus.core.measuring import body as anatomy
from lacertus.core.measuring.body import CENTRE_OF_MASS, BodyName
from lacertus.core.measuring.mass import MASS_U_SHARE, mass_weights, segments
from lacertus.core.measuring.mat_spot import MatSpot
from lacertus.core.measuring.repfile import Body, PointEntry, RepFile
from lacertus.core.measuring.space import Space
from lacertus.core.measuring.steady import Steady
from lacertus.core.measuring.timebase import Edge, Instant, TimeBase
from lacertus.core.measuring.tracks import Key, KeysOnDemand, Position, Source, Track, combine, curve_through, spoken

LEAST_REFERENCE_FRAMES = 10
REFERENCE_PERCENTILE = 75.0
"""A segment's reference length from the clip itself: this percentile over at least so many frames,
never the longest, which noise makes too long. Conventions (docs/measurement.md)."""

DEPTH_U = 0.04
"""A length read from the clip is no better known than this share of it: a limb 17 cm nearer at four
metres looks 4 % longer. From the studio's clips (docs/decisions.md)."""

POINTING_PX = 1.0
"""Scatter of pointing on a screen, in pixels of the screen: beside what the eye makes of a joint it counts only where a pixel of
the screen covers several of the picture. A convention."""

NOBODY = Body()
_WORKING = ("working_", "lead_", "near_")
_OTHER = ("other_", "rear_", "far_")
_BY_LEAD = ("lead_", "rear_")


class EventLike(Protocol):
    """Which marking of which event."""

    @property
    def event(self) -> str: ...
    @property
    def nth(self) -> int: ...


class PointLike(Protocol):
    """A landmark by name, or a share along a segment."""

    @property
    def name(self) -> str | None: ...
    @property
    def on(self) -> tuple[str, str] | None: ...
    @property
    def share(self) -> float: ...


@dataclass(frozen=True, kw_only=True)
class Spread:
    """How the places of landmarks that are keyed in the same frames scatter in some frames, pixels.

    `own` is the σ of each key (landmarks × keys); `reach` by how much each key moves each frame (keys × frames), None where every
    frame is a key itself; `bridge` what the curve between keys may be wrong by (landmarks × frames); `shared` the σ that all frames
    have in common (landmarks).
    """

    names: tuple[str, ...]
    keys: NDArray[np.int64]
    own: NDArray[np.float64]
    reach: NDArray[np.float64] | None
    bridge: NDArray[np.float64] | None
    shared: NDArray[np.float64]


class Scene:
    """A rep with its relative words resolved.

    Args:
        rep: the rep.
        edges: for each event, whether its mark is a first or a last frame.
        repeated: events of a phase that was gone through several times.
        turn: which time is looked at, from 0: a first marking of a repeated event is that of this turn.
        flat: it is a drawing, and everything in it lies in the picture's plane.
        other_view: the rep as another camera shows it, and for frames of this one the frame of that one.
    """

    def __init__(
        self,
        rep: RepFile,
        edges: Mapping[str, Edge],
        repeated: frozenset[str] = frozenset(),
        turn: int = 0,
        flat: bool = False,
        other_view: tuple[Scene, Mapping[int, int]] | None = None,
    ) -> None:
        self.rep = rep
        self.repeated, self.turn, self.flat, self.other_view = repeated, turn, flat, other_view
        self.edges = edges
        self.time = TimeBase(rep.pts_s, rep.capture_rate, rep.marking.events_s)
        self._tracks: dict[tuple[str, str], Track] = {}
        self._resolved: dict[str, tuple[BodyName, str]] = {}
        self._positions: dict[tuple[BodyName, str, int], Position] = {}
        self.mats: dict[BodyName, MatSpot] = {}
        self._curves: dict[tuple[str, str], NDArray[np.float64]] = {}
        self._reaches: dict[tuple[bytes, bytes], NDArray[np.float64]] = {}
        self._units: dict[tuple[BodyName, str, str], tuple[float, float]] = {}
        self._measured_lengths: dict[tuple[BodyName, str, str], tuple[float, float] | None] = {}

    def at_turn(self, repeated: frozenset[str], turn: int) -> Scene:
        """The rep as it is seen another time that a phase was gone through: other marks count, the bodies are the same."""
        found = Scene(self.rep, self.edges, repeated, turn, self.flat, self.other_view)
        found.__dict__["space"] = self.space
        return found

    def take_over(self, space: Space) -> None:
        """Read the bodies as they were put in space before, from the same points in the same frames; events may differ."""
        space.read_by(self)
        self.__dict__["space"] = space

    def give_up(self) -> Space | None:
        """The bodies in space, for another scene of the same points; this one has them put in space anew, should it need them."""
        return cast("Space | None", self.__dict__.pop("space", None))

    @cached_property
    def marks(self) -> tuple[tuple[str, tuple[int, ...]], ...]:
        """All events as they are marked."""
        return tuple(self.rep.events.items())

    # --- events -------------------------------------------------------------------------------

    def marked(self, ref: EventLike) -> int | None:
        """Frame of an event, or None while it is not marked.

        Raises:
            DidNotHappen: it was looked for and did not happen, or not that often.
        """
        frames = self.rep.events.get(ref.event)
        if frames is None:
            return None
        first = self.turn if ref.event in self.repeated else 0
        index = ref.nth - 1 + first if ref.nth > 0 else ref.nth
        try:
            return frames[index]
        except IndexError:
            raise DidNotHappen(ref.event.replace("_", " ")) from None

    def frame_of(self, ref: EventLike) -> int:
        """Frame of an event.

        Raises:
            NotSeen: it is not marked.
            DidNotHappen: it was looked for and did not happen.
        """
        frame = self.marked(ref)
        if frame is None:
            raise NotSeen(f"event “{ref.event.replace('_', ' ')}” is not marked")
        return frame

    def instant(self, ref: EventLike) -> Instant:
        """Real time of an event and its u; raises as `frame_of`."""
        return self.time.instant(self.frame_of(ref), self.edges.get(ref.event, "first"))

    # --- points -------------------------------------------------------------------------------

    def points(self, refs: Iterable[PointLike], frame: int) -> tuple[Position, ...]:
        """Positions of several points in one frame, or one NotSeen that names all that are missing."""
        found: list[Position] = []
        missing: list[str] = []
        for ref in refs:
            try:
                found.append(self.point(ref, frame))
            except NotSeen as error:
                missing.append(str(error))
        if missing:
            raise NotSeen("; ".join(dict.fromkeys(missing)))
        return tuple(found)

    def point(self, ref: PointLike, frame: int) -> Position:
        """Position of a point in a frame, pixels.

        Raises:
            NotSeen: a landmark that it is made of has no point there.
        """
        if ref.on is not None:
            start, end = (self.landmark(*self.resolve(name), frame) for name in ref.on)
            return combine(str(ref), [(start, 1 - ref.share), (end, ref.share)])
        return self.landmark(*self.resolve(cast(str, ref.name)), frame)

    def resolve(self, name: str) -> tuple[BodyName, str]:
        """`partner.lead_ankle` → body and absolute landmark, by the rep's side."""
        if name not in self._resolved:
            self._resolved[name] = self._resolve(name)
        return self._resolved[name]

    def _resolve(self, name: str) -> tuple[BodyName, str]:
        body, _, landmark = name.rpartition(".")
        working, other = self.rep.side, anatomy.other_side(self.rep.side)
        if body == "partner" and self.rep.stance == "opposite_lead" and landmark.startswith(_BY_LEAD):
            # The partner's own lead is on the other side then.
            working, other = other, working
        for prefixes, side in ((_WORKING, working), (_OTHER, other)):
            for prefix in prefixes:
                if landmark.startswith(prefix):
                    landmark = f"{side}_{landmark.removeprefix(prefix)}"
        return cast(BodyName, body or "performer"), landmark

    def landmarks_of(self, name: str) -> tuple[tuple[BodyName, str], ...]:
        """The landmarks, by body, that a point in relative words is made of."""
        body, landmark = self.resolve(name)
        if landmark == CENTRE_OF_MASS:
            ends = dict.fromkeys(end for first, last, _, _ in segments() for end in (first, last))
            return tuple((body, part) for end in ends for part, _ in anatomy.DERIVED.get(end, ((end, 1.0),)))
        return tuple((body, part) for part, _ in anatomy.DERIVED.get(landmark, ((landmark, 1.0),)))

    def landmark(self, body: BodyName, landmark: str, frame: int) -> Position:
        """Position of an absolute or derived landmark in a frame."""
        key = (body, landmark, frame)
        if key not in self._positions:
            self._positions[key] = self._landmark(body, landmark, frame)
        return self._positions[key]

    def _landmark(self, body: BodyName, landmark: str, frame: int) -> Position:
        if landmark == CENTRE_OF_MASS:
            return self._centre_of_mass(body, frame)
        parts = anatomy.DERIVED.get(landmark)
        if parts is None:
            return self._track(body, landmark).at(frame)
        positions = [(self.landmark(body, part, frame), weight) for part, weight in parts]
        return combine(spoken(body, landmark), positions, (body, landmark))

    def _track(self, body: BodyName, landmark: str) -> Track:
        if (body, landmark) not in self._tracks:
            data = self.rep.bodies.get(body, NOBODY)
            measured = self.rep.marking.own.get(anatomy.joint_of(landmark))
            keys = KeysOnDemand(data.landmarks.get(landmark, ()), lambda entry: _key(entry, landmark, data, body, measured))
            self._tracks[body, landmark] = Track(body, landmark, keys, self.time.real_s)
        return self._tracks[body, landmark]

    def _keyed(self, body: BodyName, landmark: str) -> NDArray[np.bool_]:
        """For every frame, whether all that a landmark is made of is keyed there."""
        found = np.ones(len(self.rep.pts_s), dtype=np.bool_)
        for part, _ in anatomy.DERIVED.get(landmark, ((landmark, 1.0),)):
            here = np.zeros(len(self.rep.pts_s), dtype=np.bool_)
            here[self._track(body, part).frames] = True
            found &= here
        return found

    def _most_keys(self, body: BodyName, landmark: str) -> int:
        """How many frames can have all that a landmark is made of."""
        parts = anatomy.DERIVED.get(landmark, ((landmark, 1.0),))
        return min(len(self.rep.bodies.get(body, NOBODY).landmarks.get(part, ())) for part, _ in parts)

    def has(self, body: BodyName, landmark: str, frame: int) -> bool:
        """Whether a landmark has a place in a frame."""
        keyed = self._track(body, landmark).numbers
        return bool(keyed) and keyed[0] <= frame <= keyed[-1]

    def is_hidden(self, ref: PointLike, frame: int) -> bool:
        """Whether a point was guessed there."""
        bodies = {self.resolve(name)[0] for name in (ref.on or (cast(str, ref.name),))}
        return bool(bodies & self._guessed) and self.point(ref, frame).hidden

    @cached_property
    def _guessed(self) -> frozenset[BodyName]:
        """The bodies of which some landmark was guessed somewhere."""
        return frozenset(
            body
            for body, data in self.rep.bodies.items()
            if any(point.hidden for points in data.landmarks.values() for point in points)
        )

    def mass_weights(self, body: BodyName, frame: int) -> Mapping[str, float]:
        """Weights of the landmarks in the centre of mass; what has no point in that frame is stood in for."""
        table = self.rep.bodies.get(body, NOBODY).mass_table
        return mass_weights(lambda landmark: self.has(body, landmark, frame), table)

    def _centre_of_mass(self, body: BodyName, frame: int) -> Position:
        height = self._tall_px(body, frame)
        weights = self.mass_weights(body, frame)
        parts = [(self.landmark(body, landmark, frame), weight) for landmark, weight in weights.items()]
        found = combine(spoken(body, CENTRE_OF_MASS), parts, (body, CENTRE_OF_MASS))
        table = Source(name=("mass", body), sigma=MASS_U_SHARE * height, weight=1.0)
        return replace(found, sources=(*found.sources, table))

    def _tall_px(self, body: BodyName, frame: int) -> float:
        """Standing height in pixels, or what the trunk in this frame makes of it by the table's proportions."""
        height = self.rep.bodies.get(body, NOBODY).height_px
        if height is not None:
            return height
        top, low = (self.landmark(body, part, frame) for part in ("mid_shoulder", "mid_hip"))
        return float(np.hypot(top.x - low.x, top.y - low.y)) / anatomy.PROPORTIONS["trunk"]

    # --- many frames at once --------------------------------------------------------------------

    def places(self, refs: Iterable[PointLike], frames: NDArray[np.int64], *, still: bool = False) -> NDArray[np.float64]:
        """Places (points × 2 × frames, pixels) of points; not a number where one cannot be read.

        `still` takes the camera's own motion out.

        Raises:
            NotSeen: the camera's motion is not known, and it was to be taken out.
        """
        found = np.stack([self._places(ref, frames) for ref in refs])
        if still:
            self.steady.check()
            found = np.stack([self.steady.path(frames.tolist(), place.T).T for place in found])
        return found

    def _places(self, ref: PointLike, frames: NDArray[np.int64]) -> NDArray[np.float64]:
        if ref.on is None:
            return self._landmark_places(*self.resolve(cast(str, ref.name)), frames)
        start, end = (self._landmark_places(*self.resolve(name), frames) for name in ref.on)
        return np.asarray((1 - ref.share) * start + ref.share * end)

    def _landmark_places(self, body: BodyName, landmark: str, frames: NDArray[np.int64]) -> NDArray[np.float64]:
        if landmark == CENTRE_OF_MASS:
            parts = tuple(self.mass_weights(body, int(frames[0])).items())
        else:
            parts = anatomy.DERIVED.get(landmark, ((landmark, 1.0),))
        if len(parts) == 1:
            return self.curve(body, parts[0][0])[:, frames]
        return self._mean_places([(self._track(body, part), weight) for part, weight in parts], frames)

    def _mean_places(self, tracks: Sequence[tuple[Track, float]], frames: NDArray[np.int64]) -> NDArray[np.float64]:
        """Weighted mean of landmarks. A curve follows its points linearly, so what is keyed on the same frames is one curve."""
        alike: dict[tuple[int, ...], NDArray[np.float64]] = {}
        for track, weight in tracks:
            keyed = tuple(track.numbers)
            alike[keyed] = alike[keyed] + weight * track.places if keyed in alike else weight * track.places
        if () in alike:
            return np.full((2, len(frames)), np.nan)
        curves = [curve_through(np.array(keyed), places, frames, self.times) for keyed, places in alike.items()]
        return np.asarray(sum(curves))

    def curve(self, body: BodyName, landmark: str) -> NDArray[np.float64]:
        """Places of a landmark in every frame of the clip (2 × frames, pixels)."""
        if (body, landmark) not in self._curves:
            self._curve_alike(body, landmark)
        return self._curves[body, landmark]

    def _curve_alike(self, body: BodyName, landmark: str) -> None:
        """Curve a landmark, and with it all of its body that are keyed in the same frames: together it takes hardly longer."""
        everywhere, own = np.arange(len(self.rep.pts_s)), self._track(body, landmark)
        names = [name for name in self.rep.bodies.get(body, NOBODY).landmarks if self._track(body, name).numbers == own.numbers]
        if not own.numbers or landmark not in names:
            self._curves[body, landmark] = own.curve(everywhere, self.times)
            return
        places = np.concatenate([self._track(body, name).places for name in names])
        curves = curve_through(own.frames, places, everywhere, self.times)
        self._curves |= {(body, name): curves[2 * i : 2 * i + 2] for i, name in enumerate(names)}

    def _reach(self, keyed: NDArray[np.int64], frames: NDArray[np.int64]) -> NDArray[np.float64]:
        """How far each key moves a curve in some frames (keys × frames): the same for all that is keyed alike."""
        key = keyed.tobytes(), frames.tobytes()
        if key not in self._reaches:
            self._reaches[key] = np.nan_to_num(curve_through(keyed, np.eye(len(keyed)), frames, self.times))
        return self._reaches[key]

    def ingredients(self, ref: PointLike, frames: NDArray[np.int64]) -> list[tuple[tuple[str, ...], NDArray[np.float64]]]:
        """Each uncertain ingredient of a point over many frames: its name, and by how much one σ of it moves the point."""
        ends = [(ref.name or "", 1.0)] if ref.on is None else [(ref.on[0], 1 - ref.share), (ref.on[1], ref.share)]
        found: list[tuple[tuple[str, ...], NDArray[np.float64]]] = []
        for name, share in ends:
            body, landmark = self.resolve(name)
            if landmark == CENTRE_OF_MASS:
                parts = tuple(self.mass_weights(body, int(frames[0])).items())
                found.append((("mass", body), np.full(len(frames), share * MASS_U_SHARE * self._tall_px(body, int(frames[0])))))
            else:
                parts = anatomy.DERIVED.get(landmark, ((landmark, 1.0),))
            for part, weight in parts:
                found += self._track_ingredients(body, part, frames, share * weight)
        return found

    def _track_ingredients(
        self, body: BodyName, landmark: str, frames: NDArray[np.int64], weight: float
    ) -> list[tuple[tuple[str, ...], NDArray[np.float64]]]:
        track = self._track(body, landmark)
        first, last = bisect_left(track.numbers, frames[0]), bisect_left(track.numbers, frames[-1])
        # A curve between two keys reaches as far as the next key on both sides.
        used = range(max(first - 2, 0), min(last + 3, len(track.numbers)))
        keys = [track.keys[i] for i in used]
        if len(used) == track.numbers[used.stop - 1] - track.numbers[used.start] + 1:
            # A point on every frame: each is that frame's alone.
            reach = (np.array([key.frame for key in keys])[:, None] == frames[None, :]).astype(np.float64)
        else:
            reach = curve_through(track.frames[used.start : used.stop], np.eye(len(used)), frames, self.times)
        found = [
            (("own", body, landmark, str(key.frame)), weight * key.own * moved)
            for key, moved, reaches in zip(keys, reach, reach.any(axis=1).tolist(), strict=True)
            if reaches
        ]
        return [*found, (("shared", body, landmark), np.full(len(frames), weight * keys[0].shared))] if keys else []

    def spreads(self, body: BodyName, landmarks: Iterable[str], frames: NDArray[np.int64]) -> list[Spread]:
        """What landmarks' places in some frames are unsure by, those that are keyed alike together.

        Nothing is added outside of their keyed frames.
        """
        alike: dict[bytes, list[str]] = {}
        for landmark in landmarks:
            alike.setdefault(self._track(body, landmark).frames.tobytes(), []).append(landmark)
        return [self._spread(body, tuple(names), frames) for names in alike.values()]

    def _spread(self, body: BodyName, names: tuple[str, ...], frames: NDArray[np.int64]) -> Spread:
        tracks = [self._track(body, name) for name in names]
        numbers = tracks[0].frames
        at = np.minimum(np.searchsorted(numbers, frames), len(numbers) - 1)
        inside = (frames >= numbers[0]) & (frames <= numbers[-1])
        shared = np.array([track.keys[int(at[0])].shared for track in tracks])
        if (numbers[at][inside] == frames[inside]).all():
            own = np.array([[track.keys[int(i)].own for i in at] for track in tracks])
            return Spread(names=names, keys=frames, own=np.where(inside, own, 0.0), reach=None, bridge=None, shared=shared)
        used = range(max(int(at[0]) - 2, 0), min(int(at[-1]) + 3, len(numbers)))
        shared = np.array([track.keys[used[0]].shared for track in tracks])
        reach = self._reach(numbers[used.start : used.stop], frames)
        bridge = np.stack([self._track(body, n).bridge(frames, self.curve(body, n)[:, frames], self.times) for n in names])
        own = np.array([[track.keys[i].own for i in used] for track in tracks])
        return Spread(names=names, keys=numbers[used.start : used.stop], own=own, reach=reach, bridge=bridge, shared=shared)

    def keyed_heights(self, body: BodyName, tilt_rad: float) -> tuple[NDArray[np.int64], NDArray[np.float64], tuple[Track, ...]]:
        """Every placed point of a body: its frame and its height (pixels, level, y up), one landmark after the other."""
        tracks = tuple(self._track(body, name) for name, points in self.rep.bodies.get(body, NOBODY).landmarks.items() if points)
        places = np.concatenate([track.places for track in tracks], axis=1)
        frames = np.concatenate([track.frames for track in tracks])
        return frames, math.sin(tilt_rad) * places[0] - math.cos(tilt_rad) * places[1], tracks

    @cached_property
    def times(self) -> NDArray[np.float64]:
        """Real time of every frame, seconds."""
        return np.array(self.time.real_s)

    def stretch(self, start: EventLike | None, end: EventLike | None) -> NDArray[np.int64]:
        """Frames from one event to another; without one, from the rep's first or to its last frame.

        Raises:
            NotSeen: an event is not marked, or they are not in order.
            DidNotHappen: an event was looked for and did not happen.
        """
        first = self.rep.range[0] if start is None else self.frame_of(start)
        last = self.rep.range[1] if end is None else self.frame_of(end)
        if last <= first:
            raise NotSeen(
                f"{_named(end)} (frame {last}) does not come after {_named(start)} (frame {first}), so nothing lies between them"
            )
        return np.arange(first, last + 1)

    def all_seen(self, refs: Sequence[PointLike], frames: NDArray[np.int64], values: NDArray[np.float64]) -> None:
        """Raise NotSeen, naming points and frame, unless every value (last axis over frames) was read."""
        bad = np.isnan(values).any(axis=tuple(range(values.ndim - 1)))
        if bad.any():
            self.points(refs, int(frames[int(np.argmax(bad))]))

    # --- units ----------------------------------------------------------------------------------

    def height_px(self, body: BodyName) -> float:
        """Standing height in pixels.

        Raises:
            NotSeen: it is not known.
        """
        height = self.rep.bodies.get(body, NOBODY).height_px
        if height is None:
            raise NotSeen(f"the {body}’s standing height in the picture is not marked; mark it, crown to sole")
        return height

    def pixels_per(self, unit: str, owner: str) -> tuple[float, float, tuple[str, ...]]:
        """Pixels in a unit of length, their u, and the name of that ingredient.

        `unit` is `cm`, `px`, `height` or a segment of the body that is measured (`owner`, a point in relative
        words), or another body's said outright (`partner.shank`). A segment is known where a reference length
        was given, or from the clip, else by the table's share of standing height.

        Raises:
            NotSeen: neither is known.
        """
        if unit == "px":
            return 1.0, 0.0, ("unit", "px")
        if unit == "cm":
            if self.rep.centimetres_per_pixel is None:
                raise NotSeen("the scale of the picture (centimetres per pixel) is not known; mark a known length")
            return 1 / self.rep.centimetres_per_pixel, 0.0, ("unit", "cm")
        named, _, bare = unit.rpartition(".")
        owned, landmark = self.resolve(owner)
        body = cast(BodyName, named or owned)
        own_side = next((side for side in ("left", "right") if landmark.startswith(f"{side}_")), self.rep.side)
        key = (body, bare, own_side)
        if key not in self._units:
            self._units[key] = self._unit(*key)
        return (*self._units[key], ("unit", body, bare))

    def _unit(self, body: BodyName, bare: str, side: str) -> tuple[float, float]:
        if bare == "height":
            height = self.height_px(body)
            return height, anatomy.HEIGHT_U * height
        sides = (side, anatomy.mirrored(side))
        names = [name for name in (*(f"{one}_{bare}" for one in sides), bare) if name in anatomy.SEGMENTS]
        given = self.rep.bodies.get(body, NOBODY).reference_lengths_px
        for name in names:
            if name in given:
                return given[name].px, given[name].u
        for name in names:
            measured = self.length_in_clip(body, *anatomy.SEGMENTS[name])
            if measured is not None:
                return measured
        if bare not in anatomy.PROPORTIONS or self.rep.bodies.get(body, NOBODY).height_px is None:
            raise NotSeen(
                f"the {body}’s {bare.replace('_', ' ')} is the unit, and neither its length nor the standing height is known; "
                "mark the height, crown to sole"
            )
        length = anatomy.PROPORTIONS[bare] * self.height_px(body)
        return length, anatomy.PROPORTION_U * length

    # --- the picture --------------------------------------------------------------------------

    @cached_property
    def space(self) -> Space | None:
        """The rep in space; None for a drawing."""
        return None if self.flat else Space(self)

    @cached_property
    def steady(self) -> Steady:
        """The camera's own motion: null in the rep file is a still camera, an absent key an unknown one."""
        return Steady(self.rep.camera_motion, known="camera_motion" in self.rep.model_fields_set)

    def towards_x(self) -> float:
        """+1 where the target lies to the right in the picture, −1 to the left.

        Raises:
            NotSeen: the rep does not say.
        """
        if self.rep.heading is None:
            raise NotSeen("the rep’s heading (where the target lies in the picture) is not set")
        return 1.0 if self.rep.heading == "right" else -1.0

    def length_in_clip(self, body: BodyName, first: str, second: str) -> tuple[float, float] | None:
        """Length of a segment by its two ends and its u (pixels), as the clip shows it; None with too few frames."""
        key = (body, first, second)
        if key not in self._measured_lengths:
            self._measured_lengths[key] = self._measure_length(body, first, second)
        return self._measured_lengths[key]

    def _measure_length(self, body: BodyName, first: str, second: str) -> tuple[float, float] | None:
        """The 75th percentile over the frames in which both ends are keyed, and its u.

        u is that of a sample quantile, √(p(1−p)/n) over the density there, taken from the spread
        between the 60th and 90th percentile; and DEPTH_U, as a body comes nearer and goes.
        """
        if any(self._most_keys(body, end) < LEAST_REFERENCE_FRAMES for end in (first, second)):
            return None
        frames = np.nonzero(self._keyed(body, first) & self._keyed(body, second))[0]
        if len(frames) < LEAST_REFERENCE_FRAMES:
            return None
        apart = self._landmark_places(body, first, frames) - self._landmark_places(body, second, frames)
        lengths = np.hypot(apart[0], apart[1])
        low, middle, high = np.percentile(lengths, (60.0, REFERENCE_PERCENTILE, 90.0))
        u_sample = float(np.sqrt(0.75 * 0.25 / len(lengths)) * (high - low) / 0.30)
        return float(middle), float(np.hypot(u_sample, DEPTH_U * middle))


def _named(ref: EventLike | None) -> str:
    return "the rep’s end" if ref is None else f"“{ref.event.replace('_', ' ')}”"


def _key(entry: PointEntry, landmark: str, data: Body, body: BodyName, measured: float | None = None) -> Key:
    """A point with the two parts of its σ; `measured` is the coach's own part, as share of standing height, where it is known."""
    sigma = entry.sigma if entry.sigma is not None else _default_sigma(entry, landmark, data, body)
    shared = anatomy.SHARED_SHARE if entry.shared is None else entry.shared
    own = sigma * (1 - shared) ** 0.5
    if entry.sigma is None and measured is not None and data.height_px is not None:
        own = measured * data.height_px * _made_harder(entry, data)
    if entry.sigma is None and entry.grain is not None:
        own = math.hypot(own, POINTING_PX * entry.grain)
    return Key(frame=entry.frame, x=entry.x, y=entry.y, own=own, shared=sigma * shared**0.5, hidden=entry.hidden)


def _default_sigma(entry: PointEntry, landmark: str, data: Body, body: BodyName) -> float:
    """σ in pixels from the joint and the standing height (docs/measurement.md)."""
    if data.height_px is None:
        raise NotSeen(
            f"how unsure a point is goes by the {body}’s standing height in the picture, which is not known: "
            "mark it, crown to sole (height_px), or give each point its sigma"
        )
    return anatomy.SIGMA_SHARE[anatomy.joint_of(landmark)] * data.height_px * _made_harder(entry, data)


def _made_harder(entry: PointEntry, data: Body) -> float:
    """By how much cloth and a hidden joint widen a placed point's σ."""
    return (anatomy.CLOTH_FACTOR if data.loose_cloth else 1.0) * (anatomy.HIDDEN_FACTOR if entry.hidden else 1.0)
