"""Files of every kind that phones and their owners send: small films of numbered frames, and what is true of each."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.frame import VideoFrame
from av.video.stream import VideoStream
from numpy.typing import NDArray

from lacertus.studio.picture.stamp import write_stamp

FRAMES = 72
SIZE = (360, 270)
CLOCK = Fraction(1, 90_000)


def even(fps: float, frames: int = FRAMES) -> tuple[float, ...]:
    return tuple(k / fps for k in range(frames))


def uneven() -> tuple[float, ...]:
    """A phone's clock in poor light: no two gaps alike, and every ninth frame left out."""
    chance = np.random.default_rng(4)
    gaps = (1 + 0.12 * chance.uniform(-1, 1, FRAMES)) / 30
    gaps[::9] *= 2
    return tuple(np.concatenate(([0.0], np.cumsum(gaps)))[:FRAMES].tolist())


def ramped() -> tuple[float, ...]:
    """Captured at 240 frames a second throughout; the middle third plays eight times slower."""
    gaps = np.full(3 * FRAMES, 1 / 240)
    gaps[FRAMES : 2 * FRAMES] = 1 / 30
    return tuple(np.concatenate(([0.0], np.cumsum(gaps)))[:-1].tolist())


@dataclass(frozen=True, kw_only=True)
class Kind:
    """How a file is made, and what must be read from it. `size` is the coded size; `shown` the displayed one."""

    suffix: str
    codec: str
    times: tuple[float, ...] = even(30)
    pixels: str = "yuv420p"
    size: tuple[int, int] = SIZE
    shown: tuple[int, int] = SIZE
    options: dict[str, str] = field(default_factory=dict)
    muxer: dict[str, str] = field(default_factory=dict)
    sound: str | None = None
    prepare: Callable[[VideoStream], None] | None = None
    starts_s: float = 0.0
    rotation: int = 0
    mirrored: bool = False
    repeats: int = 0
    metadata: dict[str, str] = field(default_factory=dict)
    skipped: int = 0
    """Frames before the start that an edit list hides."""


def _turned(degrees: int, mirror: bool = False) -> Callable[[VideoStream], None]:
    return lambda stream: stream.set_display_rotation(-degrees, hflip=mirror)


def _wide_pixels(stream: VideoStream) -> None:
    stream.codec_context.sample_aspect_ratio = Fraction(4, 3)


def _hlg(stream: VideoStream) -> None:
    context = stream.codec_context
    context.color_primaries, context.color_trc, context.colorspace = 9, 18, 9


QUICK = {"preset": "ultrafast"}
VP9 = {"deadline": "realtime", "cpu-used": "8"}
H264 = {"preset": "veryfast", "bf": "2", "g": "60"}
KINDS: dict[str, Kind] = {
    "mp4-h264-b-frames": Kind(suffix="mp4", codec="libx264", options=H264, sound="aac"),
    "mp4-h264-uneven": Kind(suffix="mp4", codec="libx264", options=H264, times=uneven()),
    "mp4-h264-turned": Kind(suffix="mp4", codec="libx264", shown=SIZE[::-1], options=QUICK, rotation=90, prepare=_turned(90)),
    "mov-h264-mirrored": Kind(suffix="mov", codec="libx264", options=QUICK, mirrored=True, prepare=_turned(0, mirror=True)),
    "mp4-h264-wide-pixels": Kind(suffix="mp4", codec="libx264", shown=(480, 270), options=QUICK, prepare=_wide_pixels),
    "mp4-h264-edit-list": Kind(suffix="mp4", codec="libx264", options=H264, skipped=5, muxer={"avoid_negative_ts": "disabled"}),
    "mov-hevc": Kind(suffix="mov", codec="libx265", options=QUICK, sound="pcm_s16le"),
    "mp4-hevc-10-bit-hlg": Kind(suffix="mp4", codec="libx265", pixels="yuv420p10le", options=QUICK, prepare=_hlg),
    "mp4-h264-240-fps": Kind(suffix="mp4", codec="libx264", options=QUICK, times=even(240)),
    "mp4-h264-slowed": Kind(
        suffix="mp4", codec="libx264", options=QUICK, muxer={"movflags": "use_metadata_tags"},
        metadata={"com.android.capture.fps": "240.000000"},
    ),
    "mp4-h264-ramped": Kind(suffix="mp4", codec="libx264", options=QUICK, times=ramped()),
    "mp4-h264-repeats": Kind(suffix="mp4", codec="libx264", options=QUICK | {"crf": "10"}, repeats=10),
    "webm-vp9-odd-size": Kind(suffix="webm", codec="libvpx-vp9", size=(361, 271), shown=(361, 271), options=VP9, sound="libopus"),
    "mkv-vp9-late-start": Kind(suffix="mkv", codec="libvpx-vp9", starts_s=2.5, options=VP9),
    "mkv-h264": Kind(suffix="mkv", codec="libx264", options=H264, sound="mp3"),
    "mkv-av1": Kind(suffix="mkv", codec="libsvtav1", options={"preset": "12"}),
    "mp4-av1": Kind(suffix="mp4", codec="libsvtav1", options={"preset": "12"}),
    "avi-mjpeg": Kind(suffix="avi", codec="mjpeg", pixels="yuvj420p", size=(359, 269), shown=(359, 269), options={"q:v": "3"}),
    "avi-mpeg4": Kind(suffix="avi", codec="mpeg4", options={"b": "2000000"}, sound="pcm_s16le"),
    "avi-h264-b-frames": Kind(suffix="avi", codec="libx264", options=H264),
    "mov-mjpeg": Kind(suffix="mov", codec="mjpeg", pixels="yuvj420p"),
}  # fmt: skip


def make(kind: Kind, path: Path) -> Path:
    """Write a film of a kind."""
    with av.open(str(path), "w", options=kind.muxer) as out:
        out.metadata.update(kind.metadata)
        fps = Fraction(1 / (kind.times[1] - kind.times[0])).limit_denominator(1000)
        stream = out.add_stream(kind.codec, rate=fps)
        assert isinstance(stream, VideoStream)
        stream.width, stream.height, stream.pix_fmt = *kind.size, kind.pixels
        stream.options = dict(kind.options)
        # AVI counts in frames, and knows no other clock.
        clock = 1 / fps if kind.suffix == "avi" else CLOCK
        stream.codec_context.time_base = stream.time_base = clock
        if kind.prepare is not None:
            kind.prepare(stream)
        if kind.sound is not None:
            _add_sound(out, kind)
        for number, time in enumerate(_all_times(kind)):
            frame = VideoFrame.from_ndarray(_coded(kind, number - kind.skipped), format="rgb24")
            if kind.pixels == "yuv420p10le":
                frame = frame.reformat(format="yuv420p10le", dst_colorspace=9)
            frame.pts, frame.time_base = round((time + kind.starts_s) / clock), clock
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def _all_times(kind: Kind) -> Sequence[float]:
    gap = kind.times[1]
    return [*(-gap * k for k in range(kind.skipped, 0, -1)), *kind.times]


def picture(number: int, size: tuple[int, int] = SIZE) -> NDArray[np.uint8]:
    """A frame as it should be shown: its number, and something that moves."""
    width, height = size
    ground = np.full((height, width, 3), (120, 110, 90), dtype=np.uint8)
    ground[:, :: max(width // 8, 1)] = 90
    left = 20 + (number * 5) % max(width - 90, 1)
    ground[height // 2 : height // 2 + 60, left : left + 50] = (40, 60, 140)
    return write_stamp(ground, number)


def _coded(kind: Kind, number: int) -> NDArray[np.uint8]:
    """A frame as it is stored, so that it is shown upright once it is turned, mirrored and stretched."""
    if kind.repeats and number > 0 and number % kind.repeats == 0:
        number -= 1
    if number < 0:
        return np.zeros((kind.size[1], kind.size[0], 3), dtype=np.uint8)
    shown = picture(number, kind.shown)
    if kind.mirrored:
        shown = shown[:, ::-1]
    turned = np.rot90(shown, kind.rotation // 90)
    if (turned.shape[1], turned.shape[0]) != kind.size:
        wide = np.linspace(0, turned.shape[1] - 1, kind.size[0]).round().astype(int)
        turned = turned[:, wide]
    return np.ascontiguousarray(turned)


def _add_sound(out: Any, kind: Kind) -> None:
    """A hum with two knocks, at half a second and at one and a half."""
    rate = 44_100 if kind.sound != "libopus" else 48_000
    sound = out.add_stream(kind.sound, rate=rate, layout="stereo")
    length = kind.times[-1]
    time = np.arange(round(length * rate)) / rate
    wave = 0.01 * np.sin(2 * np.pi * 120 * time)
    for knock in KNOCKS_S:
        after = np.clip(time - knock, 0, None)
        wave += np.where(time >= knock, 0.6 * np.exp(-after / 0.03) * np.sin(2 * np.pi * 900 * after), 0)
    both = np.repeat((wave * 30_000).astype(np.int16), 2)[None, :]
    for first in range(0, both.shape[1], 2048):
        frame = av.AudioFrame.from_ndarray(both[:, first : first + 2048], format="s16", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = rate, first // 2, Fraction(1, rate)
        out.mux(sound.encode(frame))
    out.mux(sound.encode(None))


KNOCKS_S = (0.5, 1.5)
