"""Prescriptions, what is done of them, and whether they helped."""

from __future__ import annotations

import uuid
from datetime import date, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.clips.naming import Naming
from lacertus.core.errors import BadInput
from lacertus.core.plan.practice import Helped
from lacertus.core.progress.fix_first import FaultChoice
from lacertus.core.techniques.practice import Dose
from lacertus.services.errors import Conflict, NotAllowed, NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import act_as
from lacertus.services.practice import drills, known, log, prescriptions, proposals, together
from lacertus.services.practice.drills import START_DOSE
from lacertus.services.practice.log import Entry
from lacertus.services.practice.prescriptions import Wish
from lacertus.services.progress import fix_first
from lacertus.services.sheets import finish
from lacertus.services.techniques import catalogue, starts
from lacertus.store.tables import Clip, InboxRow, PracticeLog, Prescription, RepRow, Student
from tests import watch
from tests.halls import Hall
from tests.services.progress.rung_reps import TODAY, done

DOSE = Dose(sets=2, reps=10)


def wish(fault: str = "low-chamber", name: str = "Wall drill", **more: object) -> Wish:
    return Wish(technique="front-kick", faults=(fault,), dose=DOSE, name=name, **more)  # type: ignore[arg-type]


def prescribed(
    db: Session, where: Hall, fault: str = "low-chamber", name: str = "Wall drill", on: date = TODAY, **more: object
) -> Prescription:
    return prescriptions.prescribe(db, where.academy, where.student, wish(fault, name, **more), None, on).row


def test_a_drill_of_the_technique_is_prescribed_with_its_dose_and_partners_task(db: Session, where: Hall) -> None:
    technique = catalogue.definition(catalogue.newest(db, where.academy, "front-kick"))
    found = drills.for_faults(db, where.academy, technique, "low-chamber")
    assert found and not found[0].own
    chosen = Wish(technique="front-kick", faults=("low-chamber",), dose=found[0].dose, drill=found[0].id)
    row = prescriptions.prescribe(db, where.academy, where.student, chosen, None, TODAY).row
    assert (row.name, row.how, row.times_a_week, row.ended_on) == (found[0].name, found[0].how, 3, None)


def test_where_the_library_has_no_drill_the_coach_writes_one_and_it_is_kept(db: Session, where: Hall) -> None:
    made = drills.write(db, where.academy, "front-kick", "low-chamber", "Knee to the belt", "Ten times, slowly", DOSE, None)
    technique = catalogue.definition(catalogue.newest(db, where.academy, "front-kick"))
    assert next(one.name for one in drills.for_faults(db, where.academy, technique, "low-chamber")) == "Knee to the belt"
    again = drills.write(db, where.academy, "front-kick", "low-chamber", "Knee to the belt", "Twenty times", DOSE, None)
    assert (again.id, again.how) == (made.id, "Twenty times")
    with pytest.raises(NotFound, match="no such fault"):
        drills.write(db, where.academy, "front-kick", "no-such", "A drill", "", DOSE, None)


def test_a_position_to_start_from_is_prescribed_with_what_the_partner_does(db: Session, where: Hall) -> None:
    done(db, where, "front-kick", "solo", ["missed"], 1)
    rep = db.scalars(select(RepRow.id)).one()
    technique = catalogue.definition(catalogue.newest(db, where.academy, "front-kick"))
    made = starts.make(db, where.academy, technique, rep, 3, {})
    starts.change(db, where.academy, technique, made.name, "Knee is up already", "half", "knee_top")
    one = next(one for one in drills.choices(db, where.academy, technique, "low-chamber") if one.name == "Knee is up already")
    assert (one.is_start, one.start, one.dose, one.partner_task) == (
        True,
        made.name,
        START_DOSE,
        "Resist from “knee top” on: half.",
    )
    by_id = Wish(technique="front-kick", faults=("low-chamber",), dose=one.dose, drill=one.id)
    row = prescriptions.prescribe(db, where.academy, where.student, by_id, None, TODAY).row
    assert (row.name, row.start, row.partner_task) == (one.name, made.name, one.partner_task)
    by_start = Wish(technique="front-kick", faults=("low-chamber",), dose=one.dose, start=made.name)
    with pytest.raises(Conflict, match="Knee is up already"):
        prescriptions.prescribe(db, where.academy, where.student, by_start, None, TODAY)
    starts.delete(db, where.academy, "front-kick", made.name)
    assert one.id not in [other.id for other in drills.choices(db, where.academy, technique, "low-chamber")]
    with pytest.raises(NotFound, match="no such drill"):
        drills.find(db, where.academy, "front-kick", one.id)


def test_a_fourth_makes_room_by_fix_first_and_says_which_went(db: Session, where: Hall) -> None:
    done(db, where, "front-kick", "solo", ["missed"] * 6, 3)
    order = [one.fault for one in known.of_student(db, where.academy, people.student(db, where.academy, where.student)).faults]
    assert len(order) >= 3
    # The weightiest is prescribed last, so that age alone would choose another one.
    for fault in reversed(order[:3]):
        prescribed(db, where, fault, f"For {fault}")
    result = prescriptions.prescribe(db, where.academy, where.student, wish(order[0], "One more"), None, TODAY)
    assert result.replaced is not None
    assert (result.replaced.name, result.replaced.ended_why, result.replaced.ended_on) == (f"For {order[2]}", "replaced", TODAY)
    assert len(prescriptions.open_of(db, where.student)) == 3


@pytest.mark.parametrize(
    ("changed", "match"),
    [
        ({"faults": ()}, "which fault"),
        ({"faults": ("no-such",)}, "no fault"),
        ({"times_a_week": 0}, "1 to 21"),
        ({"until": TODAY - timedelta(days=1)}, "in the past"),
        ({"name": "  "}, "missing"),
    ],
)
def test_what_cannot_be_prescribed_is_said_and_nothing_is_stored(
    db: Session, where: Hall, changed: dict[str, object], match: str
) -> None:
    given = {"technique": "front-kick", "faults": ("low-chamber",), "dose": DOSE, "name": "Wall drill"} | changed
    with pytest.raises(BadInput, match=match):
        prescriptions.prescribe(db, where.academy, where.student, Wish(**given), None, TODAY)  # type: ignore[arg-type]
    assert prescriptions.open_of(db, where.student) == []


def test_the_same_drill_is_not_prescribed_twice_and_not_by_an_assistant(db: Session, where: Hall) -> None:
    row = prescribed(db, where)
    with pytest.raises(Conflict, match="prescribed to A Student already"):
        prescribed(db, where)
    act_as(db, "assistant")
    with pytest.raises(NotAllowed, match="prescribe drills"):
        prescriptions.end(db, where.academy, row.id, "stopped", TODAY)


def test_practice_counts_once_a_key_and_adherence_follows(db: Session, where: Hall) -> None:
    row = prescribed(db, where, on=TODAY - timedelta(days=13))
    key = uuid.uuid4()
    for _ in range(2):
        log.enter(db, where.academy, where.student, Entry(prescription=row.id, on=TODAY, key=key), "student", None, TODAY)
    log.enter(db, where.academy, where.student, Entry(prescription=row.id, on=TODAY, amount=10), "coach", None, TODAY)
    page = prescriptions.page(db, where.academy, where.student, TODAY)
    # Fourteen days of 20 reps three times a week are 120; 30 were done.
    assert page.adherence is not None
    assert (page.adherence.done, page.adherence.share) == (30, 0.25)
    assert [entry.amount for entry, _ in page.log] == [10, 20]
    assert log.ticked_on(db, where.student, TODAY) == {row.id}


@pytest.mark.parametrize("days", [-1, 29])
def test_practice_of_tomorrow_or_long_ago_is_refused(db: Session, where: Hall, days: int) -> None:
    row = prescribed(db, where, on=TODAY - timedelta(days=40))
    entry = Entry(prescription=row.id, on=TODAY - timedelta(days=days))
    with pytest.raises(BadInput, match="today or the 28 days before"):
        log.enter(db, where.academy, where.student, entry, "coach", None, TODAY)


def test_pain_ends_the_prescription_and_tells_the_coach_once(db: Session, where: Hall) -> None:
    row = prescribed(db, where)
    entry = Entry(prescription=row.id, on=TODAY, pain=True, words="left knee", key=uuid.uuid4())
    for _ in range(2):
        log.enter(db, where.academy, where.student, entry, "student", None, TODAY)
    assert (row.ended_on, row.ended_why) == (TODAY, "pain")
    told = list(db.scalars(select(InboxRow).where(InboxRow.student_id == where.student)))
    assert [(one.kind, one.words) for one in told] == [("pain", "Wall drill: left knee")]


def test_another_students_prescription_cannot_be_ticked(db: Session, where: Hall) -> None:
    row = prescribed(db, where)
    other = people.create_student(db, where.academy, "Another")
    with pytest.raises(NotFound, match="no such prescription"):
        log.enter(db, where.academy, other.id, Entry(prescription=row.id, on=TODAY), "student", None, TODAY)


def test_a_clip_named_as_the_drill_counts_by_itself_reviewed_or_not(db: Session, where: Hall) -> None:
    row = prescribed(db, where, on=TODAY - timedelta(days=6))
    naming = Naming(technique="front-kick", drill="Wall drill")
    clip = Clip(
        academy_id=where.academy, student_id=where.student, name="drill.mp4", filmed_on=TODAY, state="ready", naming=naming,
        proposals=tuple((10 * n, 10 * n + 5) for n in range(18)), pts_s=[n / 10 for n in range(200)],
    )  # fmt: skip
    db.add(clip)
    db.commit()
    (followed,) = prescriptions.page(db, where.academy, where.student, TODAY).open
    assert [(one.reps, one.reviewed) for one in followed.clips] == [(18, False)]
    assert followed.kept is not None
    assert (followed.kept.done, followed.kept.prescribed) == (18, 60.0)
    # A rep a second is the student's own pace: 20 reps take 20 s, and a minute to change over.
    assert followed.minutes == 1.5
    clip.filmed_on = TODAY - timedelta(days=7)
    db.commit()
    assert prescriptions.page(db, where.academy, where.student, TODAY).open[0].clips == ()
    assert row.ended_on is None


def test_did_it_help_reads_the_ledger_before_and_after(db: Session, where: Hall) -> None:
    for days in (40, 36):
        done(db, where, "front-kick", "solo", ["missed"] * 9 + ["met"], days)
    for days in (20, 10):
        done(db, where, "front-kick", "solo", ["met"] * 10, days)
    fault = known.of_student(db, where.academy, people.student(db, where.academy, where.student)).faults[0].fault
    prescribed(db, where, fault, on=TODAY - timedelta(days=36))
    (followed,) = prescriptions.page(db, where.academy, where.student, TODAY).open
    found = followed.helped[fault]
    assert (found.verdict, found.before.rate, found.after.rate) == (Helped.HELPED, 0.9, 0.0)


def test_over_the_academy_what_went_together_is_counted_by_students(db: Session, where: Hall) -> None:
    other = people.create_student(db, where.academy, "Another").id
    for student in (where.student, other):
        for days in (60, 56):
            done(db, where, "front-kick", "solo", ["missed"] * 6, days, student)
    for days in (45, 40, 35, 30):
        done(db, where, "front-kick", "solo", ["met"] * 8, days, where.student)
    fault = known.of_student(db, where.academy, people.student(db, where.academy, where.student)).faults[0].fault
    prescribed(db, where, fault, on=TODAY - timedelta(days=55))
    shown = [one for one in together.over_the_academy(db, where.academy, TODAY) if one.kind == "drill"]
    assert [
        (one.found.what, one.found.cleared, one.found.of, one.found.cleared_without, one.found.of_without) for one in shown
    ] == [("Wall drill", 1, 1, 0, 1)]


def test_a_finished_review_proposes_drills_for_its_fixes(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
    finish.finish(db, where.academy, review)
    found = proposals.of_review(db, where.academy, review)
    assert "low-chamber" in [one.fault for one in found]
    assert all(one.drills and not one.prescribed for one in found)
    first = found[0]
    chosen = Wish(
        technique=first.technique, faults=(first.fault,), dose=first.drills[0].dose, drill=first.drills[0].id, made_in="review",
        review=review,
    )  # fmt: skip
    prescriptions.prescribe(db, where.academy, where.student, chosen, None, TODAY)
    assert proposals.of_review(db, where.academy, review)[0].prescribed == (first.drills[0].name,)


@watch.paused()
def test_what_is_known_of_a_student_is_kept_until_anything_changes(
    db: Session, where: Hall, monkeypatch: pytest.MonkeyPatch
) -> None:
    worked_out: list[uuid.UUID] = []
    real = fix_first.all_histories

    def counted(db: Session, academy: uuid.UUID, student: Student) -> object:
        worked_out.append(student.id)
        return real(db, academy, student)

    monkeypatch.setattr(fix_first, "all_histories", counted)

    def faults() -> list[str]:
        student = people.student(db, where.academy, where.student)
        return [one.fault for one in known.of_student(db, where.academy, student).faults]

    assert faults() == faults() == []
    done(db, where, "front-kick", "solo", ["missed"] * 3, 3)
    first = faults()
    assert first and faults() == first
    fix_first.choose(db, where.academy, where.student, [FaultChoice(technique="front-kick", fault=first[-1])], "why", TODAY)
    assert faults()[0] == first[-1]
    # Worked out when asked first, after the review, by the choice itself (twice), and after it.
    assert len(worked_out) <= 5
    assert db.scalars(select(PracticeLog)).all() == []
