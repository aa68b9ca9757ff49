"""What all shapes of the API share, and people. The front end’s types are generated from these modules."""

from __future__ import annotations

import uuid
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

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
