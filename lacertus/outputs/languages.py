"""The languages of sheets and of students' own pages: messages from standard message files, and days as people write them.

A message that a file lacks stands in English. docs/translating.md says how a language is added.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from functools import cache
from pathlib import Path

from babel.dates import format_date
from babel.messages.pofile import read_po

LOCALE = Path(__file__).parent / "locale"
LANGUAGES = {"en": "English", "de": "Deutsch", "es": "Español"}
"""Languages by their codes, each by the name that its speakers give it."""


@dataclass(frozen=True, kw_only=True)
class Language:
    """A language: its code, and what stands for each English message."""

    code: str
    messages: Mapping[str, str] = field(repr=False)

    def say(self, message: str) -> str:
        """A message in this language; in English where its file lacks it."""
        return self.messages.get(str(message), str(message))

    def day(self, iso: str | None) -> str:
        """A day (ISO) as it is written out; empty for none."""
        if not iso:
            return ""
        found = date.fromisoformat(iso)
        return f"{found.day} {found:%B %Y}" if self.code == "en" else format_date(found, "long", locale=self.code)


@cache
def language(code: str) -> Language:
    """A language by its code; English for one that there is no file of."""
    path = LOCALE / f"{code}.po"
    if code not in LANGUAGES or not path.is_file():
        return Language(code="en", messages={})
    with path.open("rb") as file:
        found = read_po(file, locale=code)
    return Language(code=code, messages={str(one.id): str(one.string) for one in found if one.id and one.string and not one.fuzzy})
