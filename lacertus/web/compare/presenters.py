"""Comparisons and curves in the shapes of the API."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lacertus.core.compare.curves import Curve
from lacertus.core.compare.differences import EventRow, Row
from lacertus.core.review.judgement import Judgement
from lacertus.services.compare.comparison import Comparison, ShownSide
from lacertus.services.compare.film import Film
from lacertus.services.compare.set_curves import RepCurves, SetCurves
from lacertus.web.compare import schemas as c
from lacertus.web.jobs.schemas import JobOut


def numbers(values: NDArray[np.float64]) -> list[float | None]:
    """Numbers to five digits; null where there is none."""
    return [None if math.isnan(value) else float(f"{value:.5g}") for value in values.tolist()]


def curve_out(curve: Curve) -> c.CurveOut:
    low, high = curve.quantity.wanted or (None, None)
    return c.CurveOut(
        name=curve.quantity.name, unit=curve.quantity.unit, first=int(curve.frames[0]), values=numbers(curve.values),
        u=numbers(curve.u), low=low, high=high,
    )  # fmt: skip


def set_out(found: SetCurves) -> c.CurvesOut:
    return c.CurvesOut(
        checkpoint=found.checkpoint,
        event=found.event,
        why_none=found.why_none,
        reps=[_rep(one) for one in found.reps],
        spread=[c.SpreadOut(mean=numbers(mean), deviation=numbers(deviation)) for mean, deviation in found.spread],
    )


def _rep(one: RepCurves) -> c.RepCurvesOut:
    return c.RepCurvesOut(
        rep=one.rep,
        first=one.first,
        clock_s=list(one.clock_s),
        read_at=list(one.read_at),
        curves=[curve_out(curve) for curve in one.curves],
    )


def comparison_out(found: Comparison, checkpoint: str | None) -> c.ComparisonOut:
    technique, lead = found.sides[0].loaded.technique, found.sides[0].loaded.rep
    assert lead is not None, "a comparison begins with a rep"
    return c.ComparisonOut(
        review=lead.review_id,
        technique=technique.id,
        technique_name=technique.names.main,
        anchor=found.anchor,
        anchors=list(found.anchors),
        checkpoint=checkpoint,
        sides=[_side(one) for one in found.sides],
        phases={phase: list(span) for phase, span in found.phases.items()},
        rows=[_row(one) for one in found.rows],
        timing=[_event(one) for one in found.timing],
    )


def _side(one: ShownSide) -> c.ComparedSideOut:
    loaded = one.loaded
    clip = loaded.clip
    scene = None if loaded.side is None else loaded.side.scene
    pts = tuple(clip.pts_s or ()) if clip is not None else scene.rep.pts_s if scene is not None else ()
    width, height = (clip.width, clip.height) if clip is not None else scene.rep.size if scene is not None else (16, 9)
    shown = slice(one.first, one.last + 2)
    return c.ComparedSideOut(
        key=loaded.key, kind=loaded.kind, title=loaded.title, filmed_on=clip.filmed_on if clip else None,
        side=scene.rep.side if scene else "", clip=clip.id if clip else None, rep=loaded.rep.id if loaded.rep else None,
        student=loaded.student, has_film=clip is not None and clip.has_film, width=width or 16, height=height or 9,
        first=one.first, last=one.last, range=list(loaded.range), pts_s=list(pts[shown]), real_s=list(loaded.real_s[shown]),
        clock_s=list(one.clock_s), stretched_s=None if one.stretched_s is None else list(one.stretched_s), events=one.events,
        laid=None if one.laid is None else c.LaidOut.model_validate(one.laid), why_not_laid=one.why_not_laid,
        skeletons=[c.SkeletonOut.model_validate(skeleton) for skeleton in one.skeletons],
        curves=[curve_out(curve) for curve in one.curves],
    )  # fmt: skip


def _value(judged: Judgement | None) -> c.ComparedValueOut | None:
    return None if judged is None else c.ComparedValueOut.model_validate(judged)


def _row(row: Row) -> c.ComparedRowOut:
    return c.ComparedRowOut(
        id=row.id, ask=row.ask, phase=row.phase, values=[_value(one) for one in row.judged],
        differences=[None if one is None else c.ComparedDifferenceOut.model_validate(one) for one in row.differences],
    )  # fmt: skip


def _event(row: EventRow) -> c.ComparedEventOut:
    return c.ComparedEventOut(
        event=row.event, phase=row.phase, at_s=[None if one is None else list(one) for one in row.at_s], shares=list(row.shares),
        differences=[None if one is None else c.ComparedDifferenceOut.model_validate(one) for one in row.differences],
    )  # fmt: skip


def films_out(films: Sequence[Film]) -> list[c.FilmOut]:
    return [
        c.FilmOut(
            id=one.film.id,
            words=one.film.words,
            speed=one.film.speed,
            seconds=one.film.seconds,
            shown=one.shown,
            job=None if one.job is None else JobOut.model_validate(one.job),
        )
        for one in films
    ]
