"""The academy at a glance, second opinions, and grades."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Path, Query

from lacertus.services.academy import asked_opinions, common_faults, over_months, second_opinions
from lacertus.services.academy.common_faults import LONG_UNSEEN_DAYS, Part, ShownCommon
from lacertus.services.academy.second_opinions import SecondOpinion
from lacertus.services.people import academies
from lacertus.services.progress import grades
from lacertus.web import schemas as s
from lacertus.web.academy import schemas as a
from lacertus.web.session import Db, SignedIn
from lacertus.web.techniques import presenters as technique_presenters

router = APIRouter(tags=["academy"])
Technique = Annotated[str, Path(max_length=100)]


@router.get("/academy")
def read_academy(coach: SignedIn, db: Db, days: Annotated[int, Query(ge=1, le=3660)] = 30) -> a.AcademyOut:
    """Faults that were common in the last so many days, who was not seen, and how far coaches agree."""
    found = common_faults.page(db, coach.academy_id, date.today(), days)
    agreeing = found.agreeing
    over_all = Part(of="all", agreement=agreeing.over_all) if agreeing.over_all else None
    return a.AcademyOut(
        since=found.since,
        until=found.until,
        students=found.students,
        filmed=found.filmed,
        reps=found.reps,
        common=[_common(one) for one in found.common],
        unseen=[a.UnseenOut.model_validate(one) for one in found.unseen],
        unseen_days=LONG_UNSEEN_DAYS,
        agreement=_agreement(over_all) if over_all else None,
        pairs=[_agreement(part) for part in agreeing.pairs],
        ways=[_agreement(part) for part in agreeing.ways],
        checkpoints=[_agreement(part) for part in agreeing.checkpoints],
        offers=[a.OfferOut.model_validate(one) for one in second_opinions.offers(db, coach.academy_id, coach.id)],
    )


@router.get("/academy/months")
def read_months(coach: SignedIn, db: Db, count: Annotated[int, Query(ge=2, le=36)] = 12) -> a.OverMonthsOut:
    """The most common faults month by month, and how long the coach who asks takes for a rep."""
    found = over_months.over_months(db, coach.academy_id, coach.id, academies.today(db, coach.academy_id), count)
    return a.OverMonthsOut(
        months=list(found.months),
        faults=[
            a.FaultOverMonthsOut(
                technique=one.technique,
                technique_name=one.technique_name,
                fault=one.fault,
                ask=one.ask,
                points=[
                    a.RatePointOut(
                        month=date.fromordinal(point.month),
                        misses=point.misses,
                        exposures=point.exposures,
                        rate=point.rate,
                        interval=list(point.interval),
                    )
                    for point in one.points
                ],
            )
            for one in found.faults
        ],
        pace=[
            a.PacePointOut(
                month=date.fromordinal(point.month), reviews=point.reviews, minutes=point.minutes, low=point.low, high=point.high
            )
            for point in found.pace
        ],
    )


def _common(shown: ShownCommon) -> a.CommonOut:
    own = {name: getattr(shown.common, name) for name in a.CommonOut.model_fields if hasattr(shown.common, name)}
    who = [a.WhoOut(id=key, name=name) for key, name in shown.students]
    more = {"technique_name": shown.technique_name, "ask": shown.ask, "sharing": who, "interval": list(shown.common.interval)}
    return a.CommonOut.model_validate(own | more)


def _agreement(part: Part) -> a.AgreementOut:
    own = {name: getattr(part.agreement, name) for name in ("judged", "reps", "same", "same_interval", "alpha", "interval")}
    return a.AgreementOut.model_validate(own | {"of": part.of})


# --- second opinions ---------------------------------------------------------------------------------


def _look(found: SecondOpinion) -> a.SecondOpinionOut:
    return a.SecondOpinionOut(
        review=found.review,
        clip=found.clip.id,
        clip_name=found.clip.name,
        student=found.student,
        filmed_on=found.clip.filmed_on,
        first_coach=found.first_coach,
        handed_in=found.handed_in,
        width=found.clip.width or 1,
        height=found.clip.height or 1,
        pts_s=found.clip.pts_s or [],
        reps=[a.LookedAtRepOut.model_validate(rep) for rep in found.reps],
        cautions=technique_presenters.cautions_out(found.cautions),
    )


@router.get("/reviews/{review_id}/second")
def read_second_look(review_id: uuid.UUID, coach: SignedIn, db: Db) -> a.SecondOpinionOut:
    """Another coach’s finished review, to be judged without seeing its verdicts."""
    return _look(second_opinions.look(db, coach.academy_id, coach.id, review_id))


@router.put("/reviews/{review_id}/second/{rep_id}/{checkpoint}")
def give_second(
    review_id: uuid.UUID, rep_id: uuid.UUID, checkpoint: Technique, form: a.SecondIn, coach: SignedIn, db: Db
) -> a.SecondOpinionOut:
    """Give a verdict on a checkpoint of a rep; null takes it back."""
    second_opinions.give(db, coach.academy_id, coach.id, review_id, rep_id, checkpoint, form.verdict)
    return _look(second_opinions.look(db, coach.academy_id, coach.id, review_id))


@router.post("/reviews/{review_id}/second")
def hand_in_second(review_id: uuid.UUID, coach: SignedIn, db: Db) -> a.SecondOpinionOut:
    """Hand the second opinion in: it stands from now on, and the first verdicts are shown beside it."""
    return _look(second_opinions.hand_in(db, coach.academy_id, coach.id, review_id))


@router.get("/reviews/{review_id}/colleagues")
def read_colleagues(review_id: uuid.UUID, coach: SignedIn, db: Db) -> list[a.ColleagueOut]:
    """Who can be asked for a second opinion on a review, and who was."""
    return [a.ColleagueOut.model_validate(one) for one in asked_opinions.colleagues(db, coach.academy_id, review_id)]


@router.put("/reviews/{review_id}/colleagues/{account_id}")
def ask_colleague(review_id: uuid.UUID, account_id: uuid.UUID, coach: SignedIn, db: Db) -> list[a.ColleagueOut]:
    """Ask a coach for a second opinion: it stands in that coach's day."""
    on = academies.today(db, coach.academy_id)
    asked_opinions.ask(db, coach.academy_id, review_id, account_id, coach.id, on)
    return read_colleagues(review_id, coach, db)


@router.delete("/reviews/{review_id}/colleagues/{account_id}")
def take_asking_back(review_id: uuid.UUID, account_id: uuid.UUID, coach: SignedIn, db: Db) -> list[a.ColleagueOut]:
    """Ask a coach no longer."""
    asked_opinions.take_back(db, coach.academy_id, review_id, account_id)
    return read_colleagues(review_id, coach, db)


# --- grades ------------------------------------------------------------------------------------------


def _grades(db: Db, academy_id: uuid.UUID) -> list[a.GradeOut]:
    return [
        a.GradeOut(
            id=grade.id,
            name=grade.name,
            students=grade.students,
            asked=[
                a.AskedOut(
                    technique=one.technique.id,
                    name=one.technique.names.main,
                    rung=one.rung,
                    ladder=list(one.technique.ladder),
                    last_taught=one.last_taught,
                    last_filmed=one.last_filmed,
                    lacking=list(one.lacking),
                )
                for one in grade.asked
            ],
        )
        for grade in grades.curriculum(db, academy_id)
    ]


@router.get("/grades")
def read_grades(coach: SignedIn, db: Db) -> list[a.GradeOut]:
    """The academy’s grades: what each asks, last taught, last filmed, and who lacks it."""
    return _grades(db, coach.academy_id)


@router.post("/grades", status_code=201)
def add_grade(form: a.GradeIn, coach: SignedIn, db: Db) -> list[a.GradeOut]:
    grades.add(db, coach.academy_id, form.name)
    return _grades(db, coach.academy_id)


@router.patch("/grades/{grade_id}")
def change_grade(grade_id: uuid.UUID, form: a.GradeChange, coach: SignedIn, db: Db) -> list[a.GradeOut]:
    """Rename a grade, or move it among the others."""
    grades.change(db, coach.academy_id, grade_id, form.name, form.up)
    return _grades(db, coach.academy_id)


@router.delete("/grades/{grade_id}")
def remove_grade(grade_id: uuid.UUID, coach: SignedIn, db: Db) -> list[a.GradeOut]:
    """Delete a grade; students who worked towards it work towards none."""
    grades.remove(db, coach.academy_id, grade_id)
    return _grades(db, coach.academy_id)


@router.put("/grades/{grade_id}/techniques/{technique}")
def ask_for(grade_id: uuid.UUID, technique: Technique, form: a.RungIn, coach: SignedIn, db: Db) -> list[a.GradeOut]:
    """Ask for a technique on a rung that is to be passed."""
    grades.require(db, coach.academy_id, grade_id, technique, form.rung)
    return _grades(db, coach.academy_id)


@router.delete("/grades/{grade_id}/techniques/{technique}")
def ask_no_more(grade_id: uuid.UUID, technique: Technique, coach: SignedIn, db: Db) -> list[a.GradeOut]:
    grades.require(db, coach.academy_id, grade_id, technique, None)
    return _grades(db, coach.academy_id)


@router.put("/taught/{technique}/{on}")
def note_taught(technique: Technique, on: date, coach: SignedIn, db: Db) -> list[a.GradeOut]:
    """Note that a technique was taught in class on a day."""
    grades.note_taught(db, coach.academy_id, technique, on, coach.id, date.today())
    return _grades(db, coach.academy_id)


@router.delete("/taught/{technique}/{on}")
def not_taught(technique: Technique, on: date, coach: SignedIn, db: Db) -> list[a.GradeOut]:
    """Take back that it was taught on that day."""
    grades.not_taught(db, coach.academy_id, technique, on)
    return _grades(db, coach.academy_id)


@router.get("/students/{student_id}/grade")
def read_progress(student_id: uuid.UUID, coach: SignedIn, db: Db) -> a.ProgressOut | None:
    """What the student’s grade asks, what is lacking first; null where they work towards none."""
    found = grades.progress(db, coach.academy_id, student_id)
    if found is None:
        return None
    grade, held = found
    rows = [
        a.HeldOut(
            technique=one.technique.id,
            name=one.technique.names.main,
            rung=one.rung,
            passed=one.passed,
            passed_to=one.passed_to,
            last_taught=one.last_taught,
            last_filmed=one.last_filmed,
        )
        for one in held
    ]
    return a.ProgressOut(grade=grade.id, name=grade.name, held=rows)


@router.put("/students/{student_id}/grade")
def work_towards(student_id: uuid.UUID, form: a.TowardsIn, coach: SignedIn, db: Db) -> s.Done:
    """Say which grade a student works towards; null for none."""
    grades.work_towards(db, coach.academy_id, student_id, form.grade)
    return s.Done()
