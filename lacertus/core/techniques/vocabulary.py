"""The words of the definition language: families, grades, rungs, resistance, and the types of its texts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from lacertus.core.texts import shown_text

Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9]*([-_][a-z0-9]+)*$")]
Text = Annotated[str, Field(min_length=1, max_length=400), AfterValidator(shown_text)]
Wanted = tuple[float | None, float | None]
Resistance = Literal["none", "fifth", "half", "full"]
Equipment = Literal["none", "wall", "belt", "dummy", "bag"]

FAMILIES = (
    "throw", "takedown entry", "sweep", "back take", "guard work", "submission", "fall", "kick", "position",
)  # fmt: skip
FAULT_FAMILIES = (
    "out of order", "rushed", "late", "not together", "half range", "no return", "wide path",
    "wrong direction", "no load", "posture lost", "base wrong", "level wrong", "distance wrong",
    "space left", "grip or hand position", "limb exposed", "gaze wrong", "facing wrong", "telegraphed",
    "half-hearted", "held too long", "wrong choice", "unsafe head", "unsafe arm", "unsafe knee",
    "unsafe neck", "control lost",
)  # fmt: skip
WRONG_CHOICE = "wrong choice"
USUAL_GRADES = ("white", "yellow", "orange", "green", "blue", "purple", "brown", "black")
"""Grades from the lowest, where a technique lists none of its own. A convention; academies differ."""
DEFAULT_LADDER = ("solo", "static_partner", "moving", "light", "firm", "live")
GROWN_UP_CAUTIONS = frozenset({"choke_care", "neck_care", "joint_care"})
"""Cautions of what children never practise under force: such techniques carry no cues for them."""
