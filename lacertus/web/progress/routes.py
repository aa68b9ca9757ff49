"""A student's progress: what to fix first over the whole history, before and after, notes."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Query

from lacertus.services.classes import floor
from lacertus.services.corrections import before_after
from lacertus.services.people import notes
from lacertus.services.progress import fix_first
from lacertus.services.progress.fix_first import FixFirstPage
from lacertus.services.techniques import catalogue
from lacertus.web.progress import schemas as p
from lacertus.web.session import Db, SignedIn

router = APIRouter(tags=["progress"])


def _fix_first(db: Db, academy: uuid.UUID, student: uuid.UUID, page: FixFirstPage) -> p.FixFirstPageOut:
    seen = floor.seen_lately(db, student, datetime.now(UTC) - timedelta(days=floor.SEEN_DAYS))
    known = catalogue.known(db, academy, {one.technique for one in (*page.first, *page.recommended)})

    def out(one: object) -> p.LastingFixOut:
        own = {name: getattr(one, name) for name in p.LastingFixOut.model_fields if hasattr(one, name)}
        more = {
            "technique_name": known[own["technique"]].names.main,
            "seen_on_floor": seen.get((own["technique"], own["checkpoint"]), 0),
        }
        given: p.LastingFixOut = p.LastingFixOut.model_validate(own | more)
        return given

    return p.FixFirstPageOut(
        first=[out(one) for one in page.first],
        recommended=[out(one) for one in page.recommended],
        links=[p.LinkedOut.model_validate(link) for link in page.links],
        chosen_on=page.chosen_on,
    )


@router.get("/students/{student_id}/fix-first")
def read_fix_first(student_id: uuid.UUID, coach: SignedIn, db: Db) -> p.FixFirstPageOut:
    """What to fix first over the whole history, and which fault leads to which."""
    return _fix_first(db, coach.academy_id, student_id, fix_first.page(db, coach.academy_id, student_id))


@router.put("/students/{student_id}/fix-first")
def choose_fix_first(student_id: uuid.UUID, form: p.FixFirstIn, coach: SignedIn, db: Db) -> p.FixFirstPageOut:
    """Remember what the coach wants to be fixed first; no choices go back to what is recommended."""
    page = fix_first.choose(db, coach.academy_id, student_id, form.choices, form.why, date.today())
    return _fix_first(db, coach.academy_id, student_id, page)


@router.get("/students/{student_id}/before-after")
def read_before_after(
    student_id: uuid.UUID,
    of: Annotated[str, Query(max_length=100)],
    fault: Annotated[str, Query(max_length=100)],
    coach: SignedIn,
    db: Db,
) -> p.BeforeAfterOut:
    """The same checkpoint in the first rep in which a fault of a technique (`of`) was made, and in a later one."""
    found = before_after.pictures(db, coach.academy_id, student_id, of, fault)
    if found is None:
        return p.BeforeAfterOut(before=None, after=None)
    before, after = found
    return p.BeforeAfterOut(before=p.PictureOut.model_validate(before), after=p.PictureOut.model_validate(after) if after else None)


@router.get("/students/{student_id}/notes")
def read_notes(student_id: uuid.UUID, coach: SignedIn, db: Db) -> list[p.NoteOut]:
    """What coaches noted about a student, the newest first."""
    rows = notes.notes(db, coach.academy_id, student_id)
    return [p.NoteOut(id=note.id, noted_on=note.noted_on, words=note.words, by=by) for note, by in rows]


@router.post("/students/{student_id}/notes", status_code=201)
def add_note(student_id: uuid.UUID, form: p.NoteIn, coach: SignedIn, db: Db) -> list[p.NoteOut]:
    notes.add(db, coach.academy_id, student_id, form.words, coach.id, date.today())
    return read_notes(student_id, coach, db)


@router.delete("/students/{student_id}/notes/{note_id}")
def remove_note(student_id: uuid.UUID, note_id: uuid.UUID, coach: SignedIn, db: Db) -> list[p.NoteOut]:
    notes.remove(db, coach.academy_id, student_id, note_id)
    return read_notes(student_id, coach, db)
