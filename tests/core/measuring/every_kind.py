"""A checkpoint of every kind, and a rep whose truth is known."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from lacertus.core.techniques.definition import Technique
from tests.core.bodies import body
from tests.core.build import checkpoint, rep_data, technique

KNEE = {"kind": "angle", "points": ["working_hip", "working_knee", "working_ankle"]}
WAY = {"from": "knee_top", "to": "folded"}
NOW = {"at": "full_reach"}
ASKED: list[tuple[str, dict[str, Any], Any]] = [
    ("angle", {"points": KNEE["points"]} | NOW, [100, 170]),
    ("angle", {"points": KNEE["points"], "signed": True} | NOW, [-40, 120]),
    ("inclination", {"from_point": "mid_hip", "to_point": "mid_shoulder"} | NOW, [None, 10]),
    ("inclination", {"from_point": "mid_hip", "to_point": "mid_shoulder", "signed": True} | NOW, [-4, 20]),
    ("inclination", {"from_point": "other_hip", "to_point": "working_hip", "against": "mat"} | NOW, [None, 20]),
    ("line", {"points": ["head_top", "mid_hip", "working_heel"]} | NOW, [None, 0.05]),
    ("line", {"points": ["head_top", "mid_hip", "working_heel"], "signed": True} | NOW, [-0.02, 0.2]),
    ("relation", {"point": "working_knee", "above": "mid_hip", "unit": "shank"} | NOW, [0, None]),
    ("relation", {"point": "working_hand", "towards": "working_toe", "unit": "foot"} | NOW, [-0.5, None]),
    ("relation", {"point": "working_toe", "outside": "partner.other_toe", "unit": "foot"} | NOW, [0, None]),
    ("relation", {"point": "working_ankle", "above": "mat", "unit": "foot"} | NOW, [0.5, None]),
    ("relation", {"point": "working_wrist", "along": ["working_hip", "working_shoulder"]} | NOW, [0.2, 0.8]),
    ("gap", {"between": ["working_wrist", "partner.chin"], "unit": "forearm"} | NOW, [1, None]),
    ("gap", {"point": "working_elbow", "segment": ["working_hip", "working_shoulder"]} | NOW, [0.05, None]),
    ("interval", {"from": "knee_top", "to": "full_reach"}, [None, 350]),
    ("change", {"of": KNEE} | WAY, [-60, 60]),
    ("compare", {"of": KNEE, "with": {"kind": "angle", "points": ["other_hip", "other_knee", "other_ankle"]}} | NOW, [-40, 40]),
    ("dwell", {"while": KNEE | {"within": [140, None]}} | WAY, [200, None]),
    ("peak", {"point": "working_toe"} | WAY, [0.3, None]),
    ("peak", {"point": "working_toe", "than": "full_reach"} | WAY, [-100, 100]),
    ("path", {"point": "working_toe", "pick": "length"} | WAY, [0.5, None]),
    ("path", {"point": "working_toe", "pick": "turn"} | WAY, [-90, 90]),
    ("path", {"point": "working_hand", "pick": "bulge", "relative_to": "mid_shoulder"} | WAY, [0.01, None]),
    ("speed", {"point": "working_toe", "pick": "highest"} | WAY, [1.0, None]),
    ("speed", {"angle": KNEE["points"], "pick": "mean"} | WAY, [30, None]),
    ("balance", {"of": "working_ankle"} | NOW, [0.4, 1]),
    ("balance", {"pick": "outside"} | NOW, [None, 0]),
    ("facing", {"line": "shoulders", "towards": "camera"} | NOW, [0.5, None]),
    ("facing", {"line": "feet", "towards": "partner"} | NOW, [0.5, None]),
    ("facing", {"line": "feet", "towards": "target"} | NOW, [0.5, None]),
]  # fmt: skip
FLOOR = [("floor", {"pick": "step_direction"} | WAY, [-45, 45]), ("floor", {"pick": "step_length"} | WAY, [0.2, None])]
CORNERS = ((400, 600, 0, 0), (600, 600, 1, 0), (560, 500, 1, 1), (440, 500, 0, 1))
TILE = [dict(zip(("x", "y", "X", "Y"), corner, strict=True)) for corner in CORNERS]


def asking(asked: list[tuple[str, dict[str, Any], Any]]) -> Technique:
    checks = [checkpoint(id=f"c{i}", kind=kind, measure=measure, within=within) for i, (kind, measure, within) in enumerate(asked)]
    return technique(*checks)


EVERY = asking(ASKED + FLOOR)
FREE = asking(ASKED)


def truth_of() -> dict[str, Any]:
    def move(frame: int, name: str) -> tuple[float, float]:
        rise = (
            150 * math.exp(-(((frame - 46) / 12) ** 2)) if name in ("right_toe", "right_heel", "right_ankle", "right_knee") else 0.0
        )
        sway = 20 * math.sin(2 * math.pi * frame / 60 + len(name))
        return sway, rise * (0.6 if name == "right_knee" else 1.0)

    whole = {"performer": body(range(15, 90), move=move, sigma=2.0), "partner": body([44], foot=(850.0, 610.0), sigma=2.0)}
    return rep_data(None, bodies=whole, events={"knee_top": [20], "full_reach": [44], "folded": [80]}, camera_motion=None)


def scattered(truth: dict[str, Any], chance: np.random.Generator) -> dict[str, Any]:
    """Half of σ² is the same in every frame of a landmark."""
    bodies: dict[str, Any] = {}
    for name, whole in truth["bodies"].items():
        marks = {}
        for mark, entries in whole["landmarks"].items():
            sigma = entries[0]["sigma"] / math.sqrt(2)
            shared, own = chance.normal(0, sigma, 2), chance.normal(0, sigma, (len(entries), 2))
            marks[mark] = [
                entry | {"x": entry["x"] + shared[0] + dx, "y": entry["y"] + shared[1] + dy}
                for entry, (dx, dy) in zip(entries, own.tolist(), strict=True)
            ]
        bodies[name] = whole | {"landmarks": marks}
    return truth | {"bodies": bodies}
