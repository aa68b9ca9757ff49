"""Every message that is translated, as it stands in English; and bringing the message files up to date with them.

    python -m lacertus.local.messages

adds what a file lacks, with nothing for it, and drops what is said no more. What is translated stays.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.extract import extract
from babel.messages.pofile import read_po, write_po

from lacertus.core.eye.phrases import EyePhrase, PointPhrase
from lacertus.core.sheets.phrases import Phrase
from lacertus.library.cautions import CAUTIONS
from lacertus.outputs import sheet
from lacertus.outputs.languages import LANGUAGES, LOCALE
from lacertus.outputs.student_page import PURPOSES

TEMPLATES = ("sheet.html", "student.html")
UI = Path(__file__).parents[2] / "ui" / "src"
SAID_IN = ("lib/eye/*.svelte", "lib/eye/*.ts", "own/*.svelte")
"""Parts of the front end that students see too: what they say by `say` or `msg` is translated."""
_SAID = re.compile(r"\b(?:say|msg)\(\s*'((?:[^'\\]|\\.)*)'")
LINE = 120


def messages() -> tuple[str, ...]:
    """Every message once: those of the templates in their order, then those that stand in the code."""
    found: dict[str, None] = {}
    for name in TEMPLATES:
        with (sheet.TEMPLATES / name).open("rb") as file:
            for _, message, _, _ in extract("jinja2.ext:babel_extract", file, keywords={"_": None}):
                found[str(message)] = None
    found.update(dict.fromkeys(_said_in_the_front_end()))
    for text in (*Phrase, *EyePhrase, *PointPhrase, *CAUTIONS.values(), *PURPOSES.values(), sheet.NOT_A_DEVICE, sheet.REVISED):
        found[str(text)] = None
    return tuple(found)


def _said_in_the_front_end() -> Iterator[str]:
    for pattern in SAID_IN:
        for path in sorted(UI.glob(pattern)):
            if not path.name.endswith(".test.ts"):
                yield from (match.group(1) for match in _SAID.finditer(path.read_text(encoding="utf-8")))


def brought_up_to_date(path: Path, code: str) -> Catalog:
    """A message file with every message, and nothing for those that it lacks."""
    before = Catalog(locale=code)
    if path.is_file():
        with path.open("rb") as file:
            before = read_po(file, locale=code)
    made = Catalog(locale=code, project="Lacertus", fuzzy=False)
    for message in messages():
        known = before.get(message)
        made.add(message, known.string if known is not None else "")
    return made


def main() -> None:
    """Bring every message file up to date."""
    for code in LANGUAGES:
        if code != "en":
            made = brought_up_to_date(LOCALE / f"{code}.po", code)
            with (LOCALE / f"{code}.po").open("wb") as file:
                write_po(file, made, width=LINE, omit_header=False)


if __name__ == "__main__":
    main()
