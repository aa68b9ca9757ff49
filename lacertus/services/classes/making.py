"""Makes a class: which units it needs, in their order, with what to watch, and how its minutes are filled."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.plan.filling import Laid, Locked, Wish, lay
from lacertus.core.plan.lesson import Station, Teach, Unit, Watched
from lacertus.core.plan.stations import FirstFix, Shared, stations_of
from lacertus.core.techniques.definition import Asked, Technique
from lacertus.core.techniques.practice import Dose, Drill
from lacertus.library.cautions import caution_text
from lacertus.library.falls import falls_for
from lacertus.services.classes import curriculum, partners
from lacertus.services.practice import drills, known
from lacertus.services.practice.known import FaultNow
from lacertus.services.progress import rungs
from lacertus.store.tables import Student, Tally

WATCH = 2
"""So many checkpoints are to be watched in a unit: nobody watches more at once."""
WATCH_DAYS = 60
STATION_MINUTES = (6, 10, 15)
FALL_MINUTES = (5, 8, 15)
TECHNIQUE_MINUTES = (8, 15, 45)
LINK_MINUTES = (5, 8, 20)
ROUND_MINUTES = (5, 10, 25)
CLOSING_MINUTES = (2, 4, 8)
"""Least, usual and most minutes of each kind of unit. Conventions."""
ROUND = Dose(rounds=3, seconds=120, rest_s=60)


@dataclass(frozen=True, kw_only=True)
class Plan:
    """A class as it is to be made: minutes, what is taught, who comes, and the units that are locked where they are."""

    minutes: int
    teach: tuple[Teach, ...]
    coming: tuple[Student, ...]
    for_children: bool
    locked: tuple[tuple[int, Unit], ...] = ()
    """The first minute of a unit, and the unit."""


def make(db: Session, academy: uuid.UUID, plan: Plan, today: date) -> tuple[Unit, ...]:
    """The units of a class, which fill its minutes; what is locked stays where it is.

    Raises:
        BadInput: locked units do not fit, or what is taught is not for children who come.
        NotFound: no such technique.
    """
    maker = _Maker(db, academy, plan, today)
    wanted = maker.wanted()
    locked = {unit.key: (at, unit) for at, unit in plan.locked}
    free = [(unit, wish) for unit, wish in wanted if unit.key not in locked]
    laid = lay(
        plan.minutes,
        [wish for _, wish in free],
        [Locked(key=key, at=at, minutes=unit.minutes) for key, (at, unit) in locked.items()],
    )
    units = {unit.key: unit for unit, _ in free} | {key: unit for key, (_, unit) in locked.items()}
    return tuple(_unit(one, units, number) for number, one in enumerate(laid))


def _unit(laid: Laid, units: Mapping[str, Unit], number: int) -> Unit:
    if laid.key is None:
        return Unit(key=f"break:{number}", kind="break", name="Break: water and questions", minutes=laid.minutes)
    return units[laid.key].model_copy(update={"minutes": laid.minutes})


class _Maker:
    """Works the units of a class out, one kind after the other."""

    def __init__(self, db: Session, academy: uuid.UUID, plan: Plan, today: date) -> None:
        self._db, self._academy, self._plan, self._today = db, academy, plan, today
        self._techniques = {one.technique: curriculum.find_technique(db, academy, one.technique) for one in plan.teach}
        self._known = known.of_students(db, academy, plan.coming)
        self._check_children()

    def _check_children(self) -> None:
        if not self._plan.for_children:
            return
        for technique in self._techniques.values():
            if technique.for_grown_ups:
                raise BadInput(
                    f"“{technique.names.main}” is not for a class of children: it bears on a joint, the neck or the breath. "
                    "Teach something else, or say that the class is for adults. Nothing was changed"
                )

    def wanted(self) -> list[tuple[Unit, Wish]]:
        """The units in their order: falls, layers from gross to fine, linked, drills for shared faults, rounds, closing."""
        return [*self._falls(), *self._layers(), *self._linked(), *self._stations(), *self._rounds(), self._closing()]

    # --- falls ---

    def _falls(self) -> list[tuple[Unit, Wish]]:
        """One unit for the fall that lets most of those who lack one be thrown."""
        fits = [fall for technique in self._techniques.values() for fall in falls_for(technique)]
        if not fits:
            return []
        passed = rungs.passed_falls(self._db, self._academy, partners.THROWN_ON)
        lacking = [one for one in self._plan.coming if not passed.get(one.id, frozenset()) & set(fits)]
        if not lacking:
            return []
        fall = curriculum.find_technique(self._db, self._academy, fits[0])
        ready = len(self._plan.coming) - len(lacking)
        told = f"{ready} of {len(self._plan.coming)} have passed a fall that fits. Nobody else is thrown today."
        unit = Unit(
            key=f"fall:{fall.id}",
            kind="fall",
            name=f"Falls: {fall.names.main}",
            minutes=FALL_MINUTES[1],
            technique=fall.id,
            how=told if ready else "Nobody who comes has passed a fall that fits. Nobody is thrown today.",
            watch=self._watched(fall, None),
            cautions=self._cautions(fall),
        )
        return [(unit, _wish(unit, FALL_MINUTES, 5.0))]

    # --- techniques ---

    def _layers(self) -> list[tuple[Unit, Wish]]:
        """What is taught, gross layers before fine ones."""
        ordered = sorted(self._plan.teach, key=lambda one: self._place(one))
        return [self._layer(one) for one in ordered]

    def _place(self, one: Teach) -> int:
        names = [layer.id for layer in self._techniques[one.technique].layers]
        return names.index(one.layer) if one.layer in names else len(names)

    def _layer(self, one: Teach) -> tuple[Unit, Wish]:
        technique = self._techniques[one.technique]
        layer = technique.layer(one.layer) if one.layer else None
        start = technique.start(one.start) if one.start else None
        drill = next((d for d in technique.drills if isinstance(d, Drill) and d.partner_task), None)
        unit = Unit(
            key=f"technique:{one.technique}:{one.layer}:{one.start}",
            kind="technique",
            name=f"{technique.names.main}: {layer.name}" if layer else technique.names.main,
            minutes=TECHNIQUE_MINUTES[1],
            technique=technique.id,
            layer=layer.id if layer else "",
            start=start.id if start else "",
            how=f"From: {start.says}" if start else technique.summary,
            partner_task=(drill.partner_task or "") if drill else "",
            watch=self._watched(technique, layer.id if layer else None),
            cautions=self._cautions(technique),
            in_pairs=technique.family not in ("fall", "kick"),
        )
        return unit, _wish(unit, TECHNIQUE_MINUTES, 4.0)

    def _linked(self) -> list[tuple[Unit, Wish]]:
        """Two techniques one after the other, once both are taught."""
        ids = list(dict.fromkeys(one.technique for one in self._plan.teach))
        if len(ids) < 2:
            return []
        first, second = (self._techniques[one] for one in ids[:2])
        unit = Unit(
            key=f"link:{first.id}:{second.id}",
            kind="technique",
            name=f"Link: {first.names.main}, then {second.names.main}",
            minutes=LINK_MINUTES[1],
            technique=second.id,
            how="The first is blocked or stepped over; go on to the second without a pause.",
            cautions=self._cautions(first, second),
            in_pairs=True,
        )
        return [(unit, _wish(unit, LINK_MINUTES, 1.0))]

    # --- drills for shared faults ---

    def _stations(self) -> list[tuple[Unit, Wish]]:
        firsts = {one.id: own.faults[0] for one in self._plan.coming if (own := self._known[one.id]).first}
        shared = stations_of(
            FirstFix(student=str(key), technique=one.technique, fault=one.fault, family=one.family) for key, one in firsts.items()
        )
        stations = tuple(self._station(one, firsts) for one in shared)
        if not stations:
            return []
        unit = Unit(
            key="stations",
            kind="drill",
            name="Stations for shared faults",
            minutes=STATION_MINUTES[1],
            how="Everybody else does the main technique.",
            stations=stations,
            cautions=tuple(dict.fromkeys(text for one in shared if one.technique for text in self._cautions_of(one.technique))),
        )
        return [(unit, _wish(unit, STATION_MINUTES, 3.0))]

    def _station(self, shared: Shared, firsts: Mapping[uuid.UUID, FaultNow]) -> Station:
        one = firsts[uuid.UUID(shared.students[0])]
        technique = curriculum.find_technique(self._db, self._academy, one.technique)
        drill = next(iter(drills.for_faults(self._db, self._academy, technique, one.fault)), None)
        name = f"{one.technique_name}: {one.ask}" if shared.fault else f"Faults of one kind: {shared.family}"
        return Station(
            name=name,
            drill=drill.name if drill else one.cue,
            how=drill.how if drill else "",
            dose=drill.dose if drill else None,
            students=tuple(uuid.UUID(student) for student in shared.students),
        )

    # --- rounds, closing ---

    def _rounds(self) -> list[tuple[Unit, Wish]]:
        main = next(iter(self._techniques.values()), None)
        if main is None or main.family == "fall":
            return []
        game = next((d for d in main.drills if isinstance(d, Drill) and d.objective), None)
        unit = Unit(
            key="rounds",
            kind="round",
            name=f"Game: {game.name}" if game else f"Rounds: {main.names.main} against resistance",
            minutes=ROUND_MINUTES[1],
            technique=main.id,
            how=(game.objective or game.how) if game else "One attacks, the other moves and defends; change after each round.",
            dose=game.dose if game and isinstance(game.dose, Dose) and game.dose.seconds is not None else ROUND,
            cautions=self._cautions(main),
            in_pairs=True,
        )
        return [(unit, _wish(unit, ROUND_MINUTES, 2.0))]

    def _closing(self) -> tuple[Unit, Wish]:
        unit = Unit(
            key="closing",
            kind="closing",
            name="Closing",
            minutes=CLOSING_MINUTES[1],
            how="What was hard today? What does each of you practise until next time?",
        )
        return unit, _wish(unit, CLOSING_MINUTES, 2.5)

    # --- what to watch ---

    def _watched(self, technique: Technique, layer: str | None) -> tuple[Watched, ...]:
        """The two checkpoints that those who come missed most lately, safety first where it was missed; of a new technique the
        first that are core."""
        listed = [
            one
            for one in technique.asked_in_order
            if layer is None or (found := technique.layer(layer)) is None or found.lists(one.id)
        ]
        counted = self._missed().get(technique.id, {})
        ordered = sorted(listed, key=lambda one: _most_missed(one, counted.get(one.fault.code, (0, 0))))
        return tuple(self._watch(technique, one, *counted.get(one.fault.code, (0, 0))) for one in ordered[:WATCH])

    def _watch(self, technique: Technique, one: Asked, missed: int, of: int) -> Watched:
        childrens = getattr(one, "cues_for_children", ())
        cue = childrens[0] if self._plan.for_children and childrens else one.cues[0]
        return Watched(technique=technique.id, checkpoint=one.id, ask=one.ask, cue=cue, missed=missed, of=of)

    def _missed(self) -> dict[str, dict[str, tuple[int, int]]]:
        """By technique and fault, misses and exposures of those who come over the last 60 days."""
        if not hasattr(self, "_misses"):
            rows = (
                select(Tally.technique, Tally.fault, func.sum(Tally.misses), func.sum(Tally.exposures))
                .where(
                    Tally.student_id.in_([one.id for one in self._plan.coming]),
                    Tally.filmed_on >= self._today - timedelta(days=WATCH_DAYS),
                )
                .group_by(Tally.technique, Tally.fault)
            )
            self._misses: dict[str, dict[str, tuple[int, int]]] = {}
            for technique, fault, m, n in self._db.execute(rows):
                self._misses.setdefault(technique, {})[fault] = (m, n)
        return self._misses

    def _cautions(self, *techniques: Technique) -> tuple[str, ...]:
        keys = [key for one in techniques for key in one.cautions]
        return tuple(caution_text(key) for key in dict.fromkeys(keys))

    def _cautions_of(self, technique_id: str) -> tuple[str, ...]:
        return self._cautions(curriculum.find_technique(self._db, self._academy, technique_id))


def _wish(unit: Unit, minutes: Sequence[int], weight: float) -> Wish:
    least, usual, most = minutes
    return Wish(key=unit.key, least=least, usual=usual, most=most, weight=weight)


def _most_missed(one: Asked, counted: tuple[int, int]) -> tuple[bool, int, bool, float]:
    missed, _ = counted
    return not (one.safety and missed), -missed, not one.core, -one.weight
