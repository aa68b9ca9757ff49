"""The sheet's page and PDF with the pictures that are stored."""

from __future__ import annotations

import hashlib
import uuid
from concurrent.futures import Future
from dataclasses import dataclass
from pathlib import Path

from lacertus.core.sheets.sheet import Picture, Sheet
from lacertus.outputs import press
from lacertus.outputs import sheet as outputs
from lacertus.services.corrections import examples
from lacertus.settings import ui_folder
from lacertus.store.media import NoMedia, media, paper_prefix, still_key
from lacertus.store.tables import Review


def picture_key(review: Review, picture: Picture) -> str | None:
    """Where a sheet's picture is stored; None where it is not there (any more)."""
    correction = next((c for c in review.corrections if str(c.id) == picture.correction), None)
    if correction is None:
        return None
    if picture.of == "still":
        key = still_key(review.clip_id, correction.id) if correction.has_still else None
    else:
        key = examples.key_of(correction)
    return key if key is not None and _there(key) else None


def _there(key: str) -> bool:
    try:
        return media().size(key) > 0
    except NoMedia:
        return False


def filled(review: Review, sheet: Sheet) -> Sheet:
    """The sheet with what is drawn on the pictures beside its corrections: the worker may have drawn them after it was finished."""
    example_of = {str(c.id): c.example for c in review.corrections if c.example is not None and c.example.ready}

    def told(picture: Picture) -> Picture:
        found = example_of.get(picture.correction) if picture.of == "beside" else None
        if found is None:
            return picture
        size = {"width": found.width or picture.width, "height": found.height or picture.height}
        return picture.model_copy(update={**size, "shapes": found.shapes, "film": found.film})

    fixes = [fix.model_copy(update={"pictures": tuple(told(picture) for picture in fix.pictures)}) for fix in sheet.fixes]
    return sheet.model_copy(update={"fixes": tuple(fixes)})


def pictures_of(sheet: Sheet) -> list[Picture]:
    return [picture for fix in sheet.fixes for picture in fix.pictures]


@dataclass(frozen=True, kw_only=True)
class Paper:
    """A sheet that is wanted as PDF: where it is kept, and what it is made from where it is not there yet."""

    clip: uuid.UUID
    mark: str
    sheet: Sheet
    pictures: dict[tuple[str, str], bytes]

    @property
    def key(self) -> str:
        return f"{paper_prefix(self.clip)}/{self.mark}.pdf"


def paper_of(review: Review, sheet: Sheet) -> Paper:
    """The sheet of a review as it would be printed now. Its mark is another as soon as anything on it is."""
    store = media()
    sheet = filled(review, sheet)
    found = {}
    for picture in pictures_of(sheet):
        key = picture_key(review, picture)
        if key is not None:
            found[picture.correction, str(picture.of)] = b"".join(store.read(key, 0, store.size(key)))
    mark = hashlib.sha256(outputs.page(sheet, lambda picture: f"{picture.correction}/{picture.of}").encode())
    for name, content in sorted(found.items()):
        mark.update(repr(name).encode() + content)
    return Paper(clip=review.clip_id, mark=mark.hexdigest()[:32], sheet=sheet, pictures=found)


def kept(paper: Paper) -> bytes | None:
    """The PDF, where it was made before."""
    store = media()
    try:
        return b"".join(store.read(paper.key, 0, store.size(paper.key)))
    except NoMedia:
        return None


def keep(paper: Paper, pdf: bytes) -> None:
    """Keep a PDF in place of what was kept of this review before: only the newest is ever shown."""
    store = media()
    old = [key for key in store.files(paper_prefix(paper.clip)) if key != paper.key]
    store.write(paper.key, pdf)
    for key in old:
        store.delete(key)


def printing(paper: Paper) -> Future[bytes]:
    """Have a PDF made, in a process of its own."""
    return press.printed(paper.sheet, paper.pictures, font_file())


def pdf_of(review: Review, sheet: Sheet) -> bytes:
    """The sheet of a review as a PDF; waits until it is made."""
    paper = paper_of(review, sheet)
    found = kept(paper)
    if found is None:
        found = printing(paper).result()
        keep(paper, found)
    return found


def font_file() -> Path | None:
    """The front end's own face, where it is built; else the system's is used."""
    return next(iter(sorted((ui_folder() / "assets").glob("archivo-latin-wght-normal-*.woff2"))), None)


def font_address() -> str:
    found = font_file()
    return f"/assets/{found.name}" if found else ""
