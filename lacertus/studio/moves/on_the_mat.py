"""Poses of two bodies on the mat, kept as data beside the moves: where they touch was solved once, and is not written by hand."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from importlib import resources

from lacertus.studio.body.figure import rest_channels
from lacertus.studio.body.motion import Step
from lacertus.studio.moves.parts import apart_and_again

Pose = dict[str, float]
"""Channels of one body."""


@dataclass(frozen=True, kw_only=True)
class Between:
    """A pose between two steps, so that bodies pass each other and not through each other: at a share of the time from one to the next."""

    after: str
    before: str
    share: float
    performer: Pose
    partner: Pose


@dataclass(frozen=True, kw_only=True)
class Poses:
    """The poses of a move by name, each whole, of the performer (`me`) and of the partner (`other`)."""

    me: Mapping[str, Pose]
    other: Mapping[str, Pose]
    between: tuple[Between, ...]

    def joined(self, steps: Sequence[Step], without: Sequence[str] = ()) -> list[Step]:
        """The steps in order of time, with the poses between them where both their ends are among the steps.

        Args:
            steps: those of a rep.
            without: names of steps before which no pose is put in, as a fault changes the way there.
        """
        at = {step.name: step.at for step in steps if step.name}
        found = [
            Step(at=at[p.after] + (at[p.before] - at[p.after]) * p.share, performer=p.performer, partner=p.partner)
            for p in self.between
            if p.after in at and p.before in at and p.before not in without
        ]
        return sorted([*steps, *found], key=lambda step: step.at)

    def ends(self, at: float, me: Pose, other: Pose, still_s: float = 0.45) -> list[Step]:
        """The end of a rep in two poses that are held for `still_s` from `at` on, and the way back to the pose `start`."""
        end = Step(at=at + still_s, name="end", performer=me, partner=other, fixed=True)
        return [end, *apart_and_again(end.at, me, other, self.me["start"], self.other["start"])]


def mixed(one: Pose, other: Pose, share: float) -> Pose:
    """A pose a share of the way from one to another: what a fault of that degree makes of it."""
    return {name: value + share * (other.get(name, value) - value) for name, value in one.items()}


def read_poses(technique: str) -> Poses:
    """The poses of a technique's move, from its file in `poses/`.

    In the file each pose says what it begins from (`from`, none for the first), and what is different in it.

    Raises:
        KeyError: a channel that no figure has, or a pose that begins from an unknown one.
    """
    text = resources.files("lacertus.studio.moves").joinpath("poses", f"{technique}.json").read_text(encoding="utf-8")
    told = json.loads(text)
    me: dict[str, Pose] = {}
    other: dict[str, Pose] = {}
    for name, pose in told["poses"].items():
        start = pose.get("from")
        for found, body in ((me, "performer"), (other, "partner")):
            found[name] = {**(found[start] if start else {}), **_known(pose.get(body, {}))}
    between = tuple(
        Between(after=b["after"], before=b["before"], share=b["share"], performer=_known(b["performer"]), partner=_known(b["partner"]))
        for b in told["between"]
    )
    return Poses(me=me, other=other, between=between)


def _known(channels: Pose) -> Pose:
    unknown = channels.keys() - rest_channels().keys()
    if unknown:
        raise KeyError(f"unknown channels: {', '.join(sorted(unknown))}")
    return channels
