"""Who trains with whom: the most pairs that are safe, and among those the ones that help most."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import combinations

import networkx as nx

from lacertus.core.errors import BadInput

APART_WEIGHT = Fraction(15, 100)
"""Two whose weights are further apart than this, of the heavier, do not train together. A convention."""
ALIKE_HEIGHT = Fraction(5, 100)
"""Two whose heights are at most so far apart, of the taller, suit each other. A convention."""
LAST_CLASSES = 2
TEACHES, NEW, ALIKE, BOTH_UNSAFE = 3, 2, 1, -2
"""Scores: one has clean what the other misses; not together in the last two classes; about as tall; the same safety fault."""

Pair = tuple[str, str]


@dataclass(frozen=True, kw_only=True)
class Trainee:
    """A student in the class; falls are those that were passed, faults by their codes."""

    id: str
    adult: bool = True
    weight_kg: float | None = None
    height_cm: float | None = None
    falls: frozenset[str] = frozenset()
    clean: frozenset[str] = frozenset()
    misses: frozenset[str] = frozenset()
    safety: frozenset[str] = frozenset()


@dataclass(frozen=True, kw_only=True)
class Class:
    """Who is there, and what holds between them. `throw` is practised; `fits` says which falls fit a throw.

    `together` says how many classes ago two last trained together (1: the last one); `apart` are kept apart, `allowed` may train
    together against all rules but that of the fall.
    """

    trainees: tuple[Trainee, ...]
    throw: str | None = None
    fits: Mapping[str, frozenset[str]] = field(default_factory=dict)
    together: Mapping[Pair, int] = field(default_factory=dict)
    apart: frozenset[Pair] = frozenset()
    allowed: frozenset[Pair] = frozenset()

    def checked(self) -> Class:
        """The class itself.

        Raises:
            BadInput: an id twice or of nobody, somebody with themselves, or a throw of which no fall is known.
        """
        ids = [one.id for one in self.trainees]
        if len(ids) != len(set(ids)):
            twice = sorted({one for one in ids if ids.count(one) > 1})
            raise BadInput(f"students: {', '.join(twice)} stands there twice")
        if self.throw is not None and self.throw not in self.fits:
            raise BadInput(f"fits: it is not said which falls fit the throw “{self.throw}”")
        for name, pairs in (("together", self.together), ("apart", self.apart), ("allowed", self.allowed)):
            for pair in pairs:
                unknown = sorted(set(pair) - set(ids))
                if unknown:
                    raise BadInput(f"{name}: nobody has the id “{unknown[0]}”")
                if pair[0] == pair[1]:
                    raise BadInput(f"{name}: “{pair[0]}” is paired with themselves")
        return self

    def may_fall(self, one: Trainee) -> bool:
        """Whether somebody has passed a fall that fits the throw; where none is practised, everybody may."""
        return self.throw is None or bool(one.falls & self.fits[self.throw])

    def why_not(self, one: Trainee, other: Trainee) -> str | None:
        """Why two do not train together, or None where they may. Both throw in turn."""
        for who in (one, other):
            if not self.may_fall(who):
                return f"{who.id} has not passed a fall that fits {self.throw}"
        pair = pair_of(one.id, other.id)
        if pair in self.allowed:
            return None
        if pair in self.apart:
            return "they are kept apart"
        if one.adult != other.adult:
            return "an adult does not train with a child"
        if _share(one.weight_kg, other.weight_kg, over=APART_WEIGHT):
            return "their weights are too far apart"
        return None

    def score(self, one: Trainee, other: Trainee) -> int:
        """How much two help each other."""
        teaches = bool(one.clean & other.misses or other.clean & one.misses)
        ago = self.together.get(pair_of(one.id, other.id))
        heights = one.height_cm is not None and other.height_cm is not None
        alike = heights and not _share(one.height_cm, other.height_cm, over=ALIKE_HEIGHT)
        return (
            TEACHES * teaches
            + NEW * (ago is None or ago > LAST_CLASSES)
            + ALIKE * alike
            + BOTH_UNSAFE * bool(one.safety & other.safety)
        )


def pair_of(one: str, other: str) -> Pair:
    """Two ids as a pair, the smaller one first."""
    return (one, other) if one <= other else (other, one)


def _share(one: float | None, other: float | None, over: Fraction) -> bool:
    """Whether two sizes are further apart than a share of the larger; what is not known is not."""
    if one is None or other is None:
        return False
    a, b = Fraction(str(one)), Fraction(str(other))
    return abs(a - b) > over * max(a, b)


@dataclass(frozen=True, kw_only=True)
class Alone:
    """Somebody for whom there is nobody, and why."""

    student: str
    why: str


@dataclass(frozen=True, kw_only=True)
class Pairing:
    """Pairs with their scores, who joins which pair as a third, who is alone, and the sum over the pairs."""

    pairs: tuple[tuple[Pair, int], ...]
    thirds: tuple[tuple[str, Pair], ...]
    alone: tuple[Alone, ...]

    @property
    def score(self) -> int:
        return sum(score for _, score in self.pairs)


def pairing_of(group: Class) -> Pairing:
    """The most pairs, among those with the largest sum of scores; who is left over joins a pair or is alone.

    Maximum weight matching of maximum cardinality (Edmonds' blossoms, by networkx).

    Raises:
        BadInput: as `Class.checked`.
    """
    group.checked()
    by_id = {one.id: one for one in sorted(group.trainees, key=lambda one: one.id)}
    graph = nx.Graph()
    graph.add_nodes_from(by_id)
    for one, other in combinations(by_id.values(), 2):
        if group.why_not(one, other) is None:
            graph.add_edge(one.id, other.id, weight=group.score(one, other))
    matched = sorted(pair_of(*pair) for pair in nx.max_weight_matching(graph, maxcardinality=True))
    pairs = tuple((pair, group.score(by_id[pair[0]], by_id[pair[1]])) for pair in matched)
    left = [one for key, one in by_id.items() if not any(key in pair for pair in matched)]
    return _with_thirds(group, by_id, pairs, left)


def _with_thirds(
    group: Class, by_id: Mapping[str, Trainee], pairs: tuple[tuple[Pair, int], ...], left: Iterable[Trainee]
) -> Pairing:
    """Who is left over, in order of id, joins the pair with both of whom they may train and whose worse new score is best."""
    thirds: list[tuple[str, Pair]] = []
    alone: list[Alone] = []
    free = [pair for pair, _ in pairs]
    for one in left:
        fitting = [pair for pair in free if all(group.why_not(one, by_id[key]) is None for key in pair)]
        if fitting:
            best = min(fitting, key=lambda pair: (-min(group.score(one, by_id[key]) for key in pair), pair))
            thirds.append((one.id, best))
            free.remove(best)
        else:
            alone.append(Alone(student=one.id, why=_why_alone(group, by_id, one)))
    return Pairing(pairs=pairs, thirds=tuple(thirds), alone=tuple(alone))


def _why_alone(group: Class, by_id: Mapping[str, Trainee], one: Trainee) -> str:
    if not group.may_fall(one):
        return f"has not passed a fall that fits {group.throw}: another unit, or falls with the coach"
    others = [other for other in by_id.values() if other.id != one.id]
    if not others:
        return "nobody else is there: the coach as partner"
    reasons = dict.fromkeys(why for other in others if (why := group.why_not(one, other)) is not None)
    if len(reasons) == 1 and all(group.why_not(one, other) is not None for other in others):
        return f"nobody may train with them ({next(iter(reasons))}): another unit, or the coach as partner"
    if all(group.why_not(one, other) is not None for other in others):
        return f"nobody may train with them ({'; '.join(reasons)}): another unit, or the coach as partner"
    return "everybody who may train with them has somebody already: the coach as partner"
