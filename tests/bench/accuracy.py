"""Holds the judge against the studio's truth: errors, bias, and how often the stated uncertainty holds."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray
from rich.console import Console
from rich.progress import track
from rich.table import Table

from lacertus.core.measuring.body import DERIVED, SEGMENTS, BodyName
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.measures.scalar import owner_of
from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.scene import Scene as JudgedScene
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reading import read_technique
from lacertus.library import shipped_technique
from lacertus.studio.body.figure import pose, rest_channels
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import Rep, Scene, Shot, frame_at, truth
from lacertus.studio.script import read_script, shots_of
from tests.core.build import checkpoint, technique_data

SIGMAS_PX = (1.0, 2.0, 4.0)
TURNS_DEG = (0.0, 10.0, 20.0, 30.0)
SCATTER_S = 0.006
Key = tuple[str, float, float]
Array = NDArray[np.float64]


@dataclass
class Tally:
    """Readings of one kind at one σ and obliquity: errors and stated uncertainties in the kind's unit."""

    errors: list[float] = field(default_factory=list)
    us: list[float] = field(default_factory=list)
    asked: int = 0
    firm: int = 0
    wrong: int = 0

    def add(self, value: float, u: float, true: float) -> None:
        self.errors.append(value - true)
        self.us.append(u)

    @property
    def rms(self) -> float:
        return float(np.sqrt(np.mean(np.square(self.errors)))) if self.errors else float("nan")

    @property
    def stated(self) -> float:
        return float(np.sqrt(np.mean(np.square(self.us)))) if self.us else float("nan")

    @property
    def held(self) -> float:
        return float(np.mean(np.abs(self.errors) <= 2 * np.array(self.us))) if self.errors else float("nan")


def true_angle(checkpoint: Checkpoint, scene: Scene, rep: RepFile, time_s: float) -> float:
    """The joint angle in space at a time, degrees."""
    names = JudgedScene(rep, {})
    a, vertex, b = (_place(ref, scene, names, time_s) for ref in checkpoint.measure.points_used)
    u, v = a - vertex, b - vertex
    return float(np.degrees(np.arccos(np.clip(u @ v / np.linalg.norm(u) / np.linalg.norm(v), -1, 1))))


def true_inclination(checkpoint: Checkpoint, scene: Scene, rep: RepFile, time_s: float) -> float:
    """The angle of a line with the vertical in space, degrees."""
    names = JudgedScene(rep, {})
    start, end = (_place(ref, scene, names, time_s) for ref in checkpoint.measure.points_used[:2])
    line = end - start
    return float(np.degrees(np.arccos(line[2] / np.linalg.norm(line))))


def true_height(checkpoint: Checkpoint, scene: Scene, rep: RepFile, time_s: float) -> float:
    """How much higher a point lies than another, or than the mat, in the checkpoint's unit."""
    names, measure = JudgedScene(rep, {}), checkpoint.measure
    point, *other = (_place(ref, scene, names, time_s)[2] for ref in measure.points_used)
    body = names.landmarks_of(owner_of(measure.points_used[0]))[0][0]
    return float((point - (other[0] if other else 0.0)) / true_unit(str(measure.unit_shown), body, scene))


def true_unit(unit: str, body: BodyName, scene: Scene) -> float:
    """A body unit in metres."""
    look = scene.looks[body]
    if unit.rpartition(".")[2] == "height":
        return look.stature_m
    at = pose(rest_channels(), look).at
    a, b = SEGMENTS.get(unit, SEGMENTS.get(f"right_{unit}", ("", "")))
    return float(np.linalg.norm(at[a] - at[b]))


def _place(ref: PointRef, scene: Scene, names: JudgedScene, time_s: float) -> Array:
    if ref.on is not None:
        start, end = (_place(PointRef(name=name), scene, names, time_s) for name in ref.on)
        return np.asarray((1 - ref.share) * start + ref.share * end)
    body, landmark = names.resolve(ref.name or "")
    at = scene.moment(time_s)[body].at
    parts = DERIVED.get(landmark, ((landmark, 1.0),))
    return np.asarray(sum(at[name] * weight for name, weight in parts))


def noisy(rep: dict[str, Any], made: Rep, shot: Shot, sigma: float, chance: np.random.Generator) -> dict[str, Any]:
    """A rep as a coach of that scatter marks it: points off by an own and a shared part, events by the marking scatter."""
    marked = copy.deepcopy(rep)
    part = sigma / np.sqrt(2)
    for data in marked["bodies"].values():
        for entries in data["landmarks"].values():
            shared = chance.normal(0, part, 2)
            for entry in entries:
                own = chance.normal(0, part, 2)
                entry |= {"x": entry["x"] + shared[0] + own[0], "y": entry["y"] + shared[1] + own[1], "sigma": sigma}
    return marked


def marked_instants(made: Rep, shot: Shot, chance: np.random.Generator) -> dict[str, list[int]]:
    """The frames that a coach marks: the instant misjudged by the larger of half a frame and 6 ms."""
    gap = shot.times_s[1] - shot.times_s[0]
    scatter = max(gap / 2, SCATTER_S)
    return {name: [frame_at(shot.times_s, instant + chance.normal(0, scatter))] for name, instant in made.events_s.items()}


def cases(seeds: int) -> Iterator[tuple[Technique, Scene, Shot, float]]:
    for name in MOVES:
        for seed in range(seeds):
            faults = (
                {}
                if seed % 2 == 0
                else {
                    MOVES[name].faults[seed // 2 % len(MOVES[name].faults)].code: MOVES[name]
                    .faults[seed // 2 % len(MOVES[name].faults)]
                    .most
                    * 0.5
                }
            )
            script: dict[str, Any] = {
                "lacertus_script": 1,
                "id": "accuracy",
                "technique": name,
                "seed": seed,
                "reps": [{"faults": faults}],
            }
            script |= {"recording": {"fps": 60}, "camera": {"size": [1280, 720]}}
            first = shots_of(read_script(script))[0]
            for turn in TURNS_DEG:
                shot = Shot(scene=first.scene, camera=first.camera, times_s=first.times_s, turn_deg=first.turn_deg + turn)
                yield shipped_technique(name), first.scene, shot, turn


def tallied(seeds: int, draws: int) -> dict[Key, Tally]:
    """Every measured checkpoint, judged under noise and set against the truth."""
    found: dict[Key, Tally] = {}
    chance = np.random.default_rng(2026)
    for technique, scene, shot, turn in track(list(cases(seeds)), "measuring"):
        told, made = truth(shot, only_events=True)["reps"][0], scene.reps[0]
        for sigma in SIGMAS_PX:
            for _ in range(draws):
                marked = noisy(told, made, shot, sigma, chance)
                _tally(found, technique, scene, shot, turn, sigma, marked, marked_instants(made, shot, chance))
    return found


def _tally(
    found: dict[Key, Tally], technique: Technique, scene: Scene, shot: Shot, turn: float, sigma: float,
    marked: dict[str, Any], instants: dict[str, list[int]],
) -> None:  # fmt: skip
    points = read_rep(marked)
    first, last = marked["range"]
    timed = read_rep(marked | {"events": {k: [min(max(f[0], first), last)] for k, f in instants.items()}})
    made = scene.reps[0]
    for rep, kinds in ((points, IN_PLACE), (timed, IN_TIME)):
        for judgement in judge_rep(technique, rep):
            checkpoint, kind = technique.checkpoint(judgement.id), judgement.kind
            if kind not in kinds or checkpoint is None or judgement.verdict is Verdict.NOT_ASKED:
                continue
            if kind in IN_PLACE and not _has_truth(checkpoint):
                continue
            label = f"{kind}, lean unknown" if any("lean unknown" in note for note in judgement.notes) else kind
            tally = found.setdefault((label, sigma, turn) if kind in IN_PLACE else (label, 0.0, 0.0), Tally())
            tally.asked += 1
            if judgement.value is None or judgement.uncertainty is None or judgement.verdict is Verdict.NOT_SEEN:
                continue
            true = _truth_of(checkpoint, kind, scene, rep, shot, made)
            tally.add(judgement.value, judgement.uncertainty, true)
            if judgement.verdict in (Verdict.MET, Verdict.MISSED):
                tally.firm += 1
                lo, hi = judgement.within or (None, None)
                inside = (lo is None or true >= lo) and (hi is None or true <= hi)
                tally.wrong += inside != (judgement.verdict is Verdict.MET)


def _truth_of(checkpoint: Checkpoint, kind: str, scene: Scene, rep: RepFile, shot: Shot, made: Rep) -> float:
    events = checkpoint.measure.events_used
    if kind in IN_PLACE:
        return IN_PLACE[kind](checkpoint, scene, rep, shot.times_s[rep.events[events[0]][0]])
    instants = [made.events_s[event] for event in events]
    return (max(instants) - min(instants) if kind == "together" else instants[1] - instants[0]) * 1000


def _has_truth(checkpoint: Checkpoint) -> bool:
    """Whether space has the same quantity: a signed lean or a place towards the target is one of the picture."""
    measure = checkpoint.measure
    if checkpoint.kind == "inclination":
        return not getattr(measure, "signed", False)
    return checkpoint.kind != "relation" or getattr(measure, "word", "") == "above"


IN_PLACE = {"angle": true_angle, "inclination": true_inclination, "relation": true_height}
IN_TIME = ("interval", "together")


def report(seeds: int = 6, draws: int = 8) -> Table:
    """The accuracy table: RMS error within 1.05 of the stated u, ±2u holding 93–97 %, firm verdicts wrong in at most 5 %."""
    table = Table("kind", "σ px", "turned", "read", "not seen", "RMS error", "stated u", "ratio", "bias", "±2u holds", "firm wrong")
    for (kind, sigma, turn), tally in sorted(tallied(seeds, draws).items()):
        timed = kind in IN_TIME
        unit = " ms" if timed else "" if kind.startswith("relation") else "°"
        n = len(tally.errors)
        table.add_row(
            kind,
            f"{sigma:g}" if sigma else "–",
            "–" if timed else f"{turn:g}°",
            str(n),
            f"{100 * (1 - n / tally.asked):.0f} %",
            f"{tally.rms:.2f}{unit}",
            f"{tally.stated:.2f}{unit}",
            f"{tally.rms / tally.stated:.2f}",
            f"{np.mean(tally.errors):+.2f}{unit}",
            f"{100 * tally.held:.1f} %",
            f"{100 * tally.wrong / max(tally.firm, 1):.1f} %",
        )
    return table


KNEE = ["working_hip", "working_knee", "working_ankle"]
ELBOW = ["working_shoulder", "working_elbow", "working_wrist"]


def asked_of_any(technique: Technique) -> Technique:
    """Checkpoints of the kinds that the studio's techniques do not ask for, over the middle of any of them."""
    events = technique.events_in_order()
    way, now = {"from": events[0], "to": events[-1]}, {"at": events[len(events) // 2]}
    knee = {"kind": "angle", "points": KNEE}
    asked: list[tuple[str, dict[str, Any]]] = [
        ("line", {"points": ["head_top", "mid_hip", "working_ankle"]} | now),
        ("gap", {"between": ["working_wrist", "working_shoulder"], "unit": "forearm"} | now),
        ("gap", {"point": "working_elbow", "segment": ["working_hip", "working_shoulder"]} | now),
        ("change", {"of": knee} | way),
        ("compare", {"of": knee, "with": {"kind": "angle", "points": ELBOW}} | now),
        ("dwell", {"while": knee | {"within": [120, None]}} | way),
        ("peak", {"point": "working_ankle"} | way),
        ("peak", {"point": "working_knee", "than": events[len(events) // 2]} | way),
        ("path", {"point": "working_ankle", "pick": "length"} | way),
        ("path", {"point": "working_hand", "pick": "straightness"} | way),
        ("path", {"point": "working_hand", "pick": "bulge", "relative_to": "mid_shoulder"} | way),
        ("speed", {"point": "working_ankle", "pick": "highest"} | way),
        ("speed", {"angle": KNEE, "pick": "highest"} | way),
        ("balance", {"of": "working_ankle"} | now),
        ("balance", {"pick": "outside"} | now),
    ]
    phase = technique.phases[-1]
    checks = [
        checkpoint(id=f"c{i}", kind=kind, phase=phase, measure=measure, within=[0, 1]) for i, (kind, measure) in enumerate(asked)
    ]
    marks = {key: {"phase": event.phase, "mark": event.mark} for key, event in technique.events.items()}
    return read_technique(technique_data(*checks, id=technique.id, phases=list(technique.phases), events=marks, ladder=["solo"]))


def tallied_otherwise(seeds: int, draws: int, sigma: float = 2.0) -> dict[tuple[str, float], Tally]:
    """The other measured kinds, in units of their stated u: what the turned and scattered picture gives, against what exact
    points in a picture square to the pair give. Points are on every frame, as carried. The wanted range ends where a rep of the
    same move lies, so that verdicts fall on both sides."""
    found: dict[tuple[str, float], Tally] = {}
    chance = np.random.default_rng(2027)
    square: dict[str, Judgement] = {}
    for technique, scene, shot, turn in track(list(cases(seeds)), "measuring the other kinds"):
        free = asked_of_any(technique)
        told, made = truth(shot)["reps"][0] | {"rung": None, "options": {}, "camera_motion": None}, scene.reps[0]
        if turn == 0:
            exact = copy.deepcopy(told)
            for data in exact["bodies"].values():
                for entries in data["landmarks"].values():
                    for entry in entries:
                        entry["sigma"] = 0.01
            square = {judgement.id: judgement for judgement in judge_rep(free, read_rep(exact))}
        asked = _with_ranges(free, square, chance)
        for _ in range(draws):
            for judgement in judge_rep(asked, read_rep(noisy(told, made, shot, sigma, chance))):
                _tally_otherwise(found, turn, judgement, square[judgement.id])
    return found


def _with_ranges(technique: Technique, square: dict[str, Judgement], chance: np.random.Generator) -> Technique:
    """Each checkpoint wants at most, or at least, what lies a little off the true value, on one side or the other."""
    checks = []
    for checkpoint_ in technique.checkpoints:
        true = square[checkpoint_.id].value
        limit = None if true is None else true + 0.15 * max(abs(true), 0.1) * chance.normal()
        within = (None, limit) if chance.random() < 0.5 else (limit, None)
        checks.append(checkpoint_.model_copy(update={"within": within}))
    return technique.model_copy(update={"checkpoints": tuple(checks)})


def _tally_otherwise(found: dict[tuple[str, float], Tally], turn: float, judgement: Judgement, square: Judgement) -> None:
    if judgement.verdict is Verdict.NOT_ASKED or square.value is None:
        return
    tally = found.setdefault((judgement.kind, turn), Tally())
    tally.asked += 1
    if judgement.value is None or not judgement.uncertainty:
        return
    tally.add(judgement.value / judgement.uncertainty, 1.0, square.value / judgement.uncertainty)
    if judgement.verdict in (Verdict.MET, Verdict.MISSED):
        tally.firm += 1
        lo, hi = judgement.within or (None, None)
        inside = (lo is None or square.value >= lo) and (hi is None or square.value <= hi)
        tally.wrong += inside != (judgement.verdict is Verdict.MET)


def report_otherwise(seeds: int = 4, draws: int = 4) -> Table:
    table = Table("kind", "turned", "read", "not seen", "RMS error ÷ u", "bias ÷ u", "±2u holds", "firm", "firm wrong")
    for (kind, turn), tally in sorted(tallied_otherwise(seeds, draws).items()):
        n = len(tally.errors)
        table.add_row(
            kind,
            f"{turn:g}°",
            str(n),
            f"{100 * (1 - n / tally.asked):.0f} %",
            f"{tally.rms:.2f}",
            f"{np.mean(tally.errors) if n else float('nan'):+.2f}",
            f"{100 * tally.held:.1f} %",
            str(tally.firm),
            f"{100 * tally.wrong / max(tally.firm, 1):.1f} %",
        )
    return table


def main() -> None:
    console = Console(width=130)
    console.print(report())
    console.print(report_otherwise())
    console.print("To reach: ratio ≤ 1.05; ±2u holds 93–97 % where errors are Gaussian and ≥ 93 % elsewhere; firm wrong ≤ 5 %.")
