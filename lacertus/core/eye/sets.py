"""Which questions make a set of some minutes: what is due, what goes badly, and what is new."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping

from lacertus.core.eye.questions import Kind
from lacertus.core.model import Record

SECONDS: Mapping[Kind, float] = {"frame": 20.0, "angle": 18.0, "missed": 22.0, "right": 25.0, "open": 15.0, "answer": 15.0}
"""About what a question takes with its answer. Conventions, as are the next."""
SHORTEST_MIN, LONGEST_MIN = 2, 5
MOST_NEW = 0.5
"""At most so much of a set is new while something is due or weak."""
WEAK = 0.75
"""What is hit less often than this is weak."""


class Card(Record):
    """A question that somebody is asked again and again: in how many days it is due, how often it was answered, and hit."""

    technique: str
    kind: Kind
    subject: str = ""
    due_days: float = 0.0
    answered: int = 0
    hits: int = 0

    @property
    def is_new(self) -> bool:
        return self.answered == 0

    @property
    def share(self) -> float:
        """How often it is hit, with one hit and one miss counted in: one answer says little."""
        return (self.hits + 1) / (self.answered + 2)


def choose(cards: Iterable[Card], minutes: float) -> tuple[Card, ...]:
    """The cards of a set, in the order in which they are asked.

    Due ones come first, the weakest of them first; then weak ones before they are due; then new ones, which fill at most half of
    the set while there is anything else. Techniques take turns, so that none is asked twice in a row where another one can be.
    """
    room = 60 * min(max(minutes, SHORTEST_MIN), LONGEST_MIN)
    known = [card for card in cards if not card.is_new]
    due = sorted((card for card in known if card.due_days <= 0), key=lambda card: (card.share, card.due_days, _key(card)))
    weak = sorted((card for card in known if card.due_days > 0 and card.share < WEAK), key=lambda card: (card.share, _key(card)))
    new = [card for card in cards if card.is_new]
    room_for_new = room if not (due or weak) else max(room * MOST_NEW, room - sum(SECONDS[card.kind] for card in (*due, *weak)))
    chosen = _filled((*due, *weak), room - min(room_for_new, _length(new)))
    chosen += _filled(_in_turns(new), room - _length(chosen))
    return tuple(_in_turns(chosen))


def _key(card: Card) -> tuple[str, str, str]:
    return card.technique, card.kind, card.subject


def _length(cards: Iterable[Card]) -> float:
    return sum(SECONDS[card.kind] for card in cards)


def _filled(cards: Iterable[Card], room_s: float) -> list[Card]:
    found: list[Card] = []
    for card in cards:
        if _length((*found, card)) <= room_s:
            found.append(card)
    return found


def _in_turns(cards: Iterable[Card]) -> list[Card]:
    """The same cards so that all techniques have their turn, and neighbours differ in what is asked where they can."""
    left, found = list(cards), list[Card]()
    turns: Counter[str] = Counter()

    def order(i: int) -> tuple[bool, int, bool, int]:
        card, last = left[i], found[-1] if found else None
        same, alike = (last is not None and getattr(last, name) == getattr(card, name) for name in ("technique", "kind"))
        return same, turns[card.technique], alike, i

    while left:
        found.append(left.pop(min(range(len(left)), key=order)))
        turns[found[-1].technique] += 1
    return found
