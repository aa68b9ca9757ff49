"""On the mat: what is said to touch does, nothing sinks in, grips hold. Read from the solids that bodies are made of."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.measuring.body import PROPORTIONS
from lacertus.studio.body.contact import ARMS, NAMES, Solids, gaps, solids_of
from lacertus.studio.body.settle import PRESSED_M, RATE, ways_out
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import Scene
from lacertus.studio.script import read_script, scene_of

TOUCHES_M, SUNK_M = 0.01, 0.03
PASSING_M = 0.10
"""How deep two limbs may cut each other's corner for a moment while bodies roll past each other."""
LIMB = {"hand": ("upper_arm", "forearm"), "foot": ("thigh", "shank")}
GROUND = [name for name, move in MOVES.items() if move.gives]
REPS = [(name, reaction) for name in GROUND for reaction in ("", *MOVES[name].reactions)]


def made(technique: str, reaction: str = "") -> Scene:
    script = {"lacertus_script": 1, "id": "contact", "technique": technique, "scatter": 0.0, "reps": [{"reaction": reaction}]}
    return scene_of(read_script(script))


def overlap(scene: Scene, times: list[float]) -> np.ndarray:
    """How deep trunk, head or legs of the two are in each other at each time, metres."""
    deepest = []
    for moment in scene.moments(times):
        one, other = (solids_of(moment[body], scene.looks[body]) for body in ("performer", "partner"))
        firm = [i for i, name in enumerate(one.names) if name not in ARMS]
        deepest.append(-gaps(one, other)[0][0][np.ix_(firm, firm)].min())
    return np.array(deepest)


@pytest.mark.parametrize(("technique", "reaction"), REPS)
def test_bodies_press_without_sinking_into_each_other(technique: str, reaction: str) -> None:
    scene = made(technique, reaction)
    rep = scene.reps[0]
    assert max(overlap(scene, sorted(rep.events_s.values()))) < SUNK_M
    whole = overlap(scene, np.arange(rep.start_s + 0.3, rep.end_s, 0.05).tolist())
    assert max(whole) < PASSING_M
    assert float(np.mean(whole > SUNK_M)) < 0.12


@pytest.mark.parametrize("technique", GROUND)
def test_what_is_said_to_touch_touches(technique: str) -> None:
    scene, move = made(technique), MOVES[technique]
    assert len(move.contacts) >= 3
    for event, pairs in move.contacts.items():
        moment = scene.moment(scene.reps[0].events_s[event])
        bodies = {body: solids_of(moment[body], scene.looks[body]) for body in ("performer", "partner")}
        for pair in pairs:
            ends = [
                (bodies[body], bodies[body].names.index(name)) for body, name in (end.split(".") for end in pair if end != "mat")
            ]
            if "mat" in pair:
                solids, i = ends[0]
                gap = min(float(solids.a[0, i, 2] - solids.ra[i]), float(solids.b[0, i, 2] - solids.rb[i]))
            else:
                gap = float(gaps(ends[0][0], ends[1][0])[0][0, ends[0][1], ends[1][1]])
            closed = "hand" in pair[0] or "hand" in pair[1]  # a hand closes round what it holds
            assert -(0.10 if closed else SUNK_M) < gap < TOUCHES_M + (0.03 if "mat" in pair else 0.0), (event, pair, gap)


@pytest.mark.parametrize("technique", GROUND)
def test_grips_hold_at_every_event(technique: str) -> None:
    """A hand or foot that holds is on its place, as far as the limb reaches."""
    scene = made(technique)
    held = 0
    for event, instant in scene.reps[0].events_s.items():
        moment = scene.moment(instant)
        for body, anchors in scene.move.holds.items():
            channels = scene.motions[body].at(instant)  # type: ignore[index]
            other = moment["partner" if body == "performer" else "performer"]
            for limb, anchor in anchors.items():
                side, part = limb.split("_")
                if channels[f"{side}_{'grip' if part == 'hand' else 'hook'}"] < 0.99:
                    continue
                end, root = ("wrist", "shoulder") if part == "hand" else ("ankle", "hip")
                slip = [float(channels[f"{side}_grip_{axis}"]) for axis in "xyz"] if part == "hand" else [0.0, 0.0, 0.0]
                at = moment[body].at
                target = anchor(moment[body], other) + np.array(slip)
                reach = float(np.linalg.norm(at[f"{side}_{root}"] - target))
                length = sum(PROPORTIONS[segment] for segment in LIMB[part]) * moment[body].stature_m
                assert np.linalg.norm(at[f"{side}_{end}"] - target) < 0.03 + max(reach - length, 0.0), (event, body, limb)
                assert reach < length + 0.12, (event, body, limb, "is out of reach")
                held += 1
    assert held >= 3


spot = st.tuples(*[st.floats(-1, 1)] * 3)


def one_solid(a: tuple[float, ...], b: tuple[float, ...], radius: float) -> Solids:
    return Solids(names=("one",), a=np.array([[a]]), b=np.array([[b]]), ra=np.array([radius]), rb=np.array([radius]))


@given(spot, spot, spot, spot)
def test_the_gap_of_two_capsules_is_the_least_over_all_their_spots(a: tuple, b: tuple, c: tuple, d: tuple) -> None:  # type: ignore[type-arg]
    """Against a grid of spots on both, which can only be further."""
    found = gaps(one_solid(a, b, 0.1), one_solid(c, d, 0.05))[0][0, 0, 0]
    shares = np.linspace(0, 1, 41)
    p, q = (np.outer(1 - shares, start) + np.outer(shares, end) for start, end in ((a, b), (c, d)))
    grid = np.linalg.norm(p[:, None] - q[None, :], axis=2).min() - 0.15
    assert found <= grid + 1e-6
    assert found >= grid - 0.11  # a step of the grid along both, at their longest


def test_a_body_gives_way_by_as_much_as_the_other_is_in_it() -> None:
    """Two bodies whose solids are far apart but for the pelvis of one, which sits 5 cm over that of the other."""
    apart = np.arange(len(NAMES))[None, :, None] * np.array([10.0, 0.0, 0.0])
    radii = np.full(len(NAMES), 0.08)

    def at(places: np.ndarray) -> Solids:
        return Solids(names=NAMES, a=places, b=places, ra=radii, rb=radii)

    def posed(ways: np.ndarray, times: np.ndarray) -> tuple[Solids, Solids]:
        sunk = np.where(times < 0.5, 0.05, 0.40)[:, None] * np.array([0.0, 0.0, 1.0])
        return at(apart + (sunk + ways)[:, None]), at(np.repeat(apart, len(times), 0))

    ways = ways_out(np.arange(0, 1, 1 / RATE), posed)
    assert ways[5] == pytest.approx([0.0, 0.0, 0.16 - 0.05 - PRESSED_M], abs=0.01)
    assert ways[-1] == pytest.approx([0.0, 0.0, 0.0], abs=0.001)
