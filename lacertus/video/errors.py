"""PyAV's, OpenCV's and the system's errors turned into ours, at one boundary."""

from __future__ import annotations

import errno
from collections.abc import Iterator
from contextlib import contextmanager

import av.error
import cv2

from lacertus.core.errors import BadInput, LacertusError


class BadVideo(BadInput):
    """This file cannot be read as a video. Nothing was stored."""


class DiskFull(LacertusError):
    """The disk on which clips are read is full. The original is kept: free some room, then try “Read again”."""


@contextmanager
def as_bad_video(name: str) -> Iterator[None]:
    """Turn whatever PyAV, OpenCV or the system raises inside into BadVideo.

    Raises:
        BadVideo: with what is wrong with the file and what to do.
    """
    try:
        yield
    except cv2.error as error:
        raise BadVideo(f"a picture of {name} could not be worked on; the original is kept: try again") from error
    except FileNotFoundError as error:
        raise BadVideo(f"{name}: there is no such file") from error
    except IsADirectoryError as error:
        raise BadVideo(f"{name} is a folder, not a video") from error
    except av.error.FFmpegError as error:
        if error.errno == errno.ENOMEM:
            raise BadVideo(f"{name} needs more memory to read than is allowed here; export it smaller or cut it first") from error
        raise BadVideo(
            f"{name} is not a video that can be read, or it is damaged ({error.strerror or error}); "
            "send the original file from the phone again"
        ) from error
    except OSError as error:
        raise BadVideo(f"{name} cannot be read: {error.strerror or 'the system refused'}") from error
    except ValueError as error:
        # What a library says of its own insides helps nobody; it stands in the log.
        raise BadVideo(f"{name} is damaged in a way that cannot be read; send the original file from the phone again") from error
