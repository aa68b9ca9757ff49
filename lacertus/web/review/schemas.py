"""Reviews, reps, marks and verdicts, as the API takes and gives them."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from lacertus.core.measuring.body import BodyName, Side
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.web.clips.schemas import Stretch
from lacertus.web.corrections.schemas import CorrectionOut
from lacertus.web.schemas import Frame, In, Name, Out, Pixel
from lacertus.web.techniques.schemas import TechniqueOut


class RepFacts(In):
    """How a rep went, as far as it is said."""

    outcome: Literal["completed", "blocked", "countered", "released"] | None = None
    start_at: Name | None = None
    end_at: Name | None = None
    resists_from: Name | None = None
    reaction: Annotated[str, Field(max_length=200)] | None = None
    finish: Annotated[str, Field(max_length=200)] | None = None
    stance: Literal["same_lead", "opposite_lead", "square"] | None = None
    grade: Name | None = None
    linked_to: uuid.UUID | None = Field(default=None, description="The rep of the same cut that this one belongs to")
    student_id: uuid.UUID | None = Field(default=None, description="Who performs it, where that is not the clip's student")


class RepIn(RepFacts):
    """How a rep is cut and how it was done."""

    first_frame: Frame
    last_frame: Frame
    side: Side
    technique: Name
    options: dict[Name, Name] = {}
    heading: Literal["left", "right"] = "right"
    view: Literal["side", "front", "back", "oblique"] = "side"
    partner: Literal["person", "dummy", "bag", "none"] = "person"
    pace: Literal["slow", "full"] = "full"
    rung: Name | None = None
    purpose: Literal["attempt", "fit_in", "drill", "demonstration"] = "attempt"


class RepChange(RepFacts):
    first_frame: Frame | None = None
    last_frame: Frame | None = None
    side: Side | None = None
    options: dict[Name, Name] | None = None
    heading: Literal["left", "right"] | None = None
    view: Literal["side", "front", "back", "oblique"] | None = None
    partner: Literal["person", "dummy", "bag", "none"] | None = None
    pace: Literal["slow", "full"] | None = None
    rung: Name | None = None
    purpose: Literal["attempt", "fit_in", "drill", "demonstration"] | None = None


class PointIn(In):
    x: Pixel
    y: Pixel
    hidden: bool = False
    sigma: Annotated[float, Field(gt=0, le=200)] | None = Field(default=None, description="σ of x and of y, pixels")
    grain: Annotated[float, Field(gt=0, le=100)] | None = Field(
        default=None, description="Picture pixels that a pixel of the screen covered: the zoom that it was placed at"
    )


class LiveIn(In):
    """A point that is being dragged."""

    rep: uuid.UUID
    body: Name
    landmark: Name
    frame: Frame
    x: Pixel
    y: Pixel
    turn: int = 0
    fresh: bool = False


class PointOut(Out):
    body: BodyName
    landmark: str
    frame: int
    x: float
    y: float
    hidden: bool
    by: str
    sigma: float | None
    grain: float | None


class EventIn(In):
    frames: Annotated[list[Frame], Field(max_length=200)] = Field(description="Empty: it was looked for and did not happen")


class AnswerIn(In):
    yes: bool


class HeightIn(In):
    px: Annotated[float, Field(gt=0, le=100_000)] | None


class JudgementOut(Out):
    id: str
    kind: str
    phase: str
    verdict: Verdict
    value: float | None
    unit: str | None
    uncertainty: float | None
    within: list[float | None] | None
    frames: list[int]
    reason: str | None
    notes: list[str]
    fault: str
    safety: bool
    counts_as_missed: bool
    measured: Verdict | None = Field(description="What the rules say, where the coach overruled it")
    because: str | None
    view: str | None = Field(description="The tied clip that it was read from; none for this clip's own picture")


class LiveOut(Out):
    """The judgements of a rep as if a dragged point lay where it is dragged to."""

    turn: int | None
    judgements: list[JudgementOut]
    message: str | None = None


class OverruleIn(In):
    verdict: Verdict
    reason: Annotated[str, Field(min_length=1, max_length=400)]


class CarryIn(In):
    first: Frame
    last: Frame


class MatPoint(In):
    """A spot of the mat: pixels of the picture, and metres on the mat, X towards the target."""

    x: Pixel
    y: Pixel
    X: Annotated[float, Field(ge=-100, le=100)]
    Y: Annotated[float, Field(ge=-100, le=100)]


class UprightIn(In):
    deg: Annotated[float, Field(ge=-90, le=90)]
    u: Annotated[float, Field(ge=0, le=30)] = 2.0


class ReferenceIn(In):
    """Parts of the frame of reference to change; null takes one back, what is left out stays."""

    upright: UprightIn | None = None
    centimetres_per_pixel: Annotated[float, Field(gt=0, le=100)] | None = None
    floor: Annotated[list[MatPoint], Field(min_length=4, max_length=12)] | None = None


class LengthsIn(In):
    body: BodyName
    frame: Frame | None = Field(description="The still frame that limbs are read off; null forgets them")


class CarryingOut(Out):
    state: Literal["waiting", "carrying", "done", "failed"]
    done: int = 0
    of: int | None = None
    lost: list[str] = []
    reason: str | None = None


class ProposedOut(Out):
    event: str
    frame: int
    why: str


class NeedOut(Out):
    """A landmark that a checkpoint reads, and the frame once its event is marked."""

    checkpoint: str
    body: BodyName
    landmark: str
    frame: int | None


class RepOut(Out):
    id: uuid.UUID
    technique: str
    technique_version: int
    first_frame: int
    last_frame: int
    side: Side
    heading: str
    view: str
    partner: str
    pace: str
    rung: str | None
    purpose: str
    outcome: str | None
    start_at: str | None
    end_at: str | None
    resists_from: str | None
    reaction: str | None
    finish: str | None
    stance: str | None
    grade: str | None
    linked_to: uuid.UUID | None
    blind_of: uuid.UUID | None = Field(description="The rep that is marked here a second time, blind")
    carrying: CarryingOut | None
    proposed: list[ProposedOut] = Field(description="Events that are not marked yet, and where they seem to be")
    student_id: uuid.UUID | None
    options: dict[str, str]
    events: dict[str, list[int]]
    points: list[PointOut]
    answers: dict[str, bool]
    judgements: list[JudgementOut]
    needs: list[NeedOut]


class ScatterOut(Out):
    """How far one marking lies from the next, one standard deviation, and from how many pairs; none where there are none."""

    point_pairs: int
    px: float | None
    event_pairs: int
    frames: float | None
    ms: float | None
    degree_pairs: int
    deg: float | None


class RepeatOut(Out):
    """The scatter of one rep that was marked twice, and of all that the coach has marked twice."""

    here: ScatterOut
    all: ScatterOut


class OnMatOut(Out):
    """A place on the mat, metres."""

    x: float
    y: float


class FootOut(Out):
    """A foot on the mat seen from above: metres, X towards the target."""

    body: BodyName
    side: Side
    heel: OnMatOut
    toe: OnMatOut


class MassOut(Out):
    """A body's centre of mass, pixels of the picture; the share of its weight over the left foot on an event's frame."""

    body: BodyName
    x: float
    y: float
    left: float | None


class GroundOut(Out):
    frame: int
    feet: list[FootOut]
    masses: list[MassOut]


class WhyIn(In):
    why: Annotated[str, Field(max_length=2000)]


class FixOut(Out):
    checkpoint: str
    technique: str
    fault: str
    cue: str
    misses: int
    exposures: int
    reason: str
    why: str | None = Field(description="The coach's reason, where it is chosen in place of the recommended one")


class ChoiceIn(In):
    technique: Name
    checkpoint: Name


class FixesIn(In):
    """What is to be fixed first and why; none goes back to what is recommended."""

    choices: Annotated[list[ChoiceIn], Field(max_length=10)]
    why: Annotated[str, Field(max_length=400)] = ""


class SaidOut(Out):
    """What the student answered on the sheet about a fix, or about the whole (no checkpoint)."""

    id: uuid.UUID
    technique: str
    checkpoint: str
    felt: Literal["right", "off"] | None
    tried: bool | None
    sure: bool | None
    words: str
    created_at: datetime


class ReviewOut(Out):
    id: uuid.UUID
    clip_id: uuid.UUID
    student_id: uuid.UUID
    finished_at: datetime | None
    heights_px: dict[str, float]
    reference: dict[str, Any] = Field(description="Frame of reference: upright, centimetres_per_pixel, floor, lengths_px")
    proposals: list[Stretch] = Field(description="Cuts that are proposed still")
    reps: list[RepOut]
    corrections: list[CorrectionOut]
    fix_first: list[FixOut]
    recommended: list[FixOut] = Field(description="What the rules would have fixed first")
    techniques: list[TechniqueOut] = Field(description="The versions that the reps are judged by")
    revisions: int = Field(description="How often it was finished")
    reopened_why: str | None = Field(description="Why it is being revised, where it was finished before")
    said: list[SaidOut] = Field(description="What the student answered on the sheet, the newest first")
