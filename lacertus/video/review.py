"""The review copy: each frame at its own time, quick to step in a browser, and stills out of it.

A keyframe every 12 frames and no B-frames keep a seek at a few milliseconds; the original is kept
untouched beside it.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
from av.container import OutputContainer
from av.filter import Graph
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from lacertus.video.errors import BadVideo, as_bad_video
from lacertus.video.inspect import ClipFacts, FrameReader, Progress, Shape, check_size, open_clip, shape_of, video_stream

KEYFRAME_EVERY = 12
MOST_LINES = 1080
CLOCK = Fraction(1, 90_000)
"""Clock of the review copy: 90 kHz holds every common frame rate to within 6 µs."""

ENCODER: dict[str, object] = {"preset": "veryfast", "crf": "19", "bf": "0", "g": str(KEYFRAME_EVERY), "sc_threshold": "0"}


def make_review_copy(source: Path, target: Path, progress: Progress | None = None, most_pixels: int | None = None) -> ClipFacts:
    """Read a clip once and write its review copy; returns the facts with the frame table.

    `progress` may raise to stop the work; a half-written copy is removed then.

    Raises:
        BadVideo: the source cannot be read, or its picture has more than `most_pixels`.
    """
    try:
        with as_bad_video(source.name):
            return _copy(source, target, progress, most_pixels)
    except BaseException:
        target.unlink(missing_ok=True)
        raise


def _copy(source: Path, target: Path, progress: Progress | None, most_pixels: int | None) -> ClipFacts:
    with open_clip(source) as container, av.open(str(target), "w", format="mp4", options={"movflags": "faststart"}) as out:
        stream = video_stream(container, source.name)
        check_size(stream, source.name, most_pixels)
        reader = FrameReader(container, stream, source.name)
        writer: _Writer | None = None
        for frame in reader:
            if writer is None:
                writer = _Writer(out, shape_of(frame, stream), frame, stream)
            writer.write(frame, reader.pts[-1] - reader.pts[0], reader.time_base)
            if progress is not None:
                progress(len(reader.pts), stream.frames or None)
        if writer is None:
            raise BadVideo(f"{source.name} holds no picture that can be read")
        writer.finish()
        return reader.facts(writer.shape)


class _Writer:
    """Turns decoded frames upright and encodes them at their own times."""

    def __init__(self, out: OutputContainer, shape: Shape, first: VideoFrame, stream: VideoStream) -> None:
        self.out, self.shape = out, shape
        width, height = fitted(shape.width, shape.height)
        self.graph = _upright(first, stream, shape, width, height)
        self.stream = out.add_stream("libx264", rate=stream.average_rate or 30)
        self.stream.width, self.stream.height, self.stream.pix_fmt = width, height, "yuv420p"
        self.stream.options = ENCODER
        self.stream.codec_context.time_base = CLOCK
        self.stream.time_base = CLOCK

    def write(self, frame: VideoFrame, ticks: int, time_base: Fraction) -> None:
        self.graph.push(frame)
        upright = self.graph.pull()
        assert isinstance(upright, VideoFrame)
        upright.pts = round(ticks * time_base / CLOCK)
        upright.time_base = CLOCK
        self.out.mux(self.stream.encode(upright))

    def finish(self) -> None:
        self.out.mux(self.stream.encode(None))


def fitted(width: int, height: int) -> tuple[int, int]:
    """Even picture size with at most 1080 lines on the shorter side, same shape."""
    scale = min(1.0, MOST_LINES / min(width, height))
    return max(round(width * scale / 2) * 2, 2), max(round(height * scale / 2) * 2, 2)


_TURNS = {90: ("transpose=clock",), 180: ("hflip", "vflip"), 270: ("transpose=cclock",), 0: ()}


def _upright(frame: VideoFrame, stream: VideoStream, shape: Shape, width: int, height: int) -> Graph:
    """A filter graph that turns and scales pictures as they are displayed."""
    graph = Graph()
    nodes = [graph.add_buffer(width=frame.width, height=frame.height, format=frame.format, time_base=stream.time_base)]
    for turn in _TURNS[shape.rotation]:
        name, _, argument = turn.partition("=")
        nodes.append(graph.add(name, argument or None))
    nodes.append(graph.add("scale", f"{width}:{height}:flags=bicubic"))
    nodes.append(graph.add("format", "pix_fmts=yuv420p"))
    nodes.append(graph.add("buffersink"))
    graph.link_nodes(*nodes).configure()
    return graph


def write_still(review_copy: Path, time_s: float, target: Path) -> None:
    """Write the frame shown at `time_s` (seconds) of a review copy as a JPEG.

    Raises:
        BadVideo: the copy cannot be read, or ends before that time.
    """
    with as_bad_video(review_copy.name), open_clip(review_copy) as container:
        stream = video_stream(container, review_copy.name)
        assert stream.time_base is not None
        container.seek(max(int(time_s / stream.time_base), 0), stream=stream, backward=True)
        shown = _frame_at(container, stream, time_s)
        if shown is None:
            raise BadVideo(f"{review_copy.name} has no frame at {time_s:.3f} s")
        shown.to_image().save(target, format="JPEG", quality=88)  # type: ignore[no-untyped-call]


def _frame_at(container: av.container.InputContainer, stream: VideoStream, time_s: float) -> VideoFrame | None:
    shown: VideoFrame | None = None
    for frame in container.decode(stream):
        if shown is not None and frame.time is not None and frame.time > time_s:
            break
        shown = frame
    return shown
