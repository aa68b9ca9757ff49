"""One body in space: from the hips outwards, each part leans as far out of the picture as its seen and its true length tell.

A part of length L that looks l long reaches √(L² − l²) towards the camera or away from it. Both lengths are drawn many times
over; which way it leans is drawn too, by what joints can do and by what the bends tell of the order of hips and shoulders.
Axes here are the camera's: x right, y up, z towards the camera, in pixels where the middle of the hips is.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.body import SEGMENTS
from lacertus.core.measuring.space.draws import DRAWS, normal, uniform
from lacertus.core.measuring.space.lengths import PartLength
from lacertus.core.measuring.space.limits import Torso, arm_fits, leg_fits
from lacertus.core.measuring.space.order import right_is_nearer
from lacertus.core.measuring.space.reach import drawn_length, drawn_looks
from lacertus.core.measuring.space.signs import Said, Stretches, drawn_signs
from lacertus.core.measuring.space.steadied import steadied

Array = NDArray[np.float64]

SCALE_U = 0.02
"""By how much all of a body may be nearer or farther than where its lengths were taken, as a share. A convention."""
ROOT_U = 0.08
"""How far in depth from the body's middle a landmark may lie that nothing links to it, as a share of standing height."""
ALIKE_S = 0.1
"""Frames of so short a time tell no more of a length than one of them. A convention."""
LEAST_PX = 0.05
"""No length is seen more closely than this, so that what is known exactly can be divided by."""
SIDES = ("left", "right")


@dataclass(frozen=True, kw_only=True)
class Seen:
    """A body in the picture.

    Places of landmarks (2 × frames × DRAWS, pixels from the middle of the picture, x right, y up) scattered as they may be, their
    middles (2 × frames), the own σ of each landmark (pixels), and the frames with their times (seconds).
    """

    places: Mapping[str, Array]
    middles: Mapping[str, Array]
    own_px: Mapping[str, float]
    frames: NDArray[np.int64]
    times_s: Array


@dataclass(frozen=True)
class Node:
    """A landmark that was put in space: what it hangs on, whether that part's length is known, and by which part it hangs."""

    parent: str | None
    known: bool
    part: str = ""


@dataclass
class Chain:
    """The body being put in space, part by part."""

    seen: Seen
    lengths: Mapping[str, PartLength]
    focal_px: Array
    tall_px: float
    at: dict[str, Array] = field(default_factory=dict)
    nodes: dict[str, Node] = field(default_factory=dict)
    drawn: dict[str, Array] = field(default_factory=dict)
    fixed: Mapping[str, Array] = field(default_factory=dict)
    said: Said = field(default_factory=Said)

    # --- one part ---------------------------------------------------------------------------------

    def on_ray(self, place: Array, depth: Array) -> Array:
        """What is seen at a place (2 × frames × DRAWS) and lies so deep; what is nearer is as much smaller."""
        shrunk = 1 - depth / self.focal_px
        return np.stack((place[0] * shrunk, place[1] * shrunk, depth))

    def nearest(self, place: Array, start: Array) -> tuple[Array, Array, Array]:
        """Where the line of sight through a place comes nearest to a point of space: depth, distance, and √(1 + slope²)."""
        qx, qy = -place[0] / self.focal_px, -place[1] / self.focal_px
        dx, dy, dz = place[0] - start[0], place[1] - start[1], -start[2]
        square = 1 + qx * qx + qy * qy
        depth = -(dx * qx + dy * qy + dz) / square
        dx, dy, dz = dx + depth * qx, dy + depth * qy, dz + depth
        return depth, np.sqrt(dx * dx + dy * dy + dz * dz), np.sqrt(square)

    def length(self, part: str, seen: Array, own: float) -> Array:
        """Draws of a part's length, by what is known of it and how long it looks (frames × DRAWS; own σ of that, pixels)."""
        if part not in self.drawn:
            known = self.lengths[_bare(part)] if part not in self.lengths else self.lengths[part]
            px = known.px * (1 + SCALE_U * normal("scale"))
            sigma = np.maximum(seen.std(axis=1), max(own, LEAST_PX))
            chances = uniform(f"length {part}")
            self.drawn[part] = drawn_length(seen.mean(axis=1), sigma, px, known.u, chances, usual(part), self.power)
        return self.drawn[part]

    def has_length(self, part: str) -> bool:
        return part in self.lengths or _bare(part) in self.lengths

    def is_known(self, part: str) -> bool:
        """Whether the part's length was given or read from the clip, or it is one that no reference is taken of."""
        return part not in SEGMENTS or self.lengths[part].known

    def reach(self, name: str, parent: str, part: str) -> tuple[Array, Array]:
        """The nearest depth of a landmark to the one it hangs on, and how far it lies before or behind that (frames × DRAWS)."""
        depth, off, slope = self.nearest(self.seen.places[name], self.at[parent])
        return depth, self.deep(part, off, name, parent) / slope

    def deep(self, part: str, off: Array, name: str, parent: str) -> Array:
        """How far a part reaches in depth that looks so long (frames × DRAWS) from one landmark to another."""
        own = self.own(name, parent)
        length = self.length(part, off, own)
        return np.asarray(
            np.sqrt(np.maximum(length**2 - drawn_looks(off, own, normal(f"looks {part}"), length, usual(part)) ** 2, 0.0))
        )

    def own(self, name: str, parent: str) -> float:
        """σ of how long a part looks that its ends have of their own, pixels; it is in what is seen, also where it is not drawn."""
        return math.hypot(self.seen.own_px.get(name, 0.0), self.seen.own_px.get(parent, 0.0))

    @cached_property
    def power(self) -> float:
        """How much each frame tells by itself of a length: those that follow one another at once are alike."""
        times = self.seen.times_s
        return len(np.unique(np.floor(times / ALIKE_S))) / len(times)

    def put(self, name: str, depth: Array, node: Node) -> None:
        """Put a landmark in space: where two views place it, else so deep as the part that it hangs on tells."""
        if name in self.fixed:
            self.at[name], self.nodes[name] = self.fixed[name], Node(FIXED, True)
            return
        self.at[name] = self.on_ray(self.seen.places[name], depth)
        self.nodes[name] = node

    def root(self, name: str, depth: Array | float | None = None) -> None:
        """Put a landmark in space that hangs on nothing."""
        shape = self.seen.places[name].shape[1:]
        if depth is None:
            depth = ROOT_U * self.tall_px * normal(f"root {name}")
        self.put(name, np.broadcast_to(np.asarray(depth, dtype=np.float64), shape).copy(), Node(None, True))

    def hang(self, name: str, parent: str, part: str, odds: Array | float = 0.0) -> None:
        """Put a landmark in space by the part that links it to another; `odds` are log odds that it is nearer (frames)."""
        if name in self.at or name not in self.seen.places:
            return
        if parent not in self.at or not self.has_length(part):
            self.root(name)
            return
        depth, reach = self.reach(name, parent, part)
        stretches = Stretches.of(self.seen, {part: reach})
        fits = np.zeros((2, len(stretches.firsts), DRAWS))
        told = stretches.mean(np.broadcast_to(np.asarray(odds, dtype=np.float64), len(self.seen.frames)))
        fits[1] = (told + self.said.odds(name, stretches))[:, None]
        signs = drawn_signs(fits, stretches, (part,), ((-1.0,), (1.0,)))
        self.put(name, depth + self.steadied(part, signs[0] * reach, name, parent), Node(parent, self.is_known(part), part))

    def steadied(self, part: str, depth: Array, name: str, parent: str) -> Array:
        """Depths of a landmark against the one it hangs on (frames × DRAWS), no less smooth over time than a body moves."""
        own = self.own(name, parent)
        across = self.seen.middles[name] - self.seen.middles[parent]
        return steadied(depth, across, self.seen.times_s, float(self.drawn[part].mean()), own)

    # --- the trunk --------------------------------------------------------------------------------

    def trunk(self) -> None:
        """Hips and shoulders: the middle of the hips is where depth is counted from."""
        here = self.seen.places
        for name in ("hip", "shoulder"):
            if {f"left_{name}", f"right_{name}"} <= here.keys():
                here = {**here, f"mid_{name}": (here[f"left_{name}"] + here[f"right_{name}"]) / 2}
        self.seen = replace(self.seen, places=here)
        order = right_is_nearer(self.seen.middles)
        if "mid_hip" in here:
            self.root("mid_hip", 0.0)
            hips = self.across("hip", order)
            if "mid_shoulder" in here:
                self.hang("mid_shoulder", "mid_hip", "trunk")
                self.across("shoulder", order[:, None] + hips)
        elif "mid_shoulder" in here:
            self.root("mid_shoulder", 0.0)
            self.across("shoulder", order)
        for side in SIDES:
            self.hang(f"{side}_hip", f"{side}_shoulder", f"{side}_trunk")
            self.hang(f"{side}_shoulder", f"{side}_hip", f"{side}_trunk")

    def across(self, name: str, odds: Array) -> Array:
        """Put both hips (or shoulders) about their middle, and tell the odds that follow for the other pair."""
        left, right, middle, part = f"left_{name}", f"right_{name}", f"mid_{name}", f"{name}_width"
        at = self.at[middle]
        if not self.has_length(part):
            for side in (left, right):
                self.root(side)
            return np.zeros((len(self.seen.frames), DRAWS))
        half = self.half(name)
        stretches = Stretches.of(self.seen, {part: 2 * half})
        fits = np.zeros((2, len(stretches.firsts), DRAWS))
        each = odds if odds.ndim == 2 else np.broadcast_to(odds[:, None], (len(odds), DRAWS))
        fits[1] = stretches.mean(each) + (self.said.odds(right, stretches) - self.said.odds(left, stretches))[:, None]
        right_near = drawn_signs(fits, stretches, (part,), ((-1.0,), (1.0,)))[0]
        node = Node(middle, self.is_known(part), part)
        deep = self.steadied(part, 2 * right_near * half, left, right) / 2
        self.put(right, at[2] + deep, node)
        self.put(left, at[2] - deep, node)
        return TIED * right_near

    def half(self, name: str) -> Array:
        """How far each hip (or shoulder) lies before or behind their middle (frames × DRAWS)."""
        left, right = (f"{side}_{name}" for side in SIDES)
        here = self.seen.places
        apart = (here[left] - here[right]) * (1 - self.at[f"mid_{name}"][2] / self.focal_px)
        return self.deep(f"{name}_width", np.hypot(apart[0], apart[1]), left, right) / 2

    # --- limbs ------------------------------------------------------------------------------------

    def limb(self, side: str, joints: tuple[str, str, str], parts: tuple[str, str]) -> None:
        """Thigh and shank, or upper arm and forearm: which way each leans is drawn for both together, by what the joint can do."""
        top, middle, end = (f"{side}_{joint}" for joint in joints)
        upper, lower = (f"{side}_{part}" for part in parts)
        here = self.seen.places
        if top not in self.at or not {middle, end} <= here.keys() or not (self.has_length(upper) and self.has_length(lower)):
            self.hang(top, "", "")
            self.hang(middle, top, upper)
            self.hang(end, middle, lower)
            return
        depth, reach = self.reach(middle, top, upper)
        ways = []
        for first in (-1.0, 1.0):
            joint = self.on_ray(here[middle], depth + first * reach)
            from_there, off, slope = self.nearest(here[end], joint)
            second = self.deep(lower, off, end, middle) / slope
            ways += [((first, sign), joint, from_there + sign * second, second) for sign in (-1.0, 1.0)]
        stretches = Stretches.of(self.seen, {upper: reach, lower: ways[0][3]})
        torso = Torso.of(self.at, "hip" if joints[0] == "hip" else "shoulder")
        fits = np.zeros((4, len(stretches.firsts), DRAWS))
        if torso is not None:
            rule = leg_fits if joints[0] == "hip" else arm_fits
            for i, (_, joint, deep, _) in enumerate(ways):
                fits[i] = stretches.mean(rule(torso, side, self.at[top], joint, self.on_ray(here[end], deep)))
        said = self.said.odds(middle, stretches), self.said.odds(end, stretches)
        for i, (way, *_) in enumerate(ways):
            fits[i] += ((way[0] * said[0] + way[1] * said[1]) / 2)[:, None]
        signs = drawn_signs(fits, stretches, (upper, lower), tuple(way[0] for way in ways))
        self.put(middle, depth + self.steadied(upper, signs[0] * reach, middle, top), Node(top, self.is_known(upper), upper))
        depth, reach = self.reach(end, middle, lower)
        self.put(end, depth + self.steadied(lower, signs[1] * reach, end, middle), Node(middle, self.is_known(lower), lower))


FIXED = "two views"
"""What a landmark hangs on that two views place: so they all hang together."""
TIED = 2.2
"""Log odds that shoulders lie in depth as the hips do: nine to one."""
HEAD = (("neck", "mid_shoulder", "neck"), ("nose", "neck", "nose"), ("chin", "neck", "chin"), ("head_top", "neck", "crown"),
        ("left_ear", "neck", "ear"), ("right_ear", "neck", "ear"))  # fmt: skip
ENDS = (("hand", "wrist", "hand"), ("heel", "ankle", "heel"), ("toe", "ankle", "toe"))


PARTS = ("trunk", "left_leg", "right_leg", "left_arm", "right_arm", "head")
"""What a body is put in space by, each by itself: the trunk first, as all others hang on it."""
_LIMB_OF = {"knee": "leg", "ankle": "leg", "heel": "leg", "toe": "leg", "elbow": "arm", "wrist": "arm", "hand": "arm"}


def part_of(landmark: str) -> str:
    """The part of a body that a landmark belongs to."""
    side, _, joint = landmark.partition("_")
    if joint in _LIMB_OF:
        return f"{side}_{_LIMB_OF[joint]}"
    return "trunk" if joint in ("hip", "shoulder") else "head"


def begun(
    seen: Seen, lengths: Mapping[str, PartLength], focal_px: Array, tall_px: float, fixed: Mapping[str, Array], said: Said
) -> Chain:
    """A body with its trunk put in space in every frame that is given, as many ways as there are draws.

    `fixed` are landmarks placed already, `said` is what was seen of depth by eye.
    """
    joints = dict(fixed)
    for joint in ("hip", "shoulder"):
        if {f"left_{joint}", f"right_{joint}"} <= joints.keys():
            joints[f"mid_{joint}"] = (joints[f"left_{joint}"] + joints[f"right_{joint}"]) / 2
    chain = Chain(seen=seen, lengths=lengths, focal_px=focal_px, tall_px=tall_px, fixed=joints, said=said)
    chain.trunk()
    return chain


def add_part(chain: Chain, part: str) -> None:
    """Put another part of a body in space."""
    side, _, limb = part.partition("_")
    if limb == "leg":
        chain.limb(side, ("hip", "knee", "ankle"), ("thigh", "shank"))
    elif limb == "arm":
        chain.limb(side, ("shoulder", "elbow", "wrist"), ("upper_arm", "forearm"))
    for name, parent, length in ENDS:
        if _LIMB_OF[name] == limb:
            chain.hang(f"{side}_{name}", f"{side}_{parent}", f"{side}_{length}")
    for name, parent, length in HEAD if part == "head" else ():
        chain.hang(name, parent, length)


def _bare(part: str) -> str:
    return part.removeprefix("left_").removeprefix("right_")


ANY = 1e3
USUAL = {"trunk": 0.27, "thigh": 0.6, "shank": 0.6}
"""How far trunk and legs reach in depth before length and picture tell, one σ, as shares of their lengths: people film so that a
technique goes across the picture. Other parts may lie any way. Conventions, from the bench's posed bodies (docs/measurement.md)."""


def usual(part: str) -> float:
    """How far a part usually reaches in depth, one σ, as a share of its length."""
    return USUAL.get(_bare(part), ANY)


def linked(nodes: Mapping[str, Node], first: str, second: str) -> bool:
    """Whether known parts alone lead from one landmark of a body to another."""
    ways = [_way_up(nodes, name) for name in (first, second)]
    shared = set(ways[0]) & set(ways[1])
    if not shared:
        return False
    return all(nodes[name].known for way in ways for name in _until(way, shared))


def _way_up(nodes: Mapping[str, Node], name: str) -> Sequence[str]:
    way = [name]
    while (parent := nodes[way[-1]].parent) is not None:
        way.append(parent)
        if parent == FIXED:
            break
    return way


def _until(way: Sequence[str], shared: set[str]) -> list[str]:
    return [name for name in way if name not in shared]
