"""What the partner does, and which answers count; and the decision points of definitions that were stored before."""

from __future__ import annotations

from typing import ClassVar

from pydantic import Field
from pydantic.json_schema import SkipJsonSchema

from lacertus.core.model import Record
from lacertus.core.techniques.checkpoint import Fault
from lacertus.core.techniques.vocabulary import Identifier, Text


class Answer(Record):
    """One answer that counts, known by the event that it shows in."""

    event: str
    name: Text
    then: Text | None = None


class Reaction(Record):
    """Something that the partner does (an event of the partner's body), and what the performer should do after it.

    Only answers after the reaction count; `within_ms` is the window, none where any later answer will do. It is asked as a
    checkpoint is, under the same rules of options, layers and starts; its id is one of the checkpoints'.
    """

    kind: ClassVar[str] = "reaction"
    core: ClassVar[bool] = False
    safety: ClassVar[bool] = False
    entry: ClassVar[bool] = False
    weight: ClassVar[float] = 1.0
    leads_to: ClassVar[tuple[str, ...]] = ()
    switched_off: ClassVar[str | None] = None
    look_for: ClassVar[str | None] = None

    id: Identifier
    event: str
    says: Text
    answers: tuple[Answer, ...] = Field(min_length=1)
    wrong: tuple[Answer, ...] = ()
    within_ms: float | None = Field(default=None, gt=0)
    when: dict[str, str | tuple[str, ...]] = {}
    fault: Fault
    cues: tuple[Text, ...] = Field(min_length=1)
    cues_for_children: tuple[Text, ...] = ()
    why: Text
    phase: SkipJsonSchema[str] = Field(default="", exclude=True)
    """That of its event; filled in when the technique is read."""

    @property
    def ask(self) -> str:
        """What it asks, in one line: the reaction, and the answers to it."""
        return f"{self.says}: {' or '.join(answer.name for answer in self.answers)}"

    @property
    def events_used(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys((self.event, *(answer.event for answer in (*self.answers, *self.wrong)))))

    def answer(self, event: str) -> Answer | None:
        return next((answer for answer in (*self.answers, *self.wrong) if answer.event == event), None)


class Decision(Record):
    """A point at which the performer must choose, as older definitions have it: answers count whenever they came.

    Checkpoints with `branch: {this: event}` are asked where that answer was taken.
    """

    id: Identifier
    when: str
    says: Text
    answers: tuple[Answer, ...] = Field(min_length=1)
    wrong: tuple[Answer, ...] = ()
    within_ms: float | None = Field(default=None, gt=0)
    why: Text | None = None
