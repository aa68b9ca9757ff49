"""How hard a film is to read: it gets harder as one hits, and easier as one misses."""

from __future__ import annotations

from typing import Literal

import numpy as np

from lacertus.core.eye.scoring import Grade
from lacertus.core.model import Record

EASIEST, HARDEST = 1, 5
DEGREES = {1: 1.0, 2: 0.85, 3: 0.7, 4: 0.6, 5: 0.5}
"""How much of a fault is put in, as a share of the most that the studio shows. Conventions, as are the next."""
TURNS_DEG = {1: 0.0, 2: 6.0, 3: 14.0, 4: 22.0, 5: 30.0}
"""At most so far is the pair turned from the technique's best view."""
BY_HAND = {1: 0.0, 2: 0.0, 3: 0.3, 4: 0.6, 5: 1.0}


class Shown(Record):
    """How a film is made: how much of the fault, how the pair is turned, how it is held, how high, how far off, and its pace."""

    degree: float
    turn_deg: float
    handheld: float
    height_m: float
    distance_m: float
    pace: Literal["full", "slow"]
    side: Literal["left", "right"]


def shown_at(level: int, chance: np.random.Generator) -> Shown:
    """How a film of a level is made, varied from a seed."""
    return Shown(
        degree=DEGREES[level],
        turn_deg=round(float(chance.uniform(-1, 1)) * TURNS_DEG[level], 1),
        handheld=BY_HAND[level],
        height_m=round(float(chance.uniform(1.0, 1.3)), 2),
        distance_m=round(float(chance.uniform(4.2, 5.2)), 2),
        pace="slow" if level == EASIEST else "full",
        side="left" if chance.random() < 0.5 else "right",
    )


def next_level(level: int, grade: Grade) -> int:
    """The level of the next film of the same question."""
    step = 1 if grade >= Grade.GOOD else -1 if grade is Grade.AGAIN else 0
    return min(max(level + step, EASIEST), HARDEST)
