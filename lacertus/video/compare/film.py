"""The film of a comparison: its sides beside one another, each with its name under it, and the coach's words at the foot.

Thirty pictures a second, H.264 without B-frames, so that every browser plays it.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Protocol

import av
import cv2
import numpy as np
from av.video.frame import VideoFrame
from numpy.typing import NDArray

from lacertus.core.compare.film import FPS, FilmPlan
from lacertus.video.corrections.drawing import lines_of, written
from lacertus.video.errors import as_bad_video
from lacertus.video.inspect import Progress

Picture = NDArray[np.uint8]
HIGH, GAP = 480, 8
"""Height of a side, and the space between two, pixels before it is made smaller."""
LETTERS, LINE = 19.0, 26.0
"""Size of letters, and from one line to the next, pixels."""
WIDEST = 1280
PAPER = (246, 242, 233)


class Source(Protocol):
    """What a side's pictures come from, asked for in rising order."""

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, pixels."""

    def frame(self, number: int) -> Picture:
        """A frame, height × width × 3, RGB."""


def write_compared(
    sources: Sequence[Source], titles: Sequence[str], words: str, plan: FilmPlan, target: Path, progress: Progress | None = None
) -> None:
    """Write the film (MP4).

    Raises:
        BadVideo: a film cannot be read, or lacks a frame.
    """
    widths = [round(HIGH * source.size[0] / source.size[1]) for source in sources]
    whole = sum(widths) + GAP * (len(widths) - 1)
    shrink = min(1.0, WIDEST / whole)
    high, widths = _even(HIGH * shrink), [_even(width * shrink) for width in widths]
    lefts = [sum(widths[:i]) + GAP * i for i in range(len(widths))]
    ground = _ground(lefts, widths, high, titles, words)
    with as_bad_video(target.name), av.open(str(target), "w", format="mp4", options={"movflags": "faststart"}) as out:
        stream = out.add_stream("libx264", rate=FPS)
        stream.width, stream.height, stream.pix_fmt = ground.shape[1], ground.shape[0], "yuv420p"
        stream.options = {"preset": "veryfast", "crf": "22", "bf": "0", "g": str(FPS)}
        before: tuple[int, ...] | None = None
        for number, frames in enumerate(plan.pictures):
            if frames != before:
                for source, frame, left, width in zip(sources, frames, lefts, widths, strict=True):
                    ground[:high, left : left + width] = cv2.resize(
                        source.frame(frame), (width, high), interpolation=cv2.INTER_AREA
                    )
                before = frames
            picture = VideoFrame.from_ndarray(ground, format="rgb24")
            picture.pts, picture.time_base = number, Fraction(1, FPS)
            out.mux(stream.encode(picture))
            if progress is not None:
                progress(number + 1, len(plan.pictures))
        out.mux(stream.encode(None))


def _even(length: float) -> int:
    return max(2, 2 * round(length / 2))


def _ground(lefts: Sequence[int], widths: Sequence[int], high: int, titles: Sequence[str], words: str) -> Picture:
    """The paper that the sides are put on, with everything written on it."""
    across = _even(lefts[-1] + widths[-1])
    under = max(lines_of(title, width - 8, LETTERS) for title, width in zip(titles, widths, strict=True))
    top = high + 6
    below = top + round(under * LINE)
    foot = below + round(lines_of(words, across - 8, LETTERS) * LINE) + 6
    paper = np.full((_even(foot), across, 3), PAPER, dtype=np.uint8)
    texts = [(title, (left + 4, top), width - 8) for title, left, width in zip(titles, lefts, widths, strict=True)]
    return written(paper, [*texts, (words, (4, below), across - 8)], LETTERS)
