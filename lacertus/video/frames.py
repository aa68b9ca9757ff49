"""Frames of a review copy by number, asked for in rising order."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Self

import numpy as np
from av.video.frame import VideoFrame
from av.video.stream import VideoStream
from numpy.typing import NDArray

from lacertus.video.errors import BadVideo
from lacertus.video.inspect import open_clip, video_stream


class Frames:
    """A review copy whose frames are asked for in rising order; the last one asked for is kept. To be closed after use."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.container = open_clip(path)
        stream = video_stream(self.container, path.name)
        assert isinstance(stream, VideoStream)
        self.size = (stream.codec_context.width, stream.codec_context.height)
        self._frames: Iterator[VideoFrame] = self.container.decode(stream)
        self._number = -1
        self._shown: NDArray[np.uint8] | None = None

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def frame(self, number: int) -> NDArray[np.uint8]:
        """A frame (height × width × 3, RGB). Raises BadVideo where the copy ends before it."""
        while self._number < number:
            try:
                found = next(self._frames)
            except StopIteration as error:
                raise BadVideo(f"{self.path.name} ends before frame {number}") from error
            self._number += 1
            if self._number == number:
                self._shown = np.asarray(found.to_ndarray(format="rgb24"), dtype=np.uint8)
        assert self._shown is not None
        return self._shown

    def close(self) -> None:
        self.container.close()
