"""Bodies as they are drawn over the pictures of a comparison."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lacertus.core.measuring.body import BODIES, LANDMARKS, BodyName
from lacertus.core.measuring.scene import Scene

_OF_A_SIDE = (
    ("shoulder", "elbow"), ("elbow", "wrist"), ("hip", "knee"), ("knee", "ankle"), ("ankle", "heel"), ("heel", "toe"),
    ("shoulder", "hip"),
)  # fmt: skip
LIMBS = (
    *((f"{side}_{a}", f"{side}_{b}") for side in ("left", "right") for a, b in _OF_A_SIDE),
    ("left_shoulder", "right_shoulder"),
    ("left_hip", "right_hip"),
    ("neck", "head_top"),
)
"""What is drawn as a line of a body."""


@dataclass(frozen=True, kw_only=True)
class Skeleton:
    """A body over the frames shown: for each frame x and y of each landmark in turn, None where it has no place.

    `limbs` are the numbers of the two landmarks that a line is drawn between.
    """

    body: BodyName
    landmarks: tuple[str, ...]
    limbs: tuple[tuple[int, int], ...]
    frames: tuple[tuple[int | None, ...], ...]


def skeletons_of(scene: Scene, first: int, last: int) -> tuple[Skeleton, ...]:
    """The bodies of a rep over frames `first` to `last` of its clip."""
    found = []
    for body in BODIES:
        names = tuple(
            sorted(name for name in LANDMARKS if scene.rep.bodies.get(body) and scene.rep.bodies[body].landmarks.get(name))
        )
        if not names:
            continue
        places = np.stack([scene.curve(body, name)[:, first : last + 1] for name in names])
        rows = np.moveaxis(places, -1, 0).reshape(last - first + 1, -1)
        frames = tuple(tuple(None if np.isnan(value) else round(float(value)) for value in row) for row in rows)
        limbs = tuple((names.index(a), names.index(b)) for a, b in LIMBS if a in names and b in names)
        found.append(Skeleton(body=body, landmarks=names, limbs=limbs, frames=frames))
    return tuple(found)
