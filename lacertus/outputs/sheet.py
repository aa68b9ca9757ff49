"""The sheet as a page and as a PDF, from one template."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import jinja2

from lacertus.core.sheets.sheet import Picture, Sheet
from lacertus.outputs.languages import language
from lacertus.outputs.svg import svg_of

TEMPLATES = Path(__file__).parent / "templates"
MOST_PAGES = 2
NOT_A_DEVICE = "Lacertus measures pictures. It is no medical or safety device."

REVISED = "This sheet was revised; what stands here is the newest."

PictureAddress = Callable[[Picture], str]


@dataclass(frozen=True, kw_only=True)
class Answer:
    """What the student answered earlier, in words."""

    about: str
    said: str


@dataclass(frozen=True, kw_only=True)
class Compared:
    """A film of reps beside one another: its address, and the coach's words to it."""

    address: str
    words: str


@dataclass(frozen=True, kw_only=True)
class Live:
    """What the page has besides the paper: where answers go, the marked clip, films, the PDF, and what was answered."""

    answer_to: str = ""
    clip: str = ""
    captions: str = ""
    compared: Sequence[Compared] = ()
    pdf: str = ""
    answers: Sequence[Answer] = ()
    problem: str = ""
    revised: str = ""
    back: str = ""
    """The student's own page, where the sheet was opened from there."""


def page(
    sheet: Sheet,
    address: PictureAddress,
    font: str = "",
    live: Live | None = None,
    *,
    compact: bool = False,
    film: PictureAddress | None = None,
) -> str:
    """The sheet as HTML. `address` says where a picture is (empty: it is not there); without `live` it is for paper.

    `film` says where a picture's film is; without it none is shown.

    `compact` sets it smaller, with the first correction's pictures alone.
    """
    template = templates().get_template("sheet.html")
    tongue = language(sheet.language)
    return template.render(
        _=tongue.say,
        key=lambda: str(uuid.uuid4()),
        sheet=sheet,
        live=live,
        font=font,
        compact=compact,
        day=tongue.day,
        sentence=sentence,
        spoken=lambda key: key.replace("-", " "),
        drawn=lambda picture: svg_of(picture.shapes, picture.width, picture.height, address(picture), picture.caption),
        film=lambda picture: film(picture) if film is not None and picture.film else "",
        address=address,
        there=lambda picture: bool(address(picture)),
        not_a_device=tongue.say(NOT_A_DEVICE),
    )


def closed(message: str, font: str = "") -> str:
    """The page that a link which opens nothing shows."""
    return templates().get_template("closed.html").render(message=message, font=font)


def pdf(sheet: Sheet, pictures: Mapping[tuple[str, str], bytes], font: Path | None = None) -> bytes:
    """The sheet as a PDF of one or two A4 pages. Pictures are JPEGs by (correction, of); nothing is loaded from elsewhere."""
    # Imported late: it takes half a second, and most requests make no PDF.
    import weasyprint
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class Stored(URLFetcher):  # type: ignore[misc]
        """Gives the stored pictures and the face, and nothing else: no file and no network."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            kind, *name = url.removeprefix("sheet:///").split("/")
            if kind == "picture" and len(name) == 2:
                return URLFetcherResponse(url, pictures[name[0], name[1]], {"Content-Type": "image/jpeg"})
            if kind == "font" and font is not None:
                return URLFetcherResponse(url, font.read_bytes(), {"Content-Type": "font/woff2"})
            raise ValueError(f"the sheet loads nothing from elsewhere: {url}")

    def address(picture: Picture) -> str:
        there = (picture.correction, picture.of) in pictures
        return f"sheet:///picture/{picture.correction}/{picture.of}" if there else ""

    def set_in(compact: bool) -> Any:
        html = page(sheet, address, "sheet:///font/archivo" if font else "", compact=compact)
        return weasyprint.HTML(string=html, url_fetcher=Stored(), base_url="sheet:///").render()

    document = set_in(compact=False)
    if len(document.pages) > MOST_PAGES:
        document = set_in(compact=True)
    return bytes(document.write_pdf())


@cache
def templates() -> jinja2.Environment:
    """The pages of students, with everything that is put into them escaped."""
    return jinja2.Environment(
        loader=jinja2.FileSystemLoader(TEMPLATES),
        autoescape=True,
        undefined=jinja2.StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )


def sentence(text: str) -> str:
    """A text as a sentence: with a capital, and a full stop where it has none."""
    text = text.strip()
    return f"{text[:1].upper()}{text[1:]}{'' if text.endswith(('.', '?', '!')) else '.'}" if text else ""
