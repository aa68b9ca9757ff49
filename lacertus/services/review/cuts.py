"""A rep as a coach cuts it, and what changes of one."""

from __future__ import annotations

import uuid
from typing import Annotated, Optional

from pydantic import Field, create_model

from lacertus.core.measuring.rep_facts import MAY_BE_EMPTY, KeptRepFacts
from lacertus.core.model import Record

_Frame = Annotated[int, Field(ge=0, le=10_000_000)]


class RepCut(KeptRepFacts):
    """First and last frame of a rep, how it was done, whom it shows and what it belongs to."""

    first_frame: _Frame
    last_frame: _Frame
    linked_to: uuid.UUID | None = Field(default=None, description="The rep of the same cut that this one belongs to")
    student_id: uuid.UUID | None = Field(default=None, description="Who performs it, where that is not the clip's student")
    partner_student_id: uuid.UUID | None = Field(default=None, description="Who the partner is, where that is known")


TO_BE_EMPTIED = MAY_BE_EMPTY | {"linked_to", "student_id", "partner_student_id"}
"""What a coach may take back; of the rest null says “leave it”."""

_Changes = create_model(
    "_Changes",
    __base__=Record,
    __module__=__name__,
    **{  # type: ignore[call-overload]
        name: (
            Optional[field.annotation],  # noqa: UP045 (mypy takes no operator on a type that it cannot know)
            Field(default=None, description=field.description),
        )
        for name, field in RepCut.model_fields.items()
    },
)


class RepChanges(_Changes):
    """What changes of a rep; what is left out stays as it is."""

    student_id: uuid.UUID | None = None
    partner_student_id: uuid.UUID | None = None
    linked_to: uuid.UUID | None = None

    @property
    def given(self) -> dict[str, object]:
        """The fields that change, by name."""
        said = {name: getattr(self, name) for name in self.model_fields_set}
        return {name: value for name, value in said.items() if value is not None or name in TO_BE_EMPTIED}
