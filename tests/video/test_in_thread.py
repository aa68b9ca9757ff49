"""Work beside the encoder: in order, whole at the end, and its errors are not lost."""

from __future__ import annotations

import threading
import time

import pytest
from av.video.frame import VideoFrame

from lacertus.video.intake.in_thread import MOST_WAITING, InThread

PICTURE = VideoFrame(16, 16, "yuv420p")


def test_pictures_are_worked_on_in_order_by_one_other_thread() -> None:
    seen, threads = [], set()

    def work(number: int, _picture: VideoFrame) -> None:
        seen.append(number)
        threads.add(threading.get_ident())

    with InThread(work) as beside:
        for number in range(50):
            beside(number, PICTURE)
    assert seen == list(range(50))
    assert len(threads) == 1
    assert threads != {threading.get_ident()}


def test_no_more_wait_than_may() -> None:
    gate, done = threading.Event(), []

    def work(number: int, _picture: VideoFrame) -> None:
        gate.wait(10)
        done.append(number)

    handed = []

    def hand() -> None:
        with InThread(work) as beside:
            for number in range(20):
                beside(number, PICTURE)
                handed.append(number)

    feeder = threading.Thread(target=hand)
    feeder.start()
    time.sleep(0.3)
    assert len(handed) == MOST_WAITING
    gate.set()
    feeder.join(10)
    assert done == list(range(20))


@pytest.mark.parametrize("fails_at", [3, 19])
def test_an_error_comes_up_with_a_later_picture_or_at_the_end(fails_at: int) -> None:
    def work(number: int, _picture: VideoFrame) -> None:
        if number == fails_at:
            raise RuntimeError("the watching broke")

    def feed() -> None:
        with InThread(work) as beside:
            for number in range(20):
                beside(number, PICTURE)

    with pytest.raises(RuntimeError, match="the watching broke"):
        feed()


def test_a_stop_from_outside_leaves_no_thread() -> None:
    before = threading.active_count()

    def stop() -> None:
        with InThread(lambda _number, _picture: time.sleep(0.02)) as beside:
            beside(0, PICTURE)
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        stop()
    assert threading.active_count() == before
