"""One side of a comparison: a rep of the academy, the other view of it, or the studio's move."""

from __future__ import annotations

import uuid
from dataclasses import dataclass, field
from typing import Literal, cast

from sqlalchemy.orm import Session

from lacertus.core.compare.differences import Side
from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import Side as BodySide
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.core.techniques.definition import Technique
from lacertus.services.compare import choices
from lacertus.services.errors import NotFound
from lacertus.services.review import loading, tied
from lacertus.services.review.view import view_of
from lacertus.services.techniques import moving
from lacertus.store.tables import Clip, RepRow, Review, Student

MARGIN_S = 0.5
"""So much of the film before and after a rep is shown with it, seconds of reality."""


@dataclass(frozen=True, kw_only=True)
class LoadedSide:
    """A side with its film and what is known of its rep. `side` is None for a view of which no rep was cut."""

    key: str
    kind: Literal["rep", "view", "studio"]
    title: str
    technique: Technique
    clip: Clip | None
    rep: RepRow | None
    side: Side | None = field(repr=False)
    student: uuid.UUID | None = None
    tie: tuple[int, int] | None = None
    """Of a view: a frame of the leading clip and the one of this clip that shows the same instant."""

    @property
    def real_s(self) -> tuple[float, ...]:
        """The real time of each frame of the clip, seconds."""
        if self.clip is not None:
            return tied.time_base(self.clip).real_s
        assert self.side is not None
        return self.side.scene.time.real_s

    @property
    def range(self) -> tuple[int, int]:
        """First and last frame of the rep."""
        if self.side is not None:
            return self.side.scene.rep.range
        assert self.clip is not None
        return 0, len(self.clip.pts_s or ()) - 1


def load(db: Session, academy: uuid.UUID, key: str, lead: LoadedSide | None) -> LoadedSide:
    """A side by its key: `rep.ID`, `view.CLIP` (of the leading rep) or `studio.left` / `studio.right`.

    Raises:
        BadInput: no such key, or the first side is a view or the studio's.
        NotFound: not in this academy, or of somebody who did not agree to be shown.
    """
    kind, _, name = key.partition(".")
    if kind == "rep":
        return _rep(db, academy, key, _id(name), lead)
    if lead is None or lead.rep is None or lead.clip is None:
        raise BadInput("the first of a comparison is a rep; put the studio’s move or another view beside it")
    if kind == "view":
        return _view(db, academy, key, _id(name), lead)
    if kind == "studio" and name in ("left", "right"):
        return _studio(key, cast(BodySide, name), lead)
    raise BadInput(f"“{key[:60]}” is nothing that can be compared")


def _id(text: str) -> uuid.UUID:
    try:
        return uuid.UUID(text)
    except ValueError:
        raise BadInput(f"“{text[:60]}” is no rep and no clip") from None


def _rep(db: Session, academy: uuid.UUID, key: str, rep_id: uuid.UUID, lead: LoadedSide | None) -> LoadedSide:
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    entry = view_of(review).rep(rep_id)
    student = db.get_one(Student, entry.rep.student_id or review.student_id)
    if lead is not None:
        _check_fits(db, lead, entry.technique, student, review)
    side = Side(technique=entry.technique, scene=entry.scene, judged=entry.judgements, clip=str(review.clip_id))
    reps = [one.id for one in review.reps if one.blind_of is None]
    number = f", rep {reps.index(rep_id) + 1}" if len(reps) > 1 and rep_id in reps else ""
    return LoadedSide(
        key=key, kind="rep", title=f"{student.name}{number}", technique=entry.technique, clip=review.clip, rep=entry.rep, side=side,
        student=student.id,
    )  # fmt: skip


def _check_fits(db: Session, lead: LoadedSide, technique: Technique, student: Student, review: Review) -> None:
    if technique.id != lead.technique.id:
        raise BadInput(f"compare reps of one technique: the first is {lead.technique.names.main}, this is {technique.names.main}")
    if student.id != lead.student and not choices.may_be_shown(db, student):
        raise NotFound(f"{student.name} has not agreed to be shown beside others.")


def _view(db: Session, academy: uuid.UUID, key: str, clip_id: uuid.UUID, lead: LoadedSide) -> LoadedSide:
    assert lead.clip is not None
    found = next(((tie, clip) for tie, clip in tied.ties_of(db, lead.clip.id) if clip.id == clip_id), None)
    if found is None:
        raise NotFound("There is no such second view of this clip.")
    tie, clip = found
    return LoadedSide(
        key=key, kind="view", title=f"{lead.title}, second view", technique=lead.technique, clip=clip, rep=None, side=None,
        student=lead.student, tie=(tie.frame, tie.other_frame),
    )  # fmt: skip


def _studio(key: str, side: BodySide, lead: LoadedSide) -> LoadedSide:
    assert lead.rep is not None
    file = moving.rep_of(lead.technique, side, lead.rep.options or {})
    scene = Scene(file, lead.technique.edges)
    judged = judge_rep(lead.technique, file, scene)
    own = Side(technique=lead.technique, scene=scene, judged=judged, clip="studio")
    return LoadedSide(key=key, kind="studio", title="The studio’s figure", technique=lead.technique, clip=None, rep=None, side=own)
