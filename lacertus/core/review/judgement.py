"""What was found for one checkpoint or reaction of a rep."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.techniques.vocabulary import Wanted

RestsOn = Literal["picture", "lengths", "mat", "views", "eye"]
WORST_FIRST = (Verdict.MISSED, Verdict.BORDERLINE, Verdict.NOT_SEEN, Verdict.MET, Verdict.NOT_ASKED)


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """What was found for one checkpoint of one rep.

    `value` and `uncertainty` are in `unit`; `frames` are those it was read from; `reason` says why,
    in words, wherever the verdict is not *met*; `notes` are what to know of the reading. Where the coach overruled it,
    `measured` is the verdict that the rules gave and `because` the coach's reason. `view` names the clip that it was read
    from where that is another view of the rep; `unconfirmed` says that the picture shows it met, but not its depth. `rests_on` is
    what settles the value: nothing for times and what is seen by eye; `to_settle` says what would settle it where it is not firm.
    `counts` is
    False where the rep was a wrong choice, so that how it was done is shown and counts nowhere.
    """

    id: str
    kind: str
    phase: str
    verdict: Verdict
    fault: str
    safety: bool
    value: float | None = None
    unit: str | None = None
    uncertainty: float | None = None
    within: Wanted | None = None
    frames: tuple[int, ...] = ()
    reason: str | None = None
    notes: tuple[str, ...] = ()
    measured: Verdict | None = None
    because: str | None = None
    view: str | None = None
    unconfirmed: bool = False
    rests_on: tuple[RestsOn, ...] = ()
    to_settle: str | None = None
    counts: bool = True

    @property
    def counts_as_missed(self) -> bool:
        """Missed, or borderline where safety is at stake."""
        return self.counts and self.is_missed

    @property
    def is_missed(self) -> bool:
        """The same of the verdict alone, whether it counts or not."""
        return self.verdict is Verdict.MISSED or (self.safety and self.verdict is Verdict.BORDERLINE)

    @property
    def is_exposure(self) -> bool:
        """Whether it counts in the ledger: judged met or missed."""
        return self.counts and (self.verdict is Verdict.MET or self.is_missed)


def shown(value: float, unit: str | None) -> str:
    """A value as people read it: `138°`, `18 ms`, `0.08 shank`; what rounds to nought has no sign."""
    if unit == "deg":
        return f"{value:.0f}°" if value >= 10 else f"{value:z.1f}°"
    if unit == "ms":
        return f"{value:z.0f} ms"
    text = f"{value:z.2f}".rstrip("0").rstrip(".")
    return f"{text} {unit.replace('partner.', 'partner’s ').replace('_', ' ')}" if unit else text


def shown_with(value: float, u: float, unit: str | None) -> str:
    """A value with its standard uncertainty, the unit said once where it is a word: `0.59 ± 0.02 shoulder width`."""
    return f"{shown(value, unit if unit in ('deg', 'ms') else None)} ± {shown(u, unit)}"
