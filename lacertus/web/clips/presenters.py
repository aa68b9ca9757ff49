"""Clips → what the API gives."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from lacertus.services.clips.listing import ListedClip
from lacertus.services.sheets.clip_facts import ClipTimes, SecondView
from lacertus.web.clips import schemas as clp

_OF_THE_CLIP = set(clp.ClipOut.model_fields) - {"student", "review", "line", "suggested", "capture_rate", "camera"}


def clip_out(one: ListedClip) -> clp.ClipOut:
    clip = one.clip
    own = {name: getattr(clip, name) for name in _OF_THE_CLIP}
    shaped = {
        "student": clip.student.name if clip.student else None,
        "capture_rate": [clp.Rate(frame=frame, rate=rate) for frame, rate in clip.capture_rate],
        "camera": None if clip.camera is None else clip.camera.model_dump() | {"lost": stretches(clip.camera.lost)},
    }
    return clp.ClipOut.model_validate(own | shaped | {"review": one.review, "line": one.line, "suggested": one.suggested})


def stretches(pairs: Iterable[Sequence[int]]) -> list[clp.Stretch]:
    return [clp.Stretch(first=first, last=last) for first, last in pairs]


def clip_times_out(found: ClipTimes) -> clp.ClipTimesOut:
    own = clip_out(found.listed).model_dump()
    extra = {"pts_s": found.listed.clip.pts_s or [], "real_s": found.real_s, "views": [_view_out(view) for view in found.views]}
    return clp.ClipTimesOut.model_validate(own | extra)


def _view_out(view: SecondView) -> clp.ViewOut:
    other = view.clip
    return clp.ViewOut(
        id=other.id,
        name=other.name,
        view=other.naming.view,
        frame=view.frame,
        other_frame=view.other_frame,
        pts_s=other.pts_s or [],
        aligned=list(view.aligned),
        width=other.width or 1,
        height=other.height or 1,
    )
