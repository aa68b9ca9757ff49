"""What to fix first."""

from __future__ import annotations

from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.progress.fix_first import Group, fix_first, fix_first_of
from lacertus.core.progress.ledger import FaultLedger, Session, ledger_of
from lacertus.core.review.judgement import Judgement
from tests.core.build import checkpoint, technique


def judged(**verdicts: str) -> list[Judgement]:
    return [
        Judgement(id=key, kind="angle", phase="extension", verdict=Verdict(verdict), fault=key, safety=key.startswith("safe"))
        for key, verdict in verdicts.items()
    ]


def chosen(reps: list[list[Judgement]], *checks: dict) -> list[str]:  # type: ignore[type-arg]
    return [fix.checkpoint for fix in fix_first(technique(*checks), reps)]


def test_nothing_missed_gives_nothing() -> None:
    assert chosen([judged(a="met", b="borderline")], checkpoint(id="a"), checkpoint(id="b")) == []


def test_never_more_than_two_the_heavier_first() -> None:
    checks = [checkpoint(id=key, weight=weight) for key, weight in (("a", 1), ("b", 3), ("c", 2))]
    assert chosen([judged(a="missed", b="missed", c="missed")], *checks) == ["b", "c"]


def test_safety_comes_before_all_else_and_its_borderline_counts() -> None:
    checks = [checkpoint(id="a", weight=9), checkpoint(id="safe", weight=0.1, safety=True)]
    assert chosen([judged(a="missed", safe="borderline")], *checks) == ["safe", "a"]


def test_a_fault_gives_way_to_its_cause_and_the_reason_names_it() -> None:
    checks = [checkpoint(id="cause", phase="chamber", leads_to=["effect"]), checkpoint(id="effect", weight=9)]
    fixes = fix_first(technique(*checks), [judged(cause="missed", effect="missed"), judged(cause="met", effect="missed")])
    assert [fix.checkpoint for fix in fixes] == ["cause"]
    assert fixes[0].reason == "missed in 1 of 2 · leads to “Leg nearly straight” in 1 of those"


def test_a_cause_missed_in_fewer_than_half_of_the_same_reps_does_not_displace() -> None:
    checks = [checkpoint(id="cause", phase="chamber", leads_to=["effect"]), checkpoint(id="effect", weight=9)]
    reps = [judged(cause="missed", effect="missed"), *[judged(cause="met", effect="missed")] * 2]
    assert chosen(reps, *checks)[0] == "effect"


def test_of_equal_ones_the_earlier_phase_comes_first() -> None:
    checks = [checkpoint(id="late", phase="rechamber"), checkpoint(id="early", phase="chamber")]
    assert chosen([judged(late="missed", early="missed")], *checks) == ["early", "late"]


def past(*counts: tuple[int, int]) -> FaultLedger:
    found = ledger_of(Session(day=7 * i, exposures=n, misses=m) for i, (m, n) in enumerate(counts))
    assert found is not None
    return found


def test_what_came_back_weighs_more_than_what_is_new_and_says_so() -> None:
    checks = [checkpoint(id="new", phase="chamber"), checkpoint(id="back"), checkpoint(id="fades", weight=1.1)]
    relapsed = past((3, 5), (3, 5), (0, 5), (0, 5), (2, 4))
    fading = past((3, 5), (3, 5), (1, 5), (1, 5))
    assert (relapsed.state, fading.state) == ("relapsed", "fading")
    reps = [judged(new="missed", back="missed", fades="missed"), judged(new="missed", back="met", fades="met")]
    group = Group(technique=technique(*checks), reps=reps, past={"back": relapsed, "fades": fading})
    found = fix_first_of([group])
    assert [fix.checkpoint for fix in found] == ["new", "back"]
    assert found[1].reason == "missed in 1 of 2 · came back after it had cleared: 8 of 24 in 5 sessions"
    heavy = past((4, 5), (4, 5), (4, 5))
    found = fix_first_of([Group(technique=technique(*checks), reps=reps, past={"back": heavy})])
    assert [fix.checkpoint for fix in found] == ["back", "new"] and "keeps coming back" in found[0].reason


def test_over_two_techniques_the_two_worst_are_chosen_whichever_they_belong_to() -> None:
    light = Group(technique=technique(checkpoint(id="a"), checkpoint(id="b")), reps=[judged(a="missed", b="missed")])
    heavy = Group(technique=technique(checkpoint(id="c", weight=5), id="other"), reps=[judged(c="missed")])
    assert [fix.checkpoint for fix in fix_first_of([light, heavy])] == ["c", "a"]
