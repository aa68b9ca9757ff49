"""What the API takes and gives. The front end's types are generated from these."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from lacertus.core.body import BodyName, Side
from lacertus.core.uncertainty import Verdict

Frame = Annotated[int, Field(ge=0, le=10_000_000)]
Pixel = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]
Name = Annotated[str, Field(min_length=1, max_length=100)]


class In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Out(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class SignInForm(In):
    email: Annotated[str, Field(max_length=300)]
    password: Annotated[str, Field(max_length=300)]


class CoachOut(Out):
    name: str
    email: str
    academy: str


class StudentIn(In):
    name: Name
    side_policy: Literal["both", "left", "right"] = "both"
    note: Annotated[str, Field(max_length=2000)] = ""


class StudentOut(Out):
    id: uuid.UUID
    name: str
    side_policy: str
    note: str


class EventOut(Out):
    key: str
    phase: str
    mark: str


class CheckpointOut(Out):
    id: str
    phase: str
    kind: str
    by_eye: bool
    ask: str
    look_for: str | None
    unit: str | None
    within: list[float | None] | None
    reason_for_range: str | None
    fault: str
    family: str
    cues: list[str]
    why: str
    core: bool
    safety: bool
    at: list[str]


class ChoiceOut(Out):
    key: str
    name: str
    purpose: str


class OptionOut(Out):
    key: str
    default: str
    choices: list[ChoiceOut]


class TechniqueOut(Out):
    id: str
    version: int
    name: str
    aliases: list[str]
    family: str
    summary: str
    phases: list[str]
    events: list[EventOut]
    checkpoints: list[CheckpointOut]
    options: list[OptionOut]
    ladder: list[str]
    cautions: list[str]


class ClipOut(Out):
    id: uuid.UUID
    student_id: uuid.UUID
    student: str
    name: str
    filmed_on: date
    state: Literal["waiting", "reading", "ready", "failed", "stopped"]
    failure: str | None
    frames_done: int
    frames_expected: int | None
    size_bytes: int
    codec: str | None
    width: int | None
    height: int | None
    nominal_fps: float | None
    variable_rate: bool | None
    duration_s: float | None
    has_film: bool
    review: Literal["none", "open", "finished"] = "none"


class ClipTimesOut(ClipOut):
    pts_s: list[float] = Field(description="Every frame's own time in seconds, in display order")


class RepIn(In):
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


class RepChange(In):
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


class PointOut(Out):
    body: BodyName
    landmark: str
    frame: int
    x: float
    y: float
    hidden: bool


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
    options: dict[str, str]
    events: dict[str, list[int]]
    points: list[PointOut]
    answers: dict[str, bool]
    judgements: list[JudgementOut]
    needs: list[NeedOut]


class CorrectionIn(In):
    checkpoint: Name
    frame: Frame
    from_x: Pixel
    from_y: Pixel
    to_x: Pixel
    to_y: Pixel
    cue: Annotated[str, Field(max_length=20_000)]


class CorrectionOut(Out):
    id: uuid.UUID
    rep_id: uuid.UUID
    checkpoint: str
    frame: int
    from_x: float
    from_y: float
    to_x: float
    to_y: float
    cue: str
    has_still: bool


class FixOut(Out):
    checkpoint: str
    technique: str
    fault: str
    cue: str
    misses: int
    exposures: int
    reason: str


class ReviewOut(Out):
    id: uuid.UUID
    clip_id: uuid.UUID
    student_id: uuid.UUID
    finished_at: datetime | None
    heights_px: dict[str, float]
    reps: list[RepOut]
    corrections: list[CorrectionOut]
    fix_first: list[FixOut]
    techniques: list[TechniqueOut] = Field(description="The versions that the reps are judged by")


class DayOut(Out):
    on: date
    misses: int
    exposures: int
    borderline: int
    not_seen: int


class FaultOut(Out):
    technique: str
    technique_name: str
    checkpoint: str
    fault: str
    family: str
    ask: str
    safety: bool
    misses: int
    exposures: int
    days: list[DayOut]


class ShownCorrectionOut(CorrectionOut):
    filmed_on: date
    technique_name: str
    ask: str
    why: str
    width: int
    height: int


class StudentPageOut(Out):
    student: StudentOut
    dates: list[date]
    faults: list[FaultOut]
    corrections: list[ShownCorrectionOut]
    cautions: list[str]


class Done(BaseModel):
    done: Literal[True] = True
