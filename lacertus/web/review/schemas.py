"""Reviews, reps, marks and verdicts, as the API takes and gives them."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.rep_facts import KeptRepFacts
from lacertus.core.measuring.repfile import PointEntry
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.progress.fix_first import Choice, Fix
from lacertus.core.review.blind_remarking import Scatter
from lacertus.core.review.choice import RepChoice
from lacertus.core.review.guiding.heights import OfferedHeight
from lacertus.core.review.guiding.left import Left
from lacertus.core.review.judge import Need
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.proposals import Proposed
from lacertus.core.review.reactions import Reacted
from lacertus.core.review.reference import FrameOfReference
from lacertus.core.review.tracking import Tracked
from lacertus.services.review.cuts import RepChanges, RepCut
from lacertus.web.clips.schemas import Stretch
from lacertus.web.corrections.schemas import CorrectionOut
from lacertus.web.jobs.schemas import JobOut
from lacertus.web.schemas import Frame, In, Name, Out, Pixel, out_of
from lacertus.web.techniques.schemas import TechniqueOut


class RepIn(In, RepCut):
    """How a rep is cut and how it was done."""

    technique: Name

    @property
    def cut(self) -> RepCut:
        return RepCut.model_validate(self.model_dump(exclude={"technique"}))


class RepChange(In, RepChanges):
    """What changes of a rep; what is left out stays as it is."""

    @property
    def changes(self) -> RepChanges:
        return RepChanges.model_validate(self.model_dump(exclude_unset=True))


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


class PointOut(out_of(PointEntry, without=("shared",))):  # type: ignore[misc]
    """A point on a body."""

    body: BodyName
    landmark: str


class EventIn(In):
    frames: Annotated[list[Frame], Field(max_length=200)] = Field(description="Empty: it was looked for and did not happen")


class AnswerIn(In):
    yes: bool


class HeightIn(In):
    px: Annotated[float, Field(gt=0, le=100_000)] | None


class JudgementOut(out_of(Judgement, without=("unconfirmed", "within"))):  # type: ignore[misc]
    """A judgement, and whether it counts as missed: also borderline where safety is at stake."""

    counts_as_missed: bool
    within: list[float | None] | None


class LiveOut(Out):
    """The judgements of a rep as if a dragged point lay where it is dragged to."""

    turn: int | None
    judgements: list[JudgementOut]
    message: str | None = None


class OverruleIn(In):
    verdict: Verdict
    reason: Annotated[str, Field(min_length=1, max_length=400)]


class StretchIn(In):
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


class RepOut(KeptRepFacts):
    """A rep with its marks, and what is said of it."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)

    id: uuid.UUID
    technique: str
    technique_version: int
    first_frame: int
    last_frame: int
    linked_to: uuid.UUID | None
    blind_of: uuid.UUID | None = Field(description="The rep that is marked here a second time, blind")
    student_id: uuid.UUID | None
    partner_student_id: uuid.UUID | None
    tracked: Tracked | None = Field(description="What was lost while its points were tracked, where they were")
    proposed: list[Proposed] = Field(description="Events that are not marked yet, and where they seem to be")
    events: dict[str, list[int]]
    points_version: str = Field(description="Another one as soon as one of its points changes")
    points_held: bool = Field(description="The page holds its points in this version, so that they are not told again")
    points: list[PointOut]
    answers: dict[str, bool]
    judgements: list[JudgementOut]
    reacted: list[Reacted] = Field(description="Every time that the partner did something, and what was done about it")
    asks: list[str] = Field(description="Events that are to be marked in it, in the order of marking")
    choice: RepChoice | None = Field(description="Whether the technique was open when it was tried")
    needs: list[Need] = Field(description="Landmarks that checkpoints read, and the frame once its event is marked")
    left: list[Left] = Field(description="What is left to be done, in the order of work; of a finished review nothing")


class ScatterOut(out_of(Scatter, without=("marking",))):  # type: ignore[misc]
    """How far one marking lies from the next, one standard deviation, and from how many pairs; none where there are none."""


class BlindRemarkingOut(Out):
    """The scatter of one rep that was marked twice, and of all that the coach has marked twice."""

    here: ScatterOut
    all: ScatterOut


class WhyIn(In):
    why: Annotated[str, Field(max_length=2000)]


class FixesIn(In):
    """What is to be fixed first and why; none goes back to what is recommended."""

    choices: Annotated[list[Choice], Field(max_length=10)]
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


class RevisionOut(Out):
    """How often a review was changed, and who changed it last where that was another window."""

    revision: int
    by: str | None


class ReviewOut(Out):
    id: uuid.UUID
    revision: int = Field(description="How often something of it was changed")
    clip_id: uuid.UUID
    student_id: uuid.UUID
    finished_at: datetime | None
    heights_px: dict[str, float]
    heights_offered: list[OfferedHeight] = Field(description="Standing heights that can be taken over where none is known")
    own_events_ms: float | None = Field(description="The own scatter of marked events that times are judged by, where there is one")
    reference: FrameOfReference
    proposals: list[Stretch] = Field(description="Cuts that are proposed still")
    reps: list[RepOut]
    corrections: list[CorrectionOut]
    fix_first: list[Fix]
    recommended: list[Fix] = Field(description="What the rules would have fixed first")
    techniques: list[TechniqueOut] = Field(description="The versions that the reps are judged by")
    revisions: int = Field(description="How often it was finished")
    reopened_why: str | None = Field(description="Why it is being revised, where it was finished before")
    said: list[SaidOut] = Field(description="What the student answered on the sheet, the newest first")
    jobs: list[JobOut] = Field(description="Work that was asked for on its clip, the newest first")
