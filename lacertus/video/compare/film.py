"""The film of a comparison: sides beside or over one another, their names under them, the coach's words at the foot.

Thirty pictures a second, H.264 without B-frames, so that every browser plays it.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.frame import VideoFrame

from lacertus.core.compare.film import FPS, FilmPlan
from lacertus.video.compare.layers import Layer, Picture, beside, over
from lacertus.video.corrections.drawing import lines_of, written
from lacertus.video.errors import as_bad_video
from lacertus.video.inspect import Progress

HIGH, GAP = 480, 8
"""Height of a side, and the space between two, pixels before it is made smaller."""
LETTERS, LINE = 19.0, 26.0
"""Size of letters, and from one line to the next, pixels."""
WIDEST = 1280
PAPER = (246, 242, 233)


def write_compared(
    layers: Sequence[Layer],
    titles: Sequence[str],
    words: str,
    plan: FilmPlan,
    target: Path,
    progress: Progress | None = None,
    *,
    is_over: bool = False,
) -> None:
    """Write the film (MP4); with `is_over` the second of two sides lies over the first.

    Raises:
        BadVideo: a film cannot be read, or lacks a frame.
    """
    panes = layers[:1] if is_over else layers
    widths = [round(HIGH * pane.source.size[0] / pane.source.size[1]) for pane in panes]
    whole = sum(widths) + GAP * (len(widths) - 1)
    shrink = min(1.0, WIDEST / whole)
    high, widths = _even(HIGH * shrink), [_even(width * shrink) for width in widths]
    lefts = [sum(widths[:i]) + GAP * i for i in range(len(widths))]
    ground = _ground(lefts, widths, high, [" / ".join(titles)] if is_over else titles, words)
    with as_bad_video(target.name), av.open(str(target), "w", format="mp4", options={"movflags": "faststart"}) as out:
        stream = out.add_stream("libx264", rate=FPS)
        stream.width, stream.height, stream.pix_fmt = ground.shape[1], ground.shape[0], "yuv420p"
        stream.options = {"preset": "veryfast", "crf": "22", "bf": "0", "g": str(FPS)}
        before: tuple[int, ...] | None = None
        for number, frames in enumerate(plan.pictures):
            if frames != before:
                for i, (pane, left, width) in enumerate(zip(panes, lefts, widths, strict=True)):
                    size = (width, high)
                    ground[:high, left : left + width] = (
                        over(layers[0], layers[1], frames, size) if is_over else beside(pane, frames[i], size)
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
