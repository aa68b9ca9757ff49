"""Reading a clip: every frame's own time in display order, and the facts that a coach needs."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from statistics import median

import av
from av.container import InputContainer
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from lacertus.video.errors import BadVideo, as_bad_video

Progress = Callable[[int, int | None], None]
"""Called with frames done and frames in all (None while unknown)."""

ENDS_EARLY_SHARE = 0.97
"""A file that holds less than this share of the frames it announces was cut off."""


@dataclass(frozen=True, kw_only=True)
class ClipFacts:
    """What a file holds. Width and height in pixels as displayed, after rotation; `rotation` in degrees
    clockwise; `pts_s` every frame's own time in seconds from 0, in display order."""

    codec: str
    width: int
    height: int
    rotation: int
    frames: int
    duration_s: float
    nominal_fps: float
    variable_rate: bool
    pts_s: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class Shape:
    """How decoded pictures become displayed ones: clockwise rotation, and the displayed size."""

    rotation: int
    width: int
    height: int


def inspect_clip(path: Path, progress: Progress | None = None) -> ClipFacts:
    """Read a whole clip.

    Raises:
        BadVideo: it is none, holds no picture, or ends early.
    """
    with as_bad_video(path.name), open_clip(path) as container:
        stream = video_stream(container, path.name)
        reader = FrameReader(container, stream, path.name)
        shape: Shape | None = None
        for frame in reader:
            shape = shape or shape_of(frame, stream)
            if progress is not None:
                progress(len(reader.pts), stream.frames or None)
        return reader.facts(shape)


def open_clip(path: Path) -> InputContainer:
    """Open a file with the decoder's own network and playlist protocols shut out.

    Raises:
        BadVideo: there is nothing in it.
    """
    if path.is_file() and path.stat().st_size == 0:
        raise BadVideo(f"{path.name} is empty; send the original file from the phone again")
    options = {"protocol_whitelist": "file", "format_whitelist": "mov,mp4,matroska,webm,avi"}
    return av.open(str(path), mode="r", options=options)


def video_stream(container: InputContainer, name: str) -> VideoStream:
    """The first video stream that is no cover picture.

    Raises:
        BadVideo: there is none.
    """
    for stream in container.streams.video:
        if stream.codec_context is not None and not int(stream.disposition) & int(av.stream.Disposition.attached_pic):
            stream.thread_type = "AUTO"
            return stream
    raise BadVideo(f"{name} holds no picture, only sound; send the video")


def check_size(stream: VideoStream, name: str, most_pixels: int | None) -> None:
    """Refuse a picture that is larger than a limit before any of it is decoded.

    Raises:
        BadVideo: it has more than `most_pixels`.
    """
    width, height = stream.codec_context.width, stream.codec_context.height
    if most_pixels is not None and width * height > most_pixels:
        most = most_pixels / 1e6
        raise BadVideo(f"{name} has {width}×{height} pixels, more than the {most:.1f} million taken here; export it smaller")


class FrameReader:
    """Decodes the frames of a stream in display order and keeps the table of their times.

    A frame that carries the time of the one before it is a duplicate and is left out.
    """

    def __init__(self, container: InputContainer, stream: VideoStream, name: str) -> None:
        self.container, self.stream, self.name = container, stream, name
        self.pts: list[int] = []
        self._packets = 0

    def __iter__(self) -> Iterator[VideoFrame]:
        for packet in self.container.demux(self.stream):
            self._packets += packet.size > 0
            for frame in packet.decode():
                if isinstance(frame, VideoFrame) and self._is_new(frame):
                    yield frame
        self._check_whole()

    def _is_new(self, frame: VideoFrame) -> bool:
        if frame.pts is None:
            raise BadVideo(f"{self.name} has frames without a time; save it again as MP4")
        if self.pts and frame.pts <= self.pts[-1]:
            return False
        self.pts.append(frame.pts)
        return True

    def _check_whole(self) -> None:
        if not self.pts:
            raise BadVideo(f"{self.name} holds no picture that can be read")
        announced, length = self.stream.frames, self._announced_s()
        short_of_frames = announced and self._packets < ENDS_EARLY_SHARE * announced
        short_of_time = length is not None and self._end_s() < 0.9 * length - 0.5
        if short_of_frames or short_of_time:
            found = f"{self._packets} of {announced} frames" if short_of_frames else f"{self._end_s():.1f} of {length:.1f} s"
            raise BadVideo(f"{self.name} ends early: {found} are there; the upload or the copy broke off, send it again")

    def _announced_s(self) -> float | None:
        duration = self.container.duration
        return None if duration is None else duration / av.time_base

    def _end_s(self) -> float:
        start = self.container.start_time or 0
        return float(self.pts[-1] * self.time_base) - start / av.time_base

    @property
    def time_base(self) -> Fraction:
        return self.stream.time_base or Fraction(1, 90_000)

    def seconds(self) -> tuple[float, ...]:
        """Times of the frames so far, in seconds from 0."""
        return tuple(float((pts - self.pts[0]) * self.time_base) for pts in self.pts)

    def facts(self, shape: Shape | None) -> ClipFacts:
        if shape is None:
            raise BadVideo(f"{self.name} holds no picture that can be read")
        seconds = self.seconds()
        gaps = [after - before for before, after in pairwise(seconds)]
        usual = median(gaps) if gaps else float(1 / (self.stream.average_rate or 30))
        variable = is_variable(gaps, float(self.time_base))
        even = seconds[-1] / len(gaps) if gaps and not variable else usual
        return ClipFacts(
            codec=self.stream.codec_context.codec.canonical_name,
            width=shape.width,
            height=shape.height,
            rotation=shape.rotation,
            frames=len(seconds),
            duration_s=seconds[-1] + usual,
            nominal_fps=round(1 / even, 3),
            variable_rate=variable,
            pts_s=seconds,
        )


def is_variable(gaps: list[float], tick_s: float) -> bool:
    """True when the gaps between frames (seconds) differ by more than the file's clock rounds."""
    if not gaps:
        return False
    usual = median(gaps)
    return max(abs(gap - usual) for gap in gaps) > max(1.01 * tick_s, 0.005 * usual)


def shape_of(frame: VideoFrame, stream: VideoStream) -> Shape:
    """Displayed size and rotation of a decoded frame, brought to square pixels."""
    rotation = round(-frame.rotation / 90) % 4 * 90
    aspect = stream.sample_aspect_ratio or Fraction(1)
    width = max(round(frame.width * (aspect if aspect > 0 else 1)), 1)
    if rotation in (90, 270):
        return Shape(rotation=rotation, width=frame.height, height=width)
    return Shape(rotation=rotation, width=width, height=frame.height)
