"""The review copy: each frame at its own time, quick to step in a browser, and stills out of it.

A keyframe every 12 frames and no B-frames keep a seek at a few milliseconds; the original is kept
untouched beside it.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from av.container import InputContainer, OutputContainer
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from lacertus.video.errors import BadVideo, as_bad_video
from lacertus.video.inspect import open_clip, video_stream

KEYFRAME_EVERY = 12
CLOCK = Fraction(1, 90_000)
"""Clock of the review copy: 90 kHz holds every common frame rate to within 6 µs."""

ENCODER: dict[str, object] = {"preset": "veryfast", "crf": "19", "bf": "0", "g": str(KEYFRAME_EVERY), "sc_threshold": "0"}
BT709 = 1


class ReviewWriter:
    """Encodes displayed pictures at their own times."""

    def __init__(
        self, out: OutputContainer, size: tuple[int, int], rate: Fraction | None, stream: VideoStream | None = None
    ) -> None:
        self.out = out
        self.stream = stream or out.add_stream("libx264", rate=rate or 30)
        self.stream.width, self.stream.height = size
        self.stream.pix_fmt = "yuv420p"
        self.stream.options = ENCODER
        context = self.stream.codec_context
        context.time_base, self.stream.time_base = CLOCK, CLOCK
        context.color_primaries = context.color_trc = context.colorspace = BT709

    def write(self, picture: VideoFrame, since_first: Fraction) -> None:
        """One picture, so many seconds after the first."""
        picture.pts, picture.time_base = round(since_first / CLOCK), CLOCK
        self.out.mux(self.stream.encode(picture))

    def finish(self) -> None:
        self.out.mux(self.stream.encode(None))


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


def _frame_at(container: InputContainer, stream: VideoStream, time_s: float) -> VideoFrame | None:
    shown: VideoFrame | None = None
    for frame in container.decode(stream):
        if shown is not None and frame.time is not None and frame.time > time_s:
            break
        shown = frame
    return shown
