"""A rep in space: what is known of its bodies and its camera, and the frames that were put in space."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring import body as anatomy
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.mat_spot import mat_spot
from lacertus.core.measuring.space.cameras.eye import Eye, phone
from lacertus.core.measuring.space.cameras.mat_view import MatView, corners, mat_view
from lacertus.core.measuring.space.cameras.two_views import Tied, ViewsDoNotFit, tied
from lacertus.core.measuring.space.chain import SCALE_U, part_of
from lacertus.core.measuring.space.draws import normal
from lacertus.core.measuring.space.film import Film, Meeting, Near, Standing, target_turn
from lacertus.core.measuring.space.lengths import PartLength, part_lengths
from lacertus.core.measuring.space.picture import mat_below_middle, placed, spots

if TYPE_CHECKING:
    from lacertus.core.measuring.scene import PointLike, Scene

Array = NDArray[np.float64]


MOST_FRAMES = 4000
"""Of a longer stretch all ways that the rep may be would not fit into memory: each frame takes some five kilobytes a landmark."""


class Space:
    """The bodies of a rep in space. Values are read from every way that they may be: arrays end in DRAWS."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self._films: dict[tuple[bool, bytes], Film] = {}
        self._seen: dict[int, int] = {}
        self._near: tuple[Space, BodyName, str] | None = None
        self.refused: str | None = None
        self.known_readings: dict[tuple[object, ...], tuple[object, Any]] = {}
        """What was read from the bodies, by whoever keeps them: measure and reading."""

    def read_by(self, scene: Scene) -> None:
        """Let another scene of the same points read what was solved: its events may be others."""
        self.scene = scene
        for name in ("_marked", "_of_events"):
            self.__dict__.pop(name, None)

    @property
    def size_bytes(self) -> int:
        """How much memory the solved bodies take."""
        return sum(film.size_bytes for film in self._films.values())

    # --- what is known ----------------------------------------------------------------------------

    @cached_property
    def lengths(self) -> dict[BodyName, dict[str, PartLength]]:
        found: dict[BodyName, dict[str, PartLength]] = {}
        for body, data in self.scene.rep.bodies.items():
            given = {name: (length.px, length.u) for name, length in data.reference_lengths_px.items()}
            seen = {
                name: length
                for name, ends in anatomy.SEGMENTS.items()
                if name not in given and (length := self.scene.length_in_clip(body, *ends)) is not None
            }
            found[body] = part_lengths(given, seen, data.height_px)
        return found

    def knows_lengths(self, body: BodyName) -> bool:
        """Whether any length of a body was given, read from the clip, or goes by a marked height."""
        return any(length.known for length in self.lengths.get(body, {}).values())

    @cached_property
    def eye(self) -> Eye:
        """The camera: as two views place it, else as a phone may be held."""
        if self.tie is not None:
            camera = self.tie.cameras[0]
        elif self.mat is not None:
            camera = self.mat.camera
        else:
            return self.lone_eye
        return Eye(focal_px=camera.focal, pitch_rad=camera.pitch, roll_rad=camera.roll, turn_rad=self.lone_eye.turn_rad)

    @cached_property
    def tie(self) -> Tied | None:
        """How the cameras of two views stood to one another; None with one view, or where two do not fit."""
        if self.scene.other_view is None:
            return None
        other, frames = self.scene.other_view
        if other.space is None:
            return None
        try:
            return tied(self, other.space, frames)
        except ViewsDoNotFit as error:
            self.refused = str(error)
            return None

    def near_to(self, solved: Space, body: BodyName, landmark: str) -> None:
        """Read the rep by an earlier solution of it, in which one landmark lay elsewhere: cameras, lengths and leans are as there.

        Where a landmark has a place in other frames than there, this does nothing, and all is solved anew.
        """
        if not _alike(self.scene, solved.scene, body, landmark):
            return
        self._near = (solved, body, landmark)
        for name in ("lengths", "lone_eye", "tie", "mat", "eye", "standing", "_tall", "_marked"):
            self.__dict__[name] = getattr(solved, name)
        self.refused = solved.refused

    @cached_property
    def mat(self) -> MatView | None:
        """Where the camera stands to the mat; None where no four places of it are marked, or they do not fit."""
        rep = self.scene.rep
        if rep.floor is None or len(rep.floor) < 4:
            return None
        told = [(spot.x, spot.y, spot.X, spot.Y) for spot in rep.floor]
        marked, known = corners(told, rep.size, rep.side == "left")
        eye = self.lone_eye
        before = float(np.log(eye.focal_px).mean()), float(eye.pitch_rad.mean())
        return mat_view(marked, known, before, (self.roll_rad, self.roll_u_rad))

    @cached_property
    def standing(self) -> Standing | None:
        """How deep in the picture each body stands, by the landmark of it that lies on the mat; None without marked places."""
        if self.tie is not None or self.mat is None:
            return None
        deep: dict[BodyName, tuple[int, Array]] = {}
        for spot in spots(self.scene):
            body, landmark = spot.owner
            frame = spot.position.frame
            name = anatomy.mirrored(landmark) if self.scene.rep.side == "left" else landmark
            parts = frozenset(("trunk", part_of(name)))
            film = Film(self.scene, self.eye, self.lengths, self._tall, np.array([frame]), of=parts)
            chains = film.body(body, {part_of(landmark)}).chains
            if chains and name in chains[0].at:
                there = self.mat.depth_m(chains[0].seen.places[name][:, 0])
                deep[body] = (frame, np.asarray(there / (1 - chains[0].at[name][2, 0] / self.eye.focal_px)))
        if not deep:
            return None
        first = deep.get("performer", next(iter(deep.values())))[1]
        return Standing(roots_m=deep, first_m=first, high_m=self.mat.high_m)

    @property
    def settles_depth(self) -> bool:
        """Whether what lies in depth is placed as well as what lies across the picture."""
        return self.tie is not None

    @property
    def roll_rad(self) -> float:
        """How far the vertical is turned clockwise in the picture of a right-sided rep, radians."""
        return (-1.0 if self.scene.rep.side == "left" else 1.0) * math.radians(self.scene.rep.upright.deg)

    @property
    def roll_u_rad(self) -> float:
        return max(math.radians(self.scene.rep.upright.u), 1e-3)

    def spots(self, frames: NDArray[np.int64]) -> dict[tuple[BodyName, str], Array]:
        """Places of all landmarks (2 × frames, pixels from the picture's middle, y up) as in a right-sided rep."""
        found: dict[tuple[BodyName, str], Array] = {}
        film = Film(self.scene, self.lone_eye, self.lengths, self._tall, frames)
        for body in self.lengths:
            found |= {(body, name): place for name, place in film.picture(body)[0].items()}
        return found

    def seen_in(self, frame: int) -> int:
        """How many landmarks have a place in a frame."""
        if frame not in self._seen:
            self._seen[frame] = sum(self.scene.has(body, name, frame) for body in self.lengths for name in placed(self.scene, body))
        return self._seen[frame]

    def sigma_px(self, body: BodyName, name: str) -> float:
        """σ of a landmark’s place, by its name in a right-sided rep, pixels."""
        landmark = anatomy.mirrored(name) if self.scene.rep.side == "left" else name
        spread = self.scene.spreads(body, (landmark,), np.array([self.scene.rep.range[0]]))[0]
        return math.hypot(float(spread.own.mean()), float(spread.shared[0]))

    @cached_property
    def right_sided_lengths(self) -> dict[BodyName, dict[str, PartLength]]:
        """The lengths by their names in a right-sided rep."""
        if self.scene.rep.side == "right":
            return self.lengths
        return {body: {anatomy.mirrored(part): length for part, length in parts.items()} for body, parts in self.lengths.items()}

    @cached_property
    def lone_eye(self) -> Eye:
        """The camera as one picture tells it."""
        rep = self.scene.rep
        body: BodyName = "performer" if self.knows_lengths("performer") else "partner"
        tall = self.tall_px(body)
        roll = self.roll_rad, math.radians(rep.upright.u)
        turn = rep.target_turn
        told = (math.radians(turn.deg), math.radians(turn.u)) if turn else None
        return phone(tall, mat_below_middle(self.scene, body), roll, rep.view, told)

    def tall_px(self, body: BodyName) -> float:
        """Standing height, pixels: as marked, or what the longest of the known parts make of it."""
        marked = self.scene.rep.bodies[body].height_px if body in self.scene.rep.bodies else None
        if marked is not None:
            return marked
        heights = [
            length.px / anatomy.PROPORTIONS[bare]
            for name, length in self.lengths.get(body, {}).items()
            if (bare := anatomy.joint_of(name)) in anatomy.PROPORTIONS and "width" not in bare
        ]
        return max(heights, default=float(self.scene.rep.size[1]) / 2)

    # --- frames -----------------------------------------------------------------------------------

    @cached_property
    def _marked(self) -> frozenset[int]:
        marked = {frame for frames in self.scene.rep.events.values() for frame in frames}
        told = {
            one.frame for one in self.scene.rep.nearer if one.frame in range(self.scene.rep.range[0], self.scene.rep.range[1] + 1)
        }
        return frozenset(marked | told | {spot.position.frame for spot in spots(self.scene)})

    def film(self, frames: Sequence[int], sharp: bool = False) -> Film:
        """The film that holds some frames: that of all events, or one of these frames alone."""
        if not sharp and self._marked.issuperset(frames):
            return self._of_events
        return self._made(np.unique(np.array(frames, dtype=np.int64)), sharp)

    @cached_property
    def _of_events(self) -> Film:
        return self._made(np.array(sorted(self._marked), dtype=np.int64), False)

    def _made(self, frames: NDArray[np.int64], sharp: bool) -> Film:
        key = (sharp, frames.tobytes())
        if key not in self._films:
            self._films[key] = Film(
                self.scene,
                self.eye,
                self.lengths,
                self._tall,
                frames,
                sharp,
                meeting=self._meeting(frames, sharp),
                standing=self.standing,
                near=self._near_film(frames, sharp),
            )
        return self._films[key]

    def _near_film(self, frames: NDArray[np.int64], sharp: bool) -> Near | None:
        if self._near is None:
            return None
        solved, body, landmark = self._near
        return Near(film=solved._made(frames, sharp), body=body, landmark=landmark)

    @cached_property
    def _tall(self) -> dict[BodyName, float]:
        return {body: self.tall_px(body) for body in self.lengths}

    def _meeting(self, frames: NDArray[np.int64], sharp: bool) -> Meeting | None:
        if self.tie is None or self.scene.other_view is None:
            return None
        other, there = self.scene.other_view
        assert other.space is not None
        at = np.array([there[int(frame)] for frame in frames])
        space = other.space
        return Meeting(self.tie, Film(other, space.lone_eye, space.lengths, space._tall, at, sharp, view="there "))

    def can_read(self, refs: Iterable[PointLike], frames: Sequence[int]) -> bool:
        """Whether some points of the rep can be put in space in these frames: known parts link those of each body."""
        names = [self.scene.resolve(name) for ref in refs for name in (ref.on or (ref.name or "",))]
        if not all(self.knows_lengths(body) for body, _ in names):
            return False
        film = self.film(frames)
        return film.linked(names, film.index(frames))

    def can_read_on(self, refs: Sequence[PointLike], frames: NDArray[np.int64]) -> bool:
        """The same for the frames of a stretch in which the points have a place; one that is very long is read in the picture."""
        if len(frames) > MOST_FRAMES:
            return False
        names = [self.scene.resolve(name) for ref in refs for name in (ref.on or (ref.name or "",))]
        if not all(self.knows_lengths(body) for body, _ in names):
            return False
        film = self._made(frames, False)
        at = film.index(frames.tolist())
        seen = ~np.isnan(np.stack([film.place(ref, at)[0, :, 0] for ref in refs])).any(axis=0)
        return bool(seen.any()) and film.linked(names, [at[int(i)] for i in np.flatnonzero(seen)])

    def places(self, refs: Sequence[PointLike], frames: Sequence[int]) -> Array:
        """Points (points × 3 × DRAWS): each in its own frame where there are as many frames, else all in the one."""
        film = self.film(frames)
        if len(frames) == 1:
            at = film.index(frames)
            return np.stack([film.place(ref, at)[:, 0] for ref in refs])
        return np.stack([film.place(ref, film.index((frame,)))[:, 0] for ref, frame in zip(refs, frames, strict=True)])

    def paths(self, refs: Sequence[PointLike], frames: NDArray[np.int64], sharp: bool = False) -> Array:
        """Points in many frames (points × 3 × frames × DRAWS)."""
        film = self._made(frames, sharp)
        at = film.index(frames.tolist())
        return np.stack([film.place(ref, at) for ref in refs])

    def turn_of_target(self) -> tuple[Array, Array]:
        """Cosine and sine of the turn from the picture's axes to those along the line to the target."""
        return target_turn(self.scene, self.eye)

    def unit_px(self, unit: str, body: BodyName, side: str, frames: Sequence[int]) -> Array | None:
        """Draws of a unit of length in pixels, as long as the body was put in space with; None for what is no part of it."""
        if unit == "height":
            return np.asarray(
                self.tall_px(body) * (1 + anatomy.HEIGHT_U * normal(f"height {body}")) * (1 + SCALE_U * normal("scale"))
            )
        film = self.film(frames)
        for name in (f"{side}_{unit}", f"{anatomy.mirrored(side)}_{unit}", unit):
            if name in self.lengths.get(body, {}) and name in anatomy.SEGMENTS:
                return film.part_px(body, name)
        return None

    def mat_level(self, body: BodyName) -> Array:
        """How high the mat lies under a body, pixels in level axes (DRAWS)."""
        if self.standing is not None:
            return self.standing.mat_level(self.eye)
        spot = mat_spot(self.scene, body)
        owner, landmark = spot.owner
        film = self.film((spot.position.frame,))
        return np.asarray(film.landmark(owner, landmark, film.index((spot.position.frame,)))[1, 0] - spot.under_px)


def _alike(scene: Scene, solved: Scene, body: BodyName, landmark: str) -> bool:
    """Whether a landmark has a place in the same frames of two scenes of one rep."""
    if landmark not in placed(scene, body) or landmark not in placed(solved, body):
        return False
    first, second = (np.isnan(one.curve(body, landmark)[0]) for one in (scene, solved))
    return bool((first == second).all())
