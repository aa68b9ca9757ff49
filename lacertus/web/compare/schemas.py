"""What the routes of comparisons and curves take and give."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from lacertus.core.compare.differences import Difference
from lacertus.core.compare.overlay import Laid
from lacertus.core.compare.skeletons import Skeleton
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.services.compare.choices import Why
from lacertus.web.jobs.schemas import JobOut
from lacertus.web.schemas import In, Out, out_of

SideKey = Annotated[str, Field(pattern=r"^(rep|view|studio)\.[a-z0-9-]{1,60}$", examples=["studio.left"])]


class CurveOut(Out):
    """A quantity over a rep: for each frame from `first` on its value and u (null where nothing is known)."""

    name: str
    unit: str | None
    first: int
    values: list[float | None]
    u: list[float | None]
    low: float | None = Field(description="Least of the wanted range, where there is one")
    high: float | None


class FilmIn(In):
    """A film of a comparison for the sheet of the leading rep’s clip."""

    sides: Annotated[list[SideKey], Field(min_length=2, max_length=4)]
    anchor: Annotated[str, Field(max_length=200)]
    stretched: bool = False
    speed: float = Field(default=0.5, description="0.25, 0.5 or 1")
    words: Annotated[str, Field(max_length=200)] = ""
    drawn: bool = Field(default=False, description="With the bodies drawn over the pictures")
    over: bool = Field(default=False, description="The second side lies over the first; there are no others")
    mirrored: bool = Field(default=False, description="Beside the first, the others are turned as in a mirror")


class FilmOut(Out):
    """A film of a comparison: its length once it is made, and how far its job is."""

    id: uuid.UUID
    words: str
    speed: float
    seconds: float | None
    shown: bool = Field(description="Whether whoever opens the sheet sees it")
    job: JobOut | None


class RepCurvesOut(Out):
    """The curves of one rep of a set: `clock_s` is the time of each frame from the event on which the reps are locked, seconds."""

    rep: uuid.UUID
    first: int
    clock_s: list[float]
    read_at: list[int]
    curves: list[CurveOut]


class SpreadOut(Out):
    """Mean and standard deviation over the reps of a set at each frame of the first; null where fewer than three are known."""

    mean: list[float | None]
    deviation: list[float | None]


class CurvesOut(Out):
    """A checkpoint’s curves in all reps of a review that mark the event. `why_none` says why there are none at all."""

    checkpoint: str
    event: str | None
    why_none: str
    reps: list[RepCurvesOut]
    spread: list[SpreadOut] = Field(description="For each curve of the first rep")


class ComparableOut(Out):
    """Something that a rep can be compared with."""

    key: str
    why: Why
    student: str
    filmed_on: date | None
    side: str
    has_film: bool
    words: str
    missed: int | None


class ComparedDifferenceOut(out_of(Difference)):  # type: ignore[misc]
    """A side’s value less the leading side’s, with u; real only beyond 1.645 u."""


class LaidOut(out_of(Laid)):  # type: ignore[misc]
    """How a picture lies over the leading one: x′ = scale·x + dx, y′ = scale·y + dy; mirrored, x is first width − x."""


class SkeletonOut(out_of(Skeleton)):  # type: ignore[misc]
    """A body over the frames shown: for each frame x and y of each landmark in turn."""

    landmarks: list[str]
    limbs: list[list[int]] = Field(description="Numbers of the two landmarks that a line is drawn between")
    frames: list[list[int | None]]


class ComparedSideOut(Out):
    """A side: its film from frame `first` to `last`; times are those of these frames, and one more of the file’s."""

    key: str
    kind: Literal["rep", "view", "studio"]
    title: str
    filmed_on: date | None
    side: str
    clip: uuid.UUID | None
    rep: uuid.UUID | None
    student: uuid.UUID | None
    has_film: bool
    width: int
    height: int
    first: int
    last: int
    range: list[int]
    pts_s: list[float]
    real_s: list[float]
    clock_s: list[float]
    stretched_s: list[float] | None
    events: dict[str, int]
    laid: LaidOut | None
    why_not_laid: str
    skeletons: list[SkeletonOut]
    curves: list[CurveOut]


class ComparedValueOut(Out):
    verdict: Verdict
    value: float | None
    uncertainty: float | None
    unit: str | None
    reason: str | None


class ComparedRowOut(Out):
    """A checkpoint in all sides that were judged, in their order."""

    id: str
    ask: str
    phase: str
    values: list[ComparedValueOut | None]
    differences: list[ComparedDifferenceOut | None]


class ComparedEventOut(Out):
    """An event in all sides that were judged: seconds from the anchor, u, and as a share of the rep."""

    event: str
    phase: str
    at_s: list[list[float] | None]
    shares: list[float | None]
    differences: list[ComparedDifferenceOut | None]


class ComparisonOut(Out):
    """Sides beside one another; `review` is that of the leading rep."""

    review: uuid.UUID
    technique: str
    technique_name: str
    anchor: str
    anchors: list[str]
    checkpoint: str | None
    sides: list[ComparedSideOut]
    phases: dict[str, list[float]]
    rows: list[ComparedRowOut]
    timing: list[ComparedEventOut]


class ModelIn(In):
    """For which checkpoint a rep is a model; empty for its whole technique."""

    checkpoint: Annotated[str, Field(max_length=200)] = ""
    model: bool


class BesideIn(In):
    """Another rep that is to stand beside the correction of a checkpoint."""

    checkpoint: Annotated[str, Field(min_length=1, max_length=200)]
    other: uuid.UUID


class BesideOut(Out):
    """What is said under the picture that stands beside the correction now."""

    correction: uuid.UUID
    words: str
