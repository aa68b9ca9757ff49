"""Rungs: where a student stands, what is recommended, and what the coach decides."""

from __future__ import annotations

import uuid
from datetime import date

from fastapi import APIRouter

from lacertus.library.cautions import caution_text
from lacertus.services.progress import rungs
from lacertus.services.progress.rungs import Standing
from lacertus.web import schemas as s
from lacertus.web.progress import rung_schemas as r
from lacertus.web.session import Db, SignedIn

router = APIRouter(tags=["rungs"])


def _out(found: Standing) -> r.StandingOut:
    told = found.recommendation
    return r.StandingOut(
        technique=found.technique.id,
        name=found.technique.names.main,
        ladder=list(found.technique.ladder),
        rung=found.rung,
        advice=told.advice.value,
        because=told.because,
        criteria=[r.CriterionOut.model_validate(one) for one in told.criteria],
        reps=found.reps,
        sure=found.sure,
        falls=list(found.falls),
        may_be_thrown=list(found.may_be_thrown),
        withheld=found.withheld,
        cautions=[caution_text(key) for key in found.technique.cautions],
        decisions=[r.RungDecisionOut.model_validate(one) for one in found.decisions],
        sessions=[r.RungSessionOut.model_validate(one) for one in found.sessions],
    )


@router.get("/students/{student_id}/rungs")
def read_rungs(student_id: uuid.UUID, coach: SignedIn, db: Db) -> list[r.StandingOut]:
    """Where a student stands in every technique that they were judged in."""
    return [_out(one) for one in rungs.standings(db, coach.academy_id, student_id, date.today())]


@router.get("/students/{student_id}/as-partner")
def read_as_partner(student_id: uuid.UUID, coach: SignedIn, db: Db) -> r.AsPartnerOut:
    """Whether the student may be thrown, and on which rungs."""
    return r.AsPartnerOut.model_validate(rungs.as_partner(db, coach.academy_id, student_id))


@router.put("/students/{student_id}/rungs/{technique}/sure")
def say_sure(student_id: uuid.UUID, technique: s.Name, form: r.SureIn, coach: SignedIn, db: Db) -> r.StandingOut:
    """Keep whether performer or partner says that they feel sure."""
    today = date.today()
    rungs.say_sure(db, coach.academy_id, student_id, technique, form.who, form.sure, today)
    return _out(rungs.standing(db, coach.academy_id, student_id, technique, today))


@router.post("/students/{student_id}/rungs/{technique}/decision", status_code=201)
def decide(student_id: uuid.UUID, technique: s.Name, form: r.DecisionIn, coach: SignedIn, db: Db) -> r.StandingOut:
    """Keep what the coach decides; otherwise than recommended only with a reason."""
    today = date.today()
    rungs.decide(db, coach.academy_id, student_id, technique, form.decision, form.why, coach.id, today)
    return _out(rungs.standing(db, coach.academy_id, student_id, technique, today))
