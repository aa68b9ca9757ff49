"""Training the eye through the services: films of the studio, sets, answers, and what they say."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import av
import numpy as np
import pytest
import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.eye.scoring import Given
from lacertus.services.errors import NotAllowed, NotFound
from lacertus.services.eye import filming, overview, pool, progress, training
from lacertus.services.eye.learner import Learner
from lacertus.services.eye.offered import of_everybody
from lacertus.services.eye.pool import Take, Wish
from lacertus.services.eye.training import AskedOnce
from lacertus.services.people import rights
from lacertus.services.review import blind_remarking
from lacertus.services.review import review as reviewing
from lacertus.store import apart, database
from lacertus.store.media import NoMedia, StorageAway, media, take_key
from lacertus.store.tables import Account, EyeAnswer, EyeCard, EyeTake, Review
from tests import eyes, watch
from tests.eyes import KICK
from tests.halls import Hall, hall, read_in


@pytest.fixture
def films(db: Session) -> list[uuid.UUID]:
    return eyes.put_in(db)


@pytest.fixture
def coach(db: Session, where: Hall, films: list[uuid.UUID]) -> Learner:
    found = db.scalars(sa.select(Account.id).where(Account.academy_id == where.academy)).first()
    assert found is not None
    return Learner(academy=where.academy, account=found)


def ready(db: Session, where: Hall) -> list[Take]:
    return pool.ready(db, where.academy, [of_everybody()[KICK]])


def answered(db: Session, learner: Learner, one: AskedOnce, given: Given, key: uuid.UUID | None = None, **more: Any) -> Any:
    takes = [take.id for take in one.takes]
    return training.answer(db, learner, key or uuid.uuid4(), takes, one.question.kind, one.question.subject, given, **more)


def account_of(coach: Learner) -> uuid.UUID:
    assert coach.account is not None
    return coach.account


def right(db: Session, where: Hall, one: AskedOnce) -> Given:
    (_, truth), _ = training.question_of(
        db, where.academy, [take.id for take in one.takes], one.question.kind, one.question.subject
    )
    return Given(frame=truth.frame if one.question.kind == "frame" else None, before=truth.value, choice=truth.choice)


def test_a_film_shows_what_its_facts_say(db: Session, films: list[uuid.UUID]) -> None:
    assert len(films) == 4
    for key in films:
        take = db.get_one(EyeTake, key)
        assert take.facts is not None and take.facts.fault == take.fault
        with media().as_local(take_key(key)) as path, av.open(str(path)) as container:
            frames = [frame.to_ndarray(format="rgb24") for frame in container.decode(video=0)]
        assert len(frames) == len(take.facts.times_s)
        assert frames[0].shape[:2] == take.facts.size[::-1]
        assert np.abs(frames[take.facts.first].astype(int) - frames[(take.facts.first + take.facts.last) // 2]).max() > 60


def test_two_workers_do_not_make_the_same_film(db: Session, films: list[uuid.UUID]) -> None:
    pool.want(db, [Wish(technique=KICK, level=5)])
    db.commit()
    taken = db.scalar(sa.select(EyeTake).where(EyeTake.state == "wanted").with_for_update())
    assert taken is not None
    with database.session() as other:
        assert not filming.film_next(other, 1)
    db.delete(taken)
    db.commit()


def test_a_full_pool_gives_up_what_was_answered_and_nothing_else(
    db: Session, where: Hall, coach: Learner, films: list[uuid.UUID]
) -> None:
    # Other tests need the four films: a file of this one's own is given up.
    copy = db.get_one(EyeTake, films[0])
    extra = EyeTake(**{name: getattr(copy, name) for name in ("technique", "fault", "reaction", "level", "seed", "state", "facts")})
    extra.id, extra.created_at = uuid.uuid4(), copy.created_at - timedelta(days=1)
    db.add(extra)
    with media().as_local(take_key(copy.id)) as path:
        media().put(path, take_key(extra.id))
    pool.want(db, [Wish(technique=KICK, level=3)])
    db.commit()
    assert not filming.film_next(db, 5), "nobody has answered any of them"
    question, truth = ready(db, where)[0].asked[0]
    answered(db, coach, AskedOnce(question=question, level=1, takes=(ready(db, where)[0],)), Given(frame=truth.frame))
    assert filming.film_next(db, 5)
    assert [take.id for take in ready(db, where)][:4] == films and len(ready(db, where)) == 5
    with pytest.raises(NotFound, match="no such film"):
        overview.film_of(db, where.academy, extra.id)
    with pytest.raises(NoMedia, match="not there"):
        media().size(take_key(extra.id))
    assert db.scalar(sa.select(sa.func.count()).select_from(EyeAnswer)) == 1, "the answer stays"


def test_a_store_that_is_away_leaves_the_film_wanted(db: Session, films: list[uuid.UUID], monkeypatch: pytest.MonkeyPatch) -> None:
    def away(*_args: object) -> None:
        raise StorageAway()

    pool.want(db, [Wish(technique=KICK, level=3)])
    db.commit()
    monkeypatch.setattr(filming, "_film", away)
    with pytest.raises(StorageAway, match="does not answer"):
        filming.film_next(db, 10)
    db.rollback()
    assert pool.waiting(db) == 1


def test_the_pool_begins_with_a_film_of_every_technique_and_grows_no_further_than_it_may(
    db: Session, films: list[uuid.UUID]
) -> None:
    for _ in range(len(of_everybody())):
        assert pool.top_up(db, 1000)
    have = db.scalars(sa.select(EyeTake.technique).where(EyeTake.fault == "", EyeTake.reaction == "")).all()
    assert set(have) == set(of_everybody())
    assert not pool.top_up(db, 20)
    db.rollback()


def test_a_set_is_of_films_that_were_not_seen_and_fills_the_minutes(db: Session, where: Hall, coach: Learner) -> None:
    made = training.make_set(db, coach, 2, [KICK])
    takes = [take.id for one in made.asked for take in one.takes]
    assert 3 <= len(made.asked) <= 8
    assert len(set(takes)) == len(takes), "no film twice in a set"
    assert made.waiting > 0, "what was used is wanted anew"
    for one in made.asked:
        answered(db, coach, one, right(db, where, one))
    assert not {take.id for one in training.make_set(db, coach, 2, [KICK]).asked for take in one.takes} & set(takes)
    with pytest.raises(BadInput, match="2 to 5 minutes"):
        training.make_set(db, coach, 30)
    with pytest.raises(BadInput, match="shows no technique"):
        training.make_set(db, coach, 3, ["made-up"])
    asked = training.make_set(db, coach, 5, kinds=["frame"]).asked
    assert all(one.question.kind == "frame" for one in asked)


def test_an_answer_is_scored_kept_once_and_comes_back_sooner_where_it_was_wrong(db: Session, where: Hall, coach: Learner) -> None:
    one, two = training.make_set(db, coach, 5, [KICK], ["frame"]).asked[:2]
    now = datetime.now(UTC)
    key = uuid.uuid4()
    good = answered(db, coach, one, right(db, where, one), key)
    assert good.scored.hit and good.level == 2
    again = answered(db, coach, one, right(db, where, one), key)
    assert (again.due_at, again.level) == (good.due_at, good.level)
    assert db.scalar(sa.select(sa.func.count()).where(EyeAnswer.account_id == coach.account)) == 1
    bad = answered(db, coach, two, Given(frame=two.question.first), at=now + timedelta(days=3))
    assert not bad.scored.hit
    assert now < bad.due_at < good.due_at, "nothing is answered in the future"
    old = answered(db, coach, two, Given(frame=two.question.first), at=now - timedelta(days=2))
    assert old.level == 1
    cards = db.scalars(sa.select(EyeCard).where(EyeCard.account_id == coach.account)).all()
    assert {card.subject for card in cards} == {one.question.subject, two.question.subject}
    with pytest.raises(NotFound, match="no longer asked"):
        training.answer(db, coach, uuid.uuid4(), [uuid.uuid4()], "frame", "x", Given(frame=1))
    with pytest.raises(NotFound, match="no longer asked"):
        training.answer(db, coach, uuid.uuid4(), [one.takes[0].id], "frame", "no_such", Given(frame=1))
    with pytest.raises(BadInput, match="no frame"):
        answered(db, coach, one, Given(choice="x"))


def test_of_two_films_one_is_right(db: Session, where: Hall, coach: Learner) -> None:
    (one, *_) = training.make_set(db, coach, 2, [KICK], ["right"]).asked
    faults = [take.fault for take in one.takes]
    assert sorted(map(bool, faults)) == [False, True]
    wrong = "second" if faults[1] else "first"
    assert not answered(db, coach, one, Given(choice=wrong)).scored.hit
    assert answered(db, coach, one, Given(choice="first" if wrong == "second" else "second")).scored.hit


def marked_late(db: Session, where: Hall, coach: Learner, frames: list[int]) -> None:
    """So many events, each marked so many frames late."""
    take = ready(db, where)[0]
    question, truth = next(one for one in take.asked if one[0].kind == "frame")
    one = AskedOnce(question=question, level=1, takes=(take,))
    for late in frames:
        assert truth.frame is not None
        answered(db, coach, one, Given(frame=min(max(truth.frame + late, question.first), question.last)))


def colleague(db: Session, where: Hall, name: str) -> Learner:
    """Somebody else who teaches here and has marked four events."""
    mail = f"{name.lower()}@example.test"
    account = Account(id=uuid.uuid4(), academy_id=where.academy, email=mail, name=name, password_hash="x")
    db.add(account)
    db.flush()
    found = Learner(academy=where.academy, account=account.id)
    marked_late(db, where, found, [-1, 0, 1, 0])
    return found


def test_others_are_told_together_where_they_are_enough_and_by_name_where_they_want_to(
    db: Session, where: Hall, coach: Learner
) -> None:
    marked_late(db, where, coach, [2, 3])
    two = colleague(db, where, "Two")
    alone = progress.progress_of(db, coach)
    assert (alone.events.others.n, alone.kinds[0][2].of, alone.colleagues) == (0, 0, ()), "one alone would be told by name"
    assert two.account is not None
    assert progress.show_by_name(db, where.academy, two.account, shown=True).is_named
    named = progress.progress_of(db, coach)
    assert (named.events.others.n, named.kinds[0][2].of) == (4, 4)
    (seen,) = named.colleagues
    assert (seen.name, seen.hits.of, seen.events.n, seen.angles.n) == ("Two", 4, 4, 0)
    assert seen.events.bias == pytest.approx(0, abs=0.5)
    assert not named.is_named, "everybody decides it for themselves"
    progress.show_by_name(db, where.academy, two.account, shown=False)
    colleague(db, where, "Three")
    assert progress.progress_of(db, coach).events.others.n == 0
    colleague(db, where, "Four")
    together = progress.progress_of(db, coach)
    assert (together.events.others.n, together.colleagues) == (12, ())
    stranger = hall(db, "Other hall", "other@example.test")
    progress.show_by_name(db, stranger.academy, two.account, shown=True)
    assert progress.progress_of(db, coach).colleagues == (), "nobody of another academy changes it"
    progress.show_by_name(db, where.academy, two.account, shown=True)
    assert progress.progress_of(db, Learner(academy=where.academy, student=where.student)).colleagues == ()


def test_a_known_bias_is_found_and_held_against_the_others(db: Session, where: Hall, coach: Learner) -> None:
    marked_late(db, where, coach, [2, 3, 4, 3, 2, 4])
    two = colleague(db, where, "Two").account
    assert two is not None
    progress.show_by_name(db, where.academy, two, shown=True)
    found = progress.progress_of(db, coach)
    assert (found.events.own.n, found.events.others.n) == (6, 4)
    assert found.events.own.bias == pytest.approx(50, abs=0.5)
    low, high = found.events.own.bias_within or (0, 0)
    assert low > 0 and low < 50 < high
    assert found.events.others.bias == pytest.approx(0, abs=0.5)
    assert found.by_event[0].own.n == 6
    assert [week.hits.of for week in found.weeks] == [6]
    assert not found.own_events.is_used and found.own_events.sigma_s is None
    stranger = hall(db, "Other hall", "other@example.test")
    assert progress.progress_of(db, Learner(academy=stranger.academy, account=uuid.uuid4())).events.others.n == 0


def test_what_was_missed_is_told_by_hits_and_false_alarms(db: Session, where: Hall, coach: Learner) -> None:
    with_fault = next(take for take in ready(db, where) if take.fault == "low-chamber")
    question, truth = next(one for one in with_fault.asked if one[0].kind == "missed")
    one = AskedOnce(question=question, level=1, takes=(with_fault,))
    other = next(choice.id for choice in question.choices if choice.id not in (truth.choice, "none"))
    for choice in (truth.choice, truth.choice, other):
        answered(db, coach, one, Given(choice=choice))
    alarms = {one.checkpoint: one for _, one in progress.progress_of(db, coach).alarms}
    assert (alarms[truth.choice or ""].hits.n, alarms[truth.choice or ""].hits.of) == (2, 3)
    assert (alarms[other].false_alarms.n, alarms[other].false_alarms.of) == (1, 3)


def test_the_own_scatter_is_used_only_where_it_is_chosen_and_from_twenty_answers_on(
    db: Session, where: Hall, coach: Learner, clips: dict[str, Any], tmp_path: Any
) -> None:
    review = reviewing.open_review(db, where.academy, read_in(db, where, clips["long_gop"], tmp_path), coach.account)
    marked_late(db, where, coach, [1, -1] * 9)
    with pytest.raises(BadInput, match="there are 18"):
        progress.use_own_events(db, where.academy, account_of(coach), use=True)
    marked_late(db, where, coach, [1, -1])
    assert blind_remarking.marking_of(db, account_of(coach)).events_s is None, "never taken unasked"
    found = progress.use_own_events(db, where.academy, account_of(coach), use=True).own_events
    assert found.is_used and found.sigma_s == pytest.approx(1 / 60, abs=0.001)
    db.refresh(review)
    assert review.marking.events_s == found.sigma_s
    assert blind_remarking.marking_of(db, account_of(coach)).events_s == found.sigma_s
    assert not progress.use_own_events(db, where.academy, account_of(coach), use=False).own_events.is_used
    db.refresh(review)
    assert review.marking.events_s is None
    with watch.paused():
        db.execute(sa.update(Review).where(Review.id == review.id).values(marking=review.marking))


def test_answers_of_other_academies_are_behind_the_wall(db: Session, where: Hall, coach: Learner) -> None:
    marked_late(db, where, coach, [1])
    stranger = hall(db, "Other hall", "other@example.test")
    db.commit()
    with database.session() as other:
        apart.work_for(other, stranger.academy)
        assert other.scalar(sa.select(sa.func.count()).select_from(EyeAnswer)) == 0
        assert other.scalar(sa.select(sa.func.count()).select_from(EyeCard)) == 0
        assert (other.scalar(sa.select(sa.func.count()).select_from(EyeTake)) or 0) >= 4, "films show nobody and are everybody's"


def test_assistants_train_but_do_not_choose_how_reviews_are_judged(db: Session, where: Hall, coach: Learner) -> None:
    rights.act_as(db, "assistant")
    assert training.make_set(db, coach, 2, [KICK]).asked
    with pytest.raises(NotAllowed, match="review reps"):
        progress.use_own_events(db, where.academy, account_of(coach), use=True)


def test_a_film_that_is_gone_is_told_so(db: Session, where: Hall, films: list[uuid.UUID]) -> None:
    found = overview.film_of(db, where.academy, films[0])
    assert not isinstance(found, bytes)
    assert found[0].size(found[1]) > 5000
    with pytest.raises(NotFound, match="no such film"):
        overview.film_of(db, where.academy, uuid.uuid4())


def test_the_way_is_not_always_open_in_the_films_that_are_wanted() -> None:
    """Of a technique whose entry the studio can spoil, such films are asked for; else the answer would always be yes."""
    spoiled = [one for one in of_everybody().values() if one.shutting]
    assert len(spoiled) >= 5
    for one in spoiled:
        wanted = {wish.fault for wish in training._lacking(one, (one.technique.id, "open", ""), 2, None)}
        assert "" in wanted and wanted - {""} <= set(one.shutting) and len(wanted) > 1
