"""The page on which a student trains the eye: as the front end was built, with whose it is and its words in their language."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from jinja2.utils import htmlsafe_json_dumps
from markupsafe import escape

from lacertus.outputs.languages import Language

TOLD = '<script type="application/json" id="told">'


class Trained(Protocol):
    """Whose page it is, in which language, and which techniques the student works on."""

    @property
    def student(self) -> str: ...
    @property
    def academy(self) -> str: ...
    @property
    def language(self) -> Language: ...
    @property
    def own(self) -> Sequence[str]: ...


def page(built: str, base: str, trained: Trained) -> str:
    """The page. `built` is the HTML that the front end was built to, `base` the path of the student's own page."""
    told = {
        "base": base,
        "student": trained.student,
        "academy": trained.academy,
        "own": list(trained.own),
        "messages": dict(trained.language.messages),
    }
    named = built.replace("<title>Lacertus</title>", f"<title>{escape(trained.student)} · {escape(trained.academy)}</title>")
    spoken = named.replace('<html lang="en"', f'<html lang="{trained.language.code}"')
    return spoken.replace(TOLD, f"{TOLD}{htmlsafe_json_dumps(told)}")
