"""The sheet on paper: even the fullest one fits two pages."""

from __future__ import annotations

import io
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PIL import Image
from pypdf import PdfReader

from lacertus.core.corrections.shapes import Label, Ring, Stroke
from lacertus.core.sheets.sheet import Picture, Sheet, SheetDrill, SheetFix
from lacertus.outputs.sheet import pdf

SHAPES = (
    Stroke(role="wanted", points=((10.0, 10.0), (200.0, 200.0)), head="both"),
    Ring(role="look", at=(300.0, 200.0), radius=30.0),
    Label(role="push", at=(700.0, 300.0), words="a < b & “c”, and on for longer than a line is wide"),
)


def jpeg() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (960, 540), "gray").save(out, "JPEG")
    return out.getvalue()


def fix(number: int) -> SheetFix:
    pictures = [
        Picture(correction=f"{number}{i}", of=of, width=960, height=540, caption="Rep 1, frame 66", shapes=SHAPES)
        for i in range(2)
        for of in ("still", "beside")
    ]
    drill = SheetDrill(name="Wall holds", how="Hand on a wall, knee up, fold, hold", dose="3 × 6", sides="Both sides", solo="Yes")
    return SheetFix(
        technique="kick",
        technique_name="Kick",
        checkpoint=f"c{number}",
        ask="Thigh lifted to the trunk, knee at the belt or above",
        fault="low",
        cues=("Show the knee to the mirror", "Knee first then foot"),
        why="A low knee turns the kick into an upward scoop",
        reason="missed in 4 of 6, keeps coming back",
        numbers=("Missed in 4 of 6 reps.", *(f"Rep {i}: 120°, give or take 15°. Not as wanted." for i in range(6))),
        pictures=tuple(pictures),
        drills=(drill, drill),
    )


@pytest.mark.parametrize("words", [0, 330])
def test_the_fullest_sheet_fits_two_pages_and_keeps_every_word(words: int) -> None:
    sheet = Sheet(
        academy="Hall",
        coach="A Coach",
        student="Ana",
        filmed_on="2026-05-04",
        techniques=("Kick",),
        reps=6,
        good=("Knee folded tight before the leg opens: in every rep.",) * 4,
        fixes=(fix(1), fix(2)),
        question="Is my knee high enough?",
        answer="words " * words + "and the last one",
        note="words " * words,
        next_on="2026-05-18",
        cautions=("Practise under supervision, by your academy’s and your region’s rules on ages and techniques.",) * 6,
    )
    pictures = {(one.correction, str(one.of)): jpeg() for each in sheet.fixes for one in each.pictures}
    read = PdfReader(io.BytesIO(pdf(sheet, pictures)))
    assert len(read.pages) == 2
    text = " ".join(" ".join(page.extract_text() for page in read.pages).split())
    for said in ("and the last one", "Wall holds", "Show the knee to the mirror", "18 May 2026", "no medical or safety device"):
        assert said in text


SETS_A_SHEET = """
import multiprocessing, sys, time
from pathlib import Path
from lacertus.core.sheets.sheet import Sheet
from lacertus.outputs import press

if __name__ == "__main__":
    press.printed(Sheet.model_validate_json(Path(sys.argv[1]).read_bytes()), {}, None).result(60)
    print(*(child.pid for child in multiprocessing.active_children()), flush=True)
    time.sleep(60)
"""


def test_what_sets_the_sheets_ends_with_a_server_that_is_killed(tmp_path: Path) -> None:
    said = {"academy": "Hall", "coach": "A Coach", "student": "Ana", "filmed_on": "2026-05-04"}
    sheet = Sheet(**said, techniques=("Kick",), reps=6, good=(), fixes=())
    (tmp_path / "sheet.json").write_text(sheet.model_dump_json())
    (tmp_path / "server.py").write_text(SETS_A_SHEET)
    asked = [sys.executable, str(tmp_path / "server.py"), str(tmp_path / "sheet.json")]
    with subprocess.Popen(asked, stdout=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None
        (child,) = map(int, server.stdout.readline().split())
        assert Path(f"/proc/{child}").exists()
        os.kill(server.pid, signal.SIGKILL)
    end = time.monotonic() + 20
    while Path(f"/proc/{child}").exists() and time.monotonic() < end:
        time.sleep(0.1)
    assert not Path(f"/proc/{child}").exists()
