"""A part of a review copy as a film of its own: the same pictures, nothing encoded anew."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

import av
from av.packet import Packet
from av.video.stream import VideoStream

from lacertus.video.errors import BadVideo, as_bad_video
from lacertus.video.inspect import open_clip, video_stream
from lacertus.video.review_copy import CLOCK


def first_of(review_copy: Path, first: int) -> int:
    """The frame at which an excerpt begins that is to show frame `first`: the keyframe at or before it.

    Raises:
        BadVideo: the copy cannot be read, or ends before that frame.
    """
    with as_bad_video(review_copy.name), open_clip(review_copy) as container:
        stream = _stream(container, review_copy.name)
        start = 0
        for number, packet in enumerate(_packets(container, stream)):
            if packet.is_keyframe:
                start = number
            if number == first:
                return start
    raise BadVideo(f"{review_copy.name} ends before frame {first}")


def write_excerpt(review_copy: Path, target: Path, start: int, times_s: Sequence[float]) -> None:
    """Write the frames of a review copy from a keyframe on as an MP4 without sound.

    Args:
        review_copy: the clip; it has no frames that are shown in another order than they are stored.
        target: the file that is written.
        start: the keyframe that comes first (`first_of`).
        times_s: when each frame is shown, seconds from the first; as many frames as times are written.

    Raises:
        BadVideo: the copy cannot be read, `start` is no keyframe of it, or it ends too early.
    """
    written = 0
    with as_bad_video(review_copy.name), open_clip(review_copy) as container:
        stream = _stream(container, review_copy.name)
        with av.open(str(target), "w", format="mp4", options={"movflags": "faststart"}) as out:
            copy = out.add_stream_from_template(stream)
            for number, packet in enumerate(_packets(container, stream)):
                if number < start:
                    continue
                if number == start and not packet.is_keyframe:
                    raise BadVideo(f"{review_copy.name} has no keyframe at {start}")
                if written == len(times_s):
                    break
                packet.stream, packet.time_base = copy, CLOCK
                packet.pts = packet.dts = round(times_s[written] / CLOCK)
                out.mux(packet)
                written += 1
    if written < len(times_s):
        raise BadVideo(f"{review_copy.name} ends before the excerpt does")


def _stream(container: av.container.InputContainer, name: str) -> VideoStream:
    found = video_stream(container, name)
    assert isinstance(found, VideoStream)
    return found


def _packets(container: av.container.InputContainer, stream: VideoStream) -> Iterator[Packet[VideoStream]]:
    """The frames as they are stored; the last packet of a demuxer is empty."""
    return (packet for packet in container.demux(stream) if packet.size)
