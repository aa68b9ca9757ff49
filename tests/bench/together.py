"""Four clips of 720 lines beside one another, playing together: how far each picture is off the one that is due."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from rich.console import Console

from lacertus.local.postgres import free_port
from lacertus.services.review import review as reviewing
from lacertus.store import database
from lacertus.studio.clips import record
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of
from tests.browser import walk
from tests.halls import cut, hall, read_in
from tests.place import Server, place

RATES = (60, 30, 50, 60)
SECONDS = 3
RUNS = 4


def main() -> None:
    told = Console()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        with place(folder / "place") as environment:
            server = Server(free_port(), environment, folder / "log")
            with database.session() as db:
                where = hall(db)
                reps = []
                for number, fps in enumerate(RATES):
                    script = read_script(
                        {
                            "lacertus_script": 1, "id": f"clip-{number}", "technique": "front-kick", "reps": [{}],
                            "recording": {"fps": fps}, "camera": {"size": [1280, 720]},
                        }
                    )  # fmt: skip
                    shot = shots_of(script)[0]
                    clip = folder / f"clip-{number}.mp4"
                    record(shot, clip, script.recording)
                    review = reviewing.open_review(db, where.academy, read_in(db, where, clip, folder)).id
                    reps.append(cut(db, where, review, truth(shot)["reps"][0]))
                db.commit()
            with walk.chromium() as browser:
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                walk.sign_in(page, server.url)
                page.get_by_role("heading", name="Clips").wait_for()
                sides = "&".join(f"side=rep.{rep}" for rep in reps[1:])
                page.goto(f"{server.url}/#/compare/rep.{reps[0]}?{sides}")
                page.locator("[data-pane]").nth(3).wait_for()
                page.evaluate(walk.PANES)
                page.wait_for_timeout(3000)
                for speed in ("¼×", "½×", "1×"):
                    page.get_by_label("Speed").get_by_text(speed, exact=True).click()
                    off: list[float] = []
                    paces: list[float] = []
                    for _ in range(RUNS):
                        found, pace = _played(page)
                        off += found
                        paces.append(pace)
                    within = np.mean(np.array(off) <= 1)
                    told.print(
                        f"four at 720p, {speed}: {100 * within:.0f} % of {len(off)} pictures within a frame of what was due "
                        f"(to reach: 100), 95 % within {np.percentile(off, 95):.0f}, at {np.median(paces):.2f} of real time"
                    )
            server.stop()


def _played(page: object) -> tuple[list[float], float]:
    """Play from the beginning; at each repaint by how many frames each picture is off, but for the first half second; and how
    quickly the clock ran, as a share of the time that passed.

    The frame on the screen is the one that the browser says it has presented. (Reading the number out of four pictures takes as
    long as two frames of them; that it is the one told is tested where they stand still.)
    """
    found, clock, passed = page.evaluate(  # type: ignore[attr-defined]
        """async (seconds) => {
          const bar = document.querySelector('input[aria-label=Time]')
          bar.value = bar.min
          bar.dispatchEvent(new Event('input', { bubbles: true }))
          await new Promise((done) => setTimeout(done, 700))
          document.querySelector('button[aria-label=Play]').click()
          await new Promise((done) => setTimeout(done, 500))
          const seen = []
          const begun = [Number(bar.value), performance.now()]
          for (const end = performance.now() + 1000 * seconds; performance.now() < end; ) {
            await new Promise((done) => requestAnimationFrame(done))
            if (!document.querySelector('button[aria-label=Pause]')) break
            const panes = [...document.querySelectorAll('[data-pane]')]
            seen.push(panes.map(({ dataset }) => [Number(dataset.frame), Number(dataset.wanted)]))
          }
          document.querySelector('button[aria-label=Pause]')?.click()
          return [seen, Number(bar.value) - begun[0], (performance.now() - begun[1]) / 1000]
        }""",
        SECONDS,
    )
    return [float(abs(shown - due)) for panes in found for shown, due in panes], clock / passed
