"""Who trains the eye: a coach or an assistant, or a student by their own page."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy import ColumnElement

from lacertus.store.tables import EyeAnswer, EyeCard


@dataclass(frozen=True, kw_only=True)
class Learner:
    """Somebody whose eye is trained: an account or a student of an academy, and never both."""

    academy: uuid.UUID
    account: uuid.UUID | None = None
    student: uuid.UUID | None = None

    def __post_init__(self) -> None:
        if (self.account is None) == (self.student is None):
            raise ValueError("a learner is an account or a student")

    @property
    def columns(self) -> dict[str, uuid.UUID | None]:
        """Whose a new row is."""
        return {"academy_id": self.academy, "account_id": self.account, "student_id": self.student}

    def own(self, table: type[EyeAnswer] | type[EyeCard]) -> ColumnElement[bool]:
        """Which rows are this learner's."""
        if self.account is not None:
            return table.account_id == self.account
        return table.student_id == self.student

    def others(self) -> tuple[ColumnElement[bool], ...]:
        """Which answers are those of the academy's others: coaches beside coaches, students beside students."""
        who, own = (EyeAnswer.account_id, self.account) if self.account is not None else (EyeAnswer.student_id, self.student)
        return EyeAnswer.academy_id == self.academy, who.is_not(None), who != own
