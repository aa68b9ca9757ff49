"""Pairs: every safety rule, the scores by hand, and every way to pair tried."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lacertus.core.errors import BadInput
from lacertus.core.plan.pairs import Class, Pairing, Trainee, pair_of, pairing_of

FITS = {"outer-reap": frozenset({"back-fall", "side-fall"})}


def who(id: str, **more: Any) -> Trainee:
    told: dict[str, Any] = {key: frozenset(value) if isinstance(value, list) else value for key, value in more.items()}
    return Trainee(id=id, **told)


def group(*trainees: Trainee, **more: Any) -> Class:
    return Class(trainees=trainees, **more)


def pairs(found: Pairing) -> list[tuple[str, str]]:
    return [pair for pair, _ in found.pairs]


class TestRules:
    @pytest.mark.parametrize(
        ("one", "other", "why"),
        [
            (who("a", adult=True), who("b", adult=False), "an adult does not train with a child"),
            (who("a", weight_kg=85.0), who("b", weight_kg=100.0), None),
            (who("a", weight_kg=84.9), who("b", weight_kg=100.0), "their weights are too far apart"),
            (who("a", weight_kg=None), who("b", weight_kg=100.0), None),
        ],
    )
    def test_who_may_train_with_whom(self, one: Trainee, other: Trainee, why: str | None) -> None:
        assert group(one, other).why_not(one, other) == why
        assert group(one, other).why_not(other, one) == why

    def test_a_coach_allows_what_is_kept_apart_and_nothing_without_a_fall(self) -> None:
        one, other = who("a", adult=True), who("b", adult=False)
        kept = group(one, other, apart=frozenset({("a", "b")}))
        assert kept.why_not(one, other) == "they are kept apart"
        assert group(one, other, apart=kept.apart, allowed=kept.apart).why_not(one, other) is None
        throwing = group(one, other, allowed=kept.apart, throw="outer-reap", fits=FITS)
        assert throwing.why_not(one, other) == "a has not passed a fall that fits outer-reap"

    def test_both_need_a_fall_that_fits_as_both_throw_in_turn(self) -> None:
        falls = who("a", falls=["back-fall"]), who("b", falls=["side-fall", "roll"]), who("c", falls=["roll"]), who("d")
        found = pairing_of(group(*falls, throw="outer-reap", fits=FITS))
        assert pairs(found) == [("a", "b")]
        assert [one.student for one in found.alone] == ["c", "d"]
        assert all("has not passed a fall that fits outer-reap" in one.why for one in found.alone)

    @pytest.mark.parametrize(
        ("more", "says"),
        [
            ({"throw": "hip-throw", "fits": FITS}, "which falls fit the throw “hip-throw”"),
            ({"apart": frozenset({("a", "x")})}, "apart: nobody has the id “x”"),
            ({"allowed": frozenset({("a", "a")})}, "paired with themselves"),
            ({"together": {("b", "x"): 1}}, "together: nobody has the id “x”"),
        ],
    )
    def test_what_does_not_fit_is_refused(self, more: dict[str, Any], says: str) -> None:
        with pytest.raises(BadInput, match=says):
            pairing_of(group(who("a"), who("b"), **more))

    def test_an_id_stands_there_once(self) -> None:
        with pytest.raises(BadInput, match="a stands there twice"):
            pairing_of(group(who("a"), who("a")))


class TestScores:
    @pytest.mark.parametrize(
        ("one", "other", "ago", "score"),
        [
            (who("a"), who("b"), None, 2),
            (who("a"), who("b"), 3, 2),
            (who("a"), who("b"), 2, 0),
            (who("a"), who("b"), 1, 0),
            (who("a", clean=["x"]), who("b", misses=["x"]), 1, 3),
            (who("a", clean=["x"], misses=["y"]), who("b", clean=["y"], misses=["x"]), 1, 3),
            (who("a", height_cm=171.0), who("b", height_cm=180.0), 1, 1),
            (who("a", height_cm=170.9), who("b", height_cm=180.0), 1, 0),
            (who("a", height_cm=180.0), who("b"), 1, 0),
            (who("a", safety=["s"]), who("b", safety=["s", "t"]), 1, -2),
        ],
    )
    def test_by_hand(self, one: Trainee, other: Trainee, ago: int | None, score: int) -> None:
        there = group(one, other, together={} if ago is None else {("a", "b"): ago})
        assert there.score(one, other) == there.score(other, one) == score

    def test_the_most_pairs_come_before_the_best_pairs(self) -> None:
        # b and c suit each other best, but then a and d stand alone.
        some = [who("a"), who("b", clean=["x"]), who("c", misses=["x"]), who("d")]
        found = pairing_of(group(*some, apart=frozenset({("a", "d"), ("a", "c"), ("b", "d")})))
        assert (pairs(found), found.score) == ([("a", "b"), ("c", "d")], 4)

    def test_also_a_pair_that_scores_below_nothing_is_a_pair(self) -> None:
        some = who("a", safety=["s"]), who("b", safety=["s"])
        found = pairing_of(group(*some, together={("a", "b"): 1}))
        assert found.pairs == ((("a", "b"), -2),)


class TestThirds:
    def test_who_is_left_over_joins_the_pair_whose_worse_new_score_is_best(self) -> None:
        # c and d: 3 + 2 + 1; e with either of them 3, with a or b 2.
        tall = {"height_cm": 170.0}
        some = [who("a"), who("b"), who("c", clean=["x"], **tall), who("d", misses=["x"], **tall), who("e", **tall)]
        found = pairing_of(group(*some))
        assert found.pairs == ((("a", "b"), 2), (("c", "d"), 6))
        assert found.thirds == (("e", ("c", "d")),)
        assert found.score == 8
        plain = pairing_of(group(*[who(id) for id in "abc"]))
        assert (len(plain.pairs), len(plain.thirds), plain.score) == (1, 1, 2)

    def test_one_pair_takes_one_third_and_the_next_stands_alone(self) -> None:
        # Three children and two adults who are kept apart: one adult joins nobody.
        some = [who("a", adult=False), who("b", adult=False), who("c", adult=False), who("d"), who("e")]
        found = pairing_of(group(*some, apart=frozenset({("d", "e")})))
        assert len(found.thirds) == 1
        assert [one.student for one in found.alone] == ["d", "e"]
        assert "an adult does not train with a child" in found.alone[0].why

    def test_ties_go_by_ids(self) -> None:
        some = [who(id) for id in "abcde"]
        found = pairing_of(group(*some))
        ((student, joined),) = found.thirds
        assert joined == min(pairs(found))
        assert student not in {id for pair in pairs(found) for id in pair}


def matchings(ids: list[str], may: set[tuple[str, str]]) -> Iterator[frozenset[tuple[str, str]]]:
    """Every way to pair some of them."""
    if not ids:
        yield frozenset()
        return
    first, rest = ids[0], ids[1:]
    yield from matchings(rest, may)
    for other in rest:
        if pair_of(first, other) in may:
            for more in matchings([id for id in rest if id != other], may):
                yield more | {pair_of(first, other)}


CODES = st.lists(st.sampled_from(["x", "y", "z"]), max_size=2).map(frozenset)
TRAINEES = st.lists(
    st.builds(
        Trainee,
        id=st.sampled_from("abcdefgh"),
        adult=st.booleans(),
        weight_kg=st.sampled_from([None, 40.0, 60.0, 68.0, 70.0, 80.0]),
        height_cm=st.sampled_from([None, 150.0, 170.0, 178.0]),
        falls=st.lists(st.sampled_from(["back-fall", "roll"]), max_size=2).map(frozenset),
        clean=CODES,
        misses=CODES,
        safety=CODES,
    ),
    max_size=8,
    unique_by=lambda one: one.id,
)


@st.composite
def classes(draw: st.DrawFn) -> Class:
    trainees = draw(TRAINEES)
    ids = sorted(one.id for one in trainees)
    all_pairs = [(a, b) for i, a in enumerate(ids) for b in ids[i + 1 :]]
    some = st.lists(st.sampled_from(all_pairs), max_size=5) if all_pairs else st.just([])
    return Class(
        trainees=tuple(trainees),
        throw=draw(st.sampled_from([None, "outer-reap"])),
        fits=FITS,
        together={pair: draw(st.integers(1, 4)) for pair in draw(some)},
        apart=frozenset(draw(some)),
        allowed=frozenset(draw(some)),
    )


@given(classes())
@settings(max_examples=250, deadline=None)
def test_it_pairs_as_one_who_tries_every_way_and_never_unsafely(there: Class) -> None:
    found = pairing_of(there)
    by_id = {one.id: one for one in there.trainees}
    may = {
        pair_of(a, b) for a in by_id for b in by_id if a < b and there.why_not(by_id[a], by_id[b]) is None
    }  # fmt: skip
    best = max(
        ((len(way), sum(there.score(by_id[a], by_id[b]) for a, b in way)) for way in matchings(sorted(by_id), may)),
        default=(0, 0),
    )
    assert (len(found.pairs), found.score) == best
    placed = [id for pair in pairs(found) for id in pair] + [id for id, _ in found.thirds] + [one.student for one in found.alone]
    assert sorted(placed) == sorted(by_id)
    for student, (a, b) in found.thirds:
        assert {pair_of(student, a), pair_of(student, b), (a, b)} <= may
    for a, b in pairs(found):
        one, other = by_id[a], by_id[b]
        if there.throw is not None:
            assert one.falls & FITS[there.throw]
            assert other.falls & FITS[there.throw]
        if (a, b) not in there.allowed:
            assert one.adult == other.adult
            assert (a, b) not in there.apart


@given(classes())
@settings(max_examples=60, deadline=None)
def test_somebody_who_comes_too_never_makes_fewer_pairs(there: Class) -> None:
    if len(there.trainees) == 8:
        return
    more = Class(
        trainees=(*there.trainees, Trainee(id="newcomer", falls=frozenset({"back-fall"}))), throw=there.throw, fits=FITS,
        together=there.together, apart=there.apart, allowed=there.allowed,
    )  # fmt: skip
    assert len(pairing_of(more).pairs) >= len(pairing_of(there).pairs)
