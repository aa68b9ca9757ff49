"""A scene: who moves how in front of which camera, and what is true in each of its frames."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from lacertus.core.body import LANDMARKS, BodyName
from lacertus.studio.camera import Camera
from lacertus.studio.figure import Joints, Look, pose
from lacertus.studio.motion import Motion
from lacertus.studio.vectors import Vector


@dataclass(frozen=True, kw_only=True)
class Rep:
    """One rep of a scene: its stretch of time and its events' instants, seconds."""

    start_s: float
    end_s: float
    events_s: dict[str, float]


@dataclass(frozen=True, kw_only=True)
class Actor:
    """A figure: its look and its motion."""

    look: Look
    motion: Motion


@dataclass(frozen=True, kw_only=True)
class Scene:
    """Figures, their reps, the camera, and the time of every frame in seconds."""

    technique: str
    side: str
    performer: Actor
    partner: Actor | None
    reps: tuple[Rep, ...]
    camera: Camera
    times_s: tuple[float, ...]

    def joints(self, time_s: float) -> dict[BodyName, Joints]:
        """Every figure's joints at a time, with grips drawn to the other's body."""
        performer = self.performer.motion.at(time_s)
        if self.partner is None:
            return {"performer": pose(performer, self.performer.look)}
        partner = self.partner.motion.at(time_s)
        loose = pose(partner, self.partner.look)
        first = pose(performer, self.performer.look, _sleeve_and_lapel(loose))
        return {"performer": first, "partner": pose(partner, self.partner.look, _lapel(first))}


def _sleeve_and_lapel(other: Joints) -> dict[str, Vector]:
    """Where a right-handed grip holds: the other's left sleeve by the right hand, the lapel by the left."""
    sleeve = other.at["left_elbow"] * 0.55 + other.at["left_wrist"] * 0.45
    return {"right": sleeve, "left": _collar(other, -0.04)}


def _lapel(other: Joints) -> dict[str, Vector]:
    return {"right": _collar(other, 0.05)}


def _collar(other: Joints, across: float) -> Vector:
    h = other.stature_m
    chest = (other.at["left_shoulder"] + other.at["right_shoulder"]) / 2 - other.chest.up * 0.10 * h
    return chest + other.chest.forward * 0.095 * h + other.chest.left * across * h


def frame_at(times_s: Sequence[float], instant_s: float) -> int:
    """The first frame at or after an instant: “the first frame in which”."""
    return min(bisect_left(times_s, instant_s), len(times_s) - 1)


def truth(scene: Scene) -> dict[str, Any]:
    """A rep file for each rep, with every landmark of both bodies in every frame, and every event."""
    tracks: dict[str, dict[str, list[dict[str, Any]]]] = {}
    for frame, time_s in enumerate(scene.times_s):
        for body, joints in scene.joints(time_s).items():
            for landmark in sorted(LANDMARKS):
                x, y, _ = scene.camera.project(joints.at[landmark])
                entry = {"frame": frame, "x": round(x, 3), "y": round(y, 3), "sigma": 0.5, "by": "truth"}
                tracks.setdefault(body, {}).setdefault(landmark, []).append(entry)
    heights = {"performer": scene.performer.look.stature_m}
    if scene.partner is not None:
        heights["partner"] = scene.partner.look.stature_m
    middle = np.array([0.0, 0.0, 0.9])
    bodies = {
        name: {"height_px": round(scene.camera.height_px(heights[name], middle), 2), "landmarks": landmarks}
        for name, landmarks in tracks.items()
    }
    return {"reps": [_rep_file(scene, rep, bodies) for rep in scene.reps]}


def _rep_file(scene: Scene, rep: Rep, bodies: dict[str, Any]) -> dict[str, Any]:
    times = [time - scene.times_s[0] for time in scene.times_s]
    return {
        "lacertus_rep": 1,
        "technique": scene.technique,
        "side": scene.side,
        "partner": "none" if scene.partner is None else "person",
        "rung": "solo" if scene.partner is None else "moving",
        "view": "side",
        "heading": "right",
        "size": [scene.camera.width, scene.camera.height],
        "pts_s": [round(time, 6) for time in times],
        "camera_motion": None,
        "range": [frame_at(scene.times_s, rep.start_s), frame_at(scene.times_s, rep.end_s)],
        "events": {name: [frame_at(scene.times_s, instant)] for name, instant in rep.events_s.items()},
        "bodies": bodies,
    }
