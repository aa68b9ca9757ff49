"""Files written for older rules, brought up to date where that can be done without guessing; else what to write instead.

Older files have `decisions` (answers counted whenever they came), doses and solo forms in words, minutes, and how much the partner
resists as a rung. Definitions that are stored with a review are never changed: they are judged as they were then.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from lacertus.core.errors import Problem

_REACTIONS_HOW = (
    "decisions are written as `reactions` now: each with id, event (of the partner: `body: partner`), says, answers, wrong, "
    "within_ms, fault, cues and why"
)
_DOSE_HOW = "write the dose as data, such as {sets: 3, reps: 10, sides: both} or {rounds: 3, seconds: 20, rest_s: 20}"
_RESISTANCE = {
    "solo": "none", "static_partner": "none", "moving": "none", "light": "fifth", "firm": "half", "live": "full",
}  # fmt: skip
_A_SIDE = re.compile(r"\b(a|per|each|either) side\b|\bboth sides\b")
_SETS = re.compile(r"(?:(\d+)\s*[×x]\s*)?(\d+)(?:\s+(?:times|reps|repetitions))?")
_TIME = re.compile(r"(?:(\d+)\s*(?:rounds? of|[×x])\s*)?(\d+(?:\.\d+)?)\s*(s|sec|seconds?|min|minutes?)")


def brought_up_to_date(data: dict[str, Any]) -> tuple[dict[str, Any], list[Problem]]:
    """A definition by today's rules, and what cannot be brought up to date, with what to write."""
    problems: list[Problem] = []
    found = dict(data)
    decisions = found.pop("decisions", None)
    if isinstance(decisions, list) and decisions:
        found = _with_reactions(found, decisions, problems)
    drills = found.get("drills")
    if isinstance(drills, list):
        found["drills"] = [_drill(drill, ("drills", i), problems) for i, drill in enumerate(drills)]
    return found, problems


def _with_reactions(data: dict[str, Any], decisions: list[Any], problems: list[Problem]) -> dict[str, Any]:
    phases = data.get("phases") or []
    written = {key: dict(event) for key, event in (data.get("events") or {}).items() if isinstance(event, dict)}
    places = {key: phases.index(event["phase"]) if event.get("phase") in phases else len(phases) for key, event in written.items()}
    events = {key: written[key] for key in sorted(written, key=lambda key: places[key])}
    reactions = list(data.get("reactions") or [])
    lost: set[str] = set()
    for i, decision in enumerate(decisions):
        why_not = _why_not_a_reaction(decision, events)
        if why_not is not None:
            problems.append(Problem(path=("decisions", i), message=f"{why_not}; {_REACTIONS_HOW}"))
            lost.add(decision.get("id", "") if isinstance(decision, dict) else "")
            continue
        events[decision["when"]]["body"] = "partner"
        code = str(decision["id"]).replace("_", "-")
        reactions.append(
            {key: decision[key] for key in ("id", "says", "answers", "wrong", "within_ms", "why") if key in decision}
            | {"event": decision["when"], "fault": {"code": f"{code}-unanswered", "family": "late"}}
            | {"cues": [answer["name"] for answer in decision["answers"]]}
        )
    checkpoints = [_without_branches(checkpoint, lost) for checkpoint in data.get("checkpoints") or []]
    return {**data, "events": events, "reactions": reactions, "checkpoints": checkpoints}


def _without_branches(checkpoint: Any, lost: set[str]) -> Any:
    """A checkpoint without branches of decisions that are refused: one problem is enough."""
    if not isinstance(checkpoint, dict) or not isinstance(checkpoint.get("branch"), dict):
        return checkpoint
    return {**checkpoint, "branch": {key: value for key, value in checkpoint["branch"].items() if key not in lost}}


def _why_not_a_reaction(decision: Any, events: Mapping[str, Mapping[str, Any]]) -> str | None:
    """Why a decision cannot be read as a reaction of the partner, or None where it can."""
    if not isinstance(decision, dict) or not isinstance(decision.get("id"), str):
        return "it has no id"
    answers = [answer for key in ("answers", "wrong") for answer in decision.get(key) or () if isinstance(answer, dict)]
    used = [str(decision.get("when")), *(str(answer.get("event")) for answer in answers)]
    if not decision.get("answers") or any(event not in events for event in used):
        return "its events are not all defined"
    if not _of_partner(events[used[0]]):
        return f"“{used[0]}” is no event of the partner"
    theirs = [event for event in used[1:] if _of_partner(events[event])]
    if theirs:
        return f"“{theirs[0]}” is what the partner does, not an answer"
    order = list(events)
    early = [event for event in used[1:] if order.index(event) < order.index(used[0])]
    if early:
        return f"“{early[0]}” comes before “{used[0]}”, and only answers after a reaction count"
    if "why" not in decision:
        return "it does not say why"
    return None


def _of_partner(event: Mapping[str, Any]) -> bool:
    return event.get("body") == "partner" or bool(re.search(r"\bin which (a|the|their)?\s*partner", str(event.get("mark", ""))))


# --- drills ------------------------------------------------------------------------------------------


def _drill(drill: Any, path: tuple[str | int, ...], problems: list[Problem]) -> Any:
    if not isinstance(drill, dict):
        return drill
    found = {key: value for key, value in drill.items() if key != "minutes"}
    if isinstance(found.get("dose"), str):
        dose = _dose(found["dose"])
        if dose is None:
            problems.append(Problem(path=(*path, "dose"), message=f"“{found['dose']}” cannot be counted; {_DOSE_HOW}"))
        found["dose"] = dose or {"reps": 1}
    if isinstance(found.get("solo"), str):
        solo = found.pop("solo")
        if solo.strip(". ").lower() != "no":
            how = re.sub(r"^yes[,:]?\s*", "", solo, flags=re.IGNORECASE).strip() or "the same, alone"
            found["solo"] = {"none": how[0].upper() + how[1:]}
    if "resistance_from" in found:
        rung = found.pop("resistance_from")
        if (known := _RESISTANCE.get(str(rung).replace(" ", "_"))) is not None:
            found["resistance"] = known
        elif rung is not None:
            message = "write `resistance` as none, fifth, half or full, and `resists_from` as an event where it matters"
            problems.append(Problem(path=(*path, "resistance_from"), message=message))
    if "space" in found:
        space = found.pop("space")
        metres = re.match(r"\s*(\d+(?:\.\d+)?)", str(space))
        if metres:
            found["space_m"] = float(metres[1])
        else:
            problems.append(Problem(path=(*path, "space"), message="write the space in metres: `space_m: 2`"))
    return found


def _dose(words: str) -> dict[str, Any] | None:
    """A dose out of words that say no more than it: “3 × 10 a side”, “12 times”, “2 minutes”, “3 rounds of 20 s”."""
    plain = words.lower().strip().rstrip(".")
    both = bool(_A_SIDE.search(plain))
    plain = _A_SIDE.sub("", plain).strip(" ,")
    timed = _TIME.fullmatch(plain)
    if timed and not both:
        seconds = float(timed[2]) * (60 if timed[3].startswith("m") else 1)
        return {"rounds": int(timed[1] or 1), "seconds": seconds}
    counted = _SETS.fullmatch(plain)
    if counted is None:
        return None
    return {"sets": int(counted[1] or 1), "reps": int(counted[2]), "sides": "both" if both else "one"}
