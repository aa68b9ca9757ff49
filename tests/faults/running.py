"""A while of work at a site that is hit, and what of it is wrong afterwards."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.services.review import review as reviewing
from lacertus.services.review.loading import at_hand
from lacertus.services.review.view import view_of
from lacertus.services.techniques import catalogue
from lacertus.store import database
from lacertus.store.tables import JobRow
from lacertus.studio.clips import record
from lacertus.studio.scene import truth as truth_of
from lacertus.studio.script import read_script, shots_of
from tests.drawn import default_of_rep
from tests.faults.acting import Actor, Asker, Finisher, Marker, OnTheFloor, OwnReview, Uploader, until
from tests.faults.hitting import Hits, Site, site
from tests.halls import Hall, cut, hall, read_in

Hit = Callable[[Site], None]


@dataclass(frozen=True, kw_only=True)
class Told:
    """What came of it: what was wrong (nothing, it is hoped), how often each acted, and what was hit."""

    wrong: tuple[str, ...]
    acts: dict[str, tuple[int, int]]
    """By actor: how often it was done, and how often it broke off."""
    uploads: int
    cut: int
    hits: Hits


def small_clip(folder: Path, reps: int = 1) -> tuple[Path, dict[str, Any]]:
    """A clip of a kick, once or several times, that is read in a second or some, and its truth."""
    script = read_script(
        {
            "lacertus_script": 1, "id": f"hit-{reps}", "technique": "front-kick", "camera": {"size": [480, 270]},
            "reps": [{"faults": {"low-chamber": 57.0}}] * reps, "recording": {"fps": 60},
        }
    )  # fmt: skip
    shot = shots_of(script)[0]
    path = folder / f"hit-{reps}.mp4"
    record(shot, path, script.recording)
    return path, truth_of(shot)


def run(folder: Path, clip: Path, truth: dict[str, Any], hits: Sequence[Hit], *, uploads: int, seed: int = 23) -> Told:
    """Work at a site while it is hit, one hit after the other, and look everything over once it is quiet."""
    with site(folder, seed) as place:
        actors = _actors(place, folder, clip, truth, uploads)
        for actor in actors:
            actor.sign_in()
            actor.start()
        for hit in hits:
            place.server.wait()
            actors[0].join(0.3 + 1.2 * place.chance.random())
            hit(place)
        place.server.wait()
        # On a slow machine somebody may have come to nothing between the hits, and there would be nothing of theirs to look for.
        until(lambda: all(actor.done >= actor.least for actor in actors), 120)
        for actor in actors:
            actor.end()
        wrong = [] if place.settled() else ["work stands for ever"]
        wrong += [line for actor in actors for line in (*actor.broken, *actor.lost())]
        wrong += place.wrong()
        sender = next(actor for actor in actors if isinstance(actor, Uploader))
        acts = {type(actor).__name__: (actor.done, actor.failed) for actor in actors}
        return Told(wrong=tuple(wrong), acts=acts, uploads=len(sender.whole), cut=sender.cut, hits=place.hits)


def _actors(place: Site, folder: Path, clip: Path, truth: dict[str, Any], uploads: int) -> list[Actor]:
    url = place.server.url
    with database.session() as db:
        catalogue.store_shipped(db)
        where = hall(db)
        marked = reviewing.open_review(db, where.academy, read_in(db, where, clip, folder)).id
        rep = cut(db, where, marked, truth["reps"][0])
        first, last = truth["reps"][0]["range"]
        other = reviewing.open_review(db, where.academy, read_in(db, where, clip, folder)).id
        cut(db, where, other, truth["reps"][0])
        own = _own_review(db, where, clip, truth, folder)
        # Both were read here: no worker is to read them in another century.
        db.execute(sa.delete(JobRow))
        db.execute(sa.text("delete from procrastinate_jobs"))
        db.commit()
        student: uuid.UUID = where.student
    return [
        Uploader(url, 1, clip, student, uploads),
        Marker(url, 2, marked, rep, (first + 20, last - 30)),
        Asker(url, 5, rep, own, (first, last)),
        Finisher(url, 3, other),
        OnTheFloor(url, 4, student),
    ]


def _own_review(db: Session, where: Hall, clip: Path, truth: dict[str, Any], folder: Path) -> OwnReview:
    review = reviewing.open_review(db, where.academy, read_in(db, where, clip, folder)).id
    rep = cut(db, where, review, truth["reps"][0])
    missed = next(one.id for one in view_of(at_hand(db, where.academy, review)).rep(rep).judgements if one.is_missed)
    correction = default_of_rep(db, where, rep, missed)
    return OwnReview(review=review, rep=rep, correction=correction.id, checkpoint=missed, frame=correction.frame)
