"""Small builders for reps and techniques, so that a test says only what matters to it."""

from __future__ import annotations

from typing import Any

from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reading import read_technique


def checkpoint(**changes: Any) -> dict[str, Any]:
    base = {
        "id": "knee_angle",
        "phase": "extension",
        "kind": "angle",
        "ask": "Leg nearly straight",
        "measure": {"points": ["working_hip", "working_knee", "working_ankle"], "at": "full_reach"},
        "within": [155, None],
        "fault": {"code": "bent-reach", "family": "half range"},
        "cues": ["Reach through"],
        "why": "A bent leg falls short",
    }
    return base | changes


def return_time(**changes: Any) -> dict[str, Any]:
    base = {
        "id": "quick_return",
        "phase": "rechamber",
        "kind": "interval",
        "measure": {"from": "full_reach", "to": "folded", "unit": "ms"},
        "within": [None, 250],
        "fault": {"code": "no-return", "family": "no return"},
    }
    return checkpoint(**(base | changes))


def by_eye(**changes: Any) -> dict[str, Any]:
    base = {
        "id": "toes_back",
        "kind": "seen",
        "measure": {"at": "full_reach"},
        "within": None,
        "fault": {"code": "toes-forward", "family": "wrong direction"},
    }
    found = checkpoint(**(base | changes))
    del found["within"]
    return found


def entry(**changes: Any) -> dict[str, Any]:
    """An entry check by eye: was it open?"""
    base = {"id": "open", "phase": "chamber", "entry": True, "measure": {}}
    return by_eye(**(base | {"fault": {"code": "not-open", "family": "wrong choice"}} | changes))


HELD = {"phase": "extension", "mark": "First frame in which the partner’s hand closes on the leg", "body": "partner"}
HOP = {"phase": "rechamber", "mark": "First frame in which the standing foot hops"}
DROP = {"phase": "rechamber", "mark": "First frame in which the leg is dropped"}


def catches(**changes: Any) -> dict[str, Any]:
    """The partner catches the leg: fold it, or drop it, within 400 ms."""
    base = {
        "id": "partner_catches",
        "event": "held",
        "says": "The partner’s hand closes on the leg",
        "answers": [{"event": "folded", "name": "Fold and step back"}, {"event": "dropped", "name": "Drop the leg"}],
        "wrong": [{"event": "hop", "name": "Hop after the leg"}],
        "within_ms": 400,
        "fault": {"code": "leg-left", "family": "no return"},
        "cues": ["Fold it home"],
        "why": "A leg that is held for half a second is a sweep",
    }
    return base | changes


def technique_data(*checkpoints: dict[str, Any], **changes: Any) -> dict[str, Any]:
    base: dict[str, Any] = {
        "lacertus_technique": 1,
        "id": "front-kick",
        "names": {"main": "Front kick"},
        "family": "kick",
        "options": {
            "extension": {
                "default": "snap",
                "choices": {"snap": {"name": "Snap", "for": "Quick return"}, "push": {"name": "Push", "for": "Making room"}},
            }
        },
        "phases": ["chamber", "extension", "rechamber"],
        "events": {
            "knee_top": {"phase": "chamber", "mark": "First frame in which the working knee no longer rises"},
            "full_reach": {"phase": "extension", "mark": "First frame in which the working knee no longer straightens"},
            "folded": {"phase": "rechamber", "mark": "First frame in which the working knee is folded again"},
        },
        "checkpoints": list(checkpoints) or [checkpoint()],
        "ladder": ["solo", "static_partner", "moving"],
    }
    return base | changes


def technique(*checkpoints: dict[str, Any], **changes: Any) -> Technique:
    return read_technique(technique_data(*checkpoints, **changes))


LEG = {"hip": (300.0, 300.0), "knee": (400.0, 300.0), "ankle": (500.0, 300.0)}


def points(frame: int = 44, sigma: float | None = 2.0, side: str = "right", **places: tuple[float, float]) -> dict[str, Any]:
    """Landmarks of one leg on a frame: hip, knee and ankle in a line unless given."""
    entry = {"frame": frame, "by": "placed"} | ({} if sigma is None else {"sigma": sigma})
    return {f"{side}_{joint}": [entry | {"x": x, "y": y}] for joint, (x, y) in (LEG | places).items()}


def rep_data(landmarks: dict[str, Any] | None = None, fps: float = 60.0, **changes: Any) -> dict[str, Any]:
    base: dict[str, Any] = {
        "lacertus_rep": 1,
        "technique": "front-kick",
        "side": "right",
        "heading": "right",
        "size": [1280, 720],
        "pts_s": [k / fps for k in range(121)],
        "range": [12, 96],
        "events": {"full_reach": [44], "folded": [56]},
        "bodies": {"performer": {"landmarks": points() if landmarks is None else landmarks}},
    }
    return base | changes


def rep(landmarks: dict[str, Any] | None = None, **changes: Any) -> RepFile:
    return read_rep(rep_data(landmarks, **changes))


def leg_known(landmarks: dict[str, Any]) -> dict[str, Any]:
    """Bodies of a rep: one leg of which thigh and shank are known to be 100 pixels long, so that it is read in space."""
    lengths = {f"{side}_{part}": {"px": 100.0, "u": 0.5} for side in ("left", "right") for part in ("thigh", "shank")}
    return {"performer": {"reference_lengths_px": lengths, "landmarks": landmarks}}


def drawing(asked: Technique, the_rep: RepFile) -> Scene:
    """A rep as a drawing that lies in the picture's plane."""
    return Scene(the_rep, asked.edges, flat=True)


def judge_one(check: dict[str, Any], the_rep: RepFile, *, flat: bool = True, **changes: Any) -> Judgement:
    """Judge a rep by one checkpoint: as a drawing that lies in the picture's plane, unless it is said to be one of a room."""
    asked = technique(check, **changes)
    return judge_rep(asked, the_rep, drawing(asked, the_rep) if flat else None)[0]
