"""Finished sessions of reps, weeks after a first day."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import rep_files
from lacertus.store.tables import Review
from tests.core.build import points, rep_data
from tests.halls import Hall

START = date(2026, 1, 5)


def session(db: Session, where: Hall, weeks: int, reps: list[dict[str, Any]]) -> Review:
    """A finished review, so many weeks after the start; each rep says whether the toes were drawn back, and how it was done."""
    body = {"performer": {"height_px": 500, "landmarks": points(sigma=None, ankle=(400.0, 400.0))}}
    files = [read_rep(rep_data(bodies=body, seen={"toes_back": {"coach": rep.pop("toes")}}) | rep) for rep in reps]
    review = rep_files.bring_in(db, where.academy, where.student, f"week {weeks}", START + timedelta(weeks=weeks), files)
    finishing.finish(db, where.academy, review.id)
    db.commit()
    return review
