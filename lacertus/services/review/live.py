"""Measuring while a point is dragged: a rep held in memory, judged anew for each place that the point is dragged to."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from functools import cached_property

from sqlalchemy.orm import Session

from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.repfile import Body, PointEntry, RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.overrule import Overrule, overruled
from lacertus.core.review.views.tied import Solved, View, judge_moved, judge_solved, judge_views, solved
from lacertus.core.techniques.definition import Technique
from lacertus.services.errors import NotFound
from lacertus.services.review import loading, tied
from lacertus.services.review import review as reviewing
from lacertus.services.review.kept import at_hand
from lacertus.services.review.review import Spot
from lacertus.services.review.view import view_of

SMALL_BYTES = 700_000
"""Solved bodies of this size are some hundred and twenty landmarks in a frame, and take about 20 ms to put in space anew on a desk
computer: 18 ms for 0.6 MB, 37–41 for 1.0–1.3, 51–92 for 2.4–5.0 (docs/benchmarks.md)."""


@dataclass(frozen=True, kw_only=True)
class LiveRep:
    """A rep as it is stored, with its technique as it is asked of the performer and the coach's own verdicts."""

    technique: Technique
    file: RepFile
    given: dict[str, Overrule]
    views: tuple[View, ...] = ()

    def with_point(self, spot: Spot, x: float, y: float) -> tuple[Judgement, ...]:
        """The judgements if one point lay elsewhere; nothing is stored.

        Raises:
            BadInput: there is no such body, landmark or frame.
        """
        reviewing.check_names(spot, len(self.file.pts_s))
        name: BodyName = "performer" if spot.body == "performer" else "partner"
        body = self.file.bodies.get(name, Body())
        point = PointEntry(frame=spot.frame, x=x, y=y)
        others = tuple(entry for entry in body.landmarks.get(spot.landmark, ()) if entry.frame != spot.frame)
        landmarks = body.landmarks | {spot.landmark: tuple(sorted((*others, point), key=lambda entry: entry.frame))}
        # Only the one point is new, and it is checked: validating the whole file again would take longer than judging.
        moved = self.file.model_copy(update={"bodies": self.file.bodies | {name: body.model_copy(update={"landmarks": landmarks})}})
        if self.is_small:
            scene = Scene(moved, self.technique.edges)
            found = judge_views(self.technique, moved, self.views, scene)
            # It and its bodies hold each other: apart they go at once, and need not be looked for as garbage.
            scene.give_up()
            return overruled(found, self.given)
        return overruled(judge_moved(self.technique, moved, self.views, self.solved, name, spot.landmark), self.given)

    @cached_property
    def is_small(self) -> bool:
        """Whether the rep is put in space anew within the live budget, so that a dropped point is read just as a dragged one."""
        space = self.solved.scene.space
        return not self.views and (space is None or space.size_bytes <= SMALL_BYTES)

    @cached_property
    def solved(self) -> Solved:
        """The rep in space as its stored points tell: it is not solved anew for every place of a dragged point."""
        scene = Scene(self.file, self.technique.edges)
        at_hand.take(scene)
        known = solved(self.technique, self.file, self.views, scene)
        judge_solved(self.technique, self.file, self.views, known)
        return known


def live_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> LiveRep:
    """A rep to be measured live; raises NotFound where it is not in this academy."""
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    for rep, technique in view_of(review).asked:
        if rep.id == rep_id:
            return LiveRep(
                technique=technique,
                file=loading.rep_file(review, rep),
                given=loading.given_verdicts(rep),
                views=tuple(tied.views_of(tied.others(review), review, rep)),
            )
    raise NotFound("There is no such rep in your academy.")
