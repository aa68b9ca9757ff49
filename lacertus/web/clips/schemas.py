"""Clips, their facts and what was made of them, as the API takes and gives them."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field

from lacertus.core.clips.film import CameraSummary, Film
from lacertus.core.clips.naming import Naming
from lacertus.web.schemas import Frame, In, Out, out_of


class Stretch(In):
    """First and last frame."""

    first: Frame
    last: Frame


class Rate(In):
    """From a frame on, so many seconds of the file are one of reality."""

    frame: Frame
    rate: Annotated[float, Field(gt=0, le=1000)]


class CameraOut(out_of(CameraSummary, without=("lost",))):  # type: ignore[misc]
    """Whether the camera stood still, what is left of the background's motion (pixels), and frames where it was lost."""

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
    film: Film | None
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
