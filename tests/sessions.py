"""Sessions that a student has behind him."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import rep_files
from tests.core.build import points, rep_data
from tests.halls import Hall

TODAY = date.today()


def bring(db: Session, where: Hall, weeks_ago: int, reps: list[dict[str, Any]], *, finish: bool = True) -> None:
    """A review of front kicks without a film; each rep says whether the toes were drawn back, and how it was done."""
    body = {"performer": {"height_px": 500, "landmarks": points(sigma=None, ankle=(400.0, 400.0))}}
    # Each begins a frame later than the one before, so that they have one order everywhere.
    files = [
        read_rep(rep_data(bodies=body, seen={"toes_back": {"coach": rep["toes"]}}, range=[12 + number, 96]) | rep["how"])
        for number, rep in enumerate(reps)
    ]
    name = f"kicks of {weeks_ago} weeks ago"
    review = rep_files.bring_in(db, where.academy, where.student, name, TODAY - timedelta(weeks=weeks_ago), files)
    if finish:
        finishing.finish(db, where.academy, review.id)
    db.commit()
