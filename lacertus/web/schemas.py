"""What all shapes of the API share, and people. The front end’s types are generated from these modules."""

from __future__ import annotations

import uuid
from collections.abc import Container
from dataclasses import fields
from datetime import date, datetime
from typing import Annotated, Any, Literal, TypeVar, get_type_hints

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError, create_model, model_validator

from lacertus.core.errors import BadInput
from lacertus.core.model import problems_of
from lacertus.core.texts import first_unkept
from lacertus.jsonfile import parse_json

Frame = Annotated[int, Field(ge=0, le=10_000_000)]
Pixel = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]


def can_be_kept(value: Any) -> Any:
    """The value itself; raises ValueError where a text in it cannot be kept in a database, or it is nested too deeply."""
    why = first_unkept(value)
    if why is not None:
        raise ValueError(why)
    return value


Name = Annotated[str, Field(min_length=1, max_length=100), AfterValidator(can_be_kept)]


class In(BaseModel):
    model_config = ConfigDict(extra="forbid")

    @model_validator(mode="before")
    @classmethod
    def _can_be_kept(cls, value: Any) -> Any:
        return can_be_kept(value)


class Out(BaseModel):
    model_config = ConfigDict(from_attributes=True)


def out_of(record: type[Any], *, without: Container[str] = ()) -> type[Out]:
    """The base of an answer that gives what a record of the core holds, without some of it: nothing is written twice.

    Args:
        record: a frozen dataclass or a Pydantic record.
        without: fields that are not given.
    """
    if issubclass(record, BaseModel):
        own: dict[str, Any] = {name: (field.annotation, field) for name, field in record.model_fields.items()}
    else:
        types = get_type_hints(record, include_extras=True)
        # An answer gives every field, also one that is as by default.
        own = {field.name: (types[field.name], ...) for field in fields(record)}
    kept = {name: kind for name, kind in own.items() if name not in without}
    return create_model(record.__name__, __base__=Out, __module__=__name__, **kept)


Form = TypeVar("Form", bound=In)


def read_form(model: type[Form], content: bytes) -> Form:
    """A form out of a body that was taken as it was sent.

    Raises:
        BadInput: it is no JSON, or does not fit.
    """
    try:
        return model.model_validate(parse_json(content, "what was sent"))
    except ValidationError as error:
        raise BadInput("; ".join(str(problem) for problem in problems_of(error)) + ". Nothing was stored.") from error


class SignInForm(In):
    email: Annotated[str, Field(max_length=300)]
    password: Annotated[str, Field(max_length=300)]
    code: Annotated[str, Field(max_length=20, description="Of the second factor, for accounts that have one")] = ""


class CoachOut(Out):
    """Who is signed in."""

    id: uuid.UUID
    name: str
    email: str
    academy: str
    role: Literal["owner", "coach", "assistant"]
    has_second_factor: bool
    lacks_second_factor: bool = Field(description="The academy asks for a second factor: set it up before anything else")


Words = Annotated[list[Annotated[str, Field(min_length=1, max_length=60)]], Field(max_length=30)]
Centimetres = Annotated[float, Field(ge=30, le=260, allow_inf_nan=False)]
Kilograms = Annotated[float, Field(ge=5, le=400, allow_inf_nan=False)]


class StudentIn(In):
    name: Name
    side_policy: Literal["both", "left", "right"] = "both"
    note: Annotated[str, Field(max_length=2000)] = ""
    email: Annotated[str, Field(max_length=254)] = ""
    lends_pictures: bool = Field(default=False, description="Pictures of them may stand beside another student’s correction")
    born_on: date | None = None
    height_cm: Centimetres | None = None
    weight_kg: Kilograms | None = None
    groups: Words = []
    equipment: Words = Field(default=[], description="What is there to practise with at home")
    guardian: Annotated[str, Field(max_length=100)] = ""
    guardian_email: Annotated[str, Field(max_length=254)] = ""
    language: Annotated[str, Field(max_length=10, description="Of their sheets and their page; empty: the academy’s")] = ""


class NewStudentIn(StudentIn):
    sure: bool = Field(default=False, description="Add them although there is a student of nearly this name")


class StudentChange(In):
    """What is left out stays as it is."""

    name: Name | None = None
    side_policy: Literal["both", "left", "right"] | None = None
    note: Annotated[str, Field(max_length=2000)] | None = None
    email: Annotated[str, Field(max_length=254)] | None = None
    lends_pictures: bool | None = None
    born_on: date | None = None
    height_cm: Centimetres | None = None
    weight_kg: Kilograms | None = None
    groups: Words | None = None
    equipment: Words | None = None
    guardian: Annotated[str, Field(max_length=100)] | None = None
    guardian_email: Annotated[str, Field(max_length=254)] | None = None
    language: Annotated[str, Field(max_length=10)] | None = None


CAN_BE_EMPTIED = {"born_on", "height_cm", "weight_kg"}
"""What of a student null stands for nothing known; for the rest null is as if it were left out."""


class StudentOut(Out):
    id: uuid.UUID
    name: str
    side_policy: str
    note: str
    email: str
    lends_pictures: bool
    born_on: date | None
    height_cm: float | None
    weight_kg: float | None
    groups: list[str]
    equipment: list[str]
    guardian: str
    guardian_email: str
    language: str
    archived_at: datetime | None


class RosterRowOut(Out):
    """A student in the list of all."""

    student: StudentOut
    open_faults: int = Field(description="Faults missed on the last day that each was asked")
    open_safety: int = Field(description="Those of them that bear on safety")
    last_filmed: date | None
    due: date | None = Field(description="The day that the last sheet names for the next clip")
    grade: str | None
    thrown_on: list[str] = Field(description="The rungs of throws on which they may be thrown")


class GoesOut(Out):
    """What deleting a student deletes."""

    clips: int
    reviews: int
    reps: int
    links: int
    mails: int
    of_others: int = Field(description="Reps of other students in the clips that go")
    shown_in: list[str] = Field(description="Clips of others that show them too, and stay")


class JoinStudentsIn(In):
    other: uuid.UUID = Field(description="Who is joined into this one, and is gone then")


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


class Done(BaseModel):
    done: Literal[True] = True


class ReaderOut(Out):
    """What the processes that read what strangers send cannot do on the worker's machine, as it was tried out there."""

    user: str | None = Field(description="The account that they run as, where root starts the worker")
    landlock: int = Field(description="The version of Landlock that the kernel has; 0: none")
    reads_nothing_else: bool
    writes_nothing_else: bool
    no_network: bool


class QueueOut(Out):
    """Work for the workers."""

    waiting: int
    running: int
    oldest_s: float = Field(description="How long the oldest work that could be begun has waited, seconds")
    workers: int = Field(description="Workers that were heard of in the last seconds")


Answers = Literal["ok", "away"]


class HealthOut(Out):
    """How the site is. `ok` where database and storage answer."""

    ok: bool
    database: Answers
    storage: Answers
    free_bytes: int = Field(description="Room on the disk for uploads on their way")
    queue: QueueOut | None = Field(description="None while the database is away")
    reader: ReaderOut | None = Field(description="None until a worker has told")
