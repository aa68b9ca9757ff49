"""Rows and core records → what the API gives."""

from __future__ import annotations

from collections.abc import Iterable

from lacertus.core.measures import KINDS
from lacertus.core.technique import Checkpoint, Technique
from lacertus.library.cautions import caution_text
from lacertus.services import review as reviewing
from lacertus.services import techniques
from lacertus.services.follow_up import Shown
from lacertus.services.review import JudgedRep
from lacertus.store.tables import Clip, Review, TechniqueVersion
from lacertus.web import schemas as s


def clip_out(clip: Clip, review: str = "none") -> s.ClipOut:
    return s.ClipOut.model_validate(_clip(clip, review))


def clip_times_out(clip: Clip, review: str) -> s.ClipTimesOut:
    return s.ClipTimesOut.model_validate(_clip(clip, review) | {"pts_s": clip.pts_s or []})


def _clip(clip: Clip, review: str) -> dict[str, object]:
    own = set(s.ClipOut.model_fields) - {"student", "review"}
    return {name: getattr(clip, name) for name in own} | {"student": clip.student.name, "review": review}


def review_state(review: Review | None) -> str:
    return "none" if review is None else "finished" if review.finished_at else "open"


def technique_out(version: TechniqueVersion) -> s.TechniqueOut:
    technique = techniques.definition(version)
    return s.TechniqueOut(
        id=technique.id,
        version=version.version,
        name=technique.names.main,
        aliases=list(technique.names.aliases),
        family=technique.family,
        summary=technique.summary,
        phases=list(technique.phases),
        events=[
            s.EventOut(key=key, phase=technique.events[key].phase, mark=technique.events[key].mark)
            for key in technique.events_in_order()
        ],
        checkpoints=[_checkpoint(checkpoint) for checkpoint in technique.in_phase_order],
        options=_options(technique),
        ladder=list(technique.ladder),
        cautions=[caution_text(key) for key in technique.cautions],
    )


def _options(technique: Technique) -> list[s.OptionOut]:
    return [
        s.OptionOut(
            key=key,
            default=group.default,
            choices=[s.ChoiceOut(key=k, name=choice.name, purpose=choice.purpose) for k, choice in group.choices.items()],
        )
        for key, group in technique.options.items()
    ]


def _checkpoint(checkpoint: Checkpoint) -> s.CheckpointOut:
    return s.CheckpointOut(
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


def review_out(review: Review) -> s.ReviewOut:
    reps = reviewing.judged(review)
    versions = {entry.rep.technique_version.id: entry.rep.technique_version for entry in reps}
    return s.ReviewOut(
        id=review.id,
        clip_id=review.clip_id,
        student_id=review.student_id,
        finished_at=review.finished_at,
        heights_px=review.heights_px,
        reps=[_rep(entry) for entry in reps],
        corrections=[s.CorrectionOut.model_validate(correction) for correction in review.corrections],
        fix_first=[s.FixOut.model_validate(fix) for fix in reviewing.fixes(review, reps)],
        techniques=[technique_out(version) for version in versions.values()],
    )


def _rep(entry: JudgedRep) -> s.RepOut:
    rep = entry.rep
    return s.RepOut(
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
        options=rep.options,
        events={mark.event: mark.frames for mark in rep.events},
        points=[s.PointOut.model_validate(point) for point in rep.points],
        answers={given.checkpoint: given.yes for given in rep.answers},
        judgements=[s.JudgementOut.model_validate(judgement) for judgement in entry.judgements],
        needs=[s.NeedOut.model_validate(need) for need in entry.needs],
    )


def shown_out(shown: Shown) -> s.ShownCorrectionOut:
    own = {name: getattr(shown.correction, name) for name in s.CorrectionOut.model_fields}
    return s.ShownCorrectionOut(
        **own,
        filmed_on=shown.clip.filmed_on,
        technique_name=shown.technique_name,
        ask=shown.ask,
        why=shown.why,
        width=shown.clip.width or 1,
        height=shown.clip.height or 1,
    )


def cautions_out(keys: Iterable[str]) -> list[str]:
    return [caution_text(key) for key in keys]
