"""Two or more views of one rep: each checkpoint is read from the view that sees it, and says which.

Views that look from different directions settle depth for each other: what one picture can only show too small is met
where another, from elsewhere, shows it met as well (docs/measurement.md).
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.repfile import OtherView, RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.timebase import TimeBase, shown_at
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.definition import Technique

_KEPT = ("size", "pts_s", "capture_rate", "camera_motion", "upright", "centimetres_per_pixel", "floor", "view", "heading", "bodies")
"""What belongs to a view; all else is a fact of the rep."""
_JUDGED = (Verdict.MET, Verdict.BORDERLINE, Verdict.MISSED)


@dataclass(frozen=True, kw_only=True)
class View:
    """Another clip of the same rep.

    Args:
        name: what the view is called.
        rep: the rep as that clip shows it, with its own points.
        frames: for every frame of the rep's own clip, the frame of this one that shows the same instant.
    """

    name: str
    rep: RepFile
    frames: Sequence[int]

    def frame_here(self, frame: int) -> int:
        """The rep's own frame that shows what `frame` of this view shows."""
        at = bisect_left(self.frames, frame)
        return min(at, len(self.frames) - 1)


@dataclass(frozen=True, kw_only=True)
class Solved:
    """A rep put in space by all its views, and what each of them shows by itself.

    `refused` says why no other view could be tied to the rep's own.
    """

    scene: Scene
    refused: str | None
    seen: tuple[tuple[Judgement, ...], ...]


def solved(technique: Technique, rep: RepFile, views: Sequence[View] = (), scene: Scene | None = None) -> Solved:
    """Put a rep in space; what it is put in space by is worked out as it is read. `scene` is its own, where it is at hand.

    Raises:
        BadRep: as `judge_rep`.
    """
    tied, refused = _tied(technique, rep, views)
    seen = tuple(judge_rep(technique, as_seen_from(view, rep)) for view in views)
    return Solved(scene=tied or scene or Scene(rep, technique.edges), refused=refused, seen=seen)


def judge_views(
    technique: Technique, rep: RepFile, views: Sequence[View] = (), scene: Scene | None = None
) -> tuple[Judgement, ...]:
    """Judge a rep by its own picture and by other views of it.

    Frames are those of the rep's own clip, whichever view was read. `scene` is the rep's own, where it is at hand.

    Raises:
        BadRep: as `judge_rep`.
    """
    return judge_solved(technique, rep, views, solved(technique, rep, views, scene))


def judge_solved(technique: Technique, rep: RepFile, views: Sequence[View], known: Solved) -> tuple[Judgement, ...]:
    """The same, with a rep that was put in space before."""
    found = judge_rep(technique, rep, known.scene)
    if known.refused is not None:
        found = tuple(replace(one, notes=(*one.notes, known.refused)) if one.rests_on else one for one in found)
    points = {checkpoint.id for checkpoint in technique.checkpoints if checkpoint.measure.points_used}
    for view, seen in zip(views, known.seen, strict=True):
        # What reads no points reads times alone, and those were marked here.
        pairs = zip(found, seen, strict=True)
        found = tuple(
            _better(rep, view, own, other) if own.id in points and "views" not in own.rests_on else own for own, other in pairs
        )
    return found


def judge_moved(
    technique: Technique, rep: RepFile, views: Sequence[View], known: Solved, body: BodyName, landmark: str
) -> tuple[Judgement, ...]:
    """Judge a rep of which one landmark lies elsewhere than when it was put in space: by the nearest solution to that."""
    scene = Scene(rep, technique.edges, other_view=known.scene.other_view)
    if scene.space is not None and known.scene.space is not None:
        scene.space.near_to(known.scene.space, body, landmark)
    found = judge_solved(technique, rep, views, replace(known, scene=scene))
    # It and its bodies hold each other: apart they go at once, and need not be looked for as garbage.
    scene.give_up()
    return found


def scene_of_views(technique: Technique, rep: RepFile, views: Sequence[View], scene: Scene | None = None) -> Scene:
    """The rep in space as all its views together tell; `scene` is its own, where it is at hand."""
    tied, _ = _tied(technique, rep, views)
    return tied or scene or Scene(rep, technique.edges)


def _tied(technique: Technique, rep: RepFile, views: Sequence[View]) -> tuple[Scene | None, str | None]:
    """The rep in space by two views: its own and the first other one that can be tied to it; else why none of them can."""
    refused = None
    for view in views:
        other = Scene(as_seen_from(view, rep), technique.edges)
        scene = Scene(rep, technique.edges, other_view=(other, dict(enumerate(view.frames))))
        if scene.space is not None and scene.space.tie is not None:
            return scene, None
        refused = scene.space.refused if scene.space is not None else None
    return None, refused


def judge_reps(techniques: Sequence[Technique], reps: Sequence[RepFile]) -> tuple[tuple[Judgement, ...], ...]:
    """Judge several reps, each by its technique (same order), with the views that they hold."""
    if len(techniques) != len(reps):
        raise BadInput("each rep needs its technique")
    return tuple(judge_views(technique, rep, views_in(rep)) for technique, rep in zip(techniques, reps, strict=True))


def views_in(rep: RepFile) -> tuple[View, ...]:
    """The other views that a rep file holds."""
    return tuple(_view_in(rep, number, other) for number, other in enumerate(rep.views, 1))


def _view_in(rep: RepFile, number: int, other: OtherView) -> View:
    own = {name: getattr(other, name) for name in other.model_fields_set if name != "offset_s"}
    facts = {"lacertus_rep": 1, "technique": rep.technique, "side": rep.side, "range": (0, len(other.pts_s) - 1)}
    file = RepFile.model_validate(facts | own)
    here, there = TimeBase(rep.pts_s, rep.capture_rate), TimeBase(other.pts_s, other.capture_rate)
    return View(name=f"view {number}", rep=file, frames=shown_at(here, there, -other.offset_s))


def as_seen_from(view: View, rep: RepFile) -> RepFile:
    """The rep in another view: that view's picture and points, the rep's own facts, events and answers."""
    last = len(view.rep.pts_s) - 1
    events = {key: _there(frames, view.frames, last) for key, frames in rep.events.items()}
    marked = [frame for frames in events.values() for frame in frames]
    first, end = (view.frames[frame] for frame in rep.range)
    kept = {name: getattr(view.rep, name) for name in _KEPT if name in view.rep.model_fields_set}
    seen = {"events": events, "range": (min([first, *marked]), max([end, *marked])), "nearer": view.rep.nearer}
    known = rep.model_copy(update=seen | kept)
    if "camera_motion" not in view.rep.model_fields_set:
        # Unknown there, whatever is known here.
        known.model_fields_set.discard("camera_motion")
    return known


def _there(frames: Sequence[int], aligned: Sequence[int], last: int) -> tuple[int, ...]:
    """Frames in another view, each once and in order; a slower camera shows two markings in one frame, which are kept apart."""
    found: list[int] = []
    for frame in frames:
        at = aligned[frame]
        found.append(at if not found or at > found[-1] else min(found[-1] + 1, last))
    return tuple(dict.fromkeys(found))


def _better(rep: RepFile, view: View, own: Judgement, other: Judgement) -> Judgement:
    """The judgement of the view that sees the checkpoint."""
    here = replace(other, frames=tuple(dict.fromkeys(view.frame_here(frame) for frame in other.frames)), view=view.name)
    if Verdict.NOT_ASKED in (own.verdict, other.verdict):
        return own
    if own.unconfirmed or other.unconfirmed:
        return _with_depth(rep, view, own, here)
    if other.verdict not in _JUDGED or other.value is None:
        return own
    if own.verdict not in _JUDGED:
        return here
    if own.value is None or own.uncertainty is None or other.uncertainty is None or own.unit != other.unit:
        return own
    kept, left = (own, here) if own.uncertainty <= other.uncertainty else (here, own)
    if {own.verdict, other.verdict} == {Verdict.MET, Verdict.MISSED}:
        note = f"the other view, less sure, shows it {left.verdict.value}"
        kept = replace(kept, notes=(*kept.notes, note))
    return kept


def _with_depth(rep: RepFile, view: View, own: Judgement, other: Judgement) -> Judgement:
    """Where a view shows no more than that it could be met: the other one settles it, if it looks from elsewhere."""
    sure = other if own.unconfirmed else own
    unsure = own if own.unconfirmed else other
    if sure.verdict is Verdict.MISSED:
        return sure
    elsewhere = rep.view is not None and view.rep.view is not None and rep.view != view.rep.view
    if elsewhere and (sure.unconfirmed or sure.verdict is Verdict.MET):
        # Seen too small by either: the larger one is nearer to what it truly is.
        widest = max((own, other), key=lambda judgement: judgement.value or 0.0)
        note = f"both views show it so ({rep.view} and {view.rep.view})"
        rests_on = (*widest.rests_on, "views")
        return replace(widest, verdict=Verdict.MET, reason=None, unconfirmed=False, rests_on=rests_on, notes=(*widest.notes, note))
    if sure.verdict in _JUDGED and not sure.unconfirmed:
        return sure
    return unsure
