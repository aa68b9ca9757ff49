"""Holds every kind that reads points against bodies posed at random in space, filmed by cameras placed at random."""

from __future__ import annotations

import copy
from collections.abc import Collection, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import cached_property
from types import SimpleNamespace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from rich.console import Console
from rich.progress import track
from rich.table import Table

from lacertus.core.measuring.body import SEGMENTS
from lacertus.core.measuring.measures.nested import Nested
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.views.tied import judge_reps
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reading import read_technique
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import frame_at, truth
from lacertus.studio.script import read_script, shots_of
from tests.bench import posed
from tests.core.build import checkpoint, technique_data
from tests.studio.in_space import InSpace, between, level

Array = NDArray[np.float64]

TURNS_DEG = (0.0, 10.0, 20.0, 30.0)
FPS, FRAMES = 60.0, 46
EVENTS = {"begin": 2, "middle": 22, "end": 43}
SIGMA_PX = 2.0
LENGTH_U, TRUNK_U, HEIGHT_U = 0.04, 0.06, 0.01
KNEE = ["working_hip", "working_knee", "working_ankle"]
ELBOW = ["other_shoulder", "other_elbow", "other_wrist"]
BEND = {"kind": "angle", "points": KNEE}
WAY, NOW = {"from": "begin", "to": "end"}, {"at": "middle"}

ASKED: dict[str, tuple[str, dict[str, Any], float]] = {
    "knee": ("angle", {"points": KNEE} | NOW, 30),
    "elbow": ("angle", {"points": ELBOW} | NOW, 30),
    "trunk": ("inclination", {"from_point": "mid_hip", "to_point": "mid_shoulder"} | NOW, 15),
    "shank": ("inclination", {"from_point": "other_ankle", "to_point": "other_knee"} | NOW, 15),
    "trunk ahead": ("inclination", {"from_point": "mid_hip", "to_point": "mid_shoulder", "signed": True} | NOW, 15),
    "shoulder-hip-ankle": ("line", {"points": ["working_shoulder", "working_hip", "working_ankle"]} | NOW, 0.12),
    "knee over hips": ("relation", {"point": "working_knee", "above": "mid_hip", "unit": "shank"} | NOW, 0.5),
    "ankle over mat": ("relation", {"point": "working_ankle", "above": "mat", "unit": "shank"} | NOW, 0.5),
    "hand over shoulder": ("relation", {"point": "working_wrist", "above": "partner.mid_shoulder", "unit": "shank"} | NOW, 0.5),
    "foot before foot": ("relation", {"point": "working_ankle", "towards": "other_ankle", "unit": "shank"} | NOW, 0.8),
    "along": ("relation", {"point": "working_wrist", "along": ["mid_hip", "mid_shoulder"]} | NOW, 0.8),
    "between": ("relation", {"point": "mid_hip", "between": ["working_ankle", "other_ankle"], "unit": "shank"} | NOW, 1.0),
    "wrist to knee": ("gap", {"between": ["working_wrist", "working_knee"], "unit": "shank"} | NOW, 0.8),
    "foot to foot": ("gap", {"between": ["working_heel", "other_heel"], "unit": "shank"} | NOW, 0.8),
    "wrist to partner": ("gap", {"between": ["working_wrist", "partner.working_elbow"], "unit": "shank"} | NOW, 0.8),
    "to ribs": ("gap", {"point": "working_elbow", "segment": ["working_hip", "working_shoulder"], "unit": "shank"} | NOW, 0.8),
    "knee opens": ("change", {"of": {"kind": "angle", "points": KNEE}, "from": "begin", "to": "end"}, 75),
    "knee against elbow": ("compare", {"of": BEND, "with": {"kind": "angle", "points": ELBOW}} | NOW, 90),
    "knee bent for": ("dwell", {"while": {"kind": "angle", "points": KNEE, "within": [None, 120]}} | WAY, 450),
    "ankle's height": ("peak", {"point": "working_ankle"} | WAY, 0.18),
    "ankle's way": ("path", {"point": "working_ankle", "pick": "length"} | WAY, 0.25),
    "hand straight": ("path", {"point": "working_hand", "pick": "straightness"} | WAY, 0.25),
    "hand's bulge": ("path", {"point": "working_hand", "pick": "bulge"} | WAY, 0.25),
    "ankle's pace": ("speed", {"point": "working_ankle", "pick": "highest"} | WAY, 0.5),
    "hand's mean pace": ("speed", {"point": "other_wrist", "pick": "mean"} | WAY, 0.5),
    "knee's pace": ("speed", {"angle": KNEE, "pick": "highest"} | WAY, 200),
    "weight": ("balance", {"of": "working_ankle"} | NOW, 1.0),
    "weight over foot": ("balance", {"over": "other_ankle"} | NOW, 1.5),
    "hips to target": ("facing", {"line": "hips", "towards": "target"} | NOW, 0.75),
    "shoulders to target": ("facing", {"line": "shoulders", "towards": "target"} | NOW, 0.6),
    "hips to partner": ("facing", {"line": "hips", "towards": "partner"} | NOW, 0.8),
    "head to target": ("facing", {"line": "head", "towards": "target"} | NOW, 0.6),
}  # fmt: skip
"""What is asked: kind, measure, and the spread of the limits drawn about the truth. Those of angles, inclinations, gaps, heights,
lines, paths and speeds were set beforehand; for the others it is about three usual u."""


@dataclass(frozen=True, kw_only=True)
class Motion:
    """A pair that moves for three quarters of a second: from one posture to another, and over the mat."""

    seed: int

    @cached_property
    def _bodies(self) -> dict[str, tuple[posed.Posture, posed.Posture, Array, Array]]:
        chance = np.random.default_rng(self.seed)
        found = {}
        for body in ("performer", "partner"):
            first = posed.drawn_posture(chance)
            second = posed.between(first, posed.drawn_posture(chance), 0.6)
            start = (
                np.array([0.0, 0.0, 0.0])
                if body == "performer"
                else np.array([chance.uniform(0.6, 1.0), chance.normal(0, 0.1), 0.0])
            )
            way = np.array([chance.normal(0, 0.2), chance.normal(0, 0.07), 0.0])
            found[body] = (first, second, start, way)
        return found

    def height_m(self, body: str) -> float:
        return self._bodies[body][0].height_m

    @cached_property
    def _kept(self) -> dict[tuple[str, float], posed.Places]:
        return {}

    def at(self, body: str, time_s: float) -> posed.Places:
        """Every landmark of a body at a time, metres."""
        key = (body, round(time_s, 6))
        if key not in self._kept:
            self._kept[key] = self._at(body, time_s)
        return self._kept[key]

    def _at(self, body: str, time_s: float) -> posed.Places:
        first, second, start, way = self._bodies[body]
        s = float(np.clip(time_s / ((FRAMES - 1) / FPS), 0, 1))
        share = s * s * (3 - 2 * s)
        places = posed.landmarks(posed.between(first, second, share))
        turned = np.diag([-1.0, -1.0, 1.0]) if body == "partner" else np.eye(3)
        return {name: place @ turned + start + way * share for name, place in places.items()}

    @cached_property
    def looks(self) -> Mapping[str, Any]:
        return {body: SimpleNamespace(stature_m=self.height_m(body)) for body in self._bodies}

    @property
    def move(self) -> Any:
        return SimpleNamespace(stance=None)

    def moment(self, time_s: float) -> dict[str, Any]:
        return {body: SimpleNamespace(at=self.at(body, time_s)) for body in self._bodies}

    def moments(self, times: list[float]) -> None:
        """Nothing is kept."""


@dataclass(frozen=True, kw_only=True)
class PosedInSpace(InSpace):
    """The truth of what is asked."""

    def metres(self, unit: str, ref: Any) -> float:
        if unit == "height":
            return float(self.scene.looks[self.body_of(ref)].stature_m)  # type: ignore[index]
        a, b = SEGMENTS.get(unit, SEGMENTS.get(f"right_{unit}", ("", "")))
        return float(np.linalg.norm(self.landmark(self.body_of(ref), a, 0.0) - self.landmark(self.body_of(ref), b, 0.0)))

    def _facing(self, measure: Any, t: float) -> float:
        def spot(name: str) -> Array:
            return self.landmark(measure.body, name, t)

        if measure.line == "head":
            ahead = level(spot("nose") - (spot("left_ear") + spot("right_ear")) / 2)
        else:
            line = measure.line.removesuffix("s")
            ahead = level(np.cross(spot(f"left_{line}") - spot(f"right_{line}"), [0.0, 0.0, 1.0]))
        if measure.towards == "partner":
            return float(ahead @ level(self.landmark("partner", "mid_hip", t) - spot("mid_hip")))
        return float(ahead[0])

    def _speed(self, measure: Any, t: float | None) -> float:
        if measure.angle is None:
            return super()._speed(measure, t)
        times, off = self._stretch(measure), 0.005
        a, v, b = measure.angle
        knees = [
            [between(self.place(a, s) - self.place(v, s), self.place(b, s) - self.place(v, s)) for s in (x - off, x + off)]
            for x in times
        ]
        return max(abs(after - before) / (2 * off) for before, after in knees)

    def _carried_forward(self, body: str, t: float) -> Array:
        """Where the mass is over the mat, carried forward by v ÷ √(g ÷ h) while it moves."""
        before, at, after = (self.landmark(body, "centre_of_mass", s) for s in (t - 0.005, t, t + 0.005))
        return np.asarray(at[:2] + (after - before)[:2] / 0.01 / np.sqrt(9.81 / at[2]))

    def _balance(self, measure: Any, t: float) -> float:
        mass = self._carried_forward(measure.body, t)
        if measure.over is None:
            ends = [(self.spot(f"{side}_heel", t) + self.spot(f"{side}_toe", t))[:2] / 2 for side in ("working", "other")]
            base = ends[0] - ends[1]
            return float((mass - ends[1]) @ base / (base @ base))
        heel, toe = (self.spot(f"other_{end}", t)[:2] for end in ("heel", "toe"))
        share = float(np.clip((mass - heel) @ (toe - heel) / ((toe - heel) @ (toe - heel)), 0, 1))
        return float(np.linalg.norm(mass - heel - share * (toe - heel))) / self.metres("foot", measure.mass)


def in_picture(motion: Motion, eye: posed.Eye, chance: np.random.Generator, exact: bool = False) -> dict[str, Any]:
    """What one camera gives of a motion: size, times, and every landmark on every frame with its scatter; lengths with theirs."""
    bodies: dict[str, Any] = {}
    times = [round(frame / FPS, 6) for frame in range(FRAMES)]
    for body in ("performer", "partner"):
        ways = [motion.at(body, time) for time in times]
        scale = eye.scale(np.array([0.4, 0.0, 0.9]))
        lengths = {}
        rest = {**ways[0], **{f"mid_{j}": (ways[0][f"left_{j}"] + ways[0][f"right_{j}"]) / 2 for j in ("hip", "shoulder")}}
        for segment, (a, b) in SEGMENTS.items():
            if segment.endswith("_trunk"):
                continue
            u = TRUNK_U if segment == "trunk" else LENGTH_U
            px = float(np.linalg.norm(rest[a] - rest[b])) * scale * (1 + u * chance.normal())
            lengths[segment] = {"px": px, "u": u * px}
        landmarks = {}
        for name in ways[0]:
            shared, part = chance.normal(0, 1, 2), SIGMA_PX / 2**0.5
            seen = eye.pixels(np.array([way[name] for way in ways]))
            seen = seen + part * shared + part * chance.normal(0, 1, seen.shape)
            landmarks[name] = [{"frame": f, "x": x, "y": y, "sigma": SIGMA_PX} for f, (x, y) in enumerate(seen.tolist())]
        height = motion.height_m(body) * scale * (1 + HEIGHT_U * chance.normal())
        bodies[body] = {"height_px": height, "reference_lengths_px": lengths, "landmarks": landmarks}
    return {"size": list(eye.size), "pts_s": times, "bodies": bodies, "camera_motion": None}


def rep_of(picture: dict[str, Any], technique: str = "posed") -> dict[str, Any]:
    return {
        "lacertus_rep": 1, "technique": technique, "side": "right", "heading": "right", "view": "side", "range": [0, FRAMES - 1],
        "events": {name: [frame] for name, frame in EVENTS.items()}, **picture,
    }  # fmt: skip


def technique_of(within: Mapping[str, tuple[float | None, float | None]], among: Collection[str] = tuple(ASKED)) -> Technique:
    """A technique that asks all that is read in space, or some of it, within these limits."""
    checks = [
        checkpoint(id=f"c{i}", kind=kind, phase="whole", measure=measure, within=list(within.get(name, (0, 1))))
        for i, (name, (kind, measure, _)) in enumerate(ASKED.items())
        if name in among
    ]
    events = {name: {"phase": "whole", "mark": "first frame"} for name in EVENTS}
    return read_technique(technique_data(*checks, id="posed", phases=["whole"], events=events, ladder=["solo"]))


@dataclass
class Tally:
    """Readings of one question at one turn."""

    errors: list[float] = field(default_factory=list)
    us: list[float] = field(default_factory=list)
    asked: int = 0
    firm: int = 0
    wrong: int = 0

    @property
    def held(self) -> float:
        return float(np.mean(np.abs(self.errors) <= 2 * np.array(self.us))) if self.errors else float("nan")

    @property
    def u(self) -> float:
        return float(np.sqrt(np.mean(np.square(self.us)))) if self.us else float("nan")

    @property
    def rms(self) -> float:
        return float(np.sqrt(np.mean(np.square(self.errors)))) if self.errors else float("nan")

    @property
    def bias(self) -> float:
        return float(np.mean(self.errors)) if self.errors else float("nan")

    @property
    def decided(self) -> float:
        return self.firm / max(self.asked, 1)

    @property
    def wrong_share(self) -> float:
        return self.wrong / max(self.firm, 1)

    def add(self, judgement: Judgement, true: float) -> None:
        self.asked += 1
        if judgement.value is None or judgement.uncertainty is None or judgement.verdict is Verdict.NOT_SEEN:
            return
        self.errors.append(judgement.value - true)
        self.us.append(judgement.uncertainty)
        if judgement.verdict in (Verdict.MET, Verdict.MISSED):
            self.firm += 1
            lo, hi = judgement.within or (None, None)
            inside = (lo is None or true >= lo) and (hi is None or true <= hi)
            self.wrong += inside != (judgement.verdict is Verdict.MET)


FLOOR_M = ((-0.6, 0.5), (1.4, 0.5), (1.4, -0.7), (-0.6, -0.7))


def with_floor(picture: dict[str, Any], eye: posed.Eye, chance: np.random.Generator) -> dict[str, Any]:
    """The same with four marked places of the mat."""
    marked = []
    for x, y in FLOOR_M:
        px, py = eye.pixels(np.array([x, y, 0.0])) + chance.normal(0, 1.0, 2)
        marked.append({"x": float(px), "y": float(py), "X": x, "Y": y})
    return {**picture, "floor": marked}


def tallied(count: int, knows: str = "lengths", first_seed: int = 0) -> dict[tuple[str, float], Tally]:
    """Every question over so many pairs, each from four turns; `knows`: `lengths`, `mat` (four mat points too), `views`, or
    `turn` and `turn and views` (it was told how the line to the target lies, to five degrees)."""
    found: dict[tuple[str, float], Tally] = {}
    for seed in track(range(first_seed, first_seed + count), f"posing ({knows})"):
        motion = Motion(seed=seed)
        space = PosedInSpace(scene=motion, events={name: frame / FPS for name, frame in EVENTS.items()})  # type: ignore[arg-type]
        middle = np.array([0.4, 0.0, 0.9])
        truths = truths_of(space)
        for turn in TURNS_DEG:
            chance = np.random.default_rng((seed, int(turn)))
            eye = posed.drawn_eye(chance, turn, middle)
            picture = in_picture(motion, eye, chance)
            if knows == "mat":
                picture = with_floor(picture, eye, chance)
            rep = rep_of(picture)
            if "turn" in knows:
                rep["target_turn"] = {"deg": float(5.0 * chance.normal() - turn), "u": 5.0}
            if "views" in knows:
                other = posed.drawn_eye(chance, turn - chance.uniform(40, 100), middle)
                rep["views"] = [in_picture(motion, other, chance) | {"offset_s": 0.0, "view": "angle"}]
            if knows == "height":
                _only_height(rep)
            _tally(found, rep, truths, turn, chance)
    return found


def _only_height(rep: dict[str, Any]) -> None:
    """Take the lengths away, and all points but those at events, so that none can be read from the clip."""
    for data in rep["bodies"].values():
        data["reference_lengths_px"] = {}
        for name, entries in data["landmarks"].items():
            data["landmarks"][name] = [entry for entry in entries if entry["frame"] in EVENTS.values()]


def truths_of(space: PosedInSpace) -> dict[str, float]:
    """What each question's answer is in space; those that ask of a partner who is not there have none."""
    plain, found = technique_of({}), {}
    for i, name in enumerate(ASKED):
        check = plain.checkpoint(f"c{i}")
        assert check is not None
        with suppress(KeyError):
            found[name] = space.value(Nested(kind=check.kind, measure=check.measure, within=None))
    return found


def _tally(
    found: dict[tuple[str, float], Tally], rep: dict[str, Any], truths: dict[str, float], turn: float, chance: np.random.Generator
) -> None:
    plain = technique_of({})
    limits = {}
    for i, (name, (_, _, spread)) in enumerate(ASKED.items()):
        check = plain.checkpoint(f"c{i}")
        if check is None or name not in truths:
            continue
        least, most = check.measure.natural_bounds
        limit = next(one for one in truths[name] + spread * chance.normal(size=200) if least < one < most)
        limits[name] = (None, float(limit)) if chance.random() < 0.5 else (float(limit), None)
    technique = technique_of(limits)
    (judged,) = judge_reps((technique,), (read_rep(rep),))
    by_id = {judgement.id: judgement for judgement in judged}
    for i, name in enumerate(ASKED):
        if name in truths:
            found.setdefault((name, turn), Tally()).add(by_id[f"c{i}"], truths[name])


def pooled(found: Mapping[tuple[str, float], Tally]) -> Iterator[tuple[str, Tally]]:
    """All turns of each question together."""
    for name in ASKED:
        whole = Tally()
        for (asked, _), tally in found.items():
            if asked == name:
                whole.errors += tally.errors
                whole.us += tally.us
                whole.asked, whole.firm, whole.wrong = whole.asked + tally.asked, whole.firm + tally.firm, whole.wrong + tally.wrong
        yield name, whole


def report(found: Mapping[tuple[str, float], Tally], title: str) -> Table:
    table = Table(
        "kind", "asked", "spread", "±2u holds at 0/10/20/30°", "decided", "firm wrong", "u", "RMS error", "bias", title=title
    )
    for name, whole in pooled(found):
        kind, _, spread = ASKED[name]
        each = [found.get((name, turn), Tally()) for turn in TURNS_DEG]
        table.add_row(
            kind, name, f"{spread:g}", "/".join(f"{100 * t.held:.0f}" for t in each) + " %",
            f"{100 * whole.decided:.0f} %  (" + "/".join(f"{100 * t.decided:.0f}" for t in each) + ")",
            f"{100 * whole.wrong_share:.1f} %", f"{whole.u:.3g}", f"{whole.rms:.3g}", f"{whole.bias:+.2g}",
        )  # fmt: skip
    return table


FAMILIES = (
    "advancing-foot-sweep",
    "inner-reap",
    "arm-drag",
    "scissor-sweep",
    "knee-shield-pass",
    "inverted-back-take",
    "triangle",
    "back-fall",
    "front-kick",
    "spinning-hook-kick",
)
"""A move of every family: throws, entries, sweeps, passes, back takes, submissions, falls, kicks."""


def tallied_moves(names: Sequence[str] = FAMILIES, seeds: int = 1) -> dict[tuple[str, float], Tally]:
    """The same questions of the studio's moves, each clean and with a fault, filmed by its own camera turned further."""
    found: dict[tuple[str, float], Tally] = {}
    for name, seed in track([(name, seed) for name in names for seed in range(seeds)], "moving"):
        faults = {} if seed % 2 == 0 else {MOVES[name].faults[0].code: MOVES[name].faults[0].most / 2}
        script = {"lacertus_script": 1, "id": "depth", "technique": name, "seed": seed, "reps": [{"faults": faults}]}
        filmed = {"recording": {"fps": 60}, "camera": {"size": [1280, 720], "view": "side"}, "scatter": 0.0}
        shot = shots_of(read_script(script | filmed))[0]
        made = shot.scene.reps[0]
        shot = replace(shot, times_s=tuple(time for time in shot.times_s if time <= made.end_s + 0.1))
        marks = sorted(made.events_s.values())
        chosen = dict(zip(EVENTS, (marks[0], marks[len(marks) // 2], marks[-1]), strict=True))
        truths = truths_of(PosedInSpace(scene=shot.scene, events=chosen))
        for turn in TURNS_DEG:
            turned = replace(shot, turn_deg=shot.turn_deg + turn)
            chance = np.random.default_rng((seed, int(turn), len(name)))
            told = truth(turned)["reps"][0] | {"technique": "posed", "floor": None, "rung": None, "options": {}, "view": "side"}
            told["events"] = {key: [frame_at(shot.times_s, time)] for key, time in chosen.items()}
            _tally(found, scattered(told, chance), truths, turn, chance)
    return found


def scattered(rep: dict[str, Any], chance: np.random.Generator) -> dict[str, Any]:
    """A rep whose points scatter, half of it alike in every frame, and whose lengths are as unsure as they say."""
    marked = copy.deepcopy(rep)
    part = SIGMA_PX / 2**0.5
    for data in marked["bodies"].values():
        for length in data["reference_lengths_px"].values():
            length["px"] += length["u"] * chance.normal()
        for entries in data["landmarks"].values():
            shared = chance.normal(0, part, 2)
            for entry in entries:
                own = chance.normal(0, part, 2)
                entry |= {"x": entry["x"] + shared[0] + own[0], "y": entry["y"] + shared[1] + own[1], "sigma": SIGMA_PX}
    return marked


KNOWN = (
    ("height", "one view, standing height alone, three frames"),
    ("lengths", "one view, reference lengths"),
    ("mat", "one view and four mat points"),
    ("views", "two views"),
    ("turn", "one view and how the line to the target lies"),
    ("turn and views", "two views and how the line to the target lies"),
)


def main(console: Console, count: int = 16) -> None:
    for knows, title in KNOWN:
        console.print(report(tallied(count, knows), f"Bodies posed at random, {title}: {count} pairs from each turn"))
    console.print(report(tallied_moves(), "The studio's moves, one view"))
    console.print("To reach: ±2u holds in ≥ 93 %, firm wrong ≤ 5 %, decided ≥ 45 % (two views: u at most half, decided ≥ 75 %).")
