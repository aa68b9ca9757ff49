"""One rep as the rules see it: relative words resolved, points with their uncertainty, event times."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Protocol, cast

import numpy as np

from lacertus.core import body as anatomy
from lacertus.core import geometry
from lacertus.core.body import BodyName
from lacertus.core.errors import Coincident, DidNotHappen, NotSeen
from lacertus.core.repfile import Body, PointEntry, RepFile
from lacertus.core.timebase import Edge, Instant, TimeBase
from lacertus.core.tracks import Key, Position, Track, combine, spoken
from lacertus.core.uncertainty import Leaning, leaning

LEAST_REFERENCE_FRAMES = 10
REFERENCE_PERCENTILE = 75.0
"""A segment's reference length from the clip itself: this percentile over at least so many frames,
never the longest, which noise makes too long. Conventions (domain section 4.4)."""

DEPTH_U = 0.04
"""A length read from the clip is no better known than this share of it: a limb 17 cm nearer at four
metres looks 4 % longer. From the studio's clips (docs/decisions.md)."""

_WORKING = ("working_", "lead_", "near_")
_OTHER = ("other_", "rear_", "far_")


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


class Scene:
    """A rep with its relative words resolved.

    Args:
        rep: the rep.
        edges: for each event, whether its mark is a first or a last frame.
    """

    def __init__(self, rep: RepFile, edges: Mapping[str, Edge]) -> None:
        self.rep = rep
        self.edges = edges
        self.time = TimeBase(rep.pts_s, rep.capture_rate)
        self._tracks: dict[tuple[str, str], Track] = {}
        self._measured_lengths: dict[tuple[BodyName, str, str], tuple[float, float] | None] = {}

    # --- events -------------------------------------------------------------------------------

    def marked(self, ref: EventLike) -> int | None:
        """Frame of an event, or None while it is not marked.

        Raises:
            DidNotHappen: it was looked for and did not happen, or not that often.
        """
        frames = self.rep.events.get(ref.event)
        if frames is None:
            return None
        index = ref.nth - 1 if ref.nth > 0 else ref.nth
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
        body, _, landmark = name.rpartition(".")
        working, other = self.rep.side, anatomy.other_side(self.rep.side)
        for prefixes, side in ((_WORKING, working), (_OTHER, other)):
            for prefix in prefixes:
                if landmark.startswith(prefix):
                    landmark = f"{side}_{landmark.removeprefix(prefix)}"
        return cast(BodyName, body or "performer"), landmark

    def landmarks_of(self, name: str) -> tuple[tuple[BodyName, str], ...]:
        """The landmarks, by body, that a point in relative words is made of."""
        body, landmark = self.resolve(name)
        return tuple((body, part) for part, _ in anatomy.DERIVED.get(landmark, ((landmark, 1.0),)))

    def landmark(self, body: BodyName, landmark: str, frame: int) -> Position:
        """Position of an absolute or derived landmark in a frame."""
        parts = anatomy.DERIVED.get(landmark)
        if parts is None:
            return self._track(body, landmark).at(frame)
        positions = [(self.landmark(body, part, frame), weight) for part, weight in parts]
        return combine(spoken(body, landmark), positions, (body, landmark))

    def _track(self, body: BodyName, landmark: str) -> Track:
        if (body, landmark) not in self._tracks:
            data = self.rep.bodies.get(body, Body())
            entries = data.landmarks.get(landmark, ())
            keys = tuple(_key(entry, landmark, data, body) for entry in entries)
            self._tracks[body, landmark] = Track(body, landmark, keys, self.time.real_s)
        return self._tracks[body, landmark]

    # --- the picture --------------------------------------------------------------------------

    def towards_x(self) -> float:
        """+1 where the target lies to the right in the picture, −1 to the left.

        Raises:
            NotSeen: the rep does not say.
        """
        if self.rep.heading is None:
            raise NotSeen("the rep’s heading (where the target lies in the picture) is not set")
        return 1.0 if self.rep.heading == "right" else -1.0

    def lean(self, a: Position, b: Position) -> Leaning | None:
        """Lean of the segment between two points; None where it has no reference length.

        Raises:
            NotSeen: the points lie on the same spot.
        """
        reference = self.reference_length(a, b)
        if reference is None:
            return None
        segment, length, u_length = reference
        try:
            seen = geometry.distance(a, b)
        except Coincident as error:
            raise NotSeen(str(error)) from error
        return leaning(segment, seen.value, geometry.standard_uncertainty(seen.gradients), length, u_length)

    def reference_length(self, a: Position, b: Position) -> tuple[str, float, float] | None:
        """Name, length and u (pixels) of the segment between two points, where it is known.

        Given outright, else read from the clip. Table proportions are not used here: people differ
        from them by more than a lean of 15° shows (docs/decisions.md).
        """
        if a.owner is None or b.owner is None or a.owner[0] != b.owner[0]:
            return None
        body, first, second = cast(BodyName, a.owner[0]), a.owner[1], b.owner[1]
        segment = anatomy.segment_between(first, second)
        if segment is None:
            return None
        name = segment if body == "performer" else f"{body}’s {segment}"
        given = self.rep.bodies.get(body, Body()).reference_lengths_px.get(segment)
        if given is not None:
            return name, given.px, given.u
        key = (body, first, second)
        if key not in self._measured_lengths:
            self._measured_lengths[key] = self._measure_length(body, first, second)
        measured = self._measured_lengths[key]
        return None if measured is None else (name, *measured)

    def _measure_length(self, body: BodyName, first: str, second: str) -> tuple[float, float] | None:
        """The 75th percentile over the frames in which both ends are keyed, and its u.

        u is that of a sample quantile, √(p(1−p)/n) over the density there, taken from the spread
        between the 60th and 90th percentile; and DEPTH_U, as a body comes nearer and goes.
        """
        a, b = (self.rep.bodies.get(body, Body()).landmarks.get(end, ()) for end in (first, second))
        others = {entry.frame: entry for entry in b}
        lengths = [np.hypot(e.x - others[e.frame].x, e.y - others[e.frame].y) for e in a if e.frame in others]
        if len(lengths) < LEAST_REFERENCE_FRAMES:
            return None
        low, middle, high = np.percentile(lengths, (60.0, REFERENCE_PERCENTILE, 90.0))
        u_sample = float(np.sqrt(0.75 * 0.25 / len(lengths)) * (high - low) / 0.30)
        return float(middle), float(np.hypot(u_sample, DEPTH_U * middle))


def _key(entry: PointEntry, landmark: str, data: Body, body: BodyName) -> Key:
    sigma = entry.sigma if entry.sigma is not None else _default_sigma(entry, landmark, data, body)
    shared = anatomy.SHARED_SHARE if entry.shared is None else entry.shared
    return Key(
        frame=entry.frame,
        x=entry.x,
        y=entry.y,
        own=sigma * (1 - shared) ** 0.5,
        shared=sigma * shared**0.5,
        hidden=entry.hidden,
    )


def _default_sigma(entry: PointEntry, landmark: str, data: Body, body: BodyName) -> float:
    """σ in pixels from the joint and the standing height (domain section 4.3)."""
    if data.height_px is None:
        raise NotSeen(
            f"{spoken(body, landmark)} has no sigma, and the {body}’s standing height in the picture (height_px), "
            "from which it would be taken, is not known"
        )
    sigma = anatomy.SIGMA_SHARE[anatomy.joint_of(landmark)] * data.height_px
    sigma *= anatomy.CLOTH_FACTOR if data.loose_cloth else 1.0
    return sigma * (anatomy.HIDDEN_FACTOR if entry.hidden else 1.0)
