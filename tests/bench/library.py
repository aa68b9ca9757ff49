"""What the shipped techniques ask for, and what the studio's moves show of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache

from rich.console import Console
from rich.table import Table

from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judge import judge_rep
from lacertus.core.techniques.choices import differences
from lacertus.core.techniques.definition import Technique
from lacertus.library import shipped, shipped_technique
from lacertus.studio.body.move import Fault
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import Shot, truth
from lacertus.studio.script import VIEWS, read_script, shots_of, view_for
from tests.bench.known_space import known_scene

NAMED = {
    "arm-drag": (11, 13),
    "small-inner-reap": (5, 7),
    "duck-under": (8, 8),
    "lead-leg-fake": (12, 13),
    "outer-reap": (11, 14),
    "inner-reap": (9, 10),
    "hip-throw": (9, 12),
    "front-fall": (6, 6),
    "side-fall": (5, 5),
    "back-fall": (4, 4),
    "moving-backward-fall": (10, 10),
    "crescent-kick": (7, 9),
    "reverse-crescent-kick": (7, 9),
    "flying-side-kick": (11, 13),
}
"""Of the things that teachers of a technique say they look at: how many a kind of measure can read, and how many there are."""


@dataclass(frozen=True, kw_only=True)
class Asked:
    """What one technique asks for."""

    checkpoints: int
    measured: int
    kinds: int
    options: int
    options_that_change: int
    reactions: int
    drills: int

    @property
    def share(self) -> float:
        """Of its checkpoints, those that are measured and not asked by eye."""
        return self.measured / self.checkpoints


def asked_by(technique: Technique) -> Asked:
    kinds = [checkpoint.kind for checkpoint in technique.checkpoints]
    return Asked(
        checkpoints=len(kinds),
        measured=sum(not KINDS[kind].by_eye for kind in kinds),
        kinds=len(set(kinds)),
        options=len(technique.options),
        options_that_change=sum(bool(differences(technique, group)) for group in technique.options),
        reactions=len(technique.reactions),
        drills=len(technique.drills),
    )


@dataclass(frozen=True, kw_only=True)
class Shown:
    """What the move of a technique shows: fault codes, and the ids of checkpoints."""

    put_in: tuple[str, ...]
    found: tuple[str, ...]
    spilled: tuple[str, ...]
    """Each as “fault put in → fault found”: missed, but neither missed by the clean move nor led to by the fault put in."""
    not_met: tuple[str, ...]
    """Measured checkpoints that the clean move is asked for and that are not read as met."""


def shown_by(technique: Technique) -> Shown:
    clean = _verdicts(technique, {}, {})
    leads = _leads(technique)
    measured = {c.fault.code for c in technique.checkpoints if not KINDS[c.kind].by_eye}
    put_in = tuple(fault for fault in MOVES[technique.id].faults if fault.code in measured)
    found, spilled = [], []
    for fault in put_in:
        missed = {
            code
            for code, verdict in _verdicts(technique, {fault.code: fault.most}, fault.options).items()
            if verdict is Verdict.MISSED
        }
        found += [fault.code] if fault.code in missed or _found_in_its_own_view(technique, fault) else []
        spilled += [f"{fault.code} → {code}" for code in sorted(missed - {fault.code} - _all_led_to(fault.code, leads))]
    fine = (Verdict.MET, Verdict.NOT_ASKED)
    return Shown(
        put_in=tuple(fault.code for fault in put_in),
        found=tuple(found),
        spilled=tuple(spilled),
        not_met=tuple(f"{code}: {verdict.value}" for code, verdict in clean.items() if verdict not in fine),
    )


@dataclass(frozen=True, kw_only=True)
class Sweep:
    """One fault put in by rising degrees."""

    code: str
    own: tuple[Verdict, ...]
    """What its own checkpoint says at each degree."""
    spilled: tuple[str, ...]
    """What else is missed at any degree and is not led to, with the degree in the fault's unit."""


def swept(technique: Technique, fault: Fault, shares: Sequence[float]) -> Sweep:
    """A fault by shares of the most that the move knows, read in the technique's view."""
    allowed = {fault.code} | _all_led_to(fault.code, _leads(technique))
    own, spilled = [], []
    for share in shares:
        verdicts = _verdicts(technique, {fault.code: fault.most * share}, fault.options)
        own.append(verdicts[fault.code])
        missed = {code for code, verdict in verdicts.items() if verdict is Verdict.MISSED}
        spilled += [f"{code} at {fault.most * share:.0f} {fault.unit}" for code in sorted(missed - allowed)]
    return Sweep(code=fault.code, own=tuple(own), spilled=tuple(spilled))


def _found_in_its_own_view(technique: Technique, fault: Fault) -> bool:
    """Whether a fault is missed, and a clean rep is not, in the view that its checkpoint is best seen from."""
    views = {c.best_view for c in technique.checkpoints if c.fault.code == fault.code} & set(VIEWS)
    return any(
        _verdicts(technique, {fault.code: fault.most}, fault.options, view)[fault.code] is Verdict.MISSED
        and _verdicts(technique, {}, fault.options, view)[fault.code] is not Verdict.MISSED
        for view in views - {best_view(technique.id)}
    )


def _verdicts(
    technique: Technique, faults: Mapping[str, float], options: Mapping[str, str], view: str | None = None
) -> dict[str, Verdict]:
    """Those of the measured checkpoints by fault code, read from the points of truth, in the technique's view if in no other."""
    return _judged(technique.id, tuple(faults.items()), tuple(options.items()), view or best_view(technique.id))


@cache
def _judged(
    technique: str, faults: tuple[tuple[str, float], ...], options: tuple[tuple[str, str], ...], view: str
) -> dict[str, Verdict]:
    """Kept, as the same rep is asked for by its fault's most, by a sweep that ends there, and from several views."""
    asked = shipped_technique(technique)
    rep, shot = _rep(technique, dict(faults), dict(options), view)
    judged = judge_rep(asked, rep, known_scene(asked, rep, shot))
    return {j.fault: j.verdict for j in judged if j.kind != "reaction" and not KINDS[j.kind].by_eye}


def _rep(technique: str, faults: Mapping[str, float], options: Mapping[str, str], view: str) -> tuple[RepFile, Shot]:
    script = {
        "lacertus_script": 1, "id": "bench", "technique": technique, "scatter": 0.0, "recording": {"fps": 60},
        "camera": {"view": view},
        "reps": [{"faults": dict(faults), "options": dict(options)}],
    }  # fmt: skip
    shot = shots_of(read_script(script))[0]
    # The way back to the beginning is no part of the rep, and reading it costs a quarter of the time.
    end_s = shot.scene.reps[0].end_s + 0.1
    shot = replace(shot, times_s=tuple(time_s for time_s in shot.times_s if time_s <= end_s))
    return read_rep(truth(shot)["reps"][0]), shot


def best_view(technique: str) -> str:
    """The view that a technique's move is filmed from."""
    return view_for(shipped_technique(technique).best_view)


def _leads(technique: Technique) -> dict[str, set[str]]:
    """What each fault leads to at once, by fault code."""
    codes = {checkpoint.id: checkpoint.fault.code for checkpoint in technique.checkpoints}
    return {c.fault.code: {codes[to] for to in c.leads_to} for c in technique.checkpoints}


def _all_led_to(code: str, leads: dict[str, set[str]]) -> set[str]:
    reached: set[str] = set()
    frontier = {code}
    while frontier:
        frontier = {to for fault in frontier for to in leads.get(fault, set())} - reached
        reached |= frontier
    return reached


def main() -> None:
    console = Console(width=150)
    table = Table(
        "technique", "checkpoints", "kinds", "options that change", "reactions", "drills", "measured", "teachers name",
        "faults put in", "found", "spilled", "clean not met",
    )  # fmt: skip
    notes = []
    for technique in shipped():
        name = technique.id
        asked, named = asked_by(technique), NAMED.get(name)
        row = [
            name, str(asked.checkpoints), str(asked.kinds), f"{asked.options_that_change} of {asked.options}",
            str(asked.reactions), str(asked.drills), f"{asked.share:.0%}", f"{named[0] / named[1]:.0%}" if named else "–",
        ]  # fmt: skip
        if name in MOVES:
            shown = shown_by(technique)
            row += [str(len(part)) for part in (shown.put_in, shown.found, shown.spilled, shown.not_met)]
            unfound = tuple(code for code in shown.put_in if code not in shown.found)
            for says, which in (("not found", unfound), ("spilled", shown.spilled), ("clean, not met", shown.not_met)):
                notes += [f"{name}, {says}: {', '.join(which)}"] if which else []
        else:
            row += ["no move"] + ["–"] * 3
        table.add_row(*row)
    console.print(
        "Faults by the most that a move knows, read from the points of truth, in the technique's view or the checkpoint's; 60 fps"
    )
    console.print(table)
    console.print("\n".join(notes), markup=False, highlight=False)
