"""A comparison as a short film on the sheet: asked for, planned, and shown while everybody in it still agrees."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, selectinload

from lacertus.core.compare.film import FilmPlan, FilmSide, film_plan
from lacertus.core.compare.overlay import Laid
from lacertus.core.compare.skeletons import Skeleton
from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import Side as BodySide
from lacertus.core.techniques.definition import Technique
from lacertus.core.texts import checked_text
from lacertus.services.compare import choices, comparison
from lacertus.services.compare.comparison import ShownSide
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading
from lacertus.store import queue
from lacertus.store.media import Media, compared_key, media
from lacertus.store.queue import MAKE_COMPARED_FILM
from lacertus.store.tables import ComparedFilm, ComparedSide, JobRow, RepRow, Review, Student

MOST = 6
"""So many films a review has at most."""
LONGEST_WORDS = 200
SPEEDS = (0.25, 0.5, 1.0)


@dataclass(frozen=True, kw_only=True)
class FilmWish:
    """What a film is to show: two to four sides, the leading rep first; locked on an event, or stretched between them; beside one
    another, or the second over the first."""

    sides: tuple[str, ...]
    anchor: str
    stretched: bool = False
    speed: float = 0.5
    words: str = ""
    drawn: bool = False
    """With the bodies drawn over the pictures."""
    over: bool = False
    """The second side lies over the first; there are no others."""
    mirrored: bool = False
    """Beside the first, the others are turned as in a mirror."""


@dataclass(frozen=True, kw_only=True)
class StudioSide:
    """The studio's move as a side: drawn anew for the film."""

    technique: Technique
    side: BodySide
    options: dict[str, str]


@dataclass(frozen=True, kw_only=True)
class WantedSide:
    """A side of a film to be made: its clip, or the studio's move; what stands under it; and the bodies that are drawn, with the
    frame that they begin with."""

    clip: uuid.UUID | None
    studio: StudioSide | None
    title: str
    bodies: tuple[Skeleton, ...]
    first: int
    laid: Laid | None
    mirrored: bool


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """What the worker needs."""

    clip: uuid.UUID
    sides: tuple[WantedSide, ...]
    plan: FilmPlan
    words: str
    is_over: bool


@needs(Right.SHARE)
def ask(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, wish: FilmWish, account: uuid.UUID | None) -> ComparedFilm:
    """Ask for a film of a comparison; it stands on the sheet of the leading rep's clip once it is made.

    Raises:
        BadInput: sides that cannot be compared or laid over one another, one without film, a pace that is not offered, or a film
            too long.
        Conflict: the review has as many films as it may have, or is not finished.
        NotFound: a side is not there, or of somebody who did not agree to be shown.
    """
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    if review.finished_at is None:
        raise Conflict("A film goes onto the sheet: finish this review first. Nothing was stored.")
    if not wish.sides or wish.sides[0] != f"rep.{rep_id}":
        raise BadInput("the first side of the film is the rep that it is made for; nothing was stored")
    if wish.speed not in SPEEDS:
        raise BadInput("a film runs at a quarter, half, or the full pace; nothing was stored")
    words = checked_text(wish.words, "the words", LONGEST_WORDS) if wish.words.strip() else ""
    if len(of_review(db, review.id)) >= MOST:
        raise Conflict(f"A sheet has at most {MOST} films; delete one of them first. Nothing was stored.")
    queue.check_room(db, academy)
    found = comparison.compare(db, academy, wish.sides, wish.anchor)
    for side in found.sides:
        if side.loaded.clip is not None and not side.loaded.clip.has_film:
            raise BadInput(f"the film of “{side.loaded.title}” is not kept, so it cannot be filmed anew; nothing was stored")
    if wish.over:
        _check_over(found.sides)
    _plan(found.sides, wish.stretched, wish.speed)
    film = ComparedFilm(
        review_id=review.id, account_id=account, anchor=wish.anchor, stretched=wish.stretched, speed=wish.speed, words=words,
        drawn=wish.drawn, over=wish.over, mirrored=wish.mirrored, count=len(found.sides),
        sides=[
            ComparedSide(
                number=number,
                key=side.loaded.key,
                clip_id=side.loaded.clip.id if side.loaded.clip is not None else None,
                rep_id=side.loaded.rep.id if side.loaded.rep is not None else None,
            )
            for number, side in enumerate(found.sides)
        ],
    )  # fmt: skip
    db.add(film)
    db.flush()
    queue.ask(db, MAKE_COMPARED_FILM, film.id, review.clip_id)
    return film


def _check_over(sides: Sequence[ShownSide]) -> None:
    if len(sides) != 2:
        raise BadInput("two pictures lie over one another, not more; take the others away, or film them side by side")
    if sides[1].laid is None:
        raise BadInput(f"these pictures cannot be laid over one another. {sides[1].why_not_laid}")


def _plan(sides: Sequence[ShownSide], stretched: bool, speed: float) -> FilmPlan:
    if stretched and any(side.stretched_s is None for side in sides):
        raise BadInput("these cannot be stretched from event to event, as fewer than two events are marked in all")
    return film_plan(
        [
            FilmSide(first=side.first, clock_s=side.stretched_s if stretched and side.stretched_s is not None else side.clock_s)
            for side in sides
        ],
        speed,
    )


def wanted(db: Session, film_id: uuid.UUID) -> Wanted | None:
    """What the worker is to make; None where nobody wants it any more, or a side is gone."""
    film = db.scalar(select(ComparedFilm).where(ComparedFilm.id == film_id).options(selectinload(ComparedFilm.sides)))
    if film is None or len(film.sides) != film.count:
        return None
    review = db.get_one(Review, film.review_id)
    found = comparison.compare(db, review.academy_id, [side.key for side in film.sides], film.anchor)
    return Wanted(
        clip=review.clip_id,
        sides=tuple(_wanted_side(film, number, side) for number, side in enumerate(found.sides)),
        plan=_plan(found.sides, film.stretched, film.speed),
        words=film.words,
        is_over=film.over,
    )


def _wanted_side(film: ComparedFilm, number: int, side: ShownSide) -> WantedSide:
    loaded, studio = side.loaded, None
    on = loaded.clip.filmed_on if loaded.clip is not None else None
    if loaded.clip is None:
        assert loaded.side is not None
        rep = loaded.side.scene.rep
        studio = StudioSide(technique=loaded.technique, side=rep.side, options=dict(rep.options))
    # The studio's figure is drawn itself; laid over a film, its limbs alone are.
    drawn = film.over and number > 0 if loaded.clip is None else film.drawn
    return WantedSide(
        clip=loaded.clip.id if loaded.clip is not None else None,
        studio=studio,
        title=f"{loaded.title}, {on.day} {on:%B}" if on else loaded.title,
        bodies=side.skeletons if drawn else (),
        first=side.first,
        laid=side.laid if film.over and number > 0 else None,
        mirrored=film.mirrored and not film.over and number > 0,
    )


def note_made(db: Session, film_id: uuid.UUID, seconds: float) -> bool:
    """Say that a film is there; False where it was deleted meanwhile."""
    told = update(ComparedFilm).where(ComparedFilm.id == film_id).values(seconds=seconds).returning(ComparedFilm.id)
    return db.scalar(told) is not None


def of_review(db: Session, review_id: uuid.UUID) -> list[ComparedFilm]:
    """The films of a review all of whose sides are still there, the oldest first."""
    own = select(ComparedFilm).where(ComparedFilm.review_id == review_id).options(selectinload(ComparedFilm.sides))
    rows = db.scalars(own.order_by(ComparedFilm.created_at, ComparedFilm.id))
    return [film for film in rows if len(film.sides) == film.count]


@dataclass(frozen=True, kw_only=True)
class Film:
    """A film with how far its job is, and whether the student sees it."""

    film: ComparedFilm
    job: JobRow | None
    shown: bool


def films(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> list[Film]:
    """The films of a review, for its coach. Raises NotFound where there is no such review."""
    review = loading.load(db, academy, review_id)
    rows = of_review(db, review.id)
    asked = select(JobRow).where(JobRow.task == MAKE_COMPARED_FILM, JobRow.about.in_([film.id for film in rows]))
    jobs = {job.about: job for job in db.scalars(asked)}
    seen = {film.id for film in shown(db, review)}
    return [Film(film=film, job=jobs.get(film.id), shown=film.id in seen) for film in rows]


def shown(db: Session, review: Review) -> list[ComparedFilm]:
    """Those that the student sees: made, and everybody else in them still agrees to be shown."""
    return [film for film in of_review(db, review.id) if film.seconds is not None and _all_agree(db, review, film)]


def _all_agree(db: Session, review: Review, film: ComparedFilm) -> bool:
    reps = [side.rep_id for side in film.sides if side.rep_id is not None]
    performer = func.coalesce(RepRow.student_id, Review.student_id)
    lead = db.scalar(select(performer).join(Review, Review.id == RepRow.review_id).where(RepRow.id == reps[0]))
    others = (
        select(Student)
        .join(RepRow, RepRow.id.in_(reps))
        .join(Review, Review.id == RepRow.review_id)
        .where(Student.id == performer, Student.id != lead)
    )
    return lead == review.student_id and all(choices.may_be_shown(db, student) for student in db.scalars(others))


@needs(Right.SHARE)
def delete(db: Session, academy: uuid.UUID, film_id: uuid.UUID) -> uuid.UUID:
    """Delete a film; gives the review that it was made for. Raises NotFound where there is none."""
    film, review = _one(db, academy, film_id)
    db.delete(film)
    db.flush()
    media().delete(compared_key(review.clip_id, film_id))
    return review.id


def file_of(db: Session, academy: uuid.UUID, film_id: uuid.UUID) -> tuple[Media, str]:
    """Where a film is stored, for a coach. Raises NotFound where there is none, or it has not been made yet."""
    film, review = _one(db, academy, film_id)
    if film.seconds is None or len(film.sides) != film.count:
        raise NotFound("This film has not been made yet.")
    return media(), compared_key(review.clip_id, film_id)


def file_for_student(db: Session, review: Review, film_id: uuid.UUID) -> tuple[Media, str]:
    """The same for whoever sees the sheet. Raises NotFound where it is not shown."""
    if film_id not in {film.id for film in shown(db, review)}:
        raise NotFound("There is no such film on this sheet.")
    return media(), compared_key(review.clip_id, film_id)


def _one(db: Session, academy: uuid.UUID, film_id: uuid.UUID) -> tuple[ComparedFilm, Review]:
    own = select(ComparedFilm, Review).join(Review, Review.id == ComparedFilm.review_id).options(selectinload(ComparedFilm.sides))
    found = db.execute(own.where(ComparedFilm.id == film_id, Review.academy_id == academy)).one_or_none()
    if found is None:
        raise NotFound("There is no such film in your academy.")
    return found[0], found[1]
