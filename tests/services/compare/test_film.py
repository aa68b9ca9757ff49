"""A comparison as a film on the sheet: what it shows, who sees it, and that it goes with what it shows."""

from __future__ import annotations

import re
import uuid
import zipfile
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pytest
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from lacertus.core.compare.film import FPS, HOLD_S
from lacertus.core.errors import BadInput
from lacertus.jobs import tasks
from lacertus.services.clips import intake
from lacertus.services.compare import film
from lacertus.services.compare.film import FilmWish
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import people
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import student_out
from lacertus.services.transfer.archive import NAMES
from lacertus.services.transfer.forget import forget
from lacertus.store.media import compared_key, media
from lacertus.store.tables import ComparedFilm, RepRow, Review, Student
from lacertus.studio.picture.stamp import read_stamp
from lacertus.video.compare.film import write_compared
from tests import watch
from tests.halls import Hall, cut, read_in, unqueue


@pytest.fixture
def kicks(db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> tuple[uuid.UUID, uuid.UUID]:
    """The same kick at 60 and at 30 frames a second, each finished."""
    found = []
    for name in ("constant", "long_gop"):
        review = reviewing.open_review(db, where.academy, read_in(db, where, clips[name], tmp_path)).id
        found.append(cut(db, where, review, truths[name]["reps"][0]))
        finishing.finish(db, where.academy, review)
    db.commit()
    return found[0], found[1]


def wish(kicks: tuple[uuid.UUID, uuid.UUID], **changed: Any) -> FilmWish:
    return FilmWish(**{"sides": tuple(f"rep.{one}" for one in kicks), "anchor": "full_reach", "words": "Watch the knee"} | changed)


def made(db: Session, where: Hall, asked: FilmWish) -> ComparedFilm:
    row = film.ask(db, where.academy, uuid.UUID(asked.sides[0].removeprefix("rep.")), asked, None)
    unqueue(db)
    db.commit()
    tasks.make_compared_film(str(row.id))
    db.expire_all()
    return db.get_one(ComparedFilm, row.id)


def review_of(db: Session, rep: uuid.UUID) -> Review:
    return db.get_one(Review, db.get_one(RepRow, rep).review_id)


def pictures(store: Any, key: str) -> list[np.ndarray]:
    with store.as_local(key) as path, av.open(str(path)) as container:
        return [frame.to_ndarray(format="rgb24") for frame in container.decode(video=0)]


def compared_in_the_zip(db: Session, where: Hall, folder: Path) -> list[str]:
    """The films of comparisons in the student's own file, each with a name that such a file may hold."""
    student_out.write(db, where.academy, where.student, folder / "student.zip")
    with zipfile.ZipFile(folder / "student.zip") as file:
        found = [name for name in file.namelist() if "/compared/" in name]
    assert all(re.fullmatch(NAMES, name) for name in found)
    return found


def test_each_picture_shows_the_frames_that_belong_together(
    db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID], truths: dict[str, Any]
) -> None:
    row = made(db, where, wish(kicks, speed=1.0))
    shown = pictures(*film.file_of(db, where.academy, row.id))
    assert row.seconds == pytest.approx(len(shown) / FPS, abs=0.06)
    high = next(i for i in range(100, shown[0].shape[0]) if (np.abs(shown[0][i, :, :].astype(int) - (246, 242, 233)) < 12).all())
    middle = shown[0].shape[1] // 2 + 4
    stamps = [(read_stamp(one[:high, : middle - 8]), read_stamp(one[:high, middle:])) for one in shown]
    read = [(a, b) for a, b in stamps if a is not None and b is not None]
    assert len(read) >= 0.95 * len(shown)
    events = tuple(truths[name]["reps"][0]["events"]["full_reach"][0] for name in ("constant", "long_gop"))
    assert read.count(events) >= round(HOLD_S * FPS), "it stands still at the event"
    for fast, slow in read:
        # In real time the slower film shows the frame that had begun by then.
        behind = (fast - events[0]) / 60 - (slow - events[1]) / 30
        edge = slow in (read[0][1], read[-1][1]) or fast in (read[0][0], read[-1][0])
        assert edge or -1 / 60 - 1e-6 <= behind < 1 / 30 + 1e-6


def test_the_studios_move_stands_beside_a_rep(db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]) -> None:
    row = made(db, where, wish(kicks, sides=(f"rep.{kicks[0]}", "studio.right"), speed=1.0, words=""))
    shown = pictures(*film.file_of(db, where.academy, row.id))
    right = [one[: one.shape[0] - 60, one.shape[1] // 2 + 8 :].astype(int) for one in shown]
    assert max(np.abs(one - right[0]).max() for one in right) > 60, "the figure moves"


def test_bodies_are_drawn_where_they_are_and_turned_with_their_picture(
    db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]
) -> None:
    def side_by_side(**how: Any) -> np.ndarray:
        row = made(db, where, wish(kicks, speed=1.0, words="", **how))
        return np.array(pictures(*film.file_of(db, where.academy, row.id)), dtype=int)

    bare, drawn, turned = side_by_side(), side_by_side(drawn=True), side_by_side(drawn=True, mirrored=True)
    blue = (drawn[..., 2] - drawn[..., 0] > 60) & (bare[..., 2] - bare[..., 0] < 40)
    assert np.mean(blue.sum(axis=(1, 2)) > 150) > 0.4, "limbs are drawn all through the rep"
    half = (bare.shape[2] - 8) // 2
    other = drawn[:, :300, half + 8 :]
    assert np.abs(turned[:, :300, half + 8 :] - other[:, :, ::-1]).mean() < 2 < np.abs(other - other[:, :, ::-1]).mean()
    assert np.abs(turned[:, :300, :half] - drawn[:, :300, :half]).mean() < 1, "the first side stays as it is"


def test_one_side_lies_over_the_other(db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]) -> None:
    """The same kick in the same place: laid over itself it is the same picture, with its limbs in a colour of their own."""
    bare = pictures(*film.file_of(db, where.academy, made(db, where, wish(kicks, speed=1.0, words="")).id))
    over = pictures(*film.file_of(db, where.academy, made(db, where, wish(kicks, speed=1.0, words="", over=True)).id))
    half = (bare[0].shape[1] - 8) // 2
    assert len(over) == len(bare)
    high = round(over[0].shape[1] * 9 / 16)
    apart = [
        np.abs(cv2.resize(two[:high], (half, round(half * 9 / 16))).astype(int) - one[: round(half * 9 / 16), :half])
        for one, two in zip(bare, over, strict=True)
    ]
    assert np.median([one.mean() for one in apart]) < 4
    limbs = made(db, where, wish(kicks, sides=(f"rep.{kicks[0]}", "studio.right"), speed=1.0, over=True))
    shown = np.array(pictures(*film.file_of(db, where.academy, limbs.id)), dtype=int)[:, :260]
    orange = (shown[..., 0] - shown[..., 2] > 90) & (shown[..., 0] > 180)
    assert (orange.sum(axis=(1, 2)) > 60).all(), "of the studio's move the limbs alone lie over the film"


@pytest.mark.parametrize(
    ("changed", "match"),
    [
        ({"speed": 0.3}, "quarter, half"),
        ({"anchor": "nowhere"}, "not marked in all"),
        ({"words": "x" * 300}, "the words"),
        ({"sides": ("studio.right", "studio.left")}, "first side"),
        ({"three": True, "over": True}, "two pictures lie over one another"),
    ],
)
def test_what_cannot_be_filmed_is_refused(
    db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID], changed: dict[str, Any], match: str
) -> None:
    changed = dict(changed)
    if changed.pop("three", False):
        changed["sides"] = (*(f"rep.{one}" for one in kicks), "studio.right")
    with pytest.raises(BadInput, match=match):
        film.ask(db, where.academy, kicks[0], wish(kicks, **changed), None)
    assert film.of_review(db, review_of(db, kicks[0]).id) == []


def test_a_sheet_has_few_films_and_only_of_a_finished_review(db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]) -> None:
    for _ in range(film.MOST):
        film.ask(db, where.academy, kicks[0], wish(kicks), None)
    with pytest.raises(Conflict, match="at most 6 films"):
        film.ask(db, where.academy, kicks[0], wish(kicks), None)
    finishing.reopen(db, where.academy, review_of(db, kicks[1]).id, "looked at again")
    with pytest.raises(Conflict, match="finish this review first"):
        film.ask(db, where.academy, kicks[1], wish(kicks[::-1]), None)


class TestWhoSees:
    @pytest.fixture
    def lent(self, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]) -> uuid.UUID:
        """The second kick is of another student, who lends pictures."""
        other = people.create_student(db, where.academy, "Another").id
        db.get_one(Student, other).lends_pictures = True
        with watch.paused():
            db.execute(update(Review).where(Review.id == review_of(db, kicks[1]).id).values(student_id=other))
        db.commit()
        db.expire_all()
        return other

    def test_the_student_sees_it_while_the_other_agrees(
        self, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID], lent: uuid.UUID, tmp_path: Path
    ) -> None:
        row = made(db, where, wish(kicks))
        review = review_of(db, kicks[0])
        assert [one.id for one in film.shown(db, review)] == [row.id]
        store, key = film.file_for_student(db, review, row.id)
        assert store.size(key) > 1000
        assert compared_in_the_zip(db, where, tmp_path) == [f"media/{review.clip_id}/compared/{row.id}.mp4"]
        db.get_one(Student, lent).lends_pictures = False
        assert film.shown(db, review) == []
        assert compared_in_the_zip(db, where, tmp_path) == []
        with pytest.raises(NotFound, match="no such film"):
            film.file_for_student(db, review, row.id)
        (told,) = film.films(db, where.academy, review.id)
        assert (told.shown, told.film.seconds is not None) == (False, True)

    def test_before_it_is_made_nobody_sees_it_and_other_academies_never_do(
        self, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        row = film.ask(db, where.academy, kicks[0], wish(kicks), None)
        assert film.shown(db, review_of(db, kicks[0])) == []
        with pytest.raises(NotFound, match="not been made"):
            film.file_of(db, where.academy, row.id)
        for act in (film.file_of, film.delete):
            with pytest.raises(NotFound, match="no such film"):
                act(db, uuid.uuid4(), row.id)


class TestItGoes:
    def gone(self, db: Session, key: str) -> bool:
        db.commit()
        return db.scalars(select(ComparedFilm)).all() == [] and key not in list(media().files("clips"))

    def test_with_the_clip_of_either_side_and_by_itself(self, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]) -> None:
        for take in ("other", "itself"):
            row = made(db, where, wish(kicks) if take == "other" else wish(kicks, sides=(f"rep.{kicks[0]}", "studio.right")))
            _, key = film.file_of(db, where.academy, row.id)
            if take == "other":
                intake.delete_clip(db, where.academy, review_of(db, kicks[1]).clip_id)
            else:
                film.delete(db, where.academy, row.id)
            assert self.gone(db, key)

    def test_with_the_student_who_is_forgotten(self, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]) -> None:
        row = made(db, where, wish(kicks))
        _, key = film.file_of(db, where.academy, row.id)
        forget(db, where.academy, where.student)
        assert self.gone(db, key)

    def test_with_the_film_itself_while_the_job_is_at_it(
        self, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID], monkeypatch: pytest.MonkeyPatch
    ) -> None:
        row = film.ask(db, where.academy, kicks[0], wish(kicks), None).id
        unqueue(db)
        db.commit()
        key = compared_key(review_of(db, kicks[0]).clip_id, row)
        write = write_compared

        def forgotten_meanwhile(*args: Any, **more: Any) -> None:
            write(*args, **more)
            forget(db, where.academy, where.student)
            db.commit()

        monkeypatch.setattr("lacertus.jobs.make_compared_film.write_compared", forgotten_meanwhile)
        tasks.make_compared_film(str(row))
        assert self.gone(db, key)

    def test_when_a_side_vanished_before_it_was_made_the_job_stops(
        self, db: Session, where: Hall, kicks: tuple[uuid.UUID, uuid.UUID]
    ) -> None:
        row = film.ask(db, where.academy, kicks[0], wish(kicks), None).id
        intake.delete_clip(db, where.academy, review_of(db, kicks[1]).clip_id)
        db.commit()
        tasks.make_compared_film(str(row))
        assert film.wanted(db, row) is None
