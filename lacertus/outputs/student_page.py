"""A student's own page as HTML, and what a phone needs to install it."""

from __future__ import annotations

import uuid
from typing import Any, Protocol

from lacertus.outputs.languages import Language
from lacertus.outputs.sheet import NOT_A_DEVICE, PictureAddress, sentence, templates
from lacertus.outputs.svg import svg_of

SCRIPT, WORKER, ICON = "/assets/own.js", "/assets/own-worker.js", "/own-icon.png"
PURPOSES = {
    "filming": "Being filmed, so that a coach can look at it",
    "sharing": "My pictures may stand beside the corrections of others",
    "training": "Clips that show me may train the eye of others in this academy",
}
"""What is agreed to, in words of the page."""


class Shown(Protocol):
    """What a page shows, in which language; the template reads the rest of it."""

    @property
    def language(self) -> Language: ...


def page(
    shown: Shown, base: str, address: PictureAddress, film: PictureAddress, font: str = "", problem: str = "", sent: bool = False
) -> str:
    """The page. `address` says where a picture is, `film` where its film is (empty: there is none); `base` is the page's own path.

    `problem` tells what could not be sent, `sent` that something was.
    """
    say = shown.language.say
    return (
        templates()
        .get_template("student.html")
        .render(
            _=say,
            page=shown,
            base=base,
            font=font,
            problem=problem,
            sent=sent,
            day=shown.language.day,
            sentence=sentence,
            key=lambda: str(uuid.uuid4()),
            address=address,
            film=lambda picture: film(picture) if picture.film and address(picture) else "",
            drawn=lambda picture: svg_of(picture.shapes, picture.width, picture.height, address(picture), picture.caption),
            purposes=PURPOSES,
            not_a_device=say(NOT_A_DEVICE),
            script=SCRIPT,
            icon=ICON,
        )
    )


def manifest(student: str, academy: str, base: str, language: str) -> dict[str, Any]:
    """The page as an application that a phone can install (W3C Web Application Manifest)."""
    return {
        "name": f"{student} · {academy}",
        "short_name": academy[:12],
        "lang": language,
        "start_url": base,
        "scope": base,
        "display": "standalone",
        "background_color": "#F6F2E9",
        "theme_color": "#2A3F6B",
        "icons": [{"src": ICON, "sizes": "512x512", "type": "image/png", "purpose": "any maskable"}],
    }
