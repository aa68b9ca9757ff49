"""Sets of questions, and their answers."""

from __future__ import annotations

import random
import uuid
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.eye import sets
from lacertus.core.eye.levels import next_level
from lacertus.core.eye.questions import Asked, Kind, Question, Truth, which_was_right
from lacertus.core.eye.scoring import Given, Scored, score
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.eye import cards, pool
from lacertus.services.eye.learner import Learner
from lacertus.services.eye.offered import Offered, of_academy
from lacertus.services.eye.pool import Take, Wish
from lacertus.store.tables import EyeAnswer, EyeCard

Key = tuple[str, str, str]
"""Technique, kind and subject of a question that is asked again and again."""
DAY_S = 86_400.0
MOST_FIRST = 6
"""So many first films are put on the list at once."""
MOST_ANSWERS = 50_000
"""A hundred a day for more than a year: whoever sends more is no learner."""
KEPT_AT_MOST = timedelta(days=60)
"""An answer that says that it waited longer on the way counts as of then."""


@dataclass(frozen=True, kw_only=True)
class AskedOnce:
    """A question of a set, and the film or the two films that it is asked on."""

    question: Question
    level: int
    takes: tuple[Take, ...]


@dataclass(frozen=True, kw_only=True)
class Answered:
    """What came of an answer: how far off it was, what is so, and when such a question comes back."""

    scored: Scored
    truth: Truth
    question: Question
    level: int
    due_at: datetime


@dataclass(frozen=True, kw_only=True)
class MadeSet:
    """A set, and how many films that it could have used are still to be made."""

    asked: tuple[AskedOnce, ...]
    waiting: int


def make_set(
    db: Session, learner: Learner, minutes: float, techniques: Collection[str] = (), kinds: Collection[Kind] = ()
) -> MadeSet:
    """A set of some minutes for somebody, of films that they have not answered yet.

    What cannot be asked for want of a film is put on the list of films to be made.

    Raises:
        BadInput: a technique that the studio does not show, or a length that no set has.
    """
    if not sets.SHORTEST_MIN <= minutes <= sets.LONGEST_MIN:
        raise BadInput(f"a set takes {sets.SHORTEST_MIN} to {sets.LONGEST_MIN} minutes")
    there = of_academy(db, learner.academy)
    unknown = [name for name in techniques if name not in there]
    if unknown:
        raise BadInput(f"the studio shows no technique “{unknown[0]}”")
    wanted = {name: there[name] for name in techniques or there}
    takes = pool.ready(db, learner.academy, wanted.values())
    known = _cards(db, learner)
    offered = _offered(takes, known, set(kinds))
    history, now = _history(db, learner), datetime.now(UTC)
    chosen = sets.choose([_card(key, known, history, now) for key in offered], minutes)
    seen = _seen(db, learner)
    found: list[AskedOnce] = []
    used: set[uuid.UUID] = set()
    wishes: list[Wish] = []
    for card in chosen:
        key = (card.technique, card.kind, card.subject)
        level = known[key].level if key in known else pool.FIRST_LEVEL
        of_it = [take for take in takes if take.technique.id == card.technique and take.id not in seen | used]
        one = _ask(key, level, of_it)
        wishes += _lacking(wanted[card.technique], key, level, one)
        if one is not None:
            found.append(one)
            used |= {take.id for take in one.takes}
    pool.want(db, [*wishes, *_first_films(wanted, takes)])
    return MadeSet(asked=tuple(found), waiting=pool.waiting(db))


def _first_films(wanted: Mapping[str, Offered], takes: Sequence[Take]) -> list[Wish]:
    """What is filmed first of techniques that have no film of the studio's yet."""
    have = {take.technique.id for take in takes if take.rep is None}
    turns = [turn for name, one in wanted.items() if name not in have for turn in pool.lacking(one, ())]
    return [wish for _, wish in sorted(turns, key=lambda turn: turn[0])][:MOST_FIRST]


def _cards(db: Session, learner: Learner) -> dict[Key, EyeCard]:
    rows = db.scalars(select(EyeCard).where(learner.own(EyeCard)))
    return {(row.technique, row.kind, row.subject): row for row in rows}


def _history(db: Session, learner: Learner) -> dict[Key, tuple[int, int]]:
    """How often each question was answered, and hit."""
    key = (EyeAnswer.technique, EyeAnswer.kind, EyeAnswer.subject)
    counted = select(*key, func.count(), func.count().filter(EyeAnswer.hit)).where(learner.own(EyeAnswer))
    rows = db.execute(counted.group_by(*key))
    return {(technique, kind, subject): (count, hits) for technique, kind, subject, count, hits in rows}


def _offered(takes: Sequence[Take], known: dict[Key, EyeCard], kinds: Collection[str]) -> list[Key]:
    """What can be asked of the films that there are, and what was asked before."""
    found: dict[Key, None] = {}
    for take in takes:
        for question, _ in take.asked:
            found[take.technique.id, question.kind, question.subject] = None
    of = {take.technique.id for take in takes}
    pairs = [name for name in of if len({bool(take.fault) for take in takes if _is_posed(take, name)}) == 2]
    found |= {(name, "right", ""): None for name in sorted(pairs)}
    found |= {key: None for key in known if key[0] in of}
    return [key for key in found if not kinds or key[1] in kinds]


def _is_posed(take: Take, technique: str) -> bool:
    """Whether a film is the studio's, with a fault or without, so that it may be one of two."""
    return take.technique.id == technique and not take.reaction and take.rep is None


def _card(key: Key, known: dict[Key, EyeCard], history: dict[Key, tuple[int, int]], now: datetime) -> sets.Card:
    answered, hits = history.get(key, (0, 0))
    due = (known[key].due_at - now).total_seconds() / DAY_S if key in known else 0.0
    return sets.Card(technique=key[0], kind=key[1], subject=key[2], due_days=due, answered=answered, hits=hits)


def _seen(db: Session, learner: Learner) -> set[uuid.UUID]:
    rows = db.execute(select(EyeAnswer.take_id, EyeAnswer.second_take_id).where(learner.own(EyeAnswer)))
    return {key for row in rows for key in row if key is not None}


def _ask(key: Key, level: int, takes: Sequence[Take]) -> AskedOnce | None:
    """The question on a film of the level, or of the nearest that there is."""
    _, kind, subject = key
    if kind == "right":
        return _ask_right(level, takes)
    for take in pool.of_level(takes, level):
        for question, _ in take.asked:
            if (question.kind, question.subject) == (kind, subject):
                return AskedOnce(question=question, level=take.level, takes=(take,))
    return None


def _ask_right(level: int, takes: Sequence[Take]) -> AskedOnce | None:
    near = [take for take in pool.of_level(takes, level) if _is_posed(take, take.technique.id)]
    clean, faulty = [take for take in near if not take.fault], [take for take in near if take.fault]
    for wrong in faulty:
        for right in clean:
            # Which comes first is up to the seed of the wrong one.
            two = (right, wrong) if wrong.seed % 2 else (wrong, right)
            asked = _of_two(*two)
            if asked is not None:
                return AskedOnce(question=asked[0], level=wrong.level, takes=two)
    return None


def _of_two(one: Take, other: Take) -> Asked | None:
    if (one.technique.id, one.version) != (other.technique.id, other.version):
        return None
    return which_was_right(one.technique, one.facts, other.facts)


def _lacking(of: Offered, key: Key, level: int, found: AskedOnce | None) -> list[Wish]:
    """Films to be made, so that there is one of the level next time."""
    _, kind, subject = key
    if kind in ("missed", "right", "open"):
        # Another fault each time: what is always missed, or never, would soon be known without looking.
        codes = of.shutting if kind == "open" else of.faults
        some = random.SystemRandom().sample(codes, min(2, len(codes)))
        return [pool.wish(of, level=level), *(pool.wish(of, fault=code, level=level) for code in some)]
    if found is not None and all(take.rep is None for take in found.takes):
        # One more of the same as was used now, as it is seen then.
        return [pool.like(take, of, level) for take in found.takes]
    return [pool.wish(of, reaction=subject if kind == "answer" else "", level=level)]


def question_of(db: Session, academy: uuid.UUID, takes: Sequence[uuid.UUID], kind: str, subject: str) -> tuple[Asked, list[Take]]:
    """The question on one film or two, as it is asked of everybody.

    Raises:
        NotFound: a film is gone, or no such question is asked of it.
    """
    rows = [pool.take_of(db, academy, take) for take in takes]
    found = [row for row in rows if row is not None]
    if found and len(found) == len(rows):
        if kind == "right" and len(found) == 2:
            asked = _of_two(*found)
            if asked is not None:
                return asked, found
        for question, truth in found[0].asked if len(found) == 1 else ():
            if (question.kind, question.subject) == (kind, subject):
                return (question, truth), found
    raise NotFound("This question is no longer asked. Nothing was stored; go on with the next one.")


def answer(
    db: Session,
    learner: Learner,
    key: uuid.UUID,
    takes: Sequence[uuid.UUID],
    kind: str,
    subject: str,
    given: Given,
    at: datetime | None = None,
) -> Answered:
    """Keep an answer and hold it against the truth; the same key again gives the same and keeps nothing twice.

    Args:
        db: the database.
        learner: who answers.
        key: what the sender calls this answer.
        takes: the film, or the two films, that it was asked on.
        kind: what was asked.
        subject: and about what.
        given: the answer.
        at: when it was given, where it was kept for a while on the way; never in the future.

    Raises:
        NotFound: there is no such question any more.
        BadInput: it is no answer to it.
        Conflict: there are more answers already than anybody gives.
    """
    if (db.scalar(select(func.count()).where(learner.own(EyeAnswer))) or 0) >= MOST_ANSWERS:
        raise Conflict(f"There are {MOST_ANSWERS:,} answers already, more than are kept. This one was not stored.")
    (question, truth), films = question_of(db, learner.academy, takes, kind, subject)
    scored = score(question, truth, films[0].facts, given)
    now = datetime.now(UTC)
    when = now if at is None else max(min(at, now), now - KEPT_AT_MOST)
    row = insert(EyeAnswer).values(
        id=key, **learner.columns, take_id=films[0].id, second_take_id=films[1].id if len(films) > 1 else None,
        technique=question.technique, kind=question.kind, subject=question.subject, level=films[-1].level,
        given=given, true_choice=truth.choice, among=[choice.id for choice in question.choices], answered_at=when,
        **scored.model_dump(exclude={"grade"}),
    )  # fmt: skip
    is_new = db.scalar(row.on_conflict_do_nothing().returning(EyeAnswer.id)) is not None
    card = _answered(db, learner, question, films[-1].level, scored, when, is_new=is_new)
    return Answered(scored=scored, truth=truth, question=question, level=card.level, due_at=card.due_at)


def _answered(
    db: Session, learner: Learner, question: Question, level: int, scored: Scored, now: datetime, *, is_new: bool
) -> EyeCard:
    own = select(EyeCard).where(learner.own(EyeCard), EyeCard.technique == question.technique)
    card = db.scalar(own.where(EyeCard.kind == question.kind, EyeCard.subject == question.subject).with_for_update())
    if card is not None and not is_new:
        return card
    state, due = cards.answered(None if card is None else card.state, scored.grade, now)
    if card is None:
        card = EyeCard(
            id=uuid.uuid4(), **learner.columns, technique=question.technique, kind=question.kind,
            subject=question.subject, level=level, due_at=due, state=state,
        )  # fmt: skip
        db.add(card)
    card.level, card.due_at, card.state = next_level(card.level, scored.grade), due, state
    db.flush()
    return card
