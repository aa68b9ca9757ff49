"""The poses between two steps, solved over the whole stretch at once, so that the motion stays one motion."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.optimize import least_squares

from lacertus.core.measuring.body import BODIES, BodyName
from lacertus.studio.authoring.solve import Figures, limits_of, step_of
from lacertus.studio.body.contact import Numbers
from lacertus.studio.body.figure import SIDES
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import Between
from lacertus.studio.scene import LEAD_IN_S, Scene

TRUNK = ("x", "y", "z", "lean", "bow", "side", "twist", "spin")
LIMBS = tuple(
    f"{side}_{limb}_{way}" for side in ("left", "right") for limb in ("leg", "arm") for way in ("flex", "abd", "bend", "rot")
)
STIFF_TRUNK, STIFF_LIMB, SMOOTH = 0.16, 0.04, 0.05
"""Weights of a channel's way by step, and of how much it changes from pose to pose."""
SAMPLES = 5
"""Times that are looked at for each pose between."""
HELD = 0.7
"""A hand, foot or standing leg that holds by more than this stays on what it holds."""


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """From one named step of a clean rep to another, with so many poses to be put between.

    The body that gives way is not moved (settle.py): what it takes out later is solved here first.
    """

    scene: Scene
    after: str
    before: str
    count: int

    @cached_property
    def _bare(self) -> Scene:
        return replace(self.scene, move=replace(self.scene.move, gives=None))

    @cached_property
    def _ends(self) -> tuple[float, float]:
        at = {step.name: step.at for step in self.scene.move.steps(self.scene.hows[0]) if step.name}
        unknown = {self.after, self.before} - at.keys()
        if unknown:
            raise KeyError(f"no step {', '.join(sorted(unknown))} in the rep; there are {', '.join(at)}")
        return at[self.after], at[self.before]

    @cached_property
    def figures(self) -> Figures:
        held = {body: self.scene.move.held(self.scene.hows[0], body) for body in BODIES}
        return Figures(looks=self.scene.looks, holds=held)

    def channels(self, times_s: Numbers) -> dict[BodyName, dict[str, Numbers]]:
        """As keyed, at times from the start of the rep."""
        motions = self._bare.motions
        return {body: {name: np.asarray(v) for name, v in motions[body].at(times_s + LEAD_IN_S).items()} for body in BODIES}

    def free(self, keyed: Mapping[BodyName, Mapping[str, Numbers]]) -> list[tuple[BodyName, str]]:
        """The channels that may change: all but those of a limb that stands or holds."""
        found: list[tuple[BodyName, str]] = []
        for body in BODIES:
            stands = any(keyed[body][f"{side}_plant"].max() > 0.5 for side in SIDES)
            fixed: tuple[str, ...] = ("x", "y") if stands else ()
            fixed += tuple(name for name in LIMBS if stands and "_leg_" in name)
            for side in SIDES:
                for limb, hold in (("arm", "grip"), ("leg", "hook")):
                    if keyed[body][f"{side}_{hold}"].min() > HELD:
                        fixed += tuple(name for name in LIMBS if name.startswith(f"{side}_{limb}_"))
            found += [(body, name) for name in (*TRUNK, *LIMBS) if name not in fixed]
        return found

    def solve(self, most: int = 14) -> list[Between]:
        """The poses between, as they go into the move's file."""
        start, end = self._ends
        times = np.linspace(start, end, SAMPLES * (self.count + 1) + 1)
        grid = np.linspace(start, end, self.count + 2)
        share = np.stack([np.interp(times, grid, row) for row in np.eye(self.count + 2)[1:-1]])
        keyed = self.channels(times)
        free = self.free(keyed)
        steps = np.array([step_of(name) for _, name in free])
        stiff = np.array([STIFF_TRUNK if name in TRUNK else STIFF_LIMB for _, name in free])

        def residuals(trials: Vector) -> Vector:
            moved = np.einsum("kt,nkm->ntm", share, trials * steps)
            sunk = self.figures.sunk(self.figures.joints(self._moved(keyed, free, moved))).reshape(len(trials), -1)
            ends = np.zeros((len(trials), 1, len(free)))
            jumps = np.diff(np.concatenate([ends, trials, ends], axis=1), axis=1) * SMOOTH
            return np.concatenate([sunk, (trials * stiff).reshape(len(trials), -1), jumps.reshape(len(trials), -1)], axis=1)

        solved = _least(residuals, (self.count, len(free)), most)
        at = self.channels(grid[1:-1])
        return [self._between(k, at, free, solved[k] * steps) for k in range(self.count)]

    @staticmethod
    def _moved(
        keyed: Mapping[BodyName, Mapping[str, Numbers]], free: list[tuple[BodyName, str]], moved: Vector
    ) -> dict[BodyName, dict[str, Numbers]]:
        """The channels of every trial at every time, one after the other."""
        trials = len(moved)
        found = {body: {name: np.tile(values, trials) for name, values in keyed[body].items()} for body in BODIES}
        for column, (body, name) in enumerate(free):
            found[body][name] = np.clip(found[body][name] + moved[:, :, column].reshape(-1), *limits_of(name))
        return found

    def _between(
        self, number: int, at: Mapping[BodyName, Mapping[str, Numbers]], free: list[tuple[BodyName, str]], ways: Vector
    ) -> Between:
        poses: dict[BodyName, dict[str, float]] = {body: {} for body in BODIES}
        for (body, name), way in zip(free, ways, strict=True):
            value = float(np.clip(at[body][name][number] + way, *limits_of(name)))
            poses[body][name] = round(value, 3 if step_of(name) < 1.0 else 1)
        share = round((number + 1) / (self.count + 1), 3)
        return Between(after=self.after, before=self.before, share=share, performer=poses["performer"], partner=poses["partner"])


def _least(residuals: object, shape: tuple[int, int], most: int) -> Vector:
    """The ways with the least residuals; slopes are taken a few trials at once, as each is a whole stretch."""
    at_once, count = 24, shape[0] * shape[1]

    def values(ways: Vector) -> Vector:
        return np.asarray(residuals(ways.reshape(1, *shape))[0])  # type: ignore[operator]

    def slopes(ways: Vector) -> Vector:
        here = values(ways)
        columns = []
        for first in range(0, count, at_once):
            picked = np.arange(first, min(first + at_once, count))
            trials = np.repeat(ways[None], len(picked), 0)
            trials[np.arange(len(picked)), picked] += 1e-4
            columns.append((residuals(trials.reshape(len(picked), *shape)) - here) / 1e-4)  # type: ignore[operator]
        return np.concatenate(columns, axis=0).T

    found = least_squares(values, np.zeros(count), jac=slopes, max_nfev=most, tr_solver="lsmr")
    return np.asarray(found.x.reshape(shape))
