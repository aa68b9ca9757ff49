"""Which rows are a student's, and how a row stands in a file."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Any

from lacertus.services.progress.ledger import OF_REP
from lacertus.services.review.recording import OF_REACTION
from lacertus.store import tables as t
from lacertus.store.state import Json

VERSION = 2
"""Since 2 points, verdicts and revisions lie in entries of their own, so that no entry grows with the years."""
READ_VERSIONS = (1, 2)
NOT_KEPT = {"academy_id", "account_id", "grade_id", "lesson_id", "reading_since", "tracking", "marked", "has_still"}
"""Columns that belong to the site and not to the student, or that are made anew."""
ROWS: tuple[tuple[str, type[t.Base]], ...] = (
    ("adaptations", t.AdaptationRow),
    ("notes", t.Note),
    ("feelings", t.Feeling),
    ("decisions", t.RungDecision),
    ("clips", t.Clip),
    ("ties", t.ViewTie),
    ("reviews", t.Review),
    ("reps", t.RepRow),
    ("events", t.EventMark),
    ("points", t.PointRow),
    ("answers", t.Answer),
    ("overrules", t.OverruleRow),
    ("corrections", t.Correction),
    ("revisions", t.Revision),
    ("said", t.SheetAnswer),
    ("consents", t.ConsentRow),
    ("sent", t.InboxRow),
    ("prescriptions", t.Prescription),
    ("practice", t.PracticeLog),
    ("floor", t.FloorNote),
    ("layers", t.LayerWord),
    ("eye", t.EyeAnswer),
    ("judgements", t.JudgementRow),
    ("reacted", t.ReactedRow),
)


PARTS = {"points": "rep_id", "judgements": "rep_id", "reacted": "rep_id", "revisions": "review_id"}
"""Rows that lie in an entry for each rep or review that they hang on: there are too many of them for one."""


def part_name(name: str, owner: str) -> str:
    return f"{name}/{owner}.json"


def columns_of(model: type[t.Base]) -> list[Any]:
    """The columns of a table that are kept in a file."""
    gone = NOT_KEPT | ({"link_id"} if model is t.SheetAnswer else set())
    if model is t.RepRow:
        # The database gives the version anew. Who the partner was is another student's.
        gone = gone | {"points_version", "partner_student_id"}
    if model is t.InboxRow:
        # It makes a row one in its academy; in another academy it is another row.
        gone = gone | {"key"}
    if model is t.Prescription:
        # It may have been made from a review of others, and stands without it.
        gone = gone | {"review_id"}
    if model is t.EyeAnswer:
        # Films belong to the site; a question that was asked on one stands without it.
        gone = gone | {"take_id", "second_take_id"}
    if model is t.JudgementRow:
        # How a rep was done is told by the rep itself.
        gone = gone | {"id", *OF_REP}
    if model is t.ReactedRow:
        gone = gone | {"id", *OF_REACTION}
    return [column for column in model.__table__.columns if column.name not in gone]


_IN_FILES = {("correction", "example"): "beside", ("student", "fix_choice"): "focus"}
"""Columns that have another name in files than in the database, as they had when the format was made."""


def name_in_file(column: Any) -> str:
    return _IN_FILES.get((column.table.name, column.name), str(column.name))


def as_kept(row: t.Base) -> dict[str, Any]:
    """A row as it stands in a file."""
    return {name_in_file(column): _plain(column, getattr(row, column.name)) for column in columns_of(type(row))}


def _plain(column: Any, value: Any) -> Any:
    if isinstance(column.type, Json):
        return None if value is None else column.type.plain(value)
    if isinstance(value, uuid.UUID):
        return str(value)
    return value.isoformat() if isinstance(value, date | datetime) else value
