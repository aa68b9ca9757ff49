"""The nearest solution: a body of which one point lies elsewhere, with every length and every lean as it was solved before.

While a point is dragged, a rep is read anew for every place that it comes to. What hangs on the point is put in space again in
the frames that it changes, and what does not stays as it was. When the point is dropped, the rep is solved as a whole.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.body import DERIVED
from lacertus.core.measuring.space.chain import FIXED, SIDES, Chain, Node, Seen

Array = NDArray[np.float64]

SAME_PX = 0.01
"""A place that moves by less is the same."""
ABOUT_S = 0.15
"""So long before and after, frames are read again with those that change, as depths are steadied over time. A convention."""


@dataclass(frozen=True, kw_only=True)
class Elsewhere:
    """A landmark's new places (2 × frames × DRAWS), their middles (2 × frames) and its own σ, drawn through as those of `Seen`.

    `meet` puts it in space in some frames of the chain where two views place it.
    """

    name: str
    places: Array
    middles: Array
    own_px: float
    meet: Callable[[Array, NDArray[np.int64]], Array]


class Before:
    """A solved body in some of its frames (`rows`, indices), with what its parts reach there. Kept from one place to the next."""

    def __init__(self, solved: Chain, rows: NDArray[np.int64]) -> None:
        seen = solved.seen
        here = Seen(
            places={name: place[:, rows] for name, place in seen.places.items()},
            middles={name: middle[:, rows] for name, middle in seen.middles.items()},
            own_px=seen.own_px,
            frames=seen.frames[rows],
            times_s=seen.times_s[rows],
        )
        self._solved, self._rows = solved, rows
        self.chain = replace(solved, seen=here, at={})
        self._leans: dict[str, Lean] = {}

    def catch_up(self) -> None:
        """Take over what was put in space since."""
        for name, place in self._solved.at.items():
            if name not in self.chain.at:
                self.chain.at[name] = place[:, self._rows]

    def lean(self, name: str, node: Node) -> Lean:
        """How a landmark leans against the one it hangs on."""
        if name not in self._leans:
            assert node.parent is not None
            nearest, reach = _reach(self.chain, name, node)
            side = np.where(self.chain.at[name][2] >= nearest, 1.0, -1.0)
            steadied = self.chain.steadied(node.part, side * reach, name, node.parent)
            self._leans[name] = Lean(nearest=nearest, side=side, steadied=steadied)
        return self._leans[name]


@dataclass(frozen=True, kw_only=True)
class Lean:
    """The depth at which a landmark is nearest to the one it hangs on, to which side of that it lies, and by how much."""

    nearest: Array
    side: Array
    steadied: Array


@dataclass
class Nearest:
    """A solved body with one landmark elsewhere. `at` holds what changes, in the frames of the indices `rows` alone."""

    kept: Chain
    moved: Elsewhere
    rows: NDArray[np.int64]
    before: Before
    at: dict[str, Array] = field(default_factory=dict)
    _done: int = 0

    @classmethod
    def of(cls, kept: Chain, moved: Elsewhere, known: dict[bytes, Before]) -> Nearest:
        """`known` are the frames that were read again before, of the same kept body."""
        off = np.abs(moved.middles - kept.seen.middles[moved.name]).max(axis=0) > SAME_PX
        times = kept.seen.times_s
        rows = np.flatnonzero((np.abs(times[:, None] - times[off]) <= ABOUT_S).any(axis=1))
        key = rows.tobytes()
        if key not in known:
            known.clear()
            known[key] = Before(kept, rows)
        return cls(kept=kept, moved=moved, rows=rows, before=known[key])

    def follow(self) -> None:
        """Put again in space what hangs on the moved landmark, of all that the kept solution has by now."""
        nodes = list(self.kept.nodes.items())[self._done :]
        self._done = len(self.kept.nodes)
        if not len(self.rows):
            return
        self.before.catch_up()
        after = self._after()
        for name, node in nodes:
            if self._hangs_on_it(name, node):
                self.at[name] = after.at[name] = self._again(name, node, after)

    def _hangs_on_it(self, name: str, node: Node) -> bool:
        if self._is_moved(name):
            return True
        if node.parent == FIXED:
            return False
        # Hips and shoulders lie across from each other: one that moves turns both.
        return self.moved.name in _pair(node) or node.parent in self.at

    def _is_moved(self, name: str) -> bool:
        return name == self.moved.name or any(part == self.moved.name for part, _ in DERIVED.get(name, ()))

    def _again(self, name: str, node: Node, after: Chain) -> Array:
        place, before = after.seen.places[name], self.before.chain.at
        if node.parent == FIXED:
            if name == self.moved.name:
                return self.moved.meet(place, self.rows)
            return np.asarray(sum(after.at[part] * weight for part, weight in DERIVED[name]))
        if node.parent is None:
            return after.on_ray(place, before[name][2])
        lean = self.before.lean(name, node)
        nearest, reach = _reach(after, name, node)
        steadied = self.before.chain.steadied(node.part, lean.side * reach, name, node.parent)
        return after.on_ray(place, before[name][2] + nearest - lean.nearest + steadied - lean.steadied)

    def _after(self) -> Chain:
        """The body with the landmark where it is now; what hangs on it is put again in turn."""
        before, moved = self.before.chain, self.moved
        places = {**before.seen.places, moved.name: moved.places[:, self.rows]}
        middles = {**before.seen.middles, moved.name: moved.middles[:, self.rows]}
        for name, parts in DERIVED.items():
            if name in places and any(part == moved.name for part, _ in parts):
                places[name] = np.asarray(sum(places[part] * weight for part, weight in parts))
                middles[name] = np.asarray(sum(middles[part] * weight for part, weight in parts))
        seen = replace(before.seen, places=places, middles=middles, own_px={**before.seen.own_px, moved.name: moved.own_px})
        return replace(before, seen=seen, at={**before.at, **self.at})


def _pair(node: Node) -> tuple[str, ...]:
    """Both hips or both shoulders, for one of them."""
    joint, _, width = node.part.partition("_")
    return tuple(f"{side}_{joint}" for side in SIDES) if width == "width" else ()


def _reach(chain: Chain, name: str, node: Node) -> tuple[Array, Array]:
    """The nearest depth of a landmark to the one it hangs on, and how far it lies before or behind that (frames × DRAWS)."""
    assert node.parent is not None
    if _pair(node):
        return chain.at[node.parent][2], chain.half(name.partition("_")[2])
    return chain.reach(name, node.parent, node.part)
