"""The bodies of a rep as they are believed to be in space, frame by frame: to be looked at, and to be told better."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.body import DERIVED, LEANING, BodyName, joint_of, mirrored
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.space.chain import FIXED
from lacertus.core.measuring.space.film import Film, target_turn
from lacertus.core.review.views.tied import View, scene_of_views
from lacertus.core.techniques.definition import Technique

Array = NDArray[np.float64]
Places = dict[str, Array]


@dataclass(frozen=True, kw_only=True)
class Leaning:
    """A joint that may be nearer to the camera than another one, or farther away."""

    joint: str
    hangs_on: str


@dataclass(frozen=True, kw_only=True)
class InSpace:
    """A body in a frame.

    `places` are those of its joints in their order, three numbers each, in thousandths of the performer's standing height: to the
    right of the picture, away from the camera, up from the lowest place of the rep. `near` tells, for each of its leaning joints,
    how likely it is the nearer one, in per cent. What has no place in the frame is empty.
    """

    frame: int
    places: tuple[int | None, ...]
    near: tuple[int | None, ...]


@dataclass(frozen=True, kw_only=True)
class BelievedBody:
    """A body in every frame of a rep in which it can be put in space."""

    body: BodyName
    joints: tuple[str, ...]
    leaning: tuple[Leaning, ...]
    frames: tuple[InSpace, ...]


MOST_FRAMES = 240
"""So many frames of a rep are shown; of a longer one every second, third and so on, as each takes a third of a megabyte a body."""


def believed(
    technique: Technique, rep: RepFile, views: Sequence[View] = (), scene: Scene | None = None
) -> tuple[BelievedBody, ...]:
    """Both bodies in every frame of a rep in which they can be put in space; a body without a known length is left out.

    Of the ways that a limb may lean the likelier one is shown, at the mean of its draws. `scene` is the rep's own, where it is at
    hand.
    """
    scene = scene_of_views(technique, rep, views, scene)
    space = scene.space
    if space is None:
        return ()
    first_frame, last_frame = rep.range
    step = 1 + (last_frame - first_frame) // MOST_FRAMES
    film = space.film(list(range(first_frame, last_frame + 1, step)))
    found = {body: _placed(scene, film, body) for body in rep.bodies if space.knows_lengths(body)}
    found = {body: placed for body, placed in found.items() if placed[0]}
    if not found:
        return ()
    first: BodyName = "performer" if "performer" in found else "partner"
    every = np.concatenate([place for places, _ in found.values() for place in places.values()], axis=1)
    middle, low = np.nanmedian(every[:2], axis=1), np.nanmin(every[2])
    origin = np.append(middle, low)[:, None]
    return tuple(
        _body(body, film, {name: (place - origin) / space.tall_px(first) for name, place in places.items()}, near)
        for body, (places, near) in found.items()
    )


def _placed(scene: Scene, film: Film, body: BodyName) -> tuple[Places, Places]:
    """Landmarks (3 × frames, pixels), each at the mean of the draws that lean as most do; how likely each is nearer (frames)."""
    shown = film.body(body)
    cos, sin = target_turn(scene, film.eye)
    # Back from the axes of the target to those of the camera, with the vertical upright.
    at = {name: np.stack((cos * p[0] + sin * p[2], sin * p[0] - cos * p[2], p[1])) for name, p in shown.at.items()}
    places: Places = {}
    near: Places = {}
    for group, nodes in enumerate(shown.nodes):
        here = np.flatnonzero(shown.group == group)
        away = film.away(shown, group)
        for name, node in nodes.items():
            places.setdefault(name, np.full((3, len(film.frames)), np.nan))
            if node.parent is None or node.parent == FIXED or node.parent not in places:
                places[name][:, here] = at[name][:, here].mean(axis=-1)
            else:
                towards = away[name] < away[node.parent]
                likelier = towards == (towards.mean(axis=-1) >= 0.5)[:, None]
                step = ((at[name] - at[node.parent])[:, here] * likelier).sum(axis=-1) / likelier.sum(axis=-1)
                places[name][:, here] = places[node.parent][:, here] + step
        for name in LEANING:
            other = _hangs_on(name)
            if name in away and other in away:
                near.setdefault(name, np.full(len(film.frames), np.nan))[here] = (away[name] < away[other]).mean(axis=-1)
    return places, near


HANGS_ON = {
    "hip": "hip", "shoulder": "shoulder", "knee": "hip", "ankle": "knee", "heel": "ankle", "toe": "ankle",
    "elbow": "shoulder", "wrist": "elbow", "hand": "wrist",
}  # fmt: skip


def _hangs_on(name: str) -> str:
    """The joint that a leaning one is told against."""
    if name in DERIVED:
        return "mid_hip"
    joint = joint_of(name)
    other = HANGS_ON[joint]
    return mirrored(name) if other == joint else name.replace(joint, other)


def _body(body: BodyName, film: Film, places: Places, near: Places) -> BelievedBody:
    names = tuple(places)
    whole = np.stack([places[name] for name in names])
    frames = np.flatnonzero(~np.isnan(whole[:, 0]).all(axis=0)).tolist()
    return BelievedBody(
        body=body,
        joints=names,
        leaning=tuple(Leaning(joint=name, hangs_on=_hangs_on(name)) for name in near),
        frames=tuple(
            InSpace(
                frame=int(film.frames[i]),
                places=tuple(_whole(1000 * value) for value in whole[:, :, i].ravel().tolist()),
                near=tuple(_whole(100 * float(share[i])) for share in near.values()),
            )
            for i in frames
        ),
    )


def _whole(value: float) -> int | None:
    return None if np.isnan(value) else round(value)
