"""What tracking needs before it begins, and where it was poor: each as one point to place."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.repfile import Body, PointEntry, RepFile
from lacertus.core.review.judge import Need
from lacertus.core.review.tracking import LEAST_SEED_POINTS

POOR_SHARE = 0.04
"""A tracked point that is more unsure than this share of standing height decides nothing. A convention: twice what the pose model
is at a joint that it sees well."""
LEAST_RUN = 3
"""So many poor frames in a row matter where no event lies in them: fewer are smoothed over. A convention."""
LIMBS = (("hip", "knee"), ("knee", "ankle"))
"""Limbs that tell how large a body is: what a body without a height is found from."""
NEARNESS = ("hip", "knee", "shoulder", "ankle", "elbow", "wrist", "neck", "toe", "heel", "hand")
"""Joints in the order in which they tell best where a body is."""


@dataclass(frozen=True, kw_only=True)
class ToPlace:
    """A point to place, why in words, and how many more follow it."""

    body: BodyName
    landmark: str
    frame: int
    count: int
    words: str


def seeds_wanted(rep: RepFile, needs: Iterable[Need]) -> Iterator[ToPlace]:
    """For each body that is read, what tracking still needs to find it: a few points on one frame, and how large it is.

    The frame is the one on which most of the body is placed, else the one on which most of any body is.
    """
    read: dict[BodyName, dict[str, None]] = {}
    for need in needs:
        read.setdefault(need.body, {})[need.landmark] = None
    others = [_best_frame(entry) for entry in rep.bodies.values()]
    anywhere = max((one for one in others if one is not None), key=lambda one: one[1], default=(rep.range[0], 0))[0]
    for body, landmarks in read.items():
        entry = rep.bodies.get(body, Body())
        best = _best_frame(entry)
        frame = anywhere if best is None else best[0]
        placed = {name for name, own in entry.landmarks.items() if any(p.frame == frame and p.by == "placed" for p in own)}
        missing = _missing(placed, landmarks, known=entry.height_px is not None)
        if missing:
            names = " and the ".join(_spoken(name) for name in missing)
            words = f"Tracking finds the {body} by a few points on one frame. Still missing: the {names}."
            yield ToPlace(body=body, landmark=missing[0], frame=frame, count=len(missing), words=words)


def _best_frame(body: Body) -> tuple[int, int] | None:
    """The frame on which most of a body was placed by hand, and how much."""
    frames: dict[int, int] = {}
    for own in body.landmarks.values():
        for point in own:
            if point.by == "placed":
                frames[point.frame] = frames.get(point.frame, 0) + 1
    return max(frames.items(), key=lambda one: (one[1], -one[0]), default=None)


def _missing(placed: Collection[str], read: Collection[str], *, known: bool) -> tuple[str, ...]:
    """What is missing on a frame for a body to be found there; `known` says that its height is."""
    if known:
        left = sorted((name for name in read if name not in placed), key=_nearness)
        return tuple(left[: max(0, min(LEAST_SEED_POINTS, len(read)) - len(placed))])
    pairs = [(f"{side}_{a}", f"{side}_{b}") for a, b in LIMBS for side in ("right", "left")]
    if any(set(pair) <= set(placed) for pair in pairs):
        return ()
    # The limb of which most is placed or read already.
    best = max(pairs, key=lambda pair: sum(2 * (name in placed) + (name in read) for name in pair))
    return tuple(name for name in best if name not in placed)


def _nearness(name: str) -> int:
    joint = name.rpartition("_")[2]
    return NEARNESS.index(joint) if joint in NEARNESS else len(NEARNESS)


def poor_places(rep: RepFile, needs: Sequence[Need]) -> ToPlace | None:
    """Where what one checkpoint reads was tracked worst: the next point to place there; None where its tracking holds.

    At the frame of an event first; else in the middle of the longest stretch between its first and its last event in which a
    point is missing or too unsure.
    """
    frames = [need.frame for need in needs if need.frame is not None]
    if not frames:
        return None
    first, last = max(min(frames), rep.range[0]), min(max(frames), rep.range[1])
    worst: tuple[int, ToPlace] | None = None
    for body, landmark in dict.fromkeys((need.body, need.landmark) for need in needs):
        entry = rep.bodies.get(body, Body())
        own = entry.landmarks.get(landmark, ())
        if not any(point.by == "tracked" for point in own):
            continue
        poor = _poor(own, entry.height_px or float(rep.size[1]), first, last)
        at_event = next((frame for frame in frames if frame in poor), None)
        run = max(_runs(poor), key=len, default=[])
        if at_event is not None:
            return _to_place(body, landmark, at_event, poor)
        if len(run) >= LEAST_RUN and (worst is None or len(run) > worst[0]):
            worst = len(run), _to_place(body, landmark, run[len(run) // 2], poor)
    return None if worst is None else worst[1]


def _poor(own: Sequence[PointEntry], height_px: float, first: int, last: int) -> list[int]:
    """Frames on which a landmark is missing, or too unsure."""
    held: Mapping[int, PointEntry] = {point.frame: point for point in own}
    return [frame for frame in range(first, last + 1) if frame not in held or _unsure(held[frame], height_px)]


def _unsure(point: PointEntry, height_px: float) -> bool:
    return point.by == "tracked" and point.sigma is not None and point.sigma > POOR_SHARE * height_px


def _to_place(body: BodyName, landmark: str, frame: int, poor: Sequence[int]) -> ToPlace:
    run = next(run for run in _runs(poor) if frame in run)
    where = f"frame {run[0]}" if len(run) == 1 else f"frames {run[0]}–{run[-1]}"
    words = f"The {body}’s {_spoken(landmark)} was tracked poorly in {where}. What is placed here mends it around it."
    return ToPlace(body=body, landmark=landmark, frame=frame, count=len(poor), words=words)


def _runs(frames: Sequence[int]) -> Iterator[list[int]]:
    run: list[int] = []
    for frame in frames:
        if run and frame != run[-1] + 1:
            yield run
            run = []
        run.append(frame)
    if run:
        yield run


def _spoken(landmark: str) -> str:
    return landmark.replace("_", " ")
