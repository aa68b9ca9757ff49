"""Bodies in space in some frames of a rep: where every point is, in level axes with the first one along the line to the target."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, cast

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring import body as anatomy
from lacertus.core.measuring.body import CENTRE_OF_MASS, BodyName
from lacertus.core.measuring.mass import MASS_U_SHARE
from lacertus.core.measuring.space.cameras.eye import Eye
from lacertus.core.measuring.space.cameras.two_views import Tied
from lacertus.core.measuring.space.chain import PARTS, Chain, Node, Seen, add_part, begun, linked, part_of
from lacertus.core.measuring.space.draws import DRAWS, normal
from lacertus.core.measuring.space.lengths import PartLength
from lacertus.core.measuring.space.nearest import Before, Elsewhere, Nearest
from lacertus.core.measuring.space.picture import first_x, in_first_picture, placed
from lacertus.core.measuring.space.signs import Said
from lacertus.core.measuring.space.steadied import drawn_through

if TYPE_CHECKING:
    from lacertus.core.measuring.scene import PointLike, Scene, Spread

Array = NDArray[np.float64]

APART_U = 0.07
"""How far two bodies may lie apart in depth beside what their line to the target tells, as a share of standing height."""
APART_DEEP_U = 0.35
"""The same where that line runs in depth."""
DRIFT_U = 0.05
DRIFT_DEEP_U = 0.2
"""How far a body may move in depth over a rep beside its way along that line, as a share of standing height. Conventions."""


@dataclass
class Shown:
    """A body in some frames: landmarks (3 × frames × DRAWS, pixels, level axes), and how they hang together by group of frames.

    `deep` is how much nearer to the camera it is than the performer's first place (pixels), `done` what is put in space of it.
    """

    at: dict[str, Array]
    nodes: list[dict[str, Node]]
    group: NDArray[np.int64]
    chains: list[Chain]
    deep: Array | float = 0.0
    done: set[str] = field(default_factory=lambda: set(PARTS))


@dataclass(frozen=True, kw_only=True)
class Near:
    """An earlier solution of the same frames, and the landmark that lies elsewhere since."""

    film: Film
    body: BodyName
    landmark: str


@dataclass(frozen=True, kw_only=True)
class Standing:
    """How far from the camera each body is, metres: its middle in the frame in which it touches the mat (frame, DRAWS)."""

    roots_m: Mapping[BodyName, tuple[int, Array]]
    first_m: Array
    high_m: Array

    def mat_level(self, eye: Eye) -> Array:
        """How high the mat lies in level axes (DRAWS, pixels), which begin where the line of sight meets the performer's depth."""
        return np.asarray(eye.focal_px * (np.sin(eye.pitch_rad) - self.high_m / self.first_m))


MEETING_U = 1.25
"""Points placed by two views scatter by so much more than their scatter in each says: bodies posed at random missed by 1.2–1.3
times what was stated in gaps and heights (docs/decisions.md)."""


class Meeting:
    """What a tied second view tells of some frames: where its lines of sight meet those of the first.

    Args:
        tie: the two cameras.
        there: the film of the same instants in the second view.
    """

    def __init__(self, tie: Tied, there: Film) -> None:
        self.tie, self.there = tie, there

    def placed(self, body: BodyName, here: Mapping[str, Array], frames: NDArray[np.int64]) -> dict[str, Array]:
        """Landmarks that both views show, in the axes of the first camera (3 × frames × DRAWS)."""
        middles, scatter = self.there.picture(body)
        camera = self.tie.cameras[0]
        found = {}
        for name in here.keys() & middles.keys():
            seen = middles[name][:, frames, None] + scatter[name][:, frames]
            if not np.isnan(seen).any():
                met = camera.back(self.tie.meet(here[name], seen))
                middle = met.mean(axis=-1, keepdims=True)
                found[name] = middle + MEETING_U * (met - middle)
        return found


class Film:
    """Some frames of a rep, put in space as they are asked for.

    Args:
        scene: the rep.
        eye: the camera.
        lengths: of each body's parts, pixels.
        tall_px: each body's standing height, pixels.
        frames: which frames, increasing.
        sharp: without the scatter that each point has of its own.
        view: which picture of the rep it is, as points of each scatter by themselves.
        meeting: what the other view of these frames tells, where two are tied.
        standing: how deep each body stands, where places of the mat are marked.
        near: the same frames as they were solved before, where all but one point is as it was.
        of: the only parts of bodies that are asked for, with the trunk; none for all.
    """

    def __init__(
        self,
        scene: Scene,
        eye: Eye,
        lengths: Mapping[BodyName, Mapping[str, PartLength]],
        tall_px: Mapping[BodyName, float],
        frames: NDArray[np.int64],
        sharp: bool = False,
        view: str = "",
        meeting: Meeting | None = None,
        standing: Standing | None = None,
        near: Near | None = None,
        of: frozenset[str] | None = None,
    ) -> None:
        self.scene, self.eye, self.lengths, self.tall_px = scene, eye, lengths, tall_px
        self.frames, self.sharp, self.view, self.meeting, self.standing = frames, sharp, view, meeting, standing
        self.mirrored = scene.rep.side == "left"
        self.near, self.of = near, of
        self._nearest: list[Nearest] = []
        self._befores: dict[int, dict[bytes, Before]] = {}
        self._bodies: dict[BodyName, Shown] = {}
        self._own_px: dict[tuple[BodyName, str], float] = {}
        self._index = {int(frame): i for i, frame in enumerate(frames)}

    @property
    def size_bytes(self) -> int:
        """How much memory the bodies take that were put in space."""
        return sum(
            place.nbytes
            for shown in self._bodies.values()
            for places in (shown.at, *(part for chain in shown.chains for part in (chain.at, chain.seen.places)))
            for place in places.values()
        )

    def index(self, frames: Iterable[int]) -> list[int]:
        return [self._index[int(frame)] for frame in frames]

    # --- points -----------------------------------------------------------------------------------

    def place(self, ref: PointLike, at: Sequence[int]) -> Array:
        """A point (3 × frames × DRAWS) in the frames of some indices; not a number where it has no place."""
        if ref.on is None:
            return self._named(cast(str, ref.name), at)
        start, end = (self._named(name, at) for name in ref.on)
        return np.asarray((1 - ref.share) * start + ref.share * end)

    def _named(self, name: str, at: Sequence[int]) -> Array:
        body, landmark = self.scene.resolve(name)
        return self.landmark(body, landmark, at)

    def landmark(self, body: BodyName, landmark: str, at: Sequence[int]) -> Array:
        shown = self.body(body, self._parts(landmark))
        if landmark in shown.at:
            return shown.at[landmark][:, at]
        if landmark == CENTRE_OF_MASS:
            weights = self.scene.mass_weights(body, int(self.frames[at[0]]))
            mass = sum(shown.at[name][:, at] * weight for name, weight in weights.items())
            off = MASS_U_SHARE * self.tall_px[body]
            flip = -1.0 if self.mirrored else 1.0
            scatter = np.stack([flip * normal("mass x"), normal("mass y"), normal("mass z")])
            return np.asarray(mass + off * scatter[:, None])
        parts = anatomy.DERIVED.get(landmark)
        if parts is None or any(part not in shown.at for part, _ in parts):
            return np.full((3, len(at), DRAWS), np.nan)
        return np.asarray(sum(shown.at[part][:, at] * weight for part, weight in parts))

    def linked(self, names: Iterable[tuple[BodyName, str]], at: Sequence[int]) -> bool:
        """Whether the landmarks of each body hang together by parts of known length."""
        by_body: dict[BodyName, list[str]] = {}
        for body, landmark in names:
            by_body.setdefault(body, []).extend(self._nodes_of(body, landmark))
        for body, landmarks in by_body.items():
            shown = self.body(body, {part_of(name) for name in landmarks})
            for group in {int(shown.group[i]) for i in at}:
                nodes = shown.nodes[group] if group >= 0 else {}
                if any(name not in nodes for name in landmarks):
                    return False
                if any(not linked(nodes, landmarks[0], name) for name in landmarks[1:]):
                    return False
        return True

    def _nodes_of(self, body: BodyName, landmark: str) -> list[str]:
        if landmark in self.body(body, self._parts(landmark)).at:
            return [landmark]
        return [name for _, name in self.scene.landmarks_of(landmark if body == "performer" else f"{body}.{landmark}")]

    def part_px(self, body: BodyName, part: str) -> Array:
        """Draws of a part's length, pixels; the same that the body was put in space with."""
        ends = anatomy.SEGMENTS.get(part, ())
        chains = self.body(body, {part_of(end) for end in ends} or PARTS).chains
        known = self.lengths[body].get(part)
        name = anatomy.mirrored(part) if self.mirrored else part
        if chains and name in chains[0].drawn:
            return chains[0].drawn[name]
        if known is None:
            return np.full(DRAWS, np.nan)
        return np.asarray(known.px + known.u * normal(f"length {name}"))

    # --- bodies -----------------------------------------------------------------------------------

    def body(self, body: BodyName, parts: Iterable[str] = PARTS) -> Shown:
        """A body with some of its parts, by their own names, put in space: each once, when it is asked for."""
        if self.near is not None:
            before = self.near.film.body(body, parts)
            return before if body != self.near.body else self._nearly(before)
        if body not in self._bodies:
            self._bodies[body] = self._shown(body)
        shown = self._bodies[body]
        for part in parts:
            if part not in shown.done:
                shown.done.add(part)
                for chain in shown.chains:
                    add_part(chain, self._own(part))
                self._take_over(shown)
        return shown

    def _nearly(self, before: Shown) -> Shown:
        """The body of which one landmark lies elsewhere, by the nearest solution to that of before."""
        assert self.near is not None
        body, landmark = self.near.body, self.near.landmark
        if body not in self._bodies:
            # How the body hangs together is the same, so all but the places is the earlier solution's own.
            self._bodies[body] = replace(before, at={})
            self._nearest = [self._nearest_of(chain, body, landmark, before, group) for group, chain in enumerate(before.chains)]
        shown = self._bodies[body]
        if len(shown.at) == len(before.at):
            return shown
        for group, nearest in enumerate(self._nearest):
            known = len(nearest.at)
            nearest.follow()
            rows = np.flatnonzero(shown.group == group)[nearest.rows]
            deep = shown.deep[rows] if isinstance(shown.deep, np.ndarray) and shown.deep.ndim == 2 else shown.deep
            for name, place in list(nearest.at.items())[known:]:
                own = self._own(name)
                if own not in shown.at:
                    shown.at[own] = before.at[own].copy()
                shown.at[own][:, rows] = self._level(place, deep)
        for name, places in before.at.items():
            shown.at.setdefault(name, places)
        return shown

    def _nearest_of(self, chain: Chain, body: BodyName, landmark: str, before: Shown, group: int) -> Nearest:
        assert self.near is not None
        here = np.flatnonzero(before.group == group)
        name = self._own(landmark)
        at, off = self._pictured(body, (landmark,))
        middle, scatter = at[name][:, here], off[name][:, here]
        times = self.scene.times[self.frames[here]]
        places, middles, own = drawn_through(middle[..., None] + scatter, middle, times, self._own_px[body, name])

        # Not this film itself: it keeps what is made here, and the two would hold each other.
        meeting = self.meeting

        def meet(place: Array, rows: NDArray[np.int64]) -> Array:
            assert meeting is not None
            return meeting.placed(body, {name: place}, here[rows])[name]

        moved = Elsewhere(name=name, places=places, middles=middles, own_px=own, meet=meet)
        return Nearest.of(chain, moved, self.near.film._befores.setdefault(group, {}))

    @staticmethod
    def _parts(landmark: str) -> Iterable[str]:
        if landmark == CENTRE_OF_MASS:
            return PARTS
        return {part_of(name) for name, _ in anatomy.DERIVED.get(landmark, ((landmark, 1.0),))}

    def _shown(self, body: BodyName) -> Shown:
        middles, scatter = self.picture(body, self.of)
        there = {name: ~np.isnan(place[0]) for name, place in middles.items()}
        names = sorted(middles)
        patterns = np.array([there[name] for name in names]).T if names else np.zeros((len(self.frames), 0), dtype=bool)
        shown = Shown(at={}, nodes=[], group=np.full(len(self.frames), -1), chains=[], done={"trunk"})
        for pattern in np.unique(patterns, axis=0):
            here = np.flatnonzero((patterns == pattern).all(axis=1))
            present = [name for name, seen in zip(names, pattern, strict=True) if seen]
            if not present:
                continue
            chain = self._begun(
                body,
                {name: middles[name][:, here] for name in present},
                {name: scatter[name][:, here] for name in present if name in scatter},
                here,
            )
            shown.group[here] = len(shown.nodes)
            shown.chains.append(chain)
            shown.nodes.append({})
        if any("mid_hip" not in chain.at for chain in shown.chains):
            # Where the hips are not seen, depth is counted from whatever there is.
            shown.done = set(PARTS)
            for chain in shown.chains:
                for part in PARTS[1:]:
                    add_part(chain, part)
        if shown.chains and self.meeting is None:
            shown.deep = self._depth_of(body, self._root(shown))
        self._take_over(shown)
        return shown

    def _root(self, shown: Shown) -> Array:
        """Where the body is across the picture (frames × DRAWS): its hips, or the first landmark that there is."""
        x = np.full((len(self.frames), DRAWS), np.nan)
        name = "mid_hip" if any("mid_hip" in chain.at for chain in shown.chains) else next(iter(shown.chains[0].at))
        for group, chain in enumerate(shown.chains):
            if name in chain.at:
                x[shown.group == group] = chain.at[name][0]
        return x

    def away(self, shown: Shown, group: int) -> dict[str, Array]:
        """How far each landmark of a group of frames is from the camera (frames × DRAWS, pixels)."""
        focal = self.eye.focal_px
        return {
            self._own(name): np.sqrt(place[0] ** 2 + place[1] ** 2 + (focal - place[2]) ** 2)
            for name, place in shown.chains[group].at.items()
        }

    def _own(self, name: str) -> str:
        return anatomy.mirrored(name) if self.mirrored else name

    def picture(self, body: BodyName, of: Collection[str] | None = None) -> tuple[dict[str, Array], dict[str, Array]]:
        """Places of landmarks (2 × frames) from the picture's middle, y up, as a right-sided rep; and their scatter (… × DRAWS).

        The scatter is told of the parts `of` alone, where they are given.
        """
        return self._pictured(body, placed(self.scene, body), of)

    def _pictured(
        self, body: BodyName, landmarks: Iterable[str], of: Collection[str] | None = None
    ) -> tuple[dict[str, Array], dict[str, Array]]:
        width, height = self.scene.rep.size
        flip = -1.0 if self.mirrored else 1.0
        middles, seen_of = {}, {}
        for landmark in landmarks:
            seen = in_first_picture(self.scene, body, landmark, self.frames)
            if not np.isnan(seen).all():
                middles[self._own(landmark)] = np.stack((flip * (seen[0] - width / 2), height / 2 - seen[1]))
                if of is None or part_of(self._own(landmark)) in of:
                    seen_of[landmark] = self._own(landmark)
        scatter: dict[str, Array] = {}
        for spread in self.scene.spreads(body, seen_of, self.frames):
            scatter |= self._scatter(body, spread, [seen_of[landmark] for landmark in spread.names])
        return middles, {name: scatter[name] for name in seen_of.values()}

    def _scatter(self, body: BodyName, spread: Spread, names: Sequence[str]) -> dict[str, Array]:
        """The scatter (2 × frames × DRAWS) of landmarks that are keyed alike, by their names in a right-sided rep."""
        self._own_px |= {(body, name): float(own.mean()) for name, own in zip(names, spread.own, strict=True)}
        shape = (len(names), 2, len(self.frames), DRAWS)
        shared = np.stack([np.stack([normal(f"shared {axis} {self.view}{body} {name}") for axis in "xy"]) for name in names])
        found = np.broadcast_to((spread.shared[:, None, None] * shared)[:, :, None], shape)
        if not self.sharp:
            found = found + self._own_scatter(body, spread, names)
        return dict(zip(names, found, strict=True))

    def _own_scatter(self, body: BodyName, spread: Spread, names: Sequence[str]) -> Array:
        drawn = spread.own[:, None, :, None] * self._normals("own", body, names, spread.keys)
        if spread.reach is None:
            return np.asarray(drawn)
        found = spread.reach.T @ drawn
        if spread.bridge is not None:
            found = found + spread.bridge[:, None, :, None] * self._normals("bridge", body, names, self.frames)
        return np.asarray(found)

    def _normals(self, what: str, body: BodyName, names: Sequence[str], frames: NDArray[np.int64]) -> Array:
        """Draws for both axes of some landmarks (landmarks × 2 × frames × DRAWS)."""
        return np.stack([np.stack([normal(f"{what} {axis} {self.view}{body} {name}", frames) for axis in "xy"]) for name in names])

    def _begun(self, body: BodyName, middles: dict[str, Array], scatter: dict[str, Array], here: NDArray[np.int64]) -> Chain:
        frames = self.frames[here]
        places, own = {}, {}
        for name, off in scatter.items():
            there = middles[name][..., None] + off
            places[name], middles[name], own[name] = drawn_through(
                there, middles[name], self.scene.times[frames], self._own_px[body, name]
            )
        for joint in ("hip", "shoulder", "ear"):
            if {f"left_{joint}", f"right_{joint}"} <= middles.keys():
                middles[f"mid_{joint}"] = (middles[f"left_{joint}"] + middles[f"right_{joint}"]) / 2
        for joint in ("hip", "shoulder"):
            if f"mid_{joint}" in middles:
                own[f"mid_{joint}"] = math.hypot(own[f"left_{joint}"], own[f"right_{joint}"]) / 2
        seen = Seen(places=places, middles=middles, own_px=own, frames=frames, times_s=self.scene.times[frames])
        lengths = self.lengths[body]
        if self.mirrored:
            lengths = {anatomy.mirrored(part): length for part, length in lengths.items()}
        fixed = {} if self.meeting is None else self.meeting.placed(body, places, here)
        return begun(seen, lengths, self.eye.focal_px, self.tall_px[body], fixed, self._said(body))

    def _said(self, body: BodyName) -> Said:
        """What was seen of a body’s depth by eye, by its names in a right-sided rep."""
        told: dict[str, list[tuple[float, float]]] = {}
        for one in self.scene.rep.nearer:
            if one.body == body:
                at_s = float(self.scene.times[one.frame])
                told.setdefault(self._own(one.landmark), []).append((at_s, 1.0 if one.nearer else -1.0))
        return Said(told=told)

    def _take_over(self, shown: Shown) -> None:
        """Take over what the chains have put in space since: moved to its depth, in level axes along the line to the target."""
        for group, (chain, nodes) in enumerate(zip(shown.chains, shown.nodes, strict=True)):
            here = np.flatnonzero(shown.group == group)
            deep = shown.deep[here] if isinstance(shown.deep, np.ndarray) and shown.deep.ndim == 2 else shown.deep
            for name in [name for name in chain.at if self._own(name) not in nodes]:
                own, place, node = self._own(name), chain.at[name], chain.nodes[name]
                nodes[own] = Node(node.parent and self._own(node.parent), node.known)
                if own not in shown.at:
                    shown.at[own] = np.full((3, len(self.frames), DRAWS), np.nan)
                shown.at[own][:, here] = self._level(place, deep)

    def _level(self, place: Array, deep: Array | float) -> Array:
        """A place in a chain's axes (3 × frames × DRAWS), moved to its body's depth, in level axes along the line to the target."""
        c, s = target_turn(self.scene, self.eye)
        shrunk = 1 - deep / self.eye.focal_px
        moved = self.eye.level(np.stack((place[0] * shrunk, place[1] * shrunk, place[2] + deep)))
        x = -moved[0] if self.mirrored else moved[0]
        return np.stack((c * x - s * moved[2], moved[1], s * x + c * moved[2]))

    def _depth_of(self, body: BodyName, x: Array) -> Array:
        """How much nearer to the camera than the performer's first place a body is, pixels (frames × DRAWS)."""
        rep = self.scene.rep
        tall = self.tall_px[body]
        in_depth = rep.view in ("front", "behind", "above")
        times = self.scene.times
        span = max(float(times[rep.range[1]] - times[rep.range[0]]), 1e-3)
        since = (times[self.frames] - times[rep.range[0]]) / span
        deep = (DRIFT_DEEP_U if in_depth else DRIFT_U) * tall * normal(f"drift {body}") * since[:, None]
        if body != "performer":
            deep = deep + (APART_DEEP_U if in_depth else APART_U) * tall * normal("apart")
        if self.standing is not None and body in self.standing.roots_m:
            frame, root = self.standing.roots_m[body]
            deep = (
                np.asarray(self.eye.focal_px * (1 - root / self.standing.first_m))
                + DRIFT_U * tall * normal(f"drift {body}") * ((times[self.frames] - times[frame]) / span)[:, None]
            )
        if in_depth:
            return np.asarray(deep)
        flip = -1.0 if self.mirrored else 1.0
        heading = -1.0 if rep.heading == "left" else 1.0
        start = self._first_x() if self.standing is None else self._x_at(body)
        along = np.where(np.isnan(x), 0.0, flip * x - start)
        return np.asarray(deep - heading * np.tan(np.clip(self.eye.turn_rad, -1.0, 1.0)) * along)

    def _x_at(self, body: BodyName) -> float:
        """Where a body is in the frame in which it is known to touch the mat, pixels right of the picture's middle."""
        assert self.standing is not None
        frame = self.standing.roots_m[body][0] if body in self.standing.roots_m else None
        return first_x(self.scene, body, frame)

    def _first_x(self) -> float:
        """Where the performer is at the beginning, pixels right of the picture's middle."""
        return first_x(self.scene)


def target_turn(scene: Scene, eye: Eye) -> tuple[Array, Array]:
    """Cosine and sine (DRAWS) of the turn about the vertical from the picture's axes to those along the line to the target.

    From the side that line runs across the picture, from the front towards the camera, from behind away from it.
    """
    heading = -1.0 if scene.rep.heading == "left" else 1.0
    quarter = {"front": -math.pi / 2, "behind": math.pi / 2}.get(scene.rep.view or "", 0.0)
    turn = heading * (eye.turn_rad + quarter)
    return np.cos(turn), np.sin(turn)
