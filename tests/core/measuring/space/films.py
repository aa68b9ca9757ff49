"""Bodies posed at random and filmed, for the tests of what is read in space."""

from __future__ import annotations

from typing import Any

import numpy as np

from lacertus.core.measuring.repfile import RepFile, read_rep
from tests.bench import posed
from tests.bench.in_depth import Motion, in_picture, rep_of, technique_of

MIDDLE = np.array([0.4, 0.0, 0.9])
TECHNIQUE = technique_of({})


def filmed(seed: int, turn: float = 20.0) -> tuple[dict[str, Any], Motion, posed.Eye]:
    chance = np.random.default_rng((seed, int(turn)))
    motion, eye = Motion(seed=seed), posed.drawn_eye(chance, turn, MIDDLE)
    return rep_of(in_picture(motion, eye, chance)), motion, eye


def dragged(rep: dict[str, Any], joint: str, frame: int, by: tuple[float, float]) -> RepFile:
    marks = rep["bodies"]["performer"]["landmarks"]
    points = [
        point | ({"x": point["x"] + by[0], "y": point["y"] + by[1]} if point["frame"] == frame else {}) for point in marks[joint]
    ]
    bodies = rep["bodies"] | {"performer": rep["bodies"]["performer"] | {"landmarks": marks | {joint: points}}}
    return read_rep(rep | {"bodies": bodies})
