"""Checkpoints as sentences: for the common kinds, a sentence with places for points and events, that a coach fills in.

The steps beside the text editor write a checkpoint's `kind` and `measure` by these. What a form leaves out is written in
the text.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from lacertus.core.measuring.measures import KINDS

Path = tuple[str | int, ...]


@dataclass(frozen=True, kw_only=True)
class Place:
    """A place of a sentence: what it is of, where it stands in `measure`, and what stands there at first.

    `usual` of a point is a landmark in relative words (`working_knee`); of an event how far on it lies among those of the
    technique, from 0 (the first) to 1 (the last); of a choice what holds where the key is missing. `events` is a list of two
    or more of them.
    """

    key: str
    of: Literal["point", "event", "events", "choice"]
    path: Path
    usual: str | float
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, kw_only=True)
class Range:
    """How a wanted range is shown on a ruler, and what is wanted at first.

    The ends and the step are in the unit of the kind; a value times `times` is a number in `unit`.
    """

    least: float
    most: float
    step: float
    times: float = 1.0
    unit: str = ""
    usual: tuple[float | None, float | None] = (None, None)


@dataclass(frozen=True, kw_only=True)
class Form:
    """A sentence of a checkpoint kind: `says` has its places in braces. `fixed` is what `measure` holds beside the places.

    A form without `wanted` takes no range: it is answered by eye, or has one of its own. `in_lengths` is the ruler where the
    place called `unit` holds something else than usual. `fault` is the family that a miss mostly belongs to.
    """

    id: str
    kind: str
    name: str
    fault: str
    says: str
    places: tuple[Place, ...]
    fixed: tuple[tuple[Path, str], ...] = ()
    wanted: Range | None = None
    in_lengths: Range | None = None

    @property
    def blank(self) -> dict[str, Any]:
        """Its `measure` with the usual points in it; places of events are left open (None), choices as usual (left out)."""
        measure: dict[str, Any] = {}
        for path, value in self.fixed:
            _set(measure, path, value)
        for place in self.places:
            if place.of != "choice":
                _set(measure, place.path, place.usual if place.of == "point" else None)
        return measure


def _set(measure: dict[str, Any], path: Path, value: Any) -> None:
    """Set a value in nested mappings and lists, which are made as they are needed."""
    node: Any = measure
    key: Any
    for key, after in zip(path, (*path[1:], None), strict=True):
        if isinstance(node, list):
            node.extend([None] * (key + 1 - len(node)))
        there = value
        if after is not None:
            held = isinstance(node, list) or key in node
            there = (node[key] if held else None) or ([] if isinstance(after, int) else {})
        node[key] = there
        node = there


def _point(key: str, usual: str, *path: str | int) -> Place:
    return Place(key=key, of="point", path=path or (key,), usual=usual)


def _event(key: str, usual: float, *path: str | int) -> Place:
    return Place(key=key, of="event", path=path or (key,), usual=usual)


_UNIT = Place(
    key="unit", of="choice", path=("unit",), usual="height",
    choices=(
        ("height", "of body height"), ("shoulder_width", "shoulder widths"), ("hip_width", "hip widths"),
        ("thigh", "thigh lengths"), ("shank", "lower leg lengths"), ("forearm", "forearm lengths"), ("foot", "foot lengths"),
    ),
)  # fmt: skip
_WHO = Place(
    key="by", of="choice", path=("by",), usual="coach",
    choices=(("coach", "coach"), ("partner", "partner"), ("student", "student")),
)  # fmt: skip
_PERCENT = "% of body height"
_APART = Range(least=0.0, most=1.2, step=0.01, times=100, unit=_PERCENT, usual=(None, 0.2))
_OFF = Range(least=-0.6, most=0.6, step=0.01, times=100, unit=_PERCENT, usual=(0.0, None))
_LENGTHS = Range(least=0.0, most=4.0, step=0.05, usual=(None, 0.5))
_LENGTHS_OFF = Range(least=-3.0, most=3.0, step=0.05, usual=(0.0, None))
_KNEE = (("joint", "working_knee", 1), ("first", "working_hip", 0), ("last", "working_ankle", 2))


def _beside(word: str, name: str, says: str, fault: str) -> Form:
    """How far one point lies from another one along one direction."""
    return Form(
        id=word, kind="relation", name=name, fault=fault,
        says=f"How far the {{point}} {says} the {{other}}, when {{at}}, in {{unit}}",
        places=(_point("point", "working_knee"), _point("other", "working_toe", word), _event("at", 1.0), _UNIT),
        wanted=_OFF, in_lengths=_LENGTHS_OFF,
    )  # fmt: skip


FORMS: tuple[Form, ...] = (
    Form(
        id="angle", kind="angle", name="How bent a joint is", fault="half range",
        says="The angle at the {joint}, between the {first} and the {last}, when {at}",
        places=(*(_point(key, usual, "points", at) for key, usual, at in _KNEE), _event("at", 1.0)),
        wanted=Range(least=0, most=180, step=1, unit="°", usual=(155, None)),
    ),
    Form(
        id="lean", kind="inclination", name="How far something leans", fault="posture lost",
        says="How far the line from the {from} to the {to} leans from upright, when {at}",
        places=(_point("from", "mid_hip", "from_point"), _point("to", "mid_shoulder", "to_point"), _event("at", 1.0)),
        wanted=Range(least=0, most=180, step=1, unit="°", usual=(None, 30)),
    ),
    Form(
        id="height", kind="relation", name="How high something is above the mat", fault="level wrong",
        says="How high the {point} is above the mat, when {at}",
        places=(_point("point", "working_knee"), _event("at", 1.0)),
        fixed=((("above",), "mat"),),
        wanted=Range(least=0.0, most=1.2, step=0.01, times=100, unit=_PERCENT, usual=(0.3, None)),
    ),
    Form(
        id="gap", kind="gap", name="How far two points are apart", fault="distance wrong",
        says="How far the {first} and the {last} are apart, when {at}, in {unit}",
        places=(_point("first", "working_hand", "between", 0), _point("last", "chin", "between", 1), _event("at", 1.0), _UNIT),
        wanted=_APART, in_lengths=_LENGTHS,
    ),
    _beside("above", "How far one point is above another", "is above", "level wrong"),
    _beside("towards", "How far one point is ahead of another", "is nearer to the target than", "distance wrong"),
    _beside("behind", "How far one point is behind another", "is farther from the target than", "distance wrong"),
    _beside("outside", "How far one point is outside another", "is outside", "wide path"),
    Form(
        id="along", kind="relation", name="Where something lies along a limb", fault="grip or hand position",
        says="How far along from the {from} to the {to} the {point} lies, when {at}",
        places=(
            _point("from", "other_knee", "along", 0), _point("to", "other_ankle", "along", 1),
            _point("point", "working_hand"), _event("at", 1.0),
        ),
        wanted=Range(least=-0.5, most=1.5, step=0.05, times=100, unit="% of the way", usual=(0.25, 0.75)),
    ),
    Form(
        id="order", kind="order", name="What comes first", fault="out of order", says="One after the other: {events}",
        places=(Place(key="events", of="events", path=("events",), usual=0.0),),
    ),
    Form(
        id="interval", kind="interval", name="How long it takes", fault="rushed", says="The time from {from} to {to}",
        places=(_event("from", 0.0), _event("to", 1.0)),
        wanted=Range(least=-500, most=1500, step=10, unit="ms", usual=(0, 400)),
    ),
    Form(
        id="together", kind="together", name="What happens at the same time", fault="not together",
        says="The time between {first} and {then}, whichever comes first",
        places=(_event("first", 0.0, "events", 0), _event("then", 1.0, "events", 1)),
        wanted=Range(least=0, most=500, step=10, unit="ms", usual=(None, 100)),
    ),
    Form(
        id="bends", kind="change", name="How much a joint opens or closes", fault="half range",
        says="How much the angle at the {joint}, between the {first} and the {last}, grows from {from} to {to}",
        places=(
            *(_point(key, usual, "of", "points", at) for key, usual, at in _KNEE), _event("from", 0.0), _event("to", 1.0),
        ),
        fixed=((("of", "kind"), "angle"),),
        wanted=Range(least=-180, most=180, step=1, unit="°", usual=(30, None)),
    ),
    Form(
        id="rises", kind="change", name="How much something rises or sinks", fault="level wrong",
        says="How much the {point} rises from {from} to {to}",
        places=(_point("point", "mid_hip", "of", "point"), _event("from", 0.0), _event("to", 1.0)),
        fixed=((("of", "kind"), "relation"), (("of", "above"), "mat")),
        wanted=_OFF,
    ),
    Form(
        id="speed", kind="speed", name="How fast something moves", fault="half-hearted",
        says="The highest speed of the {point}, from {from} to {to}",
        places=(_point("point", "working_ankle"), _event("from", 0.0), _event("to", 1.0)),
        wanted=Range(least=0, most=10, step=0.1, unit="body heights a second", usual=(1.0, None)),
    ),
    Form(
        id="seen", kind="seen", name="What only the eye can tell", fault="half range", says="The {by} says yes or no, when {at}",
        places=(_WHO, _event("at", 1.0)),
    ),
)  # fmt: skip

assert all(form.kind in KINDS for form in FORMS)
