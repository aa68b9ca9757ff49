"""What a day asks for: severities, minutes by the coach's own pace, and what one clip answers together."""

from __future__ import annotations

import pytest

from lacertus.core.plan.queue import queue_of
from lacertus.core.plan.today import Kind, Pace, Reason, Worked, tasks_of
from lacertus.core.progress.ledger import State

ON = 1000


def reason(kind: Kind, about: str, days: int = 0, student: str = "ana", technique: str = "kick", **more: object) -> Reason:
    return Reason(kind=kind, about=about, since=ON - days, student=student, technique=technique, **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("kind", "state", "severity", "safety"),
    [
        (Kind.SAFETY, None, 6, True),
        (Kind.PAIN, None, 5, True),
        (Kind.QUESTION, None, 2, False),
        (Kind.RELAPSE, None, 3, False),
        (Kind.RECHECK, State.RELAPSED, 2.5, False),
        (Kind.RECHECK, State.RECURRING, 2.5, False),
        (Kind.RECHECK, State.ONCE, 1, False),
        (Kind.RECHECK, State.FADING, 1, False),
        (Kind.RECHECK, State.CLEARED, 0.5, False),
        (Kind.REVIEW, None, 2, False),
        (Kind.NAME, None, 1, False),
        (Kind.OPINION, None, 1, False),
        (Kind.RUNG, None, 1, False),
        (Kind.GRADE, None, 1, False),
        (Kind.UNSEEN, None, 1, False),
    ],
)
def test_every_kind_has_its_severity(kind: Kind, state: State | None, severity: float, safety: bool) -> None:
    (task,) = tasks_of([reason(kind, "x", 7, state=state)], Pace([]))
    assert (task.item.severity, task.item.safety) == (severity, safety)
    assert float(task.item.priority(ON)) == 2 * severity


def test_a_review_takes_the_coachs_own_median_a_rep_of_the_technique_else_of_all_else_the_usual() -> None:
    own = [Worked(technique="kick", minutes=m, reps=r) for m, r in ((10, 5), (9, 3), (4, 4))]
    other = [Worked(technique="throw", minutes=5, reps=1)]
    assert Pace([*own, *other]).minutes("kick", 3) == 6.0
    assert Pace([*own, *other]).minutes("sweep", 3) == 7.5
    assert Pace([]).minutes("kick", 5) == 5.0
    assert Pace([]).minutes("kick", 0) == 3.0
    assert Pace([Worked(technique="kick", minutes=0, reps=4)]).minutes("kick", 1) == 3.0


def test_only_the_last_twenty_reviews_tell_the_pace() -> None:
    worked = [Worked(technique="kick", minutes=1, reps=1)] * 20 + [Worked(technique="kick", minutes=9, reps=1)] * 30
    assert Pace(worked).minutes("kick", 4) == 4.0


def test_minutes_are_rounded_up_to_halves() -> None:
    assert Pace([Worked(technique="kick", minutes=1.01, reps=1)]).minutes("kick", 1) == 1.5
    assert Pace([Worked(technique="kick", minutes=0.1, reps=1)]).minutes("kick", 5) == 0.5


def test_a_recheck_and_a_waiting_clip_of_the_same_technique_are_one_item() -> None:
    some = [
        reason(Kind.RECHECK, "late", 9, state=State.RECURRING),
        reason(Kind.SAFETY, "head", 2),
        reason(Kind.REVIEW, "clip-a", 4, cuts=5),
        reason(Kind.REVIEW, "clip-b", 1, cuts=1),
        reason(Kind.REVIEW, "clip-c", 3, technique="throw", cuts=1),
        reason(Kind.RECHECK, "other", 0, student="ben", state=State.ONCE),
    ]
    tasks = {task.item.id: task for task in tasks_of(some, Pace([]))}
    assert sorted(tasks) == ["clip-a", "clip-b", "clip-c", "other"]
    one = tasks["clip-a"]
    assert (one.item.severity, one.item.since, one.item.minutes, one.item.safety) == (6, ON - 9, 5.0, True)
    assert [because.kind for because in one.reasons] == [Kind.SAFETY, Kind.RECHECK, Kind.REVIEW]
    assert tasks["other"].item.minutes == 1.0
    assert queue_of([task.item for task in tasks.values()], ON).chosen[0].id == "clip-a"


def test_pain_of_the_same_student_stays_an_item_of_its_own() -> None:
    some = [reason(Kind.PAIN, "pain", 0, technique=""), reason(Kind.REVIEW, "clip", 0, technique="", cuts=1)]
    assert [task.item.id for task in tasks_of(some, Pace([]))] == ["clip", "pain"]
