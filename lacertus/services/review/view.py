"""A review as one request sees it: loaded once, judged once, one scene a rep."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from sqlalchemy import select
from sqlalchemy.orm import Session as DbSession
from sqlalchemy.orm import object_session

from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.progress.fix_first import Fix, Group, as_chosen, fix_first_of
from lacertus.core.progress.ledger import Session
from lacertus.core.review.asking import asked_events
from lacertus.core.review.choice import RepChoice, choice_of, with_choice
from lacertus.core.review.guiding.heights import OfferedHeight
from lacertus.core.review.guiding.left import Left, left_in
from lacertus.core.review.judge import Need, needed_points
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.overrule import overruled
from lacertus.core.review.proposals import MarkedRep, Proposed, proposed_events
from lacertus.core.review.reactions import Reacted, reacted
from lacertus.core.review.views.tied import View, judge_views
from lacertus.core.techniques.definition import Technique
from lacertus.services.progress import ledger
from lacertus.services.review import heights, tied
from lacertus.services.review.beside import beside
from lacertus.services.review.kept import held
from lacertus.services.review.kept.at_hand import at_hand
from lacertus.services.review.kept.fingerprint import digest_of, fingerprint_of
from lacertus.services.review.kept.newest import Newest
from lacertus.services.review.kept.surroundings import Beside
from lacertus.services.review.loading import given_verdicts, onsets_of, rep_file
from lacertus.services.techniques import adaptations, catalogue, starts
from lacertus.store.tables import JobRow, MadeStart, RepRow, Review, SheetAnswer, TechniqueVersion

MOST_KNOWN = 600
"""So many reps are kept as they were judged: ten coaches with a review of many reps each."""


@dataclass(frozen=True, kw_only=True)
class JudgedRep:
    """A rep of a review with what the core says of it, by the technique as it is asked of its performer."""

    rep: RepRow
    technique: Technique
    file: RepFile = field(repr=False)
    judgements: tuple[Judgement, ...]
    needs: tuple[Need, ...]
    reacted: tuple[Reacted, ...] = ()
    """Every time that the partner did something, and what was done about it."""
    asks: tuple[str, ...] = ()
    """The events that are to be marked in it."""
    choice: RepChoice | None = None
    """Whether the technique was open when it was tried."""
    left: tuple[Left, ...] = ()
    """What is left to be done in it, in the order of work."""
    proposed: tuple[Proposed, ...] = ()
    built: Scene | None = field(default=None, repr=False)
    """The scene that it was judged in just now, where it was."""

    @property
    def counts(self) -> bool:
        """Demonstrations never count, nor does a rep that is marked a second time."""
        return self.rep.purpose != "demonstration" and self.rep.blind_of is None

    @cached_property
    def scene(self) -> Scene:
        """The rep's points and frames, as judge and marks read them."""
        return self.built or Scene(self.file, self.technique.edges)

    def judgement(self, checkpoint: str) -> Judgement | None:
        return next((found for found in self.judgements if found.id == checkpoint), None)


@dataclass(frozen=True, kw_only=True)
class Fixes:
    """What is to be fixed first, and what the rules recommend where the coach chose otherwise."""

    first: tuple[Fix, ...]
    recommended: tuple[Fix, ...]


class ReviewView:
    """A review with everything that is worked out of it. Made by `view_of`; each part is worked out when it is first asked for."""

    def __init__(self, db: DbSession, review: Review) -> None:
        self._db, self.review = db, review
        self._sessions: dict[str, dict[str, list[Session]]] = {}

    @cached_property
    def reps(self) -> tuple[JudgedRep, ...]:
        """Every rep with its judgements, in clip order, each as it is asked of its student."""
        marked = _marked_in(self.review)
        other = tied.others(self.review) if self._beside.tied else []
        return tuple(
            _judged(self.review, rep, technique, tied.views_of(other, self.review, rep), marked) for rep, technique in self.asked
        )

    @cached_property
    def _beside(self) -> Beside:
        return beside(self._db, self.review)

    @cached_property
    def asked(self) -> tuple[tuple[RepRow, Technique], ...]:
        """The reps, each with its technique as it was asked of the performer when the review was finished, or is now."""
        review = self.review
        performers = {rep.id: rep.student_id or review.student_id for rep in review.reps}
        rows = adaptations.of_students(self._db, tuple(set(performers.values()))) if self._beside.adapted else {}
        asked = [(rep, self.definition(rep.technique_version), rows.get(performers[rep.id], [])) for rep in review.reps]
        return tuple((rep, adaptations.for_student(technique, own, review.finished_at)) for rep, technique, own in asked)

    @cached_property
    def starts(self) -> dict[str, list[MadeStart]]:
        """The academy's own starts of the techniques at hand: those offered, and those that a rep was done from."""
        if not self._beside.starts:
            return {}
        found = starts.made(self._db, self.review.academy_id, {rep.technique_version.technique for rep in self.review.reps})
        used = {rep.start for rep in self.review.reps}
        return {name: [row for row in rows if row.offered or row.name in used] for name, rows in found.items()}

    def definition(self, version: TechniqueVersion) -> Technique:
        """A version of a technique with the academy's own starts."""
        return starts.with_made(catalogue.definition(version), self.starts.get(version.technique, ()))

    def rep(self, rep_id: uuid.UUID) -> JudgedRep:
        """One rep of the review."""
        return next(entry for entry in self.reps if entry.rep.id == rep_id)

    @cached_property
    def versions(self) -> tuple[TechniqueVersion, ...]:
        """The versions of techniques that the reps are judged by."""
        return tuple({entry.rep.technique_version.id: entry.rep.technique_version for entry in self.reps}.values())

    @cached_property
    def techniques(self) -> tuple[tuple[Technique, int], ...]:
        """The techniques that the reps are judged by, each with its version."""
        return tuple((self.definition(version), version.version) for version in self.versions)

    @cached_property
    def fixes(self) -> Fixes:
        """At most two things to fix first, over the student's history, or as the coach chose; demonstrations never count."""
        return self.fixes_of(self.reps)

    def fixes_of(self, reps: Sequence[JudgedRep]) -> Fixes:
        """The same of some of its reps."""
        groups = self.groups_of(reps)
        recommended = fix_first_of(groups)
        choice = self.review.fix_choice
        return Fixes(first=recommended if choice is None else as_chosen(groups, choice), recommended=recommended)

    def groups_of(self, reps: Sequence[JudgedRep]) -> tuple[Group, ...]:
        """Those of the reps that count, by technique, with what the student's history says of it."""
        versions = {entry.rep.technique_version.id: entry.rep.technique_version for entry in reps}
        return tuple(self._group(version, reps) for version in versions.values())

    def _group(self, version: TechniqueVersion, reps: Sequence[JudgedRep]) -> Group:
        own = [entry for entry in reps if entry.rep.technique_version is version and entry.counts]
        # What the clip's own student keeps doing weighs; reps of others in the same clip are judged by themselves.
        mine = [entry.judgements for entry in own if entry.rep.student_id in (None, self.review.student_id)]
        past = ledger.with_reps(self._earlier(version.technique), mine, self.review.clip.filmed_on)
        return Group(technique=catalogue.definition(version), reps=[entry.judgements for entry in own], past=past)

    def _earlier(self, technique: str) -> dict[str, list[Session]]:
        """The student's sessions of a technique before this one, by checkpoint."""
        if technique not in self._sessions:
            review = self.review
            found = ledger.sessions_of(self._db, review.student_id, technique, review.clip.filmed_on, review.id)
            self._sessions[technique] = found
        return self._sessions[technique]

    @cached_property
    def heights_offered(self) -> list[OfferedHeight]:
        """Standing heights that can be taken over where the performer's is not known."""
        return heights.offered(self._db, self.review, [entry.file for entry in self.reps])

    @cached_property
    def revisions(self) -> int:
        """How often it was finished."""
        return self._beside.revisions

    @cached_property
    def said(self) -> list[SheetAnswer]:
        """What the student answered on its sheet, the newest first."""
        if not self._beside.said:
            return []
        own = select(SheetAnswer).where(SheetAnswer.review_id == self.review.id).order_by(SheetAnswer.created_at.desc())
        return list(self._db.scalars(own))


Work = Sequence[JobRow]
"""What was asked of the worker for a review."""


def work_on(db: DbSession, review_id: uuid.UUID) -> Work:
    """Work that was asked for on a review's clip, the newest first.

    It is asked for before the review is read: what ends while that is read would be told as done, without what it made.
    """
    own = select(JobRow).join(Review, Review.clip_id == JobRow.clip_id).where(Review.id == review_id)
    return tuple(db.scalars(own.order_by(JobRow.asked_at.desc()).execution_options(populate_existing=True)))


def view_of(review: Review) -> ReviewView:
    """A review with all that is worked out of it: the same one until something of it changes, so that it is judged once."""
    db = object_session(review)
    assert db is not None
    db.flush()
    return held.worked_out(db, review, lambda: ReviewView(db, review))


# --- judging ------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class _Known:
    """A rep as the core reads it, with what the core says of it."""

    file: RepFile
    judgements: tuple[Judgement, ...]
    needs: tuple[Need, ...]
    reacted: tuple[Reacted, ...]
    asks: tuple[str, ...]
    left: tuple[Left, ...]


known_reps: Newest[bytes, _Known] = Newest(MOST_KNOWN)
"""By rep and definition, as a rep may be looked at by a newer one too, with its fingerprint."""


def _judged(review: Review, rep: RepRow, technique: Technique, views: Sequence[View], marked: Sequence[_Marked]) -> JudgedRep:
    known, scene = _read(review, rep, technique, views) if views else _read_once(review, rep, technique)
    needs = known.needs if rep.blind_of is None else _placed_before(review, rep)
    entry = JudgedRep(
        rep=rep,
        technique=technique,
        file=known.file,
        judgements=known.judgements,
        needs=needs,
        reacted=known.reacted,
        asks=known.asks,
        left=known.left if rep.blind_of is None and review.finished_at is None else (),
        choice=choice_of(technique, known.judgements),
        built=scene,
    )
    if rep.blind_of is not None or review.finished_at is not None:
        return entry
    like = [*tied.marked(views, known.file), *_like(marked, rep)]
    return replace(
        entry, proposed=proposed_events(technique, known.file, like, onsets_of(review.clip), entry.scene), built=entry.scene
    )


def _read_once(review: Review, rep: RepRow, technique: Technique) -> tuple[_Known, Scene | None]:
    """As `_read`, and not again what was read just so before: a mark changes one rep of many."""
    fingerprint = fingerprint_of(review, rep, technique)
    owner = rep.id, digest_of(technique)
    known = known_reps.get(owner, fingerprint)
    if known is not None:
        return known, None
    known, scene = _read(review, rep, technique, ())
    known_reps.keep(owner, fingerprint, known)
    return known, scene


def _read(review: Review, rep: RepRow, technique: Technique, views: Sequence[View]) -> tuple[_Known, Scene]:
    file = rep_file(review, rep, is_stored=True)
    scene = Scene(file, technique.edges)
    with at_hand(scene, rep.id):
        judgements = with_choice(technique, overruled(judge_views(technique, file, views, scene), given_verdicts(rep)))
        needs, rows = needed_points(technique, file, scene), reacted(technique, file, scene)
    asks = asked_events(technique, file)
    left = left_in(technique, file, judgements, needs, asks)
    return _Known(file=file, judgements=judgements, needs=needs, reacted=rows, asks=asks, left=left), scene


def _placed_before(review: Review, rep: RepRow) -> tuple[Need, ...]:
    """What is placed again where a rep is marked blind: every point that was placed by hand the first time."""
    first = next(other for other in review.reps if other.id == rep.blind_of)
    placed = [point for point in first.points if point.by == "placed"]
    return tuple(Need(checkpoint="", body=p.body, landmark=p.landmark, frame=p.frame) for p in placed)


@dataclass(frozen=True, kw_only=True)
class _Marked:
    """A rep of which events are marked: where it has one, another one of the same technique may have it too."""

    rep: uuid.UUID
    version: uuid.UUID
    number: int
    told: MarkedRep


def _marked_in(review: Review) -> tuple[_Marked, ...]:
    return tuple(
        _Marked(
            rep=rep.id,
            version=rep.technique_version_id,
            number=number,
            told=MarkedRep(
                name=f"rep {number}",
                range=(rep.first_frame, rep.last_frame),
                events={mark.event: mark.frames[0] for mark in rep.events if mark.frames},
            ),
        )
        for number, rep in enumerate(review.reps, 1)
        if rep.blind_of is None and rep.events
    )


def _like(marked: Sequence[_Marked], rep: RepRow) -> list[MarkedRep]:
    """Other marked reps of the same technique, the nearest first."""
    first, own, version = rep.first_frame, rep.id, rep.technique_version_id
    alike = [(abs(one.told.range[0] - first), one.number, one.told) for one in marked if one.rep != own and one.version == version]
    return [told for _, _, told in sorted(alike, key=lambda entry: entry[:2])]
