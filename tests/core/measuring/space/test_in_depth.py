"""Readings in space, held against bodies posed at random: a small sample of `script/bench accuracy`, with margins."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest

from lacertus.core.measuring.repfile import mirror_rep, read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from tests.bench import posed
from tests.bench.in_depth import ASKED, Motion, Tally, in_picture, pooled, rep_of, tallied, technique_of, with_floor

PAIRS = 5
MIDDLE = np.array([0.4, 0.0, 0.9])


@pytest.fixture(scope="module")
def one_view() -> dict[str, Tally]:
    return dict(pooled(tallied(PAIRS, "lengths")))


@pytest.fixture(scope="module")
def two_views() -> dict[str, Tally]:
    return dict(pooled(tallied(2, "views")))


def together(found: dict[str, Tally]) -> Tally:
    whole = Tally()
    for tally in found.values():
        whole.errors += [error / u for error, u in zip(tally.errors, tally.us, strict=True)]
        whole.us += [1.0] * len(tally.us)
        whole.asked, whole.firm, whole.wrong = whole.asked + tally.asked, whole.firm + tally.firm, whole.wrong + tally.wrong
    return whole


def test_from_one_view_the_truth_in_space_lies_within_2u_and_firm_verdicts_are_right(one_view: dict[str, Tally]) -> None:
    whole = together(one_view)
    assert len(whole.errors) >= 0.9 * PAIRS * 4 * len(ASKED)
    assert whole.held >= 0.92
    assert whole.wrong_share <= 0.06
    assert whole.decided >= 0.45


@pytest.mark.parametrize("name", ASKED)
def test_no_kind_is_far_off_from_one_view(one_view: dict[str, Tally], name: str) -> None:
    assert one_view[name].held >= 0.7


def test_a_second_view_halves_what_is_unsure_and_decides_more(one_view: dict[str, Tally], two_views: dict[str, Tally]) -> None:
    whole = together(two_views)
    assert whole.held >= 0.85
    assert whole.wrong_share <= 0.08
    assert whole.decided >= 0.7
    # Of a trunk's lean most is unsure as nobody knows how upright the phone was held, which no second view tells.
    upright = ("trunk", "trunk ahead")
    in_depth = [name for name in ASKED if ASKED[name][0] in ("angle", "inclination", "line", "gap") and name not in upright]
    halved = [name for name in in_depth if two_views[name].u <= one_view[name].u / 2]
    assert len(halved) >= 0.8 * len(in_depth)


def filmed(seed: int, turn: float) -> tuple[Motion, posed.Eye, np.random.Generator]:
    chance = np.random.default_rng((seed, int(turn)))
    return Motion(seed=seed), posed.drawn_eye(chance, turn, MIDDLE), chance


def reps() -> Iterator[tuple[int, float]]:
    yield from ((0, 0.0), (1, 20.0), (2, 30.0))


@pytest.mark.parametrize(("seed", "turn"), reps())
def test_seen_in_a_mirror_on_the_other_side_nothing_changes(seed: int, turn: float) -> None:
    motion, eye, chance = filmed(seed, turn)
    rep = read_rep(rep_of(with_floor(in_picture(motion, eye, chance), eye, chance)))
    technique = technique_of({})
    read = 0
    for one, other in zip(judge_rep(technique, rep), judge_rep(technique, mirror_rep(rep)), strict=True):
        assert (one.verdict, one.rests_on) == (other.verdict, other.rests_on)
        if one.value is not None:
            read += 1
            assert other.value == pytest.approx(one.value, rel=1e-6, abs=1e-6)
            assert other.uncertainty == pytest.approx(one.uncertainty, rel=1e-6, abs=1e-6)
    assert read >= 28


def test_four_places_of_the_mat_tell_where_the_camera_stands() -> None:
    for seed in range(4):
        motion, eye, chance = filmed(seed, 20.0)
        rep = read_rep(rep_of(with_floor(in_picture(motion, eye, chance), eye, chance)))
        space = Scene(rep, {}).space
        assert space is not None and space.mat is not None
        camera, alone = space.mat.camera, space.lone_eye
        ahead = np.array(eye.to) - np.array(eye.at)
        pitch = np.arctan2(-ahead[2], np.hypot(ahead[0], ahead[1]))
        assert abs(camera.pitch.mean() - pitch) < 3 * camera.pitch.std() + 0.01
        assert camera.pitch.std() < 0.7 * alone.pitch_rad.std()
        assert abs(space.mat.high_m.mean() - eye.at[2]) < 3 * space.mat.high_m.std() + 0.02


def test_two_views_tell_how_their_cameras_stood_to_one_another() -> None:
    motion, eye, chance = filmed(3, 10.0)
    other = posed.drawn_eye(chance, 10.0 - 75.0, MIDDLE)
    rep = read_rep(rep_of(in_picture(motion, eye, chance)))
    there = read_rep(rep_of(in_picture(motion, other, chance)))
    second = Scene(there, {})
    space = Scene(rep, {}, other_view=(second, {frame: frame for frame in range(len(rep.pts_s))})).space
    assert space is not None and space.tie is not None and space.refused is None
    turned = np.degrees(space.tie.cameras[1].turn)
    assert abs(abs(turned.mean()) - 75.0) < 4.0
    assert space.tie.fit < 2.0


def test_a_view_of_another_motion_is_refused_with_the_reason() -> None:
    motion, eye, chance = filmed(3, 10.0)
    other = posed.drawn_eye(chance, -65.0, MIDDLE)
    rep = read_rep(rep_of(in_picture(motion, eye, chance)))
    stranger = Scene(read_rep(rep_of(in_picture(Motion(seed=11), other, chance))), {})
    space = Scene(rep, {}, other_view=(stranger, {frame: frame for frame in range(len(rep.pts_s))})).space
    assert space is not None and space.tie is None
    assert "does not fit the first one" in str(space.refused)


def test_a_view_from_the_same_side_settles_nothing() -> None:
    motion, eye, chance = filmed(3, 10.0)
    rep = read_rep(rep_of(in_picture(motion, eye, chance)))
    beside = Scene(read_rep(rep_of(in_picture(motion, posed.drawn_eye(chance, 13.0, MIDDLE), chance))), {})
    space = Scene(rep, {}, other_view=(beside, {frame: frame for frame in range(len(rep.pts_s))})).space
    assert space is not None and space.tie is None
    assert "same side" in str(space.refused)
