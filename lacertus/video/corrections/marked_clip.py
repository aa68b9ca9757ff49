"""The marked clip: corrected reps with their marks burned in, slowed, standing still where a correction is to be read.

Thirty pictures a second, H.264 without B-frames and AAC, so that every browser plays it; captions lie beside it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.container import OutputContainer
from av.video.frame import VideoFrame
from numpy.typing import NDArray

from lacertus.core.corrections.marked_clip import MarkedClipPlan, Step
from lacertus.core.corrections.shapes import Shape
from lacertus.video.corrections.drawing import Picture, burn
from lacertus.video.corrections.voice import SAMPLE_HZ
from lacertus.video.errors import as_bad_video
from lacertus.video.frames import Frames
from lacertus.video.inspect import Progress

FPS = 30
LARGEST_SIDE = 1280
"""A larger film is made smaller: it goes to a phone."""
BLOCK = 1024


@dataclass(frozen=True, kw_only=True)
class Drawn:
    """A correction in the picture: its cue, and its shapes by frame of the clip."""

    cue: str
    shapes: Mapping[int, Sequence[Shape]]


def write_marked(
    review_copy: Path,
    target: Path,
    plan: MarkedClipPlan,
    corrections: Mapping[str, Drawn],
    voices: Mapping[str, NDArray[np.float32]],
    progress: Progress | None = None,
) -> None:
    """Write the marked clip (MP4).

    Args:
        review_copy: the clip, with a frame for each that the plan names.
        corrections: what is drawn, by the keys of the plan.
        voices: samples (mono, 48 kHz) that are heard from where a correction's picture stops.

    Raises:
        BadVideo: the copy cannot be read or lacks a frame.
    """
    total = max(round(plan.length_s * FPS), 1)
    with as_bad_video(review_copy.name), av.open(str(target), "w", format="mp4", options={"movflags": "faststart"}) as out:
        source = Frames(review_copy)
        size = _size(source.size)
        stream = out.add_stream("libx264", rate=FPS)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.options = {"preset": "veryfast", "crf": "22", "bf": "0", "g": str(FPS)}
        sound = out.add_stream("aac", rate=SAMPLE_HZ, layout="mono") if voices else None
        last: tuple[Step, VideoFrame] | None = None
        for number in range(total):
            step = plan.step_at(number / FPS)
            if last is None or last[0] is not step:
                last = step, _picture(source.frame(step.frame), step, corrections, size)
            picture = last[1]
            picture.pts, picture.time_base = number, Fraction(1, FPS)
            out.mux(stream.encode(picture))
            if progress is not None:
                progress(number + 1, total)
        out.mux(stream.encode(None))
        if isinstance(sound, AudioStream):
            _speak(out, sound, plan, voices, total / FPS)
        source.close()


def _picture(picture: Picture, step: Step, corrections: Mapping[str, Drawn], size: tuple[int, int]) -> VideoFrame:
    shown = [corrections[key] for key in step.shown if key in corrections]
    if shown:
        shapes = [shape for one in shown for shape in one.shapes.get(step.frame, ())]
        picture = burn(picture, shapes, list(dict.fromkeys(one.cue for one in shown)))
    frame = VideoFrame.from_ndarray(picture, format="rgb24")
    return frame.reformat(width=size[0], height=size[1], format="yuv420p")


def _size(size: tuple[int, int]) -> tuple[int, int]:
    """Even, and not larger than a phone needs."""
    shrink = min(1.0, LARGEST_SIDE / max(size))
    width, height = (max(2, 2 * round(side * shrink / 2)) for side in size)
    return width, height


def _speak(
    out: OutputContainer, stream: AudioStream, plan: MarkedClipPlan, voices: Mapping[str, NDArray[np.float32]], length_s: float
) -> None:
    """Silence with each voice from where its picture stops."""
    samples = np.zeros(round(length_s * SAMPLE_HZ), dtype=np.float32)
    for spoken in plan.spoken:
        voice = voices.get(spoken.key)
        if voice is not None:
            first = round(spoken.stops_s * SAMPLE_HZ)
            fits = samples[first : first + voice.size]
            fits += voice[: fits.size]
    samples = np.clip(samples, -1, 1)
    for first in range(0, samples.size, BLOCK):
        frame = AudioFrame.from_ndarray(np.ascontiguousarray(samples[None, first : first + BLOCK]), format="fltp", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = SAMPLE_HZ, first, Fraction(1, SAMPLE_HZ)
        out.mux(stream.encode(frame))
    out.mux(stream.encode(None))
