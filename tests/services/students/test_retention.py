"""How long films are kept."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.people import academies
from lacertus.services.review import loading
from lacertus.services.students import retention
from lacertus.store.media import clip_prefix, media, original_key, review_key, still_key
from lacertus.store.tables import Academy, Clip
from tests.drawn import default_of_rep
from tests.halls import Hall, judged

NIGHT = datetime(2026, 6, 10, 2, 30, tzinfo=UTC)


@pytest.fixture
def old(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> Clip:
    """A reviewed clip that came in forty days before the night, in an academy that keeps films for thirty."""
    academy = db.get_one(Academy, where.academy)
    academy.keeps_films_days, academy.time_zone = 30, "UTC"
    clip = loading.load(db, where.academy, review).clip
    clip.created_at = NIGHT - timedelta(days=40)
    default_of_rep(db, where, rep)
    db.commit()
    return db.get_one(Clip, clip.id)


def test_after_its_time_a_film_goes_by_night_and_verdicts_stay(db: Session, where: Hall, review: uuid.UUID, old: Clip) -> None:
    before = [j.verdict for entry in judged(db, where, review) for j in entry.judgements]
    still = still_key(old.id, loading.load(db, where.academy, review).corrections[0].id)
    media().write(still, b"a picture")
    assert retention.run(db, NIGHT.replace(hour=12)) == 0
    assert retention.run(db, NIGHT) == 1
    db.expire_all()
    there = set(media().files(clip_prefix(old.id)))
    assert not {original_key(old.id), review_key(old.id)} & there
    assert still in there
    assert db.get_one(Clip, old.id).has_film is False
    assert [j.verdict for entry in judged(db, where, review) for j in entry.judgements] == before
    assert retention.run(db, NIGHT) == 0


def test_a_film_that_somebody_keeps_stays(db: Session, where: Hall, old: Clip) -> None:
    retention.keep(db, where.academy, old.id, True)
    assert retention.run(db, NIGHT) == 0
    assert review_key(old.id) in media().files(clip_prefix(old.id))


@pytest.mark.parametrize(("days_left", "told"), [(15, False), (14, True), (1, True), (0, True)])
def test_it_is_told_two_weeks_beforehand(db: Session, where: Hall, old: Clip, days_left: int, told: bool) -> None:
    on = NIGHT.date()
    old.created_at = datetime(on.year, on.month, on.day, 12, tzinfo=UTC) - timedelta(days=30 - days_left)
    db.flush()
    found = retention.due(db, where.academy, on)
    assert [(clip.id, day) for clip, day in found] == ([(old.id, on + timedelta(days=days_left))] if told else [])


def test_a_new_rule_deletes_nothing_for_two_weeks(db: Session, where: Hall, old: Clip) -> None:
    academy = db.get_one(Academy, where.academy)
    wishes = academies.wishes_of(db, where.academy)
    academies.apply(academy, wishes.model_copy(update={"keeps_films_days": 20}))
    now = datetime.now(UTC).replace(hour=2, minute=30)
    assert academy.films_go_from == now.date() + timedelta(days=14)
    assert retention.run(db, now) == 0
    assert [day for _, day in retention.due(db, where.academy, now.date())] == [now.date() + timedelta(days=14)]
    assert retention.run(db, now + timedelta(days=14)) == 1


@pytest.mark.parametrize("days", [0, 13, 3651])
def test_no_time_is_too_short_to_be_told_of(db: Session, where: Hall, days: int) -> None:
    wishes = academies.wishes_of(db, where.academy)
    with pytest.raises(BadInput, match="14 to 3650 days"):
        academies.check(wishes.model_copy(update={"keeps_films_days": days}))
