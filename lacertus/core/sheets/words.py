"""What the coach writes for a sheet."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated

from pydantic import Field, ValidationError

from lacertus.core import bounds
from lacertus.core.errors import BadInput
from lacertus.core.model import Record
from lacertus.core.texts import checked_text

LONGEST = 2000
_Text = Annotated[str, Field(max_length=2 * LONGEST)]


class SheetWords(Record):
    """What was good, the answer to the student's question, an opening note, and when the next clip is due (ISO, or empty)."""

    good: _Text = ""
    answer: _Text = ""
    note: _Text = ""
    next_on: bounds.IsoDayOrNone = ""


def read_words(given: Mapping[str, str]) -> SheetWords:
    """The coach's words for a sheet, by the names of `SheetWords`; what is left out is empty.

    Raises:
        BadInput: a text is too long or cannot be shown, or the day is no day.
    """
    texts = {name: given.get(name, "").strip() for name in ("good", "answer", "note")}
    shown = {name: checked_text(text, "the text", LONGEST) if text else "" for name, text in texts.items()}
    day = given.get("next_on", "").strip()
    try:
        return SheetWords(**shown, next_on=day)
    except ValidationError as error:
        raise BadInput(f"“{day}” is no day; write it like 2026-05-04") from error
