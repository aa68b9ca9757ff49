"""Reading a clip: every frame's own time in display order, and the facts that a coach needs."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from statistics import median
from typing import Any

import av
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.packet import Packet
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from lacertus.confined.opened import OpenedFile
from lacertus.video.errors import BadVideo, as_bad_video
from lacertus.video.upright import Shape, shape_of

Progress = Callable[[int, int | None], None]
"""Called with frames done and frames in all (None while unknown)."""

Source = Path | OpenedFile
"""A file by its path, or one that was opened before this process lost the right to open any."""

READ_BYTES = 1 << 17

SLOWEST_TICK_S = Fraction(1, 5)
"""A clock that ticks more slowly is none: a file that says it has no ticks a second is read as one of one."""
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
    mirrored: bool = False


@dataclass(frozen=True, kw_only=True)
class Limits:
    """How much is taken: pixels of a picture, frames, and minutes. None: any."""

    most_pixels: int | None = None
    most_frames: int | None = None
    most_minutes: float | None = None


def inspect_clip(path: Path, progress: Progress | None = None) -> ClipFacts:
    """Read a whole clip.

    Raises:
        BadVideo: it is none, holds no picture, or ends early.
    """
    with as_bad_video(path.name), open_clip(path) as container:
        reader = FrameReader(container, video_stream(container, path.name), path.name)
        shape: Shape | None = None
        for frame in reader:
            shape = shape or shape_of(frame, reader.stream)
            if progress is not None:
                progress(len(reader.times), reader.announced)
        return reader.facts(shape)


def open_clip(source: Source) -> InputContainer:
    """Open a file with the decoder's own network and playlist protocols shut out.

    Raises:
        BadVideo: there is nothing in it.
    """
    if _is_empty(source):
        raise BadVideo(f"{source.name} is empty; send the original file from the phone again")
    formats = {"format_whitelist": "mov,mp4,matroska,webm,avi"}
    if isinstance(source, OpenedFile):
        # Nothing but this file: what it names as lying elsewhere cannot be opened.
        return _input(source.fresh(), formats | {"protocol_whitelist": "none"})
    return _input(str(source), formats | {"protocol_whitelist": "file"})


def _input(source: str | OpenedFile, options: dict[str, str]) -> InputContainer:
    # A title in another encoding is no reason to refuse a film.
    return av.open(source, mode="r", options=options, metadata_errors="replace", buffer_size=READ_BYTES)


def _is_empty(source: Source) -> bool:
    if isinstance(source, OpenedFile):
        return source.size == 0
    return source.is_file() and source.stat().st_size == 0


def video_stream(container: InputContainer, name: str) -> VideoStream:
    """The first video stream that is no cover picture.

    Raises:
        BadVideo: there is none, or it is of a kind that cannot be decoded.
    """
    undecodable = False
    for stream in container.streams.video:
        if int(stream.disposition) & int(av.stream.Disposition.attached_pic):
            continue
        if stream.codec_context is not None:
            stream.thread_type = "AUTO"
            return stream
        undecodable = True
    if undecodable:
        raise BadVideo(f"{name} is compressed in a way that cannot be read here; export it as MP4 (H.264) and send that")
    raise BadVideo(f"{name} holds no picture, only sound; send the video")


def check_limits(reader: FrameReader, limits: Limits) -> None:
    """Refuse a clip over a limit by what its header announces, before any of it is decoded.

    Raises:
        BadVideo: too large a picture, too many frames, or too long.
    """
    width, height = reader.stream.codec_context.width, reader.stream.codec_context.height
    if limits.most_pixels is not None and width * height > limits.most_pixels:
        most = limits.most_pixels / 1e6
        raise BadVideo(f"{reader.name} has {width}×{height} pixels, more than the {most:.1f} million taken here; export it smaller")
    check_length(reader.name, reader.announced, reader.announced_s, limits)


def check_length(name: str, frames: int | None, seconds: float | None, limits: Limits) -> None:
    """Raise BadVideo for more frames or minutes than a limit; None is unknown."""
    if limits.most_frames is not None and frames is not None and frames > limits.most_frames:
        raise BadVideo(f"{name} has more than {limits.most_frames} frames, the most that is taken here; cut it on the phone first")
    if limits.most_minutes is not None and seconds is not None and seconds > 60 * limits.most_minutes:
        raise BadVideo(
            f"{name} lasts more than {limits.most_minutes:g} minutes, the most that is taken here; cut it on the phone first"
        )


class FrameReader:
    """Decodes the frames of a stream in display order and keeps the table of their times.

    A frame that carries the time of the one before it is a duplicate and is left out. Packets of `sound`
    are handed to `take_sound` as they come.
    """

    def __init__(
        self,
        container: InputContainer,
        stream: VideoStream,
        name: str,
        sound: AudioStream | None = None,
        take_sound: Callable[[Packet[Any]], None] | None = None,
    ) -> None:
        self.container, self.stream, self.name = container, stream, name
        self.sound, self.take_sound = sound, take_sound
        self.times: list[Fraction] = []
        self.time_base = stream.time_base or Fraction(1, 90_000)
        if self.time_base > SLOWEST_TICK_S:
            raise BadVideo(f"{name} has a clock that is slower than its pictures; save it again as MP4 and send that")
        self._packets = 0
        self._end = Fraction(0)
        # AVI keeps no display times: packets lie at the times of their slots, and frames come out in display order.
        self._slots: deque[int] | None = deque() if "avi" in container.format.name else None

    def __iter__(self) -> Iterator[VideoFrame]:
        streams = [self.stream] if self.sound is None else [self.stream, self.sound]
        for packet in self.container.demux(streams):
            self._note_end(packet)
            if packet.stream is not self.stream:
                assert self.take_sound is not None
                self.take_sound(packet)
                continue
            self._packets += packet.size > 0
            if self._slots is not None and packet.size > 0 and packet.dts is not None:
                self._slots.append(packet.dts)
            for frame in packet.decode():
                if isinstance(frame, VideoFrame) and self._is_new(frame):
                    yield frame
        self._check_whole()

    def _note_end(self, packet: Packet[Any]) -> None:
        at = packet.pts if packet.pts is not None else packet.dts
        if at is not None and packet.time_base:
            self._end = max(self._end, (at + (packet.duration or 0)) * packet.time_base)

    def _is_new(self, frame: VideoFrame) -> bool:
        ticks = self._slots.popleft() if self._slots else frame.pts
        if ticks is None:
            raise BadVideo(f"{self.name} has frames without a time; save it again as MP4")
        time = ticks * self.time_base
        if self.times and time <= self.times[-1]:
            return False
        self.times.append(time)
        return True

    def _check_whole(self) -> None:
        if not self.times:
            raise BadVideo(f"{self.name} holds no picture that can be read")
        # Matroska announces when it ends, others how long they last: a late start must not be taken for a torn end.
        announced, length, end = self.announced, self.announced_s, float(self._end)
        short_of_frames = announced is not None and self._packets < ENDS_EARLY_SHARE * announced
        short_of_time = length is not None and end < 0.9 * length - 0.5
        if short_of_frames or short_of_time:
            found = f"{self._packets} of {announced} frames" if short_of_frames else f"{end:.1f} of {length:.1f} s"
            raise BadVideo(f"{self.name} ends early: {found} are there; the upload or the copy broke off, send it again")

    @property
    def announced(self) -> int | None:
        """Frames that the file's index lists: those that its edit list shows, not all that lie in it."""
        if self._slots is None and "mov" in self.container.format.name and len(self.stream.index_entries):
            return len(self.stream.index_entries)
        return self.stream.frames or None

    @property
    def announced_s(self) -> float | None:
        duration = self.container.duration
        return None if duration is None else duration / av.time_base

    @property
    def since_first(self) -> Fraction:
        """Seconds from the first frame to the latest."""
        return self.times[-1] - self.times[0]

    def seconds(self) -> tuple[float, ...]:
        """Times of the frames so far, in seconds from 0."""
        return tuple(float(time - self.times[0]) for time in self.times)

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
            mirrored=shape.mirrored,
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


def dropped_frames(pts_s: tuple[float, ...]) -> list[int]:
    """Frames after which the clock left out one or more, by a gap of 1.5 times the usual one."""
    gaps = [after - before for before, after in pairwise(pts_s)]
    if not gaps:
        return []
    usual = median(gaps)
    return [frame for frame, gap in enumerate(gaps) if gap > 1.5 * usual]
