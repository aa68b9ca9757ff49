"""What is known of a film that questions are asked on: its frames, its events, and how each checkpoint truly came out."""

from __future__ import annotations

from pydantic import Field

from lacertus.core.errors import Unreadable
from lacertus.core.measuring.body import Side
from lacertus.core.measuring.measures.angle import AngleMeasure
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.timebase import TimeBase
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.model import Record
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique


class Spot(Record):
    """A place in a frame, pixels of the displayed picture."""

    x: float
    y: float


class Come(Record):
    """How a checkpoint truly came out: where it was read, and the points that it reads there."""

    checkpoint: str
    verdict: Verdict
    value: float | None = None
    u: float | None = Field(default=None, description="Standard uncertainty, in the unit of the value")
    unit: str | None = None
    low: float | None = None
    high: float | None = None
    frame: int | None = None
    is_angle: bool = False
    points: tuple[str, ...] = ()
    spots: tuple[Spot, ...] = ()
    is_measured: bool = Field(default=True, description="False of what a coach saw by eye, which no reading confirms")


class Facts(Record):
    """A film of one rep: its frames with their real times in seconds, and what is true of it."""

    size: tuple[int, int]
    times_s: tuple[float, ...]
    first: int
    last: int
    side: Side
    events: dict[str, int]
    came: tuple[Come, ...]
    reaction: str = ""
    fault: str | None = Field(
        default=None, description="The code of the fault that the studio put in, empty for none; null of real film"
    )

    def of(self, checkpoint: str) -> Come | None:
        """How one checkpoint came out."""
        return next((one for one in self.came if one.checkpoint == checkpoint), None)

    def cut(self, start: int, last: int) -> Facts:
        """The facts of the part of a film from frame `start` to frame `last`, whose frames and times begin at 0."""
        came = (one if one.frame is None else one.model_copy(update={"frame": one.frame - start}) for one in self.came)
        return self.model_copy(
            update={
                "times_s": tuple(round(time - self.times_s[start], 5) for time in self.times_s[start : last + 1]),
                "first": self.first - start,
                "last": min(self.last, last) - start,
                "events": {event: frame - start for event, frame in self.events.items() if start <= frame <= last},
                "came": tuple(one for one in came if one.frame is None or 0 <= one.frame <= last - start),
            }
        )


def facts_of(
    technique: Technique,
    rep: RepFile,
    judgements: tuple[Judgement, ...] | None = None,
    reaction: str = "",
    fault: str | None = None,
) -> Facts:
    """The facts of a film from its rep file.

    Args:
        technique: what is done in it.
        rep: the rep, with what is known of it: the studio's truth, or what a coach marked.
        judgements: how it was judged, where that is known already.
        reaction: the partner's reaction that the film shows.
        fault: what the studio put in; None of real film.
    """
    scene = Scene(rep, technique.edges)
    found = judge_rep(technique, rep, scene) if judgements is None else judgements
    return Facts(
        size=rep.size,
        times_s=tuple(round(float(time), 5) for time in TimeBase(rep.pts_s, rep.capture_rate).real_s),
        first=rep.range[0],
        last=rep.range[1],
        side=rep.side,
        events={event: frames[0] for event, frames in rep.events.items() if len(frames) == 1},
        came=tuple(_came(technique, scene, judgement) for judgement in found if judgement.verdict is not Verdict.NOT_ASKED),
        reaction=reaction,
        fault=fault,
    )


def _came(technique: Technique, scene: Scene, judgement: Judgement) -> Come:
    asked = technique.asked(judgement.id)
    refs = asked.measure.points_used if isinstance(asked, Checkpoint) else ()
    frame = judgement.frames[-1] if judgement.frames else None
    low, high = judgement.within or (None, None)
    spots: tuple[Spot, ...] = ()
    if frame is not None and refs:
        try:
            spots = tuple(Spot(x=round(at.x, 1), y=round(at.y, 1)) for at in scene.points(refs, frame))
        except Unreadable:
            spots = ()
    return Come(
        checkpoint=judgement.id,
        # What the rules and the coach see differently is in doubt.
        verdict=judgement.verdict if judgement.measured is None else Verdict.BORDERLINE,
        value=judgement.value,
        u=judgement.uncertainty,
        unit=judgement.unit,
        low=low,
        high=high,
        frame=frame,
        is_angle=isinstance(asked, Checkpoint) and isinstance(asked.measure, AngleMeasure),
        points=tuple(str(ref) for ref in refs),
        spots=spots,
        is_measured=judgement.kind != "seen",
    )
