"""Pose assist: a learned model that finds the joints of one body, held to that body by its own last estimate.

Each body is seeded once by the coach's points. From frame to frame everything outside a soft mask around the body's last
estimate is greyed out, so that the model cannot go over to the other one; left and right are repaired, jumps refused. Constant
offsets of the joints are taken off and σ goes by the joint and by how visible the model holds it to be: both from the studio's
clips (docs/benchmarks.md). In throws the errors reach a tenth of standing height: the coach's points rule.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.body import PROPORTIONS, BodyName

MODEL_NAMES = {
    0: "nose", 7: "left_ear", 8: "right_ear", 11: "left_shoulder", 12: "right_shoulder", 13: "left_elbow", 14: "right_elbow",
    15: "left_wrist", 16: "right_wrist", 19: "left_hand", 20: "right_hand", 23: "left_hip", 24: "right_hip", 25: "left_knee",
    26: "right_knee", 27: "left_ankle", 28: "right_ankle", 29: "left_heel", 30: "right_heel", 31: "left_toe", 32: "right_toe",
}  # fmt: skip
"""The model's landmarks by number, as they are called here; its index finger's knuckle is taken for the hand."""
BONES = (
    ("nose", "left_shoulder"), ("nose", "right_shoulder"), ("left_shoulder", "right_shoulder"), ("left_hip", "right_hip"),
    ("left_shoulder", "left_hip"), ("right_shoulder", "right_hip"), ("left_shoulder", "right_hip"), ("right_shoulder", "left_hip"),
    *((f"{side}_{a}", f"{side}_{b}") for side in ("left", "right") for a, b in (
        ("shoulder", "elbow"), ("elbow", "wrist"), ("wrist", "hand"),
        ("hip", "knee"), ("knee", "ankle"), ("ankle", "heel"), ("heel", "toe"),
    )),
)  # fmt: skip
"""What the mask is drawn along."""
TRUNK = ("left_shoulder", "right_shoulder", "left_hip", "right_hip")
LEG, ARM = ("hip", "knee", "ankle", "heel", "toe"), ("shoulder", "elbow", "wrist", "hand")
MASK_SHARE = 0.19
"""Width of the mask along a limb, as share of standing height; half of it blurs away. From the studio's clips."""
CORE_SHARE = 0.10
"""Width of the other body's limbs that are greyed out, where they do not lie on this body's."""
SAME_SHARE = 0.08
"""Two bodies whose joints lie no further apart than this, in the middle, are one that was found twice."""
PAD_SHARE = 0.22
MODEL_PX = 480
"""A body is shown to the model at this height: a figure of 155 px is not found as it is."""
GREY = 128
MOST_JUMP = 0.12
"""A joint that jumps by more than this share of standing height from where it was going is refused. From trials."""
SWAP_GAIN = 0.5
"""Left and right are changed back where that halves the way they would have gone."""
CHANGE_COST = 0.02
"""What going against the model's own sides costs a frame, in jumps: little, as it is often wrong for long."""
MOST_MISSES = 12
"""Frames in a row without the body after which it is given up."""
ABOUT_SHARE = 0.4
"""A body that starts further than this share of standing height from where another rep began is not taken for the same."""
TANGLED_SHARE, TANGLED_FACTOR = 0.45, 2.0
"""Two bodies whose middles are nearer than this share of standing height are tangled, and every σ this much larger."""
OFFSETS = {
    "nose": 0.008, "hip": -0.016, "shoulder": 0.005, "ankle": 0.013, "heel": 0.018, "toe": 0.013,
    "hand": 0.012, "elbow": 0.008, "wrist": 0.003,
}  # fmt: skip
"""By how much of standing height the model sets a joint too far along `_AXES`, the median on the studio's clips."""
_AXES = {
    "ankle": ("ankle", "knee"), "heel": ("ankle", "knee"), "toe": ("ankle", "knee"), "knee": ("knee", "hip"),
    "wrist": ("wrist", "elbow"), "hand": ("wrist", "elbow"), "elbow": ("elbow", "shoulder"),
}  # fmt: skip
"""From the joint towards the trunk; the others go by the trunk, hips to shoulders."""
FAST = 3.0
"""At this pace, standing heights a second, a joint is twice as unsure: it is smeared, and the mask comes late. A convention that
makes ±2.45σ hold for fast joints of the studio's clips."""
VISIBILITIES = (0.3, 0.7, 0.95)
GUESSED_JOINTS = frozenset({"elbow", "wrist", "hand", "knee", "ankle", "heel", "toe"})
"""Of these the model puts what it does not see onto the trunk; there such a guess is no observation."""
SEEN_WITHIN_S = 0.25
"""A guess on the trunk counts where the joint was seen there so shortly before or after, or was placed there. A convention."""
SIGMAS = {
    "nose": (0.03, 0.02, 0.012, 0.008), "ear": (0.05, 0.03, 0.02, 0.017), "shoulder": (0.05, 0.03, 0.02, 0.016),
    "elbow": (0.051, 0.030, 0.018, 0.014), "wrist": (0.078, 0.046, 0.028, 0.016), "hand": (0.089, 0.063, 0.030, 0.020),
    "hip": (0.05, 0.03, 0.02, 0.017), "knee": (0.065, 0.041, 0.021, 0.016), "ankle": (0.101, 0.084, 0.032, 0.020),
    "heel": (0.116, 0.087, 0.036, 0.036), "toe": (0.109, 0.088, 0.036, 0.036),
}  # fmt: skip
"""σ of x and of y as share of standing height, by joint and by visibility below 0.3, 0.7, 0.95 and above: a tenth of the
studio's errors is larger than 1.52 σ, as it is where they are Gaussian (docs/benchmarks.md)."""
Rgb = NDArray[np.uint8]
Place = NDArray[np.float64]
Pictures = Callable[[int], Rgb]


@dataclass(frozen=True, kw_only=True)
class Joint:
    """A joint as the model sees it: pixels, and how visible it holds it to be, 0 to 1."""

    x: float
    y: float
    visibility: float


@dataclass(frozen=True, kw_only=True)
class BodySeed:
    """A body on a frame, as the coach placed it: pixels of the displayed picture, and its standing height in pixels.

    `placed` are all points placed by the coach, by frame: where there are some, they say where the body is.
    """

    body: BodyName
    frame: int
    points: Mapping[str, tuple[float, float]]
    height_px: float
    placed: Mapping[int, Mapping[str, tuple[float, float]]] = field(default_factory=dict)
    about: bool = False
    """The points are only about where the body is: they are those of another rep's start."""

    def scaled(self, factor: float) -> BodySeed:
        """The same in pixels of a picture of another size."""

        def grown(points: Mapping[str, tuple[float, float]]) -> dict[str, tuple[float, float]]:
            return {name: (x * factor, y * factor) for name, (x, y) in points.items()}

        placed = {frame: grown(points) for frame, points in self.placed.items()}
        return replace(self, points=grown(self.points), height_px=self.height_px * factor, placed=placed)


@dataclass
class TrackedBody:
    """What the model saw of a body, by frame; `lost` is the frame at which it was given up, on either side of the seed."""

    seed: BodySeed
    frames: dict[int, dict[str, Joint]] = field(default_factory=dict)
    lost: int | None = None
    tangled: set[int] = field(default_factory=set)
    """Frames in which the other body was so near that limbs are taken for each other's."""

    def scaled(self, factor: float) -> TrackedBody:
        """The same in pixels of a picture of another size."""
        frames = {
            frame: {name: replace(joint, x=joint.x * factor, y=joint.y * factor) for name, joint in joints.items()}
            for frame, joints in self.frames.items()
        }
        return TrackedBody(seed=self.seed.scaled(factor), frames=frames, lost=self.lost, tangled=self.tangled)


class PoseModel:
    """The model, loaded; one picture at a time."""

    def __init__(self, landmarker: Any) -> None:
        self._landmarker = landmarker

    def find(self, picture: Rgb) -> dict[str, Joint] | None:
        """The joints of the one body in a picture (height × width × 3), in its pixels; None where it finds none."""
        import mediapipe

        found = self._landmarker.detect(
            mediapipe.Image(image_format=mediapipe.ImageFormat.SRGB, data=np.ascontiguousarray(picture))
        )
        if not found.pose_landmarks:
            return None
        height, width = picture.shape[:2]
        marks = found.pose_landmarks[0]
        return {
            name: Joint(x=marks[number].x * width, y=marks[number].y * height, visibility=float(marks[number].visibility))
            for number, name in MODEL_NAMES.items()
        }


@contextmanager
def pose_model(bundle: Path) -> Iterator[PoseModel]:
    """Load the model from its bundle (`local.pose_model`). It is large, so it is loaded where it is needed, and let go."""
    from mediapipe.tasks.python import BaseOptions, vision

    options = vision.PoseLandmarkerOptions(
        base_options=BaseOptions(model_asset_path=str(bundle)), running_mode=vision.RunningMode.IMAGE, num_poses=1
    )
    with vision.PoseLandmarker.create_from_options(options) as landmarker:
        yield PoseModel(landmarker)


@dataclass
class _Chase:
    """One body on its way in one direction: where it is, how it was going, and how long it was not seen."""

    seed: BodySeed
    found: TrackedBody
    here: dict[str, Place]
    going: dict[str, Place] = field(default_factory=dict)
    misses: int = 0
    over: bool = False

    def expected(self, frame: int) -> dict[str, Place]:
        """Where its joints should be: where they were going, or where the coach placed them."""
        going = {name: place + _held_back(self.going.get(name), self.seed.height_px) for name, place in self.here.items()}
        return going | {name: np.array(place) for name, place in self.seed.placed.get(frame, {}).items()}

    def saw(self, frame: int, kept: dict[str, Joint]) -> None:
        self.misses = 0
        self.found.frames[frame] = kept
        new = {name: np.array((joint.x, joint.y)) for name, joint in kept.items()}
        going = {name: new[name] - self.here[name] for name in new if name in self.here}
        self.here = self.expected(frame) | new
        self.going = going

    def missed(self, frame: int) -> None:
        self.misses += 1
        self.here, self.going = self.expected(frame), {}
        if self.misses > MOST_MISSES or frame == self.seed.frame:
            self.over = True
            last = max(self.found.frames, key=lambda at: abs(at - self.seed.frame), default=frame) if self.found.frames else frame
            nearer = self.found.lost is None or abs(last - self.seed.frame) < abs(self.found.lost - self.seed.frame)
            self.found.lost = last if nearer else self.found.lost


def track_body(model: PoseModel, pictures: Pictures, seeds: Sequence[BodySeed], frames: range) -> list[TrackedBody]:
    """Follow bodies, each from its seed to both ends of a stretch, or until it is given up.

    Args:
        model: the loaded model.
        pictures: gives the picture (height × width × 3) of a frame.
        seeds: each body as the coach placed it on a frame of the stretch.
        frames: the stretch.
    """
    found = [TrackedBody(seed=seed) for seed in seeds]
    for steps in (frames, frames[::-1]):
        chases = [
            _Chase(seed=seed, found=one, here={name: np.array(place) for name, place in seed.points.items()})
            for seed, one in zip(seeds, found, strict=True)
        ]
        for frame in steps:
            begun = [c for c in chases if not c.over and (frame - c.seed.frame) * steps.step >= 0]
            if begun:
                _one_frame(model, pictures(frame), frame, begun)
    return [sides_settled(one) for one in found]


def _one_frame(model: PoseModel, picture: Rgb, frame: int, chases: Sequence[_Chase]) -> None:
    """Find every body in one picture, and keep what can be its own."""
    kept: list[tuple[_Chase, dict[str, Joint] | None]] = []
    for chase in chases:
        expected, height = chase.expected(frame), chase.seed.height_px
        others = [other.expected(frame) for other in chases if other is not chase]
        seen = _seen(model, picture, expected, others, height, fresh=frame == chase.seed.frame)
        if seen is not None:
            seen = _sides_repaired(seen, expected, height)
            first = chase.seed.about and frame == chase.seed.frame
            far = _strayed(seen, expected) > ABOUT_SHARE * height if first else _jumped(seen, expected, height, chase.misses)
            if far or not _fits(seen, chase.seed.placed.get(frame, {}), height):
                seen = None
        kept.append((chase, seen))
    for chase, own in kept:
        gone_over = own is not None and any(
            other is not chase and theirs is not None and _same_body(frame, chase, own, other, theirs) for other, theirs in kept
        )
        if own is None or gone_over:
            chase.missed(frame)
            continue
        if any(_near(chase, other, frame) for other in chases if other is not chase):
            chase.found.tangled.add(frame)
        chase.saw(frame, own)


def _near(chase: _Chase, other: _Chase, frame: int) -> bool:
    mine, theirs = (np.mean(list(one.expected(frame).values()), axis=0) for one in (chase, other))
    return float(np.hypot(*(mine - theirs))) < TANGLED_SHARE * chase.seed.height_px


def _fits(seen: Mapping[str, Joint], placed: Mapping[str, tuple[float, float]], height: float) -> bool:
    """Whether what the model found is the body that the coach placed on this frame."""
    off = [_far(seen[name], np.array(place)) for name, place in placed.items() if name in seen]
    return not off or float(np.median(off)) <= MOST_JUMP * height


def _same_body(frame: int, chase: _Chase, own: dict[str, Joint], other: _Chase, theirs: dict[str, Joint]) -> bool:
    """Whether the model shows one body for two, and this chase is the one that left its own: the one that moved farther."""
    height = chase.seed.height_px
    apart = [_far(own[name], np.array((theirs[name].x, theirs[name].y))) for name in own if name in theirs]
    if not apart or float(np.median(apart)) > SAME_SHARE * height:
        return False
    return _strayed(own, chase.expected(frame)) > _strayed(theirs, other.expected(frame))


def _strayed(seen: Mapping[str, Joint], expected: Mapping[str, Place]) -> float:
    off = [_far(joint, expected[name]) for name, joint in seen.items() if name in expected]
    return float(np.median(off)) if off else 0.0


def _held_back(pace: Place | None, height: float) -> Place:
    """How far a joint is expected to go on: as it went, but no more than half a jump."""
    if pace is None:
        return np.zeros(2)
    far = float(np.hypot(*pace))
    most = MOST_JUMP / 2 * height
    return pace if far <= most else pace * most / far


def _seen(
    model: PoseModel, picture: Rgb, expected: Mapping[str, Place], others: Sequence[Mapping[str, Place]], height: float, fresh: bool
) -> dict[str, Joint] | None:
    """What the model finds in a picture in which all but one body is greyed out, in pixels of the picture.

    On the seed's own frame only a few points are known: the whole body is looked for around them, with and without a mask, and
    what lies nearest to them is taken.
    """
    if not fresh:
        return _looked_at(model, picture, expected, height, _soft_mask(expected, others, expected, 0.6))
    whole = _whole_body(expected, height)
    tries = [_soft_mask(whole, others, expected, 1.4), _soft_mask(whole, [], expected, 2.2), None]
    found = [seen for mask in tries if (seen := _looked_at(model, picture, whole, height, mask)) is not None]
    return min(found, key=lambda seen: _strayed(seen, expected), default=None)


Mask = Callable[[tuple[int, int], Callable[[Mapping[str, Place]], dict[str, Place]]], NDArray[np.float32]]


def _soft_mask(body: Mapping[str, Place], others: Sequence[Mapping[str, Place]], core: Mapping[str, Place], around: float) -> Mask:
    """Makes a mask of a crop's size: 1 along the body, 0 elsewhere and along what is another body's alone."""

    def mask(size: tuple[int, int], scaled: Callable[[Mapping[str, Place]], dict[str, Place]]) -> NDArray[np.float32]:
        soft = _mask(size, scaled(body), MASK_SHARE * MODEL_PX, around)
        for other in others:
            theirs, own = (_mask(size, scaled(points), CORE_SHARE * MODEL_PX, 0.5) for points in (other, core))
            soft = soft * (1 - theirs * (1 - own))
        return np.asarray(soft, dtype=np.float32)

    return mask


def _looked_at(
    model: PoseModel, picture: Rgb, around: Mapping[str, Place], height: float, mask: Mask | None
) -> dict[str, Joint] | None:
    x0, y0, x1, y1 = _box(picture, around, height)
    if x1 - x0 < 16 or y1 - y0 < 16:
        return None
    scale = MODEL_PX / max(height, 1.0)
    shown = cv2.resize(picture[y0:y1, x0:x1], None, fx=scale, fy=scale, interpolation=cv2.INTER_LINEAR)
    if mask is not None:
        soft = mask(shown.shape[:2], lambda places: {name: (place - (x0, y0)) * scale for name, place in places.items()})
        shown = cv2.blendLinear(shown, np.full_like(shown, GREY), soft, 1 - soft)
    found = model.find(shown)
    if found is None:
        return None
    return {
        name: Joint(x=joint.x / scale + x0, y=joint.y / scale + y0, visibility=joint.visibility) for name, joint in found.items()
    }


def _mask(size: tuple[int, int], places: Mapping[str, Place], width: float, around: float) -> NDArray[np.float32]:
    """1 along the body's limbs, 0 away from them, soft between; made at a quarter of the size, as it is soft anyway."""
    small = np.zeros((size[0] // 4 + 1, size[1] // 4 + 1), dtype=np.uint8)
    spots = {name: (int(place[0] / 4), int(place[1] / 4)) for name, place in places.items()}
    for a, b in BONES:
        if a in spots and b in spots:
            cv2.line(small, spots[a], spots[b], 255, max(int(width / 4), 1))
    for spot in spots.values():
        cv2.circle(small, spot, int(width / 4 * around), 255, -1)
    soft = cv2.GaussianBlur(small, (0, 0), width / 16)
    return np.asarray(cv2.resize(soft, (size[1], size[0]), interpolation=cv2.INTER_LINEAR), dtype=np.float32) / np.float32(255)


def _whole_body(points: Mapping[str, Place], height: float) -> dict[str, Place]:
    """Seed points with a ring around their middle, so that a few points of one limb show the whole body to the model."""
    middle = np.mean(list(points.values()), axis=0)
    reach = height * (0.55 - 0.03 * min(len(points), 12))
    ring = {f"ring {i}": middle + reach * np.array([np.cos(a), np.sin(a)]) for i, a in enumerate(np.linspace(0, 2 * np.pi, 12))}
    return dict(points) | ring


def _box(picture: Rgb, points: Mapping[str, Place], height: float) -> tuple[int, int, int, int]:
    places = np.array(list(points.values()))
    pad = PAD_SHARE * height
    low, high = places.min(axis=0) - pad, places.max(axis=0) + pad
    tall, wide = picture.shape[:2]
    x0, y0 = (int(max(value, 0)) for value in low)
    return x0, y0, int(min(high[0], wide)), int(min(high[1], tall))


def sides_settled(followed: TrackedBody) -> TrackedBody:
    """Left and right as they go best with the whole way and with the coach's points, legs and arms each for themselves.

    Of all ways to change sides from frame to frame the one with the least jumps is taken (Viterbi 1967); where legs pass each
    other either way is as short, and the points that the coach placed on other frames decide.
    """
    frames = sorted(followed.frames)
    for limbs in (LEG, ARM):
        pairs = [(f"left_{joint}", f"right_{joint}") for joint in limbs]
        changed = _changes(followed, frames, pairs)
        for frame in (frame for frame, change in zip(frames, changed, strict=True) if change):
            joints = followed.frames[frame]
            followed.frames[frame] = joints | {a: joints[b] for a, b in pairs} | {b: joints[a] for a, b in pairs}
    return followed


def _changes(followed: TrackedBody, frames: Sequence[int], pairs: Sequence[tuple[str, str]]) -> list[bool]:
    """For each frame, whether left and right are changed."""
    if not frames:
        return []
    height, placed = followed.seed.height_px, followed.seed.placed
    both = [_both_ways(followed.frames[frame], pairs) for frame in frames]
    costs = np.array([_told_by(placed.get(frame, {}), followed.frames[frame], pairs, height) for frame in frames])
    costs[:, 1] += CHANGE_COST
    best, came = costs[0].copy(), []
    for i in range(1, len(frames)):
        # Over a gap more may have happened, so a jump says less.
        gap = frames[i] - frames[i - 1]
        jumps = np.array([[_jump(both[i - 1][a], both[i][b], height) / gap for a in (0, 1)] for b in (0, 1)])
        total = best[None, :] + jumps
        came.append(total.argmin(axis=1))
        best = total.min(axis=1) + costs[i]
    at = int(best.argmin())
    path = [at]
    for back in reversed(came):
        at = int(back[at])
        path.append(at)
    return [bool(one) for one in reversed(path)]


def _both_ways(joints: Mapping[str, Joint], pairs: Sequence[tuple[str, str]]) -> tuple[Place, Place]:
    """Places of left and right joints (2 × pairs × 2), as they are and changed."""
    places = np.array([[(joints[name].x, joints[name].y) for name in side] for side in zip(*pairs, strict=True)])
    return places, places[::-1]


def _jump(before: Place, after: Place, height: float) -> float:
    """How far joints went, in jumps; one that is lost anyway counts no more than three."""
    far = np.hypot(*np.moveaxis(after - before, -1, 0)) / (MOST_JUMP * height)
    return float(np.minimum(far, 3.0).sum())


def _told_by(
    placed: Mapping[str, tuple[float, float]], joints: Mapping[str, Joint], pairs: Sequence[tuple[str, str]], height: float
) -> tuple[float, float]:
    """What the coach's points say against either way, in jumps, tenfold: they are few, and right."""
    as_is, changed = 0.0, 0.0
    for a, b in (*pairs, *((b, a) for a, b in pairs)):
        if a in placed:
            spot = np.array(placed[a])
            as_is += min(_far(joints[a], spot) / (MOST_JUMP * height), 3.0)
            changed += min(_far(joints[b], spot) / (MOST_JUMP * height), 3.0)
    return 10 * as_is, 10 * changed


def _sides_repaired(seen: dict[str, Joint], expected: Mapping[str, Place], height: float) -> dict[str, Joint]:
    """Left and right changed back, in the legs, the arms, or both, where they were confused."""
    for limbs in (LEG, ARM):
        pairs = [(f"left_{joint}", f"right_{joint}") for joint in limbs]
        kept = [(a, b) for a, b in pairs if a in expected and b in expected]
        if not kept:
            continue
        as_is = sum(_far(seen[name], expected[name]) for pair in kept for name in pair)
        changed = sum(_far(seen[b], expected[a]) + _far(seen[a], expected[b]) for a, b in kept)
        if changed < SWAP_GAIN * as_is and as_is > 0.02 * height * 2 * len(kept):
            swapped = {a: seen[b] for a, b in pairs} | {b: seen[a] for a, b in pairs}
            seen = seen | swapped
    return seen


def _jumped(seen: Mapping[str, Joint], expected: Mapping[str, Place], height: float, misses: int) -> bool:
    """Whether the body as a whole jumped, and so is another, or none.

    A body that was not seen for some frames may have gone on a little farther. Single joints that jump are kept: which of them
    are wrong shows when the whole way is known.
    """
    off = {name: _far(joint, expected[name]) for name, joint in seen.items() if name in expected}
    trunk = [off[name] for name in TRUNK if name in off] or list(off.values())
    return not trunk or float(np.median(trunk)) > MOST_JUMP * height * (1 + min(misses, 4) / 4)


def _far(joint: Joint, place: Place) -> float:
    return float(np.hypot(joint.x - place[0], joint.y - place[1]))


def pose_points(followed: TrackedBody, times_s: Sequence[float]) -> dict[str, dict[int, tuple[float, float, float]]]:
    """By landmark and frame: x, y and σ in pixels, constant offsets taken off. `times_s` are the frames' real times, seconds."""
    found: dict[str, dict[int, tuple[float, float, float]]] = {}
    height = followed.seed.height_px
    for frame, joints in followed.frames.items():
        trunk = trunk_axis(joints)
        wider = height * (TANGLED_FACTOR if frame in followed.tangled else 1.0)
        for name, joint in joints.items():
            side, _, kind = name.rpartition("_")
            guessed = kind in GUESSED_JOINTS and joint.visibility < VISIBILITIES[0] and _on_trunk(joint, joints)
            if guessed and not _seen_there(followed, name, frame, times_s):
                continue
            axis = _axis(joints, side, kind)
            axis = trunk if axis is None else axis
            off = np.zeros(2) if axis is None else axis * OFFSETS.get(kind, 0.0) * height
            sigma = SIGMAS[kind][sum(joint.visibility >= edge for edge in VISIBILITIES)] * wider
            sigma *= 1 + min(_pace(followed, name, frame, times_s) / FAST, 1.0)
            found.setdefault(name, {})[frame] = (joint.x - float(off[0]), joint.y - float(off[1]), sigma)
    return found


def _on_trunk(joint: Joint, joints: Mapping[str, Joint]) -> bool:
    """Whether a joint lies between the shoulders and the hips, as far as these were seen."""
    if not all(name in joints for name in TRUNK):
        return False
    corners = np.array([(joints[name].x, joints[name].y) for name in TRUNK], dtype=np.float32)
    return cv2.pointPolygonTest(cv2.convexHull(corners), (joint.x, joint.y), False) >= 0


def _seen_there(followed: TrackedBody, name: str, frame: int, times_s: Sequence[float]) -> bool:
    """Whether a guessed joint lies where it was seen, or placed, shortly before or after."""
    here, reach = followed.frames[frame][name], SAME_SHARE * followed.seed.height_px
    for at in {*followed.frames, *followed.seed.placed}:
        if abs(times_s[at] - times_s[frame]) > SEEN_WITHIN_S:
            continue
        other, placed = followed.frames.get(at, {}).get(name), followed.seed.placed.get(at, {}).get(name)
        seen = other is not None and other.visibility >= VISIBILITIES[0] and np.hypot(other.x - here.x, other.y - here.y) <= reach
        if seen or (placed is not None and _far(here, np.array(placed)) <= reach):
            return True
    return False


def _pace(followed: TrackedBody, name: str, frame: int, times_s: Sequence[float]) -> float:
    """How fast a joint goes around a frame, standing heights a second."""
    near = [at for at in range(frame - 2, frame + 3) if name in followed.frames.get(at, {})]
    if len(near) < 2:
        return 0.0
    a, b = followed.frames[near[0]][name], followed.frames[near[-1]][name]
    far = float(np.hypot(b.x - a.x, b.y - a.y))
    return far / followed.seed.height_px / (times_s[near[-1]] - times_s[near[0]])


def _axis(joints: Mapping[str, Joint], side: str, kind: str) -> Place | None:
    """Unit vector from a joint towards the trunk along its limb, where both ends were seen."""
    ends = [joints.get(f"{side}_{joint}") for joint in _AXES.get(kind, ())]
    if len(ends) != 2 or ends[0] is None or ends[1] is None:
        return None
    along = np.array((ends[1].x - ends[0].x, ends[1].y - ends[0].y))
    long = float(np.hypot(*along))
    return along / long if long > 4 else None


def trunk_axis(joints: Mapping[str, Joint]) -> Place | None:
    """Unit vector from the middle of the hips to that of the shoulders; None where they lie upon each other."""
    if not all(name in joints for name in TRUNK):
        return None
    ends = {name: np.array((joints[name].x, joints[name].y)) for name in TRUNK}
    up = ends["left_shoulder"] + ends["right_shoulder"] - ends["left_hip"] - ends["right_hip"]
    long = float(np.hypot(*up))
    return up / long if long > 1 else None


def seed_height(points: Mapping[str, tuple[float, float]], height_px: float | None) -> float | None:
    """Standing height in pixels: as it was marked, else from the longest known limb of a seed and the table's proportions."""
    if height_px is not None:
        return height_px
    lengths = [
        float(np.hypot(*(np.array(points[f"{side}_{a}"]) - points[f"{side}_{b}"]))) / PROPORTIONS[segment]
        for side in ("left", "right")
        for segment, a, b in (("thigh", "hip", "knee"), ("shank", "knee", "ankle"))
        if f"{side}_{a}" in points and f"{side}_{b}" in points
    ]
    return max(lengths, default=None)
