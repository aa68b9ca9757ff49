"""What the API takes and gives. The front end's types are generated from these."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from lacertus.core.body import BodyName, Side
from lacertus.core.marks import Mark
from lacertus.core.naming import Naming
from lacertus.core.shapes import Shape
from lacertus.core.uncertainty import Verdict

Frame = Annotated[int, Field(ge=0, le=10_000_000)]
Pixel = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]


def without_nul(value: Any) -> Any:
    """The value itself; raises ValueError where a text in it holds the character NUL, which the database cannot keep."""
    texts = value if isinstance(value, list | tuple) else [*value, *value.values()] if isinstance(value, dict) else ()
    for text in texts:
        without_nul(text)
    if isinstance(value, str) and "\0" in value:
        raise ValueError("a text holds the character NUL, which cannot be kept; take it out")
    return value


Name = Annotated[str, Field(min_length=1, max_length=100), AfterValidator(without_nul)]


class In(BaseModel):
    model_config = ConfigDict(extra="forbid")

    @model_validator(mode="before")
    @classmethod
    def _can_be_kept(cls, value: Any) -> Any:
        return without_nul(value)


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
    email: Annotated[str, Field(max_length=254)] = ""
    lends_pictures: bool = Field(default=False, description="Pictures of them may stand beside another student’s correction")


class StudentChange(In):
    """What is left out stays as it is."""

    name: Name | None = None
    side_policy: Literal["both", "left", "right"] | None = None
    note: Annotated[str, Field(max_length=2000)] | None = None
    email: Annotated[str, Field(max_length=254)] | None = None
    lends_pictures: bool | None = None


class StudentOut(Out):
    id: uuid.UUID
    name: str
    side_policy: str
    note: str
    email: str
    lends_pictures: bool


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


class ProblemOut(Out):
    """One thing wrong in a technique's text: path of keys, line from 1."""

    path: list[str | int]
    line: int | None
    message: str


class SpotOut(Out):
    name: str
    body: str
    x: float
    y: float


class LimbOut(Out):
    start: SpotOut
    end: SpotOut


class DrawnOut(Out):
    """A checkpoint on a sample rep: points that it reads, limbs around them (pixels), and what comes out."""

    id: str
    frame: int | None
    verdict: str
    value: str | None
    spots: list[SpotOut]
    limbs: list[LimbOut]


class LessonChoiceOut(Out):
    key: str
    name: str
    purpose: str
    cautions: list[str]


class LessonOptionOut(Out):
    key: str
    default: str
    choices: list[LessonChoiceOut]


class LessonCheckpointOut(CheckpointOut):
    wanted: str
    cues_for_children: list[str]
    when: dict[str, list[str]]
    leads_to: list[str]
    points: list[str]


class DrillOut(Out):
    name: str
    answers: list[str]
    how: str
    dose: str
    resistance_from: str | None
    solo: str | None
    minutes: float | None


class DecisionOut(Out):
    says: str
    when: str
    answers: list[str]
    wrong: list[str]
    within_ms: float | None
    why: str | None


class PairOut(Out):
    name: str
    text: str


class LessonOut(Out):
    """A technique as a lesson card."""

    id: str
    version: int
    own: bool
    name: str
    aliases: list[str]
    look_alikes: list[PairOut]
    family: str
    summary: str
    works_when: str
    starts_from: PairOut | None
    falls_back_to: list[PairOut]
    phases: list[str]
    teaching_order: list[str]
    events: list[EventOut]
    checkpoints: list[LessonCheckpointOut]
    options: list[LessonOptionOut]
    ladder: list[str]
    drills: list[DrillOut]
    decisions: list[DecisionOut]
    cautions: list[str]


class TextIn(In):
    """The text of a technique file."""

    text: Annotated[str, Field(min_length=1, max_length=200_000)]


class CheckedOut(Out):
    """A technique's text, checked."""

    problems: list[ProblemOut]
    lesson: LessonOut | None
    drawn: list[DrawnOut]


class AdaptationIn(In):
    """What is asked differently of a student: switched off, or with another range."""

    technique: Name
    checkpoint: Name
    action: Literal["off", "relaxed", "replaced"]
    within: tuple[float | None, float | None] | None = None
    instead: dict[str, Any] | None = None
    reason: Annotated[str, Field(min_length=1, max_length=400)]


class AdaptationOut(Out):
    id: uuid.UUID
    technique: str
    technique_name: str
    checkpoint: str
    ask: str
    action: str
    words: str
    reason: str


class NewerTechniqueOut(Out):
    technique: str
    name: str
    judged_by: int
    newest: int


class DifferenceOut(Out):
    """A verdict that a newer version would change."""

    rep: int
    technique: str
    checkpoint: str
    before: str | None
    after: str | None
    why: str | None


class NewerOut(Out):
    """Techniques of a review that have newer versions, and what they would change."""

    newer: list[NewerTechniqueOut]
    differences: list[DifferenceOut]


class LevelOut(Out):
    """One zoom of the filmstrip: a picture every `step` frames, in sheets of 10 × 10."""

    step: int
    pictures: int
    sheets: int


class FilmOut(Out):
    """The filmstrip: size of a picture in pixels, and its zooms from fine to coarse."""

    width: int
    height: int
    levels: list[LevelOut]


class Stretch(In):
    """First and last frame."""

    first: Frame
    last: Frame


class Rate(In):
    """From a frame on, so many seconds of the file are one of reality."""

    frame: Frame
    rate: Annotated[float, Field(gt=0, le=1000)]


class CameraOut(Out):
    """Whether the camera stood still, what is left of the background's motion (pixels), and frames where it was lost."""

    still: bool
    residual_px: float | None
    lost: list[Stretch]


class ClipOut(Out):
    id: uuid.UUID
    student_id: uuid.UUID | None
    student: str | None
    name: str
    folder: str
    filmed_on: date
    state: Literal["waiting", "reading", "ready", "failed", "stopped"]
    failure: str | None
    frames_done: int
    frames_expected: int | None
    reading_since: datetime | None
    size_bytes: int
    codec: str | None
    width: int | None
    height: int | None
    rotation: int | None
    mirrored: bool | None
    nominal_fps: float | None
    variable_rate: bool | None
    duration_s: float | None
    dropped_frames: int
    repeated_frames: int
    has_film: bool
    has_sound: bool
    sound_broke_off: bool
    capture_rate: list[Rate]
    capture_sure: bool
    capture_why: str
    camera: CameraOut | None
    film: FilmOut | None
    naming: Naming
    review: Literal["none", "open", "finished"] = "none"
    line: str = Field(default="", description="How it is named, as one line")
    suggested: str = Field(default="", description="A line to start from, where nobody has named it")


class ViewOut(Out):
    """A clip that is or may be a second view; tied, `aligned` holds its frame for each of this clip's frames."""

    id: uuid.UUID
    name: str
    view: str | None
    frame: int | None = None
    other_frame: int | None = None
    pts_s: list[float] = []
    aligned: list[int] = []
    width: int
    height: int


class ClipTimesOut(ClipOut):
    pts_s: list[float] = Field(description="Every frame's own time in seconds of the file, in display order")
    real_s: list[float] = Field(description="The same in real time")
    views: list[ViewOut]


class NamesIn(In):
    clips: Annotated[list[uuid.UUID], Field(min_length=1, max_length=200)]
    line: Annotated[str, Field(max_length=2000)]


class LineIn(In):
    line: Annotated[str, Field(max_length=2000)]
    clip: uuid.UUID | None = None


class PartOut(Out):
    text: str
    kind: str | None
    means: str
    problem: str | None


class LineOut(Out):
    """How a line is understood, part by part, and what its last part may become."""

    parts: list[PartOut]
    completions: list[str]


class CaptureIn(In):
    rates: Annotated[list[Rate], Field(min_length=1, max_length=100)]


class CaptureOut(Out):
    verdicts_changed: int = Field(description="Verdicts of a finished review that came out otherwise")


class TieIn(In):
    frame: Frame
    other_frame: Frame


class OnsetOut(Out):
    time_s: float
    strength: float
    voiced: bool = Field(default=False, description="It has a pitch, as a call has and a slap has not")


class SoundOut(Out):
    step_s: float
    levels: list[int] = Field(description="Loudness from 0 to 99, one a step from the first frame on")


class TracesOut(Out):
    lacertus_traces: Literal[1]
    motion: list[int] = Field(description="How much moves in each frame, 0 to 99")
    sound: SoundOut
    onsets: list[OnsetOut]
    repeated: list[int]
    dropped: list[int]


class ProposalsIn(In):
    cuts: Annotated[list[Stretch], Field(max_length=500)]


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


class CorrectionIn(In):
    """A correction: the frame it stops on, from where to where it is shown, its marks and its cue."""

    checkpoint: Name
    frame: Frame
    first_frame: Frame
    last_frame: Frame
    marks: Annotated[list[Mark], Field(max_length=50)] = []
    cue: Annotated[str, Field(max_length=20_000)]
    snap: bool = Field(default=True, description="Hang places that lie at a landmark on it")
    voice_s: float | None = Field(default=None, gt=0, le=3600, description="Given again where the correction was taken away before")


class CheckpointIn(In):
    checkpoint: Name


class CopyIn(In):
    rep: uuid.UUID
    id: uuid.UUID


class CopiesIn(In):
    copies: Annotated[list[CopyIn], Field(min_length=1, max_length=60)]


class BesideIn(In):
    source: Literal["own", "other", "reference"] | None


class BesideChoiceOut(Out):
    source: Literal["own", "other", "reference"]
    words: str


class BesideOut(Out):
    source: Literal["own", "other", "reference"]
    words: str
    ready: bool
    failed: str | None = None
    width: int | None = None
    height: int | None = None
    shapes: list[Shape] = []


class CorrectionOut(Out):
    id: uuid.UUID
    rep_id: uuid.UUID
    checkpoint: str
    fault: str
    frame: int
    first_frame: int
    last_frame: int
    marks: list[Mark]
    cue: str
    has_still: bool
    voice_s: float | None
    beside: BesideOut | None


class DrawnStretchOut(Out):
    first: int
    last: int
    shapes: list[Shape]


class DrawnCorrectionOut(Out):
    id: uuid.UUID
    stretches: list[DrawnStretchOut]


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


class Done(BaseModel):
    done: Literal[True] = True
