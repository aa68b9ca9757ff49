"""`lacertus plan`: what is worth doing first, and who trains with whom."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

plan_app = typer.Typer(help="Plan a coach's time, and who trains with whom.")
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]


@plan_app.command("queue")
def plan_queue(
    file: Path,
    minutes: Annotated[float | None, typer.Option("--minutes", metavar="T", help="Minutes at hand; all unless given.")] = None,
    as_json: AsJson = False,
) -> None:
    """What to do first in the minutes at hand: safety, then what is worth most together."""
    from lacertus.core.plan.queue import queue_of
    from lacertus.planfile import checked_minutes, queue_json, read_queue

    items, on = read_queue(file)
    found = queue_of(items, on, checked_minutes(minutes))
    if as_json:
        print(json.dumps(queue_json(found), ensure_ascii=False))
        return
    table = Table("", "item", "priority", "minutes", "safety")
    for word, some in (("do", found.chosen), ("left", found.left)):
        for item in some:
            priority = f"{float(item.priority(on)):.2f}"
            table.add_row(word, item.id, priority, f"{item.halves / 2:g}", "yes" if item.safety else "")
    Console().print(table)
    typer.echo(f"{found.minutes:g} minutes, priority {found.priority:.2f}")


@plan_app.command("pairs")
def plan_pairs(file: Path, as_json: AsJson = False) -> None:
    """Who trains with whom: the most pairs that are safe, and among those the ones that help most."""
    from lacertus.core.plan.pairs import pairing_of
    from lacertus.planfile import pairs_json, read_class

    found = pairing_of(read_class(file))
    if as_json:
        print(json.dumps(pairs_json(found), ensure_ascii=False))
        return
    table = Table("who", "score or why")
    for pair, score in found.pairs:
        third = [student for student, joined in found.thirds if joined == pair]
        table.add_row(" and ".join((*pair, *third)), str(score))
    for one in found.alone:
        table.add_row(one.student, one.why)
    Console().print(table)
