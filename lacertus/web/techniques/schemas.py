"""Techniques, their lesson cards and editor, as the API takes and gives them."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field

from lacertus.core.measuring.body import BodyName, Side
from lacertus.core.measuring.rep_facts import View
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.techniques import forms
from lacertus.core.techniques.vocabulary import Resistance
from lacertus.services.techniques.moving import BodyMotion, Place
from lacertus.web.schemas import In, Name, Out, out_of


class EventOut(Out):
    key: str
    phase: str
    mark: str
    body: BodyName = Field(description="Whose instant it is")


class CheckpointOut(Out):
    """A checkpoint, or (kind `reaction`) something that the partner does and that wants an answer."""

    id: str
    phase: str
    kind: str
    by_eye: bool
    eye_instead: bool = Field(description="It may be answered by eye where it cannot be measured")
    entry: bool = Field(description="It asks whether the technique was open at all")
    best_view: View | None
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


class LayerOut(Out):
    """What is looked at in one step of teaching; ids of checkpoints and reactions, or none for all."""

    id: str
    name: str
    checkpoints: list[str] | None
    until: str | None


class StartOut(Out):
    """A position that the technique is drilled from."""

    id: str
    phase: str
    says: str
    resists_from: str | None
    resistance: Resistance
    own: bool = Field(default=False, description="The academy made it from a frame of a rep")


class StartIn(In):
    says: Annotated[str, Field(min_length=1, max_length=200)]
    resistance: Resistance = "none"
    resists_from: str | None = None


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
    layers: list[LayerOut]
    starts: list[StartOut]
    best_view: View | None
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


class ChangeOut(Out):
    """Something that the choices of an option do not ask alike: what each of them asks, in the order of the choices."""

    ask: str
    kind: str
    by_choice: list[str]


class LessonOptionOut(Out):
    key: str
    default: str
    choices: list[LessonChoiceOut]
    changes: list[ChangeOut]


class LessonCheckpointOut(CheckpointOut):
    wanted: str
    cues_for_children: list[str]
    when: dict[str, list[str]]
    leads_to: list[str]
    points: list[str]
    shows_fault: bool = Field(description="Whether the studio’s figure can do this fault")


class DrillOut(Out):
    name: str
    answers: list[str]
    how: str
    dose: str
    objective: str | None
    start: str | None = Field(description="The position that it begins in")
    resistance: Resistance
    resists_from: str | None
    partner_task: str | None
    solo: dict[str, str] = Field(description="How it is done alone, by equipment")
    space_m: float | None
    minutes: float | None


class LessonAnswerOut(Out):
    name: str
    then: str | None


class LessonReactionOut(Out):
    """What the partner does, and which answers count."""

    id: str
    says: str
    answers: list[LessonAnswerOut]
    wrong: list[LessonAnswerOut]
    within_ms: float | None
    cues: list[str]
    cues_for_children: list[str]
    why: str
    moves: bool = Field(description="Whether the studio’s figure can show it")


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
    reactions: list[LessonReactionOut]
    layers: list[LayerOut]
    starts: list[StartOut]
    best_view: View | None
    fits: list[str] = Field(description="Of a fall: the throws that it fits")
    moves: bool = Field(description="Whether the studio has a moving figure of it")
    cautions: list[str]


class FigureAsked(In):
    """How a figure is done: the side, choices of options as group:choice, a fault in it, or a reaction of the partner's."""

    side: Side = "right"
    option: Annotated[list[Annotated[str, Field(pattern=r"^[a-z0-9_]{1,60}:[a-z0-9_]{1,60}$")]], Field(max_length=20)] = []
    fault: Name | None = None
    reaction: Name | None = None


class BodyMotionOut(out_of(BodyMotion)):  # type: ignore[misc]
    """One body of a figure: for each frame the joints' places (millimetres), then the axes' directions (thousandths)."""


class PlaceOut(out_of(Place)):  # type: ignore[misc]
    """A point that a checkpoint reads, millimetres."""


class FigureCheckpointOut(Out):
    """How a checkpoint comes out on a figure, when it is read, and the points that it reads there."""

    id: str
    verdict: Verdict
    value: str | None
    time_s: float | None
    places: list[PlaceOut]


class FigureOut(Out):
    """A rep of the studio's, to be drawn from any side: X to the target, Y to its left, Z up."""

    technique: str
    side: Side
    options: dict[str, str]
    fault: str | None
    says: str = Field(description="What the fault is, empty where there is none")
    degree: str = Field(description="How much of the fault is in it, with its unit; empty for a share")
    joints: list[str]
    axes: list[str]
    times_s: list[float]
    bodies: list[BodyMotionOut]
    events_s: dict[str, float]
    checkpoints: list[FigureCheckpointOut]


class TextIn(In):
    """The text of a technique file."""

    text: Annotated[str, Field(min_length=1, max_length=200_000)]


class CheckedOut(Out):
    """A technique's text, checked."""

    problems: list[ProblemOut]
    lesson: LessonOut | None
    drawn: list[DrawnOut]


class SampledIn(In):
    """A measure that is to be read on the studio's figure: whose figure, events at its seconds, and what is measured."""

    technique: Name
    events: dict[Name, Annotated[float, Field(ge=0, le=60)]] = Field(max_length=100)
    kind: Name
    measure: dict[str, Any] = Field(max_length=20)


class SampledOut(Out):
    """What a measure comes to on the studio's figure; without a value, why."""

    value: float | None
    u: float
    shown: str
    why: str = Field(description="Why there is no value, else empty")


class FormPlaceOut(out_of(forms.Place)):  # type: ignore[misc]
    """A place of a sentence, for a point or an event; `path` is where it stands in `measure`."""

    path: list[str | int]
    choices: list[list[str]]


class FormRangeOut(out_of(forms.Range)):  # type: ignore[misc]
    """How a wanted range is shown: the ends and the step of its ruler, what it is multiplied by, its unit, and the usual one."""

    usual: list[float | None]


class FixedOut(Out):
    """What a sentence's `measure` holds in any case."""

    path: list[str | int]
    value: str


class FormOut(Out):
    """A checkpoint as a sentence with places to fill in."""

    id: str
    kind: str
    name: str
    fault: str = Field(description="The fault family that a miss mostly belongs to")
    says: str
    places: list[FormPlaceOut]
    fixed: list[FixedOut]
    blank: dict[str, Any]
    wanted: FormRangeOut | None
    in_lengths: FormRangeOut | None = Field(description="The ruler where the unit is another than usual")


class CautionOut(Out):
    key: str
    says: str


class BuildingOut(Out):
    """What a technique is put together from."""

    forms: list[FormOut]
    families: list[str]
    fault_families: list[str]
    cautions: list[CautionOut]
    moving: list[str] = Field(description="Techniques whose moving figure may show another one")


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
