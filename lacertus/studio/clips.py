"""Scenes → video files as phones make them: constant or variable rate, short or long groups of pictures."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import cast

import av
import numpy as np
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from lacertus.studio.flesh import Part, parts_of
from lacertus.studio.render import Picture, Stage
from lacertus.studio.scene import Scene, truth
from lacertus.studio.stamp import write_stamp

CLOCK = Fraction(1, 90_000)


@dataclass(frozen=True, kw_only=True)
class Recording:
    """How a scene is written: a keyframe every `group` frames, and so many B-frames between."""

    codec: str = "libx264"
    group: int = 30
    b_frames: int = 0
    crf: int = 21
    stamp: bool = True


def even_times(seconds: float, rate: float) -> tuple[float, ...]:
    """Times of frames at a constant rate."""
    return tuple(k / rate for k in range(round(seconds * rate)))


def uneven_times(seconds: float, rate: float, seed: int) -> tuple[float, ...]:
    """Times as a phone's clock gives them in poor light: jitter, and now and then a frame dropped."""
    chance = np.random.default_rng(seed)
    times, clock = [0.0], 0.0
    while clock < seconds:
        clock += (2 if chance.random() < 0.06 else 1) / rate * (1 + float(chance.uniform(-0.12, 0.12)))
        times.append(clock)
    return tuple(times)


def pictures(scene: Scene) -> Iterator[Picture]:
    """Every frame of a scene, drawn."""
    stage = Stage(scene.camera)
    looks = {"performer": scene.performer.look} | ({"partner": scene.partner.look} if scene.partner else {})
    for time_s in scene.times_s:
        joints = scene.joints(time_s)
        figures: list[list[Part]] = [parts_of(joints[body], looks[body]) for body in joints]
        yield stage.draw(figures)


def record(scene: Scene, target: Path, recording: Recording | None = None) -> None:
    """Write a scene as an MP4 file; nothing is left behind when it fails."""
    recording = recording or Recording()
    part = target.with_suffix(".part")
    try:
        with av.open(str(part), "w", format="mp4") as out:
            _encode(scene, out, recording)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def _encode(scene: Scene, out: av.container.OutputContainer, recording: Recording) -> None:
    stream = cast(VideoStream, out.add_stream(recording.codec, rate=30))
    stream.width, stream.height, stream.pix_fmt = scene.camera.width, scene.camera.height, "yuv420p"
    options: dict[str, object] = {"crf": str(recording.crf), "g": str(recording.group), "bf": str(recording.b_frames)}
    stream.options = options | {"preset": "veryfast", "sc_threshold": "0"}
    stream.codec_context.time_base = CLOCK
    stream.time_base = CLOCK
    for number, picture in enumerate(pictures(scene)):
        shown = write_stamp(picture, number) if recording.stamp else picture
        frame = VideoFrame.from_ndarray(np.ascontiguousarray(shown), format="rgb24")
        frame.pts, frame.time_base = round((scene.times_s[number] - scene.times_s[0]) / CLOCK), CLOCK
        out.mux(stream.encode(frame))
    out.mux(stream.encode(None))


def write_truth(scene: Scene, target: Path) -> None:
    """Write `truth.json`: a rep file for each rep, with every landmark in every frame, and every event."""
    target.write_text(json.dumps(truth(scene), separators=(",", ":")), encoding="utf-8")
