"""Rep files by property: what goes out of a review comes back into another one the same."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.reference import FrameOfReference
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.transfer import open_formats, rep_files
from tests.halls import Hall
from tests.outputs.bodies import BODY, FRAMES, SIZE

EVENTS = st.dictionaries(
    st.sampled_from(["foot_off", "knee_top", "full_reach", "folded", "foot_down"]),
    st.lists(st.integers(10, 90), max_size=2, unique=True).map(sorted),
)
SEEN = st.dictionaries(st.sampled_from(["hands_up", "toes_back"]), st.fixed_dictionaries({"coach": st.booleans()}))
REPS = st.fixed_dictionaries(
    {
        "side": st.sampled_from(["left", "right"]),
        "heading": st.sampled_from(["left", "right"]),
        "view": st.sampled_from(["side", "front", "angle"]),
        "partner": st.sampled_from(["person", "none", "bag"]),
        "pace": st.sampled_from(["slow", "full"]),
        "rung": st.none() | st.just("solo"),
        "outcome": st.none() | st.sampled_from(["completed", "blocked"]),
        "purpose": st.sampled_from(["attempt", "drill"]),
        "events": EVENTS,
        "seen": SEEN,
        "bodies": st.dictionaries(st.sampled_from(["performer", "partner"]), BODY, min_size=1),
        "upright": st.fixed_dictionaries({"deg": st.floats(-20, 20), "u": st.floats(0.1, 3)}),
        "centimetres_per_pixel": st.none() | st.floats(0.05, 2),
    }
)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(REPS)
def test_a_rep_file_comes_back_the_same(db: Session, where: Hall, rep: dict[str, Any]) -> None:
    def sent(review: uuid.UUID, data: Any) -> dict[str, Any]:
        found = open_formats.bring_rep(db, where.academy, review, data)
        return open_formats.rep_json(db, where.academy, found.reps[-1].id)

    bodies = {body: data.model_dump(mode="json") for body, data in rep["bodies"].items()}
    data = rep | {"lacertus_rep": 1, "technique": "front-kick", "size": list(SIZE), "range": [5, 95], "bodies": bodies}
    data["pts_s"] = [f / 30 for f in range(FRAMES)]
    first = rep_files.bring_in(db, where.academy, where.student, "one", date(2026, 5, 4), [read_rep(data)])
    once = open_formats.rep_json(db, where.academy, first.reps[0].id)
    for key in ("side", "heading", "view", "partner", "pace", "rung", "outcome", "purpose", "events", "seen"):
        assert once[key] == data[key]
    for body, told in bodies.items():
        assert once["bodies"][body]["landmarks"] == told["landmarks"]
    # An empty review of the same clip: the file brings its frame of reference and heights.
    review = loading.load(db, where.academy, first.id)
    reviewing.delete_rep(db, where.academy, review.reps[0].id)
    loading.load(db, where.academy, first.id).reference = FrameOfReference()
    db.flush()
    assert sent(first.id, once) == once
    db.rollback()
