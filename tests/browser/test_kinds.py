"""The frame on the screen against the number in its picture, for files of every kind, in the real browser."""

from __future__ import annotations

import random
import tempfile
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from lacertus.services.clips import intake
from lacertus.services.clips.intake import Sent
from lacertus.store.media import made_key, media, review_key
from lacertus.video.intake.reading import MADE, REVIEW, Reading, read_whole
from tests.halls import Hall
from tests.video.kinds import KINDS, make

SEEKS = 200
REST_EVERY = 20

PROBE = """
(async () => {
  const turn = () => new Promise((done) => setTimeout(done))
  const until = async (ok) => {
    for (const end = performance.now() + 10_000; performance.now() < end; await turn()) if (ok()) return true
    return false
  }
  const video = document.querySelector('video')
  await until(() => video.readyState >= 2)
  const canvas = document.createElement('canvas')
  canvas.width = video.videoWidth; canvas.height = video.videoHeight
  const pen = canvas.getContext('2d', { willReadFrequently: true })
  const cell = canvas.height / 45
  // The number in the picture: the same cells as lacertus.studio.picture.stamp writes.
  const cover = video.parentElement.querySelector('canvas')
  const covered = () => cover.style.visibility === 'visible'
  /** Of what is on the screen: the picture that was decoded beforehand where it covers the film, else the film. */
  const stamp = () => {
    pen.drawImage(covered() ? cover : video, 0, 0, canvas.width, canvas.height)
    const lit = Array.from({ length: 19 }, (_, i) => {
      const [r, g, b] = pen.getImageData(Math.round((i + 1.5) * cell), Math.round(1.5 * cell), 1, 1).data
      return r + g + b > 384
    })
    const bits = lit.slice(1, 17)
    const odd = bits.filter(Boolean).length % 2 === 1
    if (!lit[0] || lit[18] || lit[17] !== odd) return null
    return bits.reduce((number, bit) => number * 2 + (bit ? 1 : 0), 0)
  }
  const told = () => Number(document.querySelector('[data-testid=frame]').textContent)
  let presented = null
  const watch = (_now, { mediaTime }) => { presented = mediaTime; video.requestVideoFrameCallback(watch) }
  video.requestVideoFrameCallback(watch)
  window.probe = {
    /** Type frame numbers into the field, one after the other; what is on the screen then. */
    async seek(frames) {
      const seen = []
      for (const [i, wanted] of frames.entries()) {
        window.dispatchEvent(new KeyboardEvent('keydown', { key: 'j', code: 'KeyJ', bubbles: true }))
        await until(() => document.querySelector('[aria-label="Go to frame"]'))
        const field = document.querySelector('[aria-label="Go to frame"]')
        field.value = String(wanted)
        field.dispatchEvent(new Event('change', { bubbles: true }))
        await until(() => told() === wanted)
        await turn()
        const time = document.querySelector('[data-testid=time]').textContent
        const now = { wanted, told: told(), stamp: stamp(), time }
        // Now and then it is waited until the film itself shows the frame.
        const rested = i % REST_EVERY === 0 && (await until(() => !covered()))
        seen.push({ ...now, film: rested ? { presented, stamp: stamp() } : null })
      }
      return seen
    },
    /** What the screen says at each picture that the browser presents, for a while. */
    async play(milliseconds) {
      const seen = []
      const until = performance.now() + milliseconds
      await new Promise((done) => {
        const step = () => {
          const number = stamp()
          // Once the page has written down what was presented last; both are read at one moment.
          setTimeout(() => {
            seen.push({ told: told(), stamp: number, presented })
            if (performance.now() < until) video.requestVideoFrameCallback(step)
            else done()
          })
        }
        video.requestVideoFrameCallback(step)
      })
      return seen
    },
    /** Colours in the middle of the page's picture at every repaint while frames are stepped: no flash between them. */
    async flash(frames) {
      const seen = []
      for (const wanted of frames) {
        window.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', code: 'ArrowRight', bubbles: true }))
        window.dispatchEvent(new KeyboardEvent('keyup', { key: 'ArrowRight', code: 'ArrowRight', bubbles: true }))
        await until(() => { seen.push(stamp()); return told() === wanted })
      }
      return seen
    },
  }
})()
"""


@dataclass(frozen=True)
class Read:
    """A file of a kind that has been read once, for all tests of a run."""

    file: Path
    folder: Path
    reading: Reading


@cache
def read_once(name: str) -> Read:
    folder = Path(tempfile.mkdtemp(prefix=f"{name}-", dir=ROOM.name))
    file = make(KINDS[name], folder / f"clip.{KINDS[name].suffix}")
    return Read(file, folder, read_whole(file, folder))


ROOM = tempfile.TemporaryDirectory(prefix="lacertus-kinds-")


@pytest.fixture(scope="module", autouse=True)
def _room() -> Iterator[None]:
    yield
    read_once.cache_clear()
    ROOM.cleanup()


def on_bench(page: Page, db: Session, where: Hall, name: str) -> Reading:
    """Open the bench on a film of a kind, as the worker would have left it."""
    read = read_once(name)
    sent = Sent(name=read.file.name, filmed_on=date(2026, 5, 4), student=where.student)
    clip_id = intake.take_in(db, where.academy, read.file, sent).id
    keep(read, clip_id)
    intake.note_ready(db, clip_id, read.reading)
    db.commit()
    # Painting a small page leaves the time to the seeks.
    page.set_viewport_size({"width": 700, "height": 500})
    page.goto(page.url.split("#")[0] + f"#/bench/{clip_id}")
    expect(page.get_by_test_id("frame")).to_have_text("0")
    page.evaluate(PROBE.replace("REST_EVERY", str(REST_EVERY)))
    return read.reading


def keep(read: Read, clip_id: uuid.UUID) -> None:
    for pattern in MADE:
        for path in read.folder.glob(pattern):
            media().put(path, made_key(clip_id, path.name))
    media().put(read.folder / REVIEW, review_key(clip_id))


def stamped(name: str, frame: int) -> int:
    """The number in a frame's picture: a repeated frame shows the one before it."""
    repeats = KINDS[name].repeats
    return frame - 1 if repeats and frame and frame % repeats == 0 else frame


@pytest.mark.parametrize("name", KINDS)
def test_the_shown_frame_is_the_one_asked_for_after_200_random_seeks(page: Page, db: Session, where: Hall, name: str) -> None:
    reading = on_bench(page, db, where, name)
    chance = random.Random(name)
    frames = [reading.facts.frames - 1, 0, *(chance.randrange(reading.facts.frames) for _ in range(SEEKS - 2))]
    seen: list[dict[str, Any]] = page.evaluate("(frames) => window.probe.seek(frames)", frames)
    assert [one["told"] for one in seen] == frames
    assert [one["stamp"] for one in seen] == [stamped(name, frame) for frame in frames]
    # Of the film itself: its picture, and the browser's own word for the time of what it presents.
    pts = reading.facts.pts_s
    rested = [(frame, one["film"]) for frame, one in zip(frames, seen, strict=True) if one["film"]]
    assert len(rested) == SEEKS // REST_EVERY
    assert [film["stamp"] for _, film in rested] == [stamped(name, frame) for frame, _ in rested]
    assert [film["presented"] for _, film in rested] == pytest.approx([pts[frame] for frame, _ in rested], abs=1e-3)
    rate = reading.capture.rates
    if len(rate) == 1:
        real = [pts[frame] / rate[0][1] for frame in frames]
        assert [float(one["time"].split()[0].split(":")[1]) for one in seen] == pytest.approx(real, abs=6e-4)


@pytest.mark.parametrize("name", ["mp4-h264-b-frames", "mp4-h264-uneven", "mp4-h264-slowed"])
def test_while_it_plays_the_number_is_that_of_the_picture(page: Page, db: Session, where: Hall, name: str) -> None:
    pts = on_bench(page, db, where, name).facts.pts_s
    page.keyboard.press("Space")
    seen = page.evaluate("() => window.probe.play(2000)")
    page.keyboard.press("Space")
    assert len(seen) > 4
    # Exactly the picture whose time the browser says it presents. When playing begins the browser may call the page one
    # repaint late, so that the first number or two stay for 16 ms more; never later on.
    behind = [int(np.argmin(np.abs(np.array(pts) - one["presented"]))) - one["told"] for one in seen]
    assert set(behind) <= {0, 1}
    assert sum(behind) <= 3
    assert behind[-len(behind) // 2 :].count(0) == len(behind[-len(behind) // 2 :])
    # A slow machine may have gone on between the drawing for the test and the reading.
    assert all(abs(one["stamp"] - one["told"]) <= 2 for one in seen)
    assert sum(one["stamp"] == one["told"] for one in seen) > len(seen) / 2


def test_no_picture_is_missing_while_frames_are_stepped(page: Page, db: Session, where: Hall) -> None:
    """At every repaint one of the two neighbours is on the screen, never nothing."""
    on_bench(page, db, where, "mp4-h264-b-frames")
    seen = page.evaluate("(frames) => window.probe.flash(frames)", list(range(1, 40)))
    assert None not in seen
    assert seen == sorted(seen)
