"""How long films are kept: after the academy's time they are deleted by night, unless somebody keeps them. Verdicts stay."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from datetime import UTC, date, datetime, time, timedelta
from pathlib import PurePosixPath
from zoneinfo import ZoneInfo

from sqlalchemy import Select, false, select
from sqlalchemy.orm import Session, defer, joinedload

from lacertus.services.clips import compared_films, intake
from lacertus.services.people import audit
from lacertus.services.people.academies import TOLD_DAYS
from lacertus.services.people.rights import Right, needs
from lacertus.store.media import clip_prefix, made_key, marked_key, media, original_key, review_key
from lacertus.store.tables import Academy, Clip
from lacertus.video.intake.reading import CAMERA

NIGHT = (time(2), time(5))
"""Films are deleted between these hours of the academy's own clock."""


def due(db: Session, academy: uuid.UUID, on: date | None = None) -> Sequence[tuple[Clip, date]]:
    """Clips whose film is deleted within the next two weeks, each with the day, the earliest first."""
    found = db.get_one(Academy, academy)
    if found.keeps_films_days is None:
        return []
    on = on or datetime.now(ZoneInfo(found.time_zone)).date()
    clips = db.scalars(_older_than(found, on + timedelta(days=TOLD_DAYS)).order_by(Clip.created_at))
    return [(clip, max(on, _goes_on(found, clip))) for clip in clips]


def _goes_on(academy: Academy, clip: Clip) -> date:
    assert academy.keeps_films_days is not None
    day = clip.created_at.astimezone(ZoneInfo(academy.time_zone)).date() + timedelta(days=academy.keeps_films_days)
    return max(day, academy.films_go_from or day)


def _older_than(academy: Academy, on: date) -> Select[Clip]:
    """Clips whose film has been kept for the academy's time by the end of a day."""
    assert academy.keeps_films_days is not None
    found = select(Clip).where(Clip.academy_id == academy.id, Clip.has_film, ~Clip.keeps_film, Clip.state != "reading")
    if academy.films_go_from is not None and on < academy.films_go_from:
        return found.where(false())
    end = datetime.combine(on + timedelta(days=1 - academy.keeps_films_days), time(), ZoneInfo(academy.time_zone))
    return found.where(Clip.created_at < end).options(joinedload(Clip.student), defer(Clip.pts_s))


@needs(Right.DELETE_CLIPS)
def keep(db: Session, academy: uuid.UUID, clip_id: uuid.UUID, kept: bool) -> Clip:
    """Keep a clip's film for good, or as long as the academy keeps films. Raises NotFound where there is none."""
    found = intake.clip(db, academy, clip_id)
    found.keeps_film = kept
    db.flush()
    return found


def run(db: Session, now: datetime | None = None) -> int:
    """Delete the films that have been kept for their time, where it is night at the academy; returns how many.

    Verdicts, points, stills of corrections and sheets stay. Rows go first: a film without a row is swept away later, a row
    without its film would open on nothing.
    """
    now = now or datetime.now(UTC)
    gone: list[uuid.UUID] = []
    films: list[str] = []
    for academy in db.scalars(select(Academy).where(Academy.keeps_films_days.is_not(None))):
        here = now.astimezone(ZoneInfo(academy.time_zone))
        if not NIGHT[0] <= here.time() < NIGHT[1]:
            continue
        for clip in db.scalars(_older_than(academy, here.date()).with_for_update(of=Clip, skip_locked=True)):
            clip.has_film = False
            gone.append(clip.id)
            films += compared_films.forget_films(db, clips=[clip.id])
            audit.write(db, academy.id, "film deleted after the academy’s time", str(clip.id), who="the nightly run")
    db.commit()
    for clip_id in gone:
        _delete_film(clip_id)
    for key in films:
        media().delete(key)
    return len(gone)


def _delete_film(clip: uuid.UUID) -> None:
    """Delete what shows the film as a whole; how the camera moved stays, as verdicts are read with it."""
    store = media()
    for key in (original_key(clip), review_key(clip), marked_key(clip)):
        store.delete(key)
    for key in store.files(f"{clip_prefix(clip)}/made"):
        name = PurePosixPath(key).name
        if name != CAMERA and not name.startswith("followed-"):
            store.delete(made_key(clip, name))
