"""What makes a definition that can be read a poor one: it asks what nobody can miss, or reads what it does not say."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from lacertus.core.errors import Problem
from lacertus.core.measuring.measures import KINDS, Measure
from lacertus.core.measuring.measures.nested import Nested
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.choices import asked_under
from lacertus.core.techniques.definition import WHEN_FACTS, Technique
from lacertus.core.techniques.vocabulary import GROWN_UP_CAUTIONS, Wanted

Found = tuple[tuple[str | int, ...], str]
"""Where something is wrong, as a path of keys, and what."""


def findings(technique: Technique) -> list[Problem]:
    """Everything that a file is not accepted with although it can be read."""
    parts = (_options, _limits, _answers, _words, _views, _children)
    return [Problem(path=path, message=message) for part in parts for path, message in part(technique)]


# --- options that change nothing -----------------------------------------------------------------------


def _options(technique: Technique) -> Iterator[Found]:
    """Choices under which the same is asked as under another one of their group."""
    for group, option in technique.options.items():
        if group in (*WHEN_FACTS, "grade"):
            yield ("options", group), f"“{group}” is a fact of a rep: name the option differently"
        asked = {choice: frozenset(asked_under(technique, group, choice).items()) for choice in option.choices}
        if len(set(asked.values())) == 1:
            yield (
                ("options", group),
                f"the option changes nothing that is asked: give a checkpoint `when: {{{group}: …}}`, or delete the option",
            )
            continue
        seen: dict[object, str] = {}
        for choice, what in asked.items():
            if what in seen:
                message = f"“{choice}” asks the same as “{seen[what]}”: give it a checkpoint of its own by `when`, or delete it"
                yield ("options", group, "choices", choice), message
            seen.setdefault(what, choice)


# --- limits that no value can cross --------------------------------------------------------------------


def _limits(technique: Technique) -> Iterator[Found]:
    for i, c in enumerate(technique.checkpoints):
        here = ("checkpoints", i)
        ranges: list[tuple[tuple[str | int, ...], Wanted | None, Measure]] = [((*here, "within"), c.within, c.measure)]
        ranges += [((*here, "within_by", by, key), w, c.measure) for by, own in c.within_by.items() for key, w in own.items()]
        for name, others in (("any_of", c.any_of), ("or_else", c.or_else)):
            ranges += [((*here, name, n, "within"), other.within, other.measure) for n, other in enumerate(others)]
        for path, wanted, measure in ranges:
            least, most = measure.natural_bounds
            lo, hi = wanted or (None, None)
            if lo is not None and lo <= least:
                yield path, f"no value is ever below {lo:g}: write null for no limit"
            if hi is not None and hi >= most:
                yield path, f"no value is ever above {hi:g}: write null for no limit"


# --- answers that come before what they answer ----------------------------------------------------------


def _answers(technique: Technique) -> Iterator[Found]:
    order = technique.events_in_order()
    for i, reaction in enumerate(technique.reactions):
        for key, answers in (("answers", reaction.answers), ("wrong", reaction.wrong)):
            for n, answer in enumerate(answers):
                again = technique.events[answer.event].phase in technique.repeats
                if not again and order.index(answer.event) < order.index(reaction.event):
                    message = f"“{answer.event}” comes before the reaction “{reaction.event}”: an answer comes after it"
                    yield ("reactions", i, key, n), message


# --- sentences that name what is not read ----------------------------------------------------------------

_PARTS: dict[str, tuple[str, ...]] = {
    "foot": ("foot", "feet", "heel", "heels", "toe", "toes", "ankle", "ankles", "sole", "soles", "instep", "ball"),
    "knee": ("knee", "knees"),
    "hip": ("hip", "hips", "seat", "belt"),
    "elbow": ("elbow", "elbows"),
    "hand": ("hand", "hands", "wrist", "wrists", "palm", "palms", "fist", "fists"),
    "head": ("head", "heads", "chin", "ear", "ears", "nose", "face"),
}
"""By part of the body, the words for it and for the landmarks on it."""
_NAMED = {
    "foot": r"\b(foot|feet)\b", "knee": r"\bknees?\b", "hip": r"\bhips?\b", "elbow": r"\belbows?\b", "hand": r"\bhands?\b",
    "head": r"\bheads?\b",
}  # fmt: skip
_PARTNERS = r"\bpartner[’']s(?: [a-z]+){0,2}? "


def _words(technique: Technique) -> Iterator[Found]:
    """Parts of the body that a sentence names and nothing reads."""
    for i, c in enumerate(technique.checkpoints):
        if c.why_these_points is not None or KINDS[c.kind].over_reps or all(KINDS[m.kind].by_eye for m in c.measures):
            continue
        read, partners = _parts_read(technique, c)
        ask = c.ask.lower()
        for part, pattern in _NAMED.items():
            if re.search(_PARTNERS + pattern[2:], ask) and part not in partners:
                yield ("checkpoints", i, "ask"), f"the sentence names the partner’s {part}, which is not read{_HOW}"
            elif re.search(pattern, ask) and part not in read:
                yield ("checkpoints", i, "ask"), f"the sentence names the {part}, which is not read{_HOW}"


_HOW = ": read it, say it otherwise, or say in `why_these_points` why other points stand for it"


def _parts_read(technique: Technique, c: Checkpoint) -> tuple[set[str], set[str]]:
    """Parts of the body that a checkpoint reads on either body, and on the partner's: by its points, or its events' words."""
    refs = [ref for measure in c.measures for ref in measure.points_used]
    refs += c.only_if.nested.points_used if c.only_if is not None and c.only_if.nested is not None else ()
    own, partners = set[str](), set[str]()
    for ref in refs:
        for name in (ref.name or "",) if ref.on is None else ref.on:
            words = name.rpartition(".")[2].replace("mid_", "").split("_")
            found = {part for part, known in _PARTS.items() if set(words) & set(known)}
            own |= found
            if name.startswith("partner."):
                partners |= found
    for key in {event for measure in c.measures for event in measure.events_used}:
        event = technique.events[key]
        said = set(re.findall(r"[a-z]+", f"{key} {event.mark}".lower()))
        found = {part for part, known in _PARTS.items() if said & set(known)}
        own |= found
        if event.body == "partner" or "partner" in said:
            partners |= found
    return own, partners


# --- what a view does not show ----------------------------------------------------------------------------

_FROM_THE_SIDE = ("inside", "outside")
_ALONG = ("front", "behind")
_OTHER_VIEW = ": give the checkpoint a `best_view` of its own, or measure otherwise"


def _views(technique: Technique) -> Iterator[Found]:
    for i, c in enumerate(technique.checkpoints):
        view = c.best_view or technique.best_view
        if view in (None, "angle", "two"):
            continue
        for nested in _within(c.measures[0]):
            why = _not_seen_from(nested, view)
            if why is not None:
                message = f"{why}, and {'it' if c.best_view else 'the technique'} is best filmed from “{view}”"
                yield (
                    ("checkpoints", i, "measure"),
                    f"{message}: give the checkpoint a `best_view` of its own, or measure otherwise",
                )
                break


def _within(nested: Nested) -> Iterator[Nested]:
    """A measure and those inside it."""
    yield nested
    for name in type(nested.measure).model_fields:
        value: Any = getattr(nested.measure, name)
        for inner in value if isinstance(value, tuple) else (value,):
            if isinstance(inner, Nested):
                yield from _within(inner)


def _not_seen_from(nested: Nested, view: str | None) -> str | None:
    """Why a measure makes no sense from a view, or None where it does."""
    measure: Any = nested.measure
    if nested.kind == "relation":
        if view == "side" and any(getattr(measure, key, None) is not None for key in _FROM_THE_SIDE):
            return "inside and outside lie in depth there"
        if view in _ALONG and any(getattr(measure, key, None) is not None for key in ("towards", "behind")):
            return "towards and behind lie in depth there"
        if view == "above" and any(getattr(measure, key, None) is not None for key in ("above", "below")):
            return "heights do not show there"
    if nested.kind in ("balance", "inclination") and view == "above" and getattr(measure, "against", "up") == "up":
        return "upright does not show there"
    if getattr(measure, "signed", False) and view in _ALONG:
        return "which way it leans or bends lies in depth there"
    if nested.kind == "peak" and view == "above" and measure.scalar.kind == "relation":
        return "heights do not show there"
    return None


# --- children --------------------------------------------------------------------------------------------


def _children(technique: Technique) -> Iterator[Found]:
    """Cues for children where children never practise."""
    lists: list[tuple[str, Any]] = [("checkpoints", technique.checkpoints), ("reactions", technique.reactions)]
    for key, entries in lists:
        for i, asked in enumerate(entries):
            if asked.cues_for_children and (technique.for_grown_ups or _only_for_grown_ups(technique, asked)):
                message = "children do not practise chokes, neck cranks or joint locks: it carries no cues for them"
                yield (key, i, "cues_for_children"), message


def _only_for_grown_ups(technique: Technique, asked: Any) -> bool:
    """Whether it is asked only under choices that carry such a caution."""
    from_options = {group: wanted for group, wanted in asked.when.items() if group in technique.options}
    return any(
        all(_grown_up(technique.options[group].choices[choice].cautions) for choice in ([w] if isinstance(w, str) else w))
        for group, w in from_options.items()
    )


def _grown_up(cautions: tuple[str, ...]) -> bool:
    return not GROWN_UP_CAUTIONS.isdisjoint(cautions)
