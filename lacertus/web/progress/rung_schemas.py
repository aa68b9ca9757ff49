"""What the routes of rungs take and give."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from lacertus.web.schemas import In, Out

Step = Literal["advance", "hold", "step_back"]


class CriterionOut(Out):
    holds: bool
    words: str


class RungDecisionOut(Out):
    from_rung: str
    to_rung: str
    decision: Step
    advice: Step
    because: str
    why: str
    decided_on: date


class RungSessionOut(Out):
    on: date
    rung: str | None
    reps: int


class StandingOut(Out):
    """A student on a technique's ladder: the rung, what is recommended and the number that decided."""

    technique: str
    name: str
    ladder: list[str]
    rung: str
    advice: Step
    because: str
    criteria: list[CriterionOut]
    reps: int = Field(description="Reps on this rung within 60 days")
    sure: dict[str, bool | None] = Field(description="Who is asked, and what they said")
    falls: list[str] = Field(description="Falls that fit, where the rung asks for one")
    may_be_thrown: list[str] = Field(description="Classmates who have passed one of them")
    withheld: bool
    cautions: list[str]
    decisions: list[RungDecisionOut]
    sessions: list[RungSessionOut] = Field(description="On which rungs it was filmed when, the oldest first")


class PassedOut(Out):
    fall: str
    rung: str


class AsPartnerOut(Out):
    """Falls that were passed, and the rungs of throws on which they are enough where the fall fits the throw."""

    passed: list[PassedOut]
    rungs: list[str]


class SureIn(In):
    who: Literal["performer", "partner"]
    sure: bool | None


class DecisionIn(In):
    decision: Step
    why: Annotated[str, Field(max_length=2000)] = ""
