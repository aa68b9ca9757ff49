"""What holds for every kind, whatever the body does: a mirror, another place, size or tilt of the picture changes nothing."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lacertus.core.measuring.repfile import RepFile, mirror_rep, read_rep
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.definition import Technique
from tests.core.bodies import swung
from tests.core.build import drawing, rep_data
from tests.core.measuring.every_kind import ASKED, EVERY, FREE, TILE, scattered, truth_of


def judged(technique: Technique, rep: RepFile) -> tuple[Judgement, ...]:
    """Judged as a drawing: the formulas of the picture (those of space are held in tests/core/measuring/space)."""
    return judge_rep(technique, rep, drawing(technique, rep))


@st.composite
def reps(draw: st.DrawFn) -> dict[str, Any]:
    """A body that kicks about by chance, smoothly, its limbs rigid, and a partner beside it who does too."""
    chance = np.random.default_rng(draw(st.integers(0, 10**6)))
    swings: dict[tuple[str, str], tuple[float, float, float]] = {}

    def turning(body: str) -> Callable[[int, str], float]:
        def turn(frame: int, part: str) -> float:
            wide = 3.0 if part == "trunk" else 18.0
            size, rate, phase = swings.setdefault(
                (body, part), (chance.uniform(-wide, wide), chance.uniform(0.5, 1.5), chance.uniform(0, 6))
            )
            kick = 40 * math.exp(-(((frame - 46) / 14) ** 2)) if (body, part) == ("performer", "right_thigh") else 0.0
            return float(kick + size * math.sin(2 * math.pi * rate * frame / 60 + phase))

        return turn

    frames = range(15, 90)
    sigma = draw(st.floats(0.3, 2.0))
    step = chance.uniform(120, 220)
    performer = swung(frames, turning("performer"), travel=lambda frame: (step * frame / 60, 0.0), sigma=sigma)
    partner = swung(frames, turning("partner"), foot=(850.0, 610.0), sigma=sigma)
    return rep_data(
        None,
        bodies={"performer": performer, "partner": partner},
        events={"knee_top": [20], "full_reach": [draw(st.integers(40, 50))], "folded": [80]},
        camera_motion=None,
        floor=TILE,
    )


def changed(data: dict[str, Any], place: Any, scale: float = 1.0, **more: Any) -> RepFile:
    """The rep with every pixel put elsewhere."""
    new = dict(data) | more
    new["bodies"] = {
        name: {
            "height_px": whole["height_px"] * scale,
            "landmarks": {
                mark: [
                    entry | {"sigma": entry["sigma"] * scale} | dict(zip("xy", place(entry["x"], entry["y"]), strict=True))
                    for entry in entries
                ]
                for mark, entries in whole["landmarks"].items()
            },
        }
        for name, whole in data["bodies"].items()
    }
    new["floor"] = [corner | dict(zip("xy", place(corner["x"], corner["y"]), strict=True)) for corner in data["floor"]]
    return read_rep(new)


class Seen:
    """Holds judgements to one another, and counts how often each measure was truly read: what is never read is held to nothing."""

    LEAST = 0.5
    """Of the cases."""

    def __init__(self) -> None:
        self.cases, self.read = 0, Counter[str]()

    def same(self, before: tuple[Judgement, ...], after: tuple[Judgement, ...]) -> None:
        self.cases += 1
        for a, b in zip(before, after, strict=True):
            assert a.verdict == b.verdict, (a, b)
            if a.value is None or a.verdict == "not_seen":
                continue
            self.read[a.id] += 1
            assert b.value == pytest.approx(a.value, rel=1e-4, abs=1e-4), (a, b)
            assert b.uncertainty == pytest.approx(a.uncertainty, rel=0.05, abs=1e-3), (a, b)

    def hold(self, technique: Technique) -> None:
        """Say how many cases were read of each, and fail where it is too few."""
        kinds = {check.id: check.kind for check in technique.checkpoints}
        told = {f"{name} {kind}": self.read[name] for name, kind in kinds.items()}
        print(f"read in {self.cases} cases: {told}")
        assert self.cases >= 5
        few = {name: times for name, times in told.items() if times < self.LEAST * self.cases}
        assert few == {}, f"of {self.cases} cases"


def test_seen_in_a_mirror_on_the_other_side_nothing_changes() -> None:
    seen = Seen()

    @given(data=reps())
    @settings(max_examples=25)
    def holds(data: dict[str, Any]) -> None:
        rep = read_rep(data)
        seen.same(judged(EVERY, rep), judged(EVERY, mirror_rep(rep)))

    holds()
    seen.hold(EVERY)


def test_another_place_in_the_picture_changes_nothing() -> None:
    seen = Seen()

    @given(data=reps(), dx=st.floats(-300, 300), dy=st.floats(-300, 300))
    @settings(max_examples=25)
    def holds(data: dict[str, Any], dx: float, dy: float) -> None:
        seen.same(judged(EVERY, read_rep(data)), judged(EVERY, changed(data, lambda x, y: (x + dx, y + dy))))

    holds()
    seen.hold(EVERY)


def test_another_size_changes_nothing() -> None:
    seen = Seen()

    @given(data=reps(), scale=st.floats(0.5, 3.0))
    @settings(max_examples=25)
    def holds(data: dict[str, Any], scale: float) -> None:
        seen.same(judged(FREE, read_rep(data)), judged(FREE, changed(data, lambda x, y: (x * scale, y * scale), scale)))

    holds()
    seen.hold(FREE)


def test_a_tilted_picture_with_its_vertical_changes_nothing() -> None:
    seen = Seen()

    @given(data=reps(), deg=st.floats(-20, 20))
    @settings(max_examples=25)
    def holds(data: dict[str, Any], deg: float) -> None:
        c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))

        def turned(x: float, y: float) -> tuple[float, float]:
            return 640 + c * (x - 640) - s * (y - 360), 360 + s * (x - 640) + c * (y - 360)

        level = judged(FREE, read_rep(data | {"upright": {"deg": 0.0, "u": 2.0}}))
        seen.same(level, judged(FREE, changed(data, turned, upright={"deg": deg, "u": 2.0})))

    holds()
    seen.hold(FREE)


COVERED = [i for i, (kind, *_) in enumerate(ASKED) if kind not in ("interval", "facing", "dwell")]
FREE_CHECKS = [i for i in COVERED if not (ASKED[i][0] == "peak" and "than" in ASKED[i][1])]


def test_two_u_hold_the_truth_and_firm_verdicts_are_right() -> None:
    """Points scattered by their σ around a body whose every value is known, 25 times over 26 measures."""
    chance = np.random.default_rng(11)
    truth = truth_of()
    true = {j.id: j.value for j in judged(FREE, read_rep(truth))}
    limits = {f"c{i}": ASKED[i][2] for i in FREE_CHECKS}
    inside, firm, wrong, squares = 0, 0, 0, []
    for _ in range(25):
        for judgement in judged(FREE, read_rep(scattered(truth, chance))):
            if judgement.id not in limits or judgement.value is None or true[judgement.id] is None:
                continue
            assert judgement.uncertainty is not None
            off = judgement.value - float(true[judgement.id] or 0.0)
            inside += abs(off) <= 2 * judgement.uncertainty
            squares.append(off / judgement.uncertainty)
            lo, hi = limits[judgement.id]
            ok = (lo is None or true[judgement.id] >= lo) and (hi is None or true[judgement.id] <= hi)
            if judgement.verdict in ("met", "missed"):
                firm += 1
                wrong += (judgement.verdict == "met") != ok
    print(f"{len(squares)} readings, {firm} firm verdicts")
    assert len(squares) >= 0.8 * 25 * len(limits)
    assert firm >= 0.3 * len(squares)
    assert inside / len(squares) >= 0.93
    assert float(np.sqrt(np.mean(np.square(squares)))) <= 1.05
    assert wrong / firm <= 0.05
