"""Columns of JSON that hold records of ours: written from a record, read as one, checked both times."""

from __future__ import annotations

from functools import cached_property
from typing import Any, Literal

from pydantic import TypeAdapter
from sqlalchemy import Dialect
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.types import TypeDecorator


class Json(TypeDecorator[Any]):
    """A column of JSON that holds a record, or a collection of records.

    Args:
        name: tells this kind from others where SQLAlchemy keeps compiled statements.
        kind: the record's type, as Pydantic takes it; it lives with its owner.
        without: what is left out when it is written: nothing, what is as by default, or what is empty (None).

    A value that is no such record is refused with Pydantic's error before it reaches the database.
    """

    impl = JSONB(none_as_null=True)
    cache_ok = True

    def __init__(self, name: str, kind: Any, without: Literal["nothing", "defaults", "none"] = "nothing") -> None:
        super().__init__()
        self.name, self.without = name, without
        self.kind = kind

    @cached_property
    def adapter(self) -> TypeAdapter[Any]:
        return TypeAdapter(self.kind)

    def plain(self, value: Any) -> Any:
        """A record as JSON has it."""
        return self.adapter.dump_python(
            self.adapter.validate_python(value),
            mode="json",
            exclude_defaults=self.without == "defaults",
            exclude_none=self.without == "none",
        )

    def process_bind_param(self, value: Any, dialect: Dialect) -> Any:
        return None if value is None else self.plain(value)

    def process_result_value(self, value: Any, dialect: Dialect) -> Any:
        return None if value is None else self.adapter.validate_python(value)
