"""A studio's rep read from where its bodies truly are: what a technique's rules find, whatever a camera may tell of it."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.body import DERIVED, BodyName, mirrored
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene as JudgedScene
from lacertus.core.measuring.space.chain import FIXED, Node
from lacertus.core.measuring.space.draws import DRAWS, normal
from lacertus.core.measuring.space.film import Film, Meeting, Shown
from lacertus.core.measuring.space.lengths import PartLength
from lacertus.core.measuring.space.solution import Space
from lacertus.core.techniques.definition import Technique
from lacertus.studio.scene import Shot

Array = NDArray[np.float64]

SCATTER_M = 0.002
LENGTH_U = 0.002


class KnownFilm(Film):
    """Frames in which every landmark is where the studio has it, to within two millimetres."""

    shot: Shot
    per_m: float

    def _shown(self, body: BodyName) -> Shown:
        moments = self.shot.scene.moments([self.shot.times_s[int(frame)] for frame in self.frames])
        heading = -1.0 if self.scene.rep.heading == "left" else 1.0
        at: dict[str, Array] = {}
        left = self.shot.scene.side == "left"
        for told in moments[0][body].at if body in moments[0] else ():
            x, y, z = np.array([moment[body].at[told] for moment in moments]).T * self.per_m
            # A move is posed on the right; on the left it is its mirror image.
            name, y = (mirrored(told), -y) if left else (told, y)
            level = np.stack((heading * x, z, -heading * y))
            scatter = np.stack([normal(f"known {axis} {body} {name}", self.frames) for axis in "xyz"])
            at[name] = level[..., None] + SCATTER_M * self.per_m * scatter
        for name in ("mid_hip", "mid_shoulder"):
            if at:
                at[name] = np.asarray(sum(at[part] * weight for part, weight in DERIVED[name]))
        nodes = [{name: Node(FIXED, True) for name in at}] if at else []
        return Shown(at=at, nodes=nodes, group=np.zeros(len(self.frames), dtype=np.int64), chains=[])


class KnownSpace(Space):
    """A rep whose bodies are known in space."""

    def __init__(self, scene: JudgedScene, shot: Shot) -> None:
        super().__init__(scene)
        self.shot = shot

    settles_depth = True
    standing = None

    @cached_property
    def lengths(self) -> dict[BodyName, dict[str, PartLength]]:
        found = super().lengths
        return {
            body: {part: PartLength(px=length.px, u=LENGTH_U * length.px, known=True) for part, length in parts.items()}
            for body, parts in found.items()
        }

    def _made(self, frames: NDArray[np.int64], sharp: bool) -> Film:
        key = (sharp, frames.tobytes())
        if key not in self._films:
            film = KnownFilm(self.scene, self.lone_eye, self.lengths, self._tall, frames, sharp)
            film.shot, film.per_m = self.shot, self._tall["performer"] / self.shot.scene.looks["performer"].stature_m
            self._films[key] = film
        return self._films[key]

    def _meeting(self, frames: NDArray[np.int64], sharp: bool) -> Meeting | None:
        return None

    def mat_level(self, body: BodyName) -> Array:
        return np.zeros(DRAWS)


def known_scene(technique: Technique, rep: RepFile, shot: Shot) -> JudgedScene:
    """The rep with its bodies known in space."""
    scene = JudgedScene(rep, technique.edges)
    scene.__dict__["space"] = KnownSpace(scene, shot)
    return scene
