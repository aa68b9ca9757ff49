"""The rep file: everything that the judge needs to know of one repetition."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from lacertus.core import bounds
from lacertus.core.bounds import Coordinate, FrameNumber, Word
from lacertus.core.errors import BadInput, BadRep
from lacertus.core.measuring.body import LANDMARKS, SEGMENTS, SIGMA_SHARE, BodyName, mirrored
from lacertus.core.measuring.mass import Table
from lacertus.core.measuring.rep_facts import AnyView, Heading, Nearer, RepFacts
from lacertus.core.measuring.timebase import check_capture_rate, check_times
from lacertus.core.model import Record, problems_of

Matrix = tuple[tuple[float, float, float], tuple[float, float, float]]
Provenance = Literal["placed", "interpolated", "tracked", "model", "truth"]


class PointEntry(Record):
    """One keyed point: pixels of the displayed picture, x right, y down."""

    frame: FrameNumber
    x: Coordinate
    y: Coordinate
    sigma: float | None = Field(default=None, gt=0, le=1e6, description="Standard deviation of x and of y, pixels")
    shared: float | None = Field(default=None, ge=0, le=1, description="Share of σ² common to all frames")
    grain: float | None = Field(
        default=None,
        gt=0,
        le=1000,
        description="Picture pixels in a pixel of the screen when it was placed; widens the own part of σ",
    )
    by: Provenance = "placed"
    hidden: bool = False


class Length(Record):
    """A reference length in pixels and its standard uncertainty, and the still frame that it was read from."""

    px: bounds.Length
    u: float = Field(ge=0, le=1e6)
    frame: FrameNumber | None = None


class Body(Record):
    """A body of a rep: how tall it is in the picture, and its points by landmark."""

    height_px: bounds.Length | None = Field(default=None, description="Standing height in pixels")
    loose_cloth: bool = False
    mass_table: Table = Field(default="mean", description="Which column of the table of segment masses")
    reference_lengths_px: dict[str, Length] = {}
    landmarks: dict[str, tuple[PointEntry, ...]] = {}

    @field_validator("landmarks")
    @classmethod
    def _known_landmarks(cls, value: dict[str, tuple[PointEntry, ...]]) -> dict[str, tuple[PointEntry, ...]]:
        for name, points in value.items():
            if name not in LANDMARKS:
                raise ValueError(f"“{name}” is not a landmark")
            frames = [point.frame for point in points]
            if len(frames) != len(set(frames)):
                raise ValueError(f"“{name}” has two points on one frame")
        return {name: tuple(sorted(points, key=lambda p: p.frame)) for name, points in value.items()}

    @field_validator("reference_lengths_px")
    @classmethod
    def _known_segments(cls, value: dict[str, Length]) -> dict[str, Length]:
        for name in value:
            if name not in SEGMENTS:
                raise ValueError(f"“{name}” is no segment")
        return value


class Upright(Record):
    """Where up is: degrees that the true vertical is turned clockwise in the picture, and its u."""

    deg: bounds.Degrees = 0.0
    u: float = Field(default=2.0, ge=0, le=360)


class FloorPoint(Record):
    """A picture point (x, y, pixels) and its place on the mat (X, Y, metres)."""

    x: Coordinate
    y: Coordinate
    X: bounds.Metres
    Y: bounds.Metres


class Marking(Record):
    """How closely the coach marks, measured by marking a rep twice; it replaces the conventions (docs/measurement.md)."""

    own: dict[str, Annotated[float, Field(gt=0, le=1)]] = Field(
        default={}, description="By joint, the own part of a placed point's σ as share of standing height"
    )
    events_s: float | None = Field(default=None, gt=0, le=100, description="Scatter of a marked event, seconds")

    @field_validator("own")
    @classmethod
    def _known_joints(cls, value: dict[str, float]) -> dict[str, float]:
        for name in value:
            if name not in SIGMA_SHARE:
                raise ValueError(f"“{name}” is no joint")
        return value


class OtherView(Record):
    """Another picture of the same rep: what it shows at its second t happened at the rep's second t + `offset_s`, real time."""

    size: tuple[bounds.Side, bounds.Side]
    pts_s: Annotated[tuple[bounds.Seconds, ...], Field(max_length=bounds.MOST_FRAMES)]
    offset_s: float = Field(default=0.0, ge=-1e6, le=1e6)
    capture_rate: tuple[tuple[FrameNumber, bounds.Rate], ...] = ((0, 1.0),)
    camera_motion: tuple[Matrix, ...] | None = None
    upright: Upright = Upright()
    view: AnyView | None = None
    heading: Heading | None = None
    bodies: dict[BodyName, Body] = {}
    floor: Annotated[tuple[FloorPoint, ...], Field(max_length=100)] | None = None

    @model_validator(mode="after")
    def _frames_fit(self) -> OtherView:
        check_times(self.pts_s)
        check_capture_rate(self.capture_rate)
        _check_points(self.bodies, len(self.pts_s))
        return self


class RepFile(RepFacts):
    """One repetition, as in docs/formats.md."""

    lacertus_rep: Literal[1] = Field(description="Version of this format")
    technique: Word
    size: tuple[bounds.Side, bounds.Side]
    pts_s: Annotated[tuple[bounds.Seconds, ...], Field(max_length=bounds.MOST_FRAMES)]
    capture_rate: tuple[tuple[FrameNumber, bounds.Rate], ...] = ((0, 1.0),)
    camera_motion: tuple[Matrix, ...] | None = None
    upright: Upright = Upright()
    centimetres_per_pixel: float | None = Field(default=None, gt=0, le=1000)
    floor: Annotated[tuple[FloorPoint, ...], Field(max_length=100)] | None = None
    marking: Marking = Marking()
    range: tuple[FrameNumber, FrameNumber]
    events: dict[str, tuple[FrameNumber, ...]] = {}
    seen: dict[str, dict[Literal["coach", "partner", "student"], bool]] = {}
    bodies: dict[BodyName, Body] = {}
    views: Annotated[tuple[OtherView, ...], Field(max_length=8)] = ()

    @model_validator(mode="after")
    def _frames_fit(self) -> RepFile:
        check_times(self.pts_s)
        check_capture_rate(self.capture_rate)
        first, last = self.range
        if not first <= last < len(self.pts_s):
            raise BadRep(f"range {first}–{last} does not fit the clip’s frames 0–{len(self.pts_s) - 1}")
        for event, frames in self.events.items():
            _check_event(event, frames, first, last)
        _check_points(self.bodies, len(self.pts_s))
        _check_nearer(self.nearer, len(self.pts_s))
        return self


def _check_nearer(told: tuple[Nearer, ...], frames: int) -> None:
    """Raise BadRep for a frame that the clip does not have, or a joint that is told twice in one."""
    places = [(one.body, one.landmark, one.frame) for one in told]
    for body, landmark, frame in places:
        if frame >= frames:
            raise BadRep(f"nearer: {body} {landmark}: frame {frame} is past the clip’s last, {frames - 1}")
    if len(places) != len(set(places)):
        raise BadRep("nearer: a joint is told twice in one frame")


def _check_points(bodies: dict[BodyName, Body], frames: int) -> None:
    """Raise BadRep for a point on a frame that the clip does not have."""
    for body, data in bodies.items():
        for landmark, points in data.landmarks.items():
            if points and points[-1].frame >= frames:
                raise BadRep(f"{body} {landmark}: frame {points[-1].frame} is past the clip’s last, {frames - 1}")


def _check_event(event: str, frames: tuple[int, ...], first: int, last: int) -> None:
    for frame in frames:
        if not first <= frame <= last:
            raise BadRep(f"event “{event}” at frame {frame} lies outside the rep’s range {first}–{last}")
    if list(frames) != sorted(set(frames)):
        raise BadRep(f"event “{event}” must list its frames in order, each once")


def read_rep(data: Any, source: str = "rep") -> RepFile:
    """Check a parsed rep file.

    Raises:
        BadRep: with every problem and its path.
    """
    if not isinstance(data, dict):
        raise BadRep(f"{source}: a rep file is a JSON object with “lacertus_rep”: 1")
    try:
        return RepFile.model_validate(data)
    except BadInput as error:
        raise BadRep(f"{source}: {error}") from error
    except ValidationError as error:
        raise BadRep(f"{source}: " + "; ".join(str(problem) for problem in problems_of(error))) from error


def mirror_rep(rep: RepFile) -> RepFile:
    """The same rep seen in a mirror: x turned round, left and right swapped, the other side working."""
    width = rep.size[0]
    flipped: dict[str, Any] = {
        "side": mirrored(rep.side),
        "heading": mirrored(rep.heading) if rep.heading else None,
        "upright": Upright(deg=-rep.upright.deg, u=rep.upright.u),
        "floor": rep.floor and tuple(corner.model_copy(update={"x": width - corner.x}) for corner in rep.floor),
        "camera_motion": rep.camera_motion and tuple(_mirror_motion(matrix, width) for matrix in rep.camera_motion),
        "nearer": tuple(one.model_copy(update={"landmark": mirrored(one.landmark)}) for one in rep.nearer),
        "bodies": {name: _mirror_body(body, width) for name, body in rep.bodies.items()},
        "views": tuple(_mirror_view(view) for view in rep.views),
    }
    return rep.model_copy(update=flipped)


def _mirror_view(view: OtherView) -> OtherView:
    width = view.size[0]
    flipped: dict[str, Any] = {
        "heading": mirrored(view.heading) if view.heading else None,
        "upright": Upright(deg=-view.upright.deg, u=view.upright.u),
        "floor": view.floor and tuple(corner.model_copy(update={"x": width - corner.x}) for corner in view.floor),
        "camera_motion": view.camera_motion and tuple(_mirror_motion(matrix, width) for matrix in view.camera_motion),
        "bodies": {name: _mirror_body(body, width) for name, body in view.bodies.items()},
    }
    return view.model_copy(update=flipped)


def _mirror_motion(matrix: Matrix, width: int) -> Matrix:
    (a, b, dx), (c, d, dy) = matrix
    return (a, -b, width - a * width - dx), (-c, d, dy + c * width)


def _mirror_body(body: Body, width: int) -> Body:
    landmarks = {
        mirrored(name): tuple(point.model_copy(update={"x": width - point.x}) for point in points)
        for name, points in body.landmarks.items()
    }
    lengths = {mirrored(name): length for name, length in body.reference_lengths_px.items()}
    return body.model_copy(update={"landmarks": landmarks, "reference_lengths_px": lengths})
