"""One academy among 200: 20,000 students and three million judgements in one database, as against that academy alone in it."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np
import psycopg
from rich.console import Console
from rich.table import Table

from lacertus.local.postgres import free_port
from lacertus.settings import settings
from tests.bench.scale import STUDENTS, academy_of, made_up, pages, plans, vacuum
from tests.bench.yardstick import Yardstick
from tests.place import Server, place

OTHERS, THEIR_STUDENTS, THEIR_CLIPS = 199, 99, 1
"""Beside the large academy of `scale`."""


def main() -> None:
    console = Console(width=150)
    with tempfile.TemporaryDirectory() as name, place(Path(name)) as environment:
        server = Server(free_port(), environment, Path(name) / "log")
        try:
            large = made_up("Large", STUDENTS)
            vacuum()
            before_pace, after_pace = Yardstick(), Yardstick()
            alone = pages(server, large, before_pace)
            started = time.monotonic()
            for number in range(OTHERS):
                made_up(f"Other{number:03}", THEIR_STUDENTS, THEIR_CLIPS)
            vacuum()
            console.print(f"{_counted()}, filled in {time.monotonic() - started:.0f} s")
            among = pages(server, large, after_pace)
            console.print(_table(alone, among, before_pace.factor, after_pace.factor))
            for title, lines in plans(academy_of(large[1][0]), large[1][0]):
                console.print(f"\n{title}\n" + "\n".join(f"    {line}" for line in lines), highlight=False)
        finally:
            server.stop()


def _counted() -> str:
    with psycopg.connect(settings().database_url) as connection:
        counts = [
            (table, connection.execute(f"select count(*) from {table}").fetchone()) for table in ("academy", "student", "judgement")
        ]
    return ", ".join(f"{found[0]:,} rows of {table}" for table, found in counts if found is not None)


def _table(alone: dict[str, np.ndarray], among: dict[str, np.ndarray], before: float, after: float) -> Table:
    title = f"pages of an academy of {STUDENTS} students; ms at the server, for a desk computer: 95 % (to reach: 100)"
    table = Table(
        "page", "alone: median", "among 200: median", "ratio, by the yardstick", "95 % alone", "95 % among 200", title=title
    )
    for name in among:
        first, second = alone[name][:, 0] / before, among[name][:, 0] / after
        ratio = float(np.median(second) / max(np.median(first), 0.1))
        late = [f"{np.percentile(one, 95):.0f}" for one in (first, second)]
        table.add_row(name, f"{np.median(alone[name][:, 0]):.0f}", f"{np.median(among[name][:, 0]):.0f}", f"{ratio:.2f}", *late)
    return table


if __name__ == "__main__":
    main()
