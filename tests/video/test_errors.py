"""PyAV's and the system's errors become ours at one boundary: all of them, with the file's name and what to do."""

from __future__ import annotations

import inspect

import av.error
import cv2
import pytest

from lacertus.core.errors import BadInput
from lacertus.video.errors import BadVideo, as_bad_video

FFMPEG = [kind for _, kind in inspect.getmembers(av.error, inspect.isclass) if issubclass(kind, av.error.FFmpegError)]


@pytest.mark.parametrize("kind", FFMPEG, ids=lambda kind: kind.__name__)
def test_every_error_of_pyav_becomes_a_bad_video(kind: type[av.error.FFmpegError]) -> None:
    with pytest.raises(BadVideo, match=r"^kick\.mp4") as error, as_bad_video("kick.mp4"):
        raise kind(1, "it broke", "kick.mp4")
    assert isinstance(error.value, BadInput)
    assert error.value.__cause__ is not None


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (FileNotFoundError(2, "gone"), "there is no such file"),
        (IsADirectoryError(21, "folder"), "is a folder"),
        (PermissionError(13, "denied"), "cannot be read"),
        (ValueError("odd"), "damaged in a way"),
        (cv2.error("-215:Assertion failed"), "could not be worked on"),
        (UnicodeDecodeError("utf-8", b"\xff", 0, 1, "invalid start byte"), "damaged in a way"),
    ],
    ids=lambda value: type(value).__name__ if isinstance(value, Exception) else "",
)
def test_what_the_system_raises_becomes_a_bad_video(error: Exception, words: str) -> None:
    with pytest.raises(BadVideo, match=words), as_bad_video("kick.mp4"):
        raise error


def test_no_reason_speaks_of_the_insides_of_a_library() -> None:
    with pytest.raises(BadVideo) as error, as_bad_video("kick.mp4"):
        b"\xff".decode("utf-8")
    assert "codec" not in str(error.value)


def test_our_own_errors_pass_as_they_are() -> None:
    with pytest.raises(BadVideo, match="as it is"), as_bad_video("kick.mp4"):
        raise BadVideo("as it is")


def test_a_stop_is_no_bad_video() -> None:
    with pytest.raises(KeyboardInterrupt), as_bad_video("kick.mp4"):
        raise KeyboardInterrupt
