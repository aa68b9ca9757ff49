"""Work on pictures beside the encoder, in order and on a thread of its own.

Codecs and arithmetic let go of the interpreter's lock, so that both cores are kept busy (docs/benchmarks.md).
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from types import TracebackType

from av.video.frame import VideoFrame

MOST_WAITING = 4
"""So many pictures may wait: memory stays flat where the work is slower than the encoder."""


class InThread:
    """Hands pictures to `work` one after the other; at the end of the block all of them are done.

    An error in the work comes up with the next picture, or at the end.
    """

    def __init__(self, work: Callable[[int, VideoFrame], None]) -> None:
        self._work = work
        self._thread = ThreadPoolExecutor(max_workers=1)
        self._waiting: deque[Future[None]] = deque()

    def __call__(self, number: int, picture: VideoFrame) -> None:
        while len(self._waiting) >= MOST_WAITING:
            self._waiting.popleft().result()
        self._waiting.append(self._thread.submit(self._work, number, picture))

    def __enter__(self) -> InThread:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self._thread.shutdown(wait=True, cancel_futures=kind is not None)
        if kind is None:
            for done in self._waiting:
                done.result()
