"""The points of a rep as the core reads them, kept by their version: most changes of a rep leave its points as they are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import inspect, select
from sqlalchemy.orm import object_session

from lacertus.core.measuring.repfile import PointEntry
from lacertus.services.review.kept.newest import Newest
from lacertus.store.tables import PointRow, RepRow

Entries = Mapping[str, Mapping[str, tuple[PointEntry, ...]]]
"""By body and landmark, by frame."""
MOST_POINTS = 200_000
kept: Newest[int, tuple[int, Entries]] = Newest(MOST_POINTS, lambda found: found[0])
"""By rep, with the version of its points: how many there are, and they themselves."""

_OF_A_POINT = ("frame", "x", "y", "by", "hidden", "sigma", "shared", "grain")
_COLUMNS = tuple(getattr(PointRow, name) for name in ("body", "landmark", *_OF_A_POINT))
_POINTS = TypeAdapter(tuple[PointEntry, ...])


def entries_of(rep: RepRow, *, is_stored: bool) -> Entries:
    """The points of a rep, by their version where they are as the database has them; else they are read anew."""
    if not is_stored:
        return _read(rep)[1]
    known = kept.get(rep.id, rep.points_version)
    if known is None:
        known = _read(rep)
        kept.keep(rep.id, rep.points_version, known)
    return known[1]


def _read(rep: RepRow) -> tuple[int, Entries]:
    found: dict[str, dict[str, list[dict[str, Any]]]] = {}
    rows = _rows(rep)
    for body, landmark, *values in rows:
        found.setdefault(body, {}).setdefault(landmark, []).append(dict(zip(_OF_A_POINT, values, strict=True)))
    entries = {body: {name: _POINTS.validate_python(of) for name, of in marks.items()} for body, marks in found.items()}
    return len(rows), entries


def _rows(rep: RepRow) -> Sequence[Any]:
    """The rows of its points; plain ones where they are not at hand: hundreds of objects of the session take long to be made."""
    db = object_session(rep)
    if db is None or "points" not in inspect(rep).unloaded:
        return [tuple(getattr(point, name) for name in ("body", "landmark", *_OF_A_POINT)) for point in rep.points]
    db.flush()
    return db.connection().execute(select(*_COLUMNS).where(PointRow.rep_id == rep.id).order_by(PointRow.frame)).all()
