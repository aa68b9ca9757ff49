"""How long the studio takes for a frame, in seconds of one core."""

from __future__ import annotations

import os
import time

from rich.console import Console
from rich.table import Table

from lacertus.studio.clips import parts_at
from lacertus.studio.moves import MOVES
from lacertus.studio.picture.render import Stage
from lacertus.studio.script import read_script, shots_of

FRAMES = 24


def main() -> None:
    table = Table("technique", "bodies", "posing", "drawing", "a frame and core", "to reach")
    for name, move in MOVES.items():
        script = {"lacertus_script": 1, "id": "bench", "technique": name, "camera": {"size": [1280, 720]}, "recording": {"fps": 30}}
        shot = shots_of(read_script(script))[0]
        stage = Stage(1280, 720)
        stage.draw([(shot.camera, parts_at(shot, 0.5))])
        pose_s = draw_s = 0.0
        for time_s in shot.times_s[10 : 10 + FRAMES]:
            start = time.process_time()
            parts = parts_at(shot, time_s)
            posed = time.process_time()
            stage.draw([(shot.camera, parts)])
            pose_s += posed - start
            draw_s += time.process_time() - posed
        a_frame = (pose_s + draw_s) / FRAMES
        table.add_row(
            name,
            "2" if move.partner else "1",
            f"{pose_s / FRAMES * 1000:.1f} ms",
            f"{draw_s / FRAMES * 1000:.1f} ms",
            f"{a_frame:.3f} s",
            "≤ 0.1 s",
        )
    console = Console(width=110)
    console.print(f"1280×720, {os.cpu_count()} cores, processor time (all threads together)")
    console.print(table)
