"""Rows and core records → what the API gives."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from sqlalchemy.orm import object_session

from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.timebase import TimeBase
from lacertus.core.review.judge import shown
from lacertus.core.techniques.adaptation import Adaptation
from lacertus.core.techniques.definition import Checkpoint, Technique, Wanted
from lacertus.library.cautions import caution_text
from lacertus.services.review import loading, tied
from lacertus.services.review import review as reviewing
from lacertus.services.review.review import JudgedRep
from lacertus.services.sheets import finish as finishing
from lacertus.services.sheets import share
from lacertus.services.techniques import catalogue
from lacertus.store.tables import AdaptationRow, Clip, Correction, Review, TechniqueVersion, ViewTie
from lacertus.web import schemas as s
from lacertus.web.clips import schemas as clp
from lacertus.web.corrections import schemas as cor
from lacertus.web.review import schemas as ben
from lacertus.web.techniques import schemas as tec

_OF_THE_ROW = set(clp.ClipOut.model_fields) - {"student", "review", "line", "suggested", "capture_rate", "camera"}


def clip_out(clip: Clip, review: str, line: str, suggested: str) -> clp.ClipOut:
    own = {name: getattr(clip, name) for name in _OF_THE_ROW}
    shaped = {
        "student": clip.student.name if clip.student else None,
        "capture_rate": [clp.Rate(frame=frame, rate=rate) for frame, rate in clip.capture_rate],
        "camera": None if clip.camera is None else clip.camera | {"lost": stretches(clip.camera["lost"])},
    }
    return clp.ClipOut.model_validate(own | shaped | {"review": review, "line": line, "suggested": suggested})


def stretches(pairs: Iterable[Sequence[int]]) -> list[clp.Stretch]:
    return [clp.Stretch(first=first, last=last) for first, last in pairs]


def clip_times_out(
    out: clp.ClipOut, clip: Clip, time: TimeBase, ties: Sequence[tuple[ViewTie, Clip]], others: Sequence[Clip]
) -> clp.ClipTimesOut:
    shown = {other.id for _, other in ties}
    seen = [_view(other, tie, tied.frames_of_other(clip, tie, other)) for tie, other in ties]
    seen += [_view(other) for other in others if other.id not in shown]
    extra = {"pts_s": clip.pts_s or [], "real_s": time.real_s if clip.pts_s else [], "views": seen}
    return clp.ClipTimesOut.model_validate(out.model_dump() | extra)


def _view(other: Clip, tie: ViewTie | None = None, aligned: Sequence[int] = ()) -> clp.ViewOut:
    return clp.ViewOut(
        id=other.id,
        name=other.name,
        view=other.naming.get("view"),
        frame=tie.frame if tie else None,
        other_frame=tie.other_frame if tie else None,
        pts_s=other.pts_s or [],
        aligned=list(aligned),
        width=other.width or 1,
        height=other.height or 1,
    )


def technique_out(version: TechniqueVersion) -> tec.TechniqueOut:
    technique = catalogue.definition(version)
    return tec.TechniqueOut(
        id=technique.id,
        version=version.version,
        name=technique.names.main,
        aliases=list(technique.names.aliases),
        family=technique.family,
        summary=technique.summary,
        phases=list(technique.phases),
        events=[
            tec.EventOut(key=key, phase=technique.events[key].phase, mark=technique.events[key].mark)
            for key in technique.events_in_order()
        ],
        checkpoints=[checkpoint_out(checkpoint) for checkpoint in technique.in_phase_order],
        options=_options(technique),
        ladder=list(technique.ladder),
        cautions=[caution_text(key) for key in technique.cautions],
    )


def _options(technique: Technique) -> list[tec.OptionOut]:
    return [
        tec.OptionOut(
            key=key,
            default=group.default,
            choices=[tec.ChoiceOut(key=k, name=choice.name, purpose=choice.purpose) for k, choice in group.choices.items()],
        )
        for key, group in technique.options.items()
    ]


def adaptation_out(row: AdaptationRow, technique: Technique) -> s.AdaptationOut:
    asked = technique.checkpoint(row.checkpoint)
    adaptation = Adaptation.model_validate(row.body)
    if adaptation.action == "replaced":
        words = f"instead: {(adaptation.instead or {}).get('ask', 'something else')}"
    elif adaptation.action == "off":
        words = "not asked"
    else:
        words = wanted_text(adaptation.within, None if asked is None else asked.measure.unit_shown)
    return s.AdaptationOut(
        id=row.id,
        technique=row.technique,
        technique_name=technique.names.main,
        checkpoint=row.checkpoint,
        ask=row.checkpoint.replace("_", " ") if asked is None else asked.ask,
        action=adaptation.action,
        words=words,
        reason=adaptation.reason,
    )


def wanted_text(within: Wanted | None, unit: str | None) -> str:
    """A wanted range as people read it."""
    lo, hi = within or (None, None)
    if lo is None:
        return "no limit" if hi is None else f"at most {shown(hi, unit)}"
    return f"at least {shown(lo, unit)}" if hi is None else f"{shown(lo, unit)} to {shown(hi, unit)}"


def checkpoint_out(checkpoint: Checkpoint) -> tec.CheckpointOut:
    return tec.CheckpointOut(
        id=checkpoint.id,
        phase=checkpoint.phase,
        kind=checkpoint.kind,
        by_eye=KINDS[checkpoint.kind].by_eye,
        ask=checkpoint.ask,
        look_for=checkpoint.look_for,
        unit=checkpoint.measure.unit_shown,
        within=checkpoint.within,
        reason_for_range=checkpoint.reason_for_range,
        fault=checkpoint.fault.code,
        family=checkpoint.fault.family,
        cues=list(checkpoint.cues),
        why=checkpoint.why,
        core=checkpoint.core,
        safety=checkpoint.safety,
        at=list(checkpoint.measure.events_used),
    )


def review_out(review: Review) -> ben.ReviewOut:
    db = object_session(review)
    assert db is not None
    reps = reviewing.judged(review)
    fixes = reviewing.fixes(review, reps)
    versions = {entry.rep.technique_version.id: entry.rep.technique_version for entry in reps}
    faults = {(entry.rep.id, judgement.id): judgement.fault for entry in reps for judgement in entry.judgements}
    return ben.ReviewOut(
        id=review.id,
        clip_id=review.clip_id,
        student_id=review.student_id,
        finished_at=review.finished_at,
        heights_px=review.heights_px,
        reference=review.reference or {},
        proposals=stretches(review.proposals),
        reps=[_rep(entry) for entry in reps],
        corrections=[correction_out(one, faults.get((one.rep_id, one.checkpoint), "")) for one in review.corrections],
        fix_first=[ben.FixOut.model_validate(fix) for fix in fixes.first],
        recommended=[ben.FixOut.model_validate(fix) for fix in fixes.recommended],
        techniques=[technique_out(version) for version in versions.values()],
        revisions=finishing.count(db, review.id),
        reopened_why=review.reopened_why,
        said=[ben.SaidOut.model_validate(said) for said in share.answers(db, review.id)],
    )


def correction_out(correction: Correction, fault: str) -> cor.CorrectionOut:
    own = {name: getattr(correction, name) for name in cor.CorrectionOut.model_fields if name != "fault"}
    return cor.CorrectionOut.model_validate(own | {"fault": fault})


def _rep(entry: JudgedRep) -> ben.RepOut:
    rep = entry.rep
    return ben.RepOut(
        id=rep.id,
        technique=rep.technique_version.technique,
        technique_version=rep.technique_version.version,
        first_frame=rep.first_frame,
        last_frame=rep.last_frame,
        side=rep.side,
        heading=rep.heading,
        view=rep.view,
        partner=rep.partner,
        pace=rep.pace,
        rung=rep.rung,
        purpose=rep.purpose,
        **{name: getattr(rep, name) for name in (*loading.REP_FACTS, "linked_to", "blind_of")},
        carrying=rep.carrying and ben.CarryingOut(**rep.carrying),
        proposed=[ben.ProposedOut.model_validate(proposed) for proposed in entry.proposed],
        student_id=rep.student_id,
        options=rep.options,
        events={mark.event: mark.frames for mark in rep.events},
        points=[ben.PointOut.model_validate(point) for point in rep.points],
        answers={given.checkpoint: given.yes for given in rep.answers},
        judgements=[ben.JudgementOut.model_validate(judgement) for judgement in entry.judgements],
        needs=[ben.NeedOut.model_validate(need) for need in entry.needs],
    )


def cautions_out(keys: Iterable[str]) -> list[str]:
    return [caution_text(key) for key in keys]
