"""Tracking points through a clip by optical flow, with how unsure they grow, until they are lost.

Pyramidal Lucas–Kanade on a window around each point, tracked to the next frame and back again: where it does not come
back to where it began, it is lost and said to be so (Kalal, Mikolajczyk and Matas 2010, Forward-backward error).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory, TemporaryFile
from typing import IO

import cv2
import numpy as np
from av.video.frame import VideoFrame
from numpy.typing import NDArray

from lacertus.video.errors import BadVideo, as_bad_video
from lacertus.video.inspect import FrameReader, Progress, open_clip, video_stream
from lacertus.video.upright import Upright, brightness, shape_of

WINDOW_PX, LEVELS = 21, 3
"""Side of the window at each level of the pyramid, and how often the picture is halved."""
MOST_BACK_PX = 1.0
"""A point that comes back farther from where it began is lost."""
MOST_CHANGE = 22.0
"""Mean difference of brightness in the window between two frames, of 255, over which it shows something else."""
GROWTH_PX = 0.3
"""What each frame adds to σ in quadrature, beside what the way back tells. From the studio's clips (docs/benchmarks.md)."""
APART_SHARE = 2.5
"""And as a share of how far apart the points around it go: a window that shows a limb and the hall behind follows either."""
MOST_SIGMA_PX = 25.0
"""Over this the point is given up: it could be on any limb."""
_RING = np.array([(0, 0)] + [(9 * np.cos(a), 9 * np.sin(a)) for a in np.arange(8) * np.pi / 4], dtype=np.float32)
MOST_FRAMES = 900
MOST_POINTS = 1000
Grey = NDArray[np.uint8]
_CRITERIA = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 30, 0.01)


@dataclass(frozen=True, kw_only=True)
class Seed:
    """A point to be tracked: what it is called, the frame that it is placed on, pixels of the displayed picture, σ.

    It is not tracked past `first` and `last`, where other points of its landmark are placed.
    """

    name: tuple[str, str]
    frame: int
    x: float
    y: float
    sigma: float
    first: int = 0
    last: int = 1 << 31


@dataclass(frozen=True, kw_only=True)
class TrackedSpot:
    """A tracked point on a frame: pixels and standard deviation of x and of y, pixels."""

    frame: int
    x: float
    y: float
    sigma: float


@dataclass
class Way:
    """Where a seed went, frame by frame, its own frame first; `lost` is the frame in which it could not be followed."""

    seed: Seed
    spots: list[TrackedSpot] = field(default_factory=list)
    lost: int | None = None


@dataclass(frozen=True, kw_only=True)
class Picture:
    """A displayed frame at no more than 1080 lines, and how many displayed pixels one of its pixels is across and down."""

    number: int
    grey: Grey
    scale: tuple[float, float]


def displayed_frames(
    source: Path, first: int, last: int, shown: tuple[int, int] | None = None
) -> Iterator[tuple[int, VideoFrame, tuple[int, int]]]:
    """Numbers, displayed frames at no more than 1080 lines, and the displayed size that their places are told in.

    `shown` is that size where the file is a smaller copy.

    Raises:
        BadVideo: the file cannot be read, or ends before.
    """
    with TemporaryDirectory() as folder, as_bad_video(source.name), open_clip(source) as container:
        reader = FrameReader(container, video_stream(container, source.name), source.name)
        turn: Upright | None = None
        for number, frame in enumerate(reader):
            if turn is None:
                shape = shape_of(frame, reader.stream)
                turn = Upright(shape, Path(folder))
            if number >= first:
                yield number, turn(frame), shown or (shape.width, shape.height)
            if number == last:
                return
        raise BadVideo(f"{source.name} has {len(reader.times)} frames, so there is no frame {last}; nothing was tracked")


def read_pictures(
    source: Path, first: int, last: int, progress: Progress | None = None, shown: tuple[int, int] | None = None
) -> Iterator[Picture]:
    """The brightness of the displayed frames from `first` to `last`, in order; raises as `displayed_frames`."""
    for number, frame, (width, height) in displayed_frames(source, first, last, shown):
        if progress is not None:
            progress(number - first + 1, last - first + 1)
        grey = brightness(frame)
        yield Picture(number=number, grey=grey, scale=(width / grey.shape[1], height / grey.shape[0]))


def check_stretch(first: int, last: int) -> None:
    """Raise BadVideo where a stretch is longer than is gone through at once."""
    if last - first + 1 > MOST_FRAMES:
        raise BadVideo(
            f"points are tracked over at most {MOST_FRAMES} frames at once, not {last - first + 1}; choose a shorter stretch"
        )


def track_seeds(
    source: Path,
    seeds: Sequence[Seed],
    first: int,
    last: int,
    progress: Progress | None = None,
    shown: tuple[int, int] | None = None,
) -> list[Way]:
    """TrackingTask every seed from its own frame to both ends of a stretch, or until it is lost.

    Args:
        source: the clip.
        seeds: points placed on frames of the stretch.
        first, last: the stretch, both ends within it.
        shown: the size of the displayed picture that the seeds are given in, where the file is a smaller copy.

    Raises:
        BadVideo: the clip cannot be read or has no such frames, or the stretch is too long.
    """
    check_stretch(first, last)
    if len(seeds) > MOST_POINTS:
        raise BadVideo(f"at most {MOST_POINTS} points are tracked at once, not {len(seeds)}")
    ahead = [Way(seed=seed, spots=[_placed(seed)]) for seed in seeds]
    back = [Way(seed=seed, spots=[_placed(seed)]) for seed in seeds]
    # Backwards the frames come from the disk, so that a long stretch does not fill the memory.
    with TemporaryFile() as kept:
        pictures = _Kept(read_pictures(source, first, last, progress, shown), kept)
        _follow(pictures, ahead, -1)
        _follow(pictures.backwards(max((seed.frame for seed in seeds), default=first)), back, 1)
    return [_joined(a, b) for a, b in zip(ahead, back, strict=True)]


def _follow(pictures: Iterable[Picture], ways: Sequence[Way], behind: int) -> None:
    """Take every way on from picture to picture, each the neighbour (`behind` frames away) of the one before."""
    before: Picture | None = None
    for now in pictures:
        if before is not None:
            _step(before, now, [way for way in ways if _goes_on(way, now.number, behind)])
        before = now


def _goes_on(way: Way, frame: int, behind: int) -> bool:
    return way.lost is None and way.spots[-1].frame == frame + behind and way.seed.first <= frame <= way.seed.last


def _placed(seed: Seed) -> TrackedSpot:
    return TrackedSpot(frame=seed.frame, x=seed.x, y=seed.y, sigma=seed.sigma)


def _joined(ahead: Way, back: Way) -> Way:
    spots = sorted([*back.spots[1:], *ahead.spots], key=lambda spot: spot.frame)
    return Way(seed=ahead.seed, spots=spots, lost=ahead.lost if ahead.lost is not None else back.lost)


def _step(old: Picture, new: Picture, ways: Sequence[Way]) -> None:
    """Follow points from one frame to the next one, and note which are lost."""
    if not ways:
        return
    across, down = new.scale
    starts = np.array([(way.spots[-1].x / across - 0.5, way.spots[-1].y / down - 0.5) for way in ways], dtype=np.float32)
    around = (starts[:, None, :] + _RING).reshape(-1, 1, 2).astype(np.float32)
    ends, found, change = _flow(old.grey, new.grey, around)
    again, found_back, _ = _flow(new.grey, old.grey, ends)
    height, width = new.grey.shape
    count = len(_RING)
    steps = (ends - around).reshape(-1, count, 2)
    backs = np.hypot(*np.moveaxis((again - around).reshape(-1, count, 2), -1, 0))
    held = (found & found_back).reshape(-1, count).astype(bool)
    for i, way in enumerate(ways):
        end = starts[i] + steps[i, 0]
        inside = 0 <= end[0] < width and 0 <= end[1] < height
        if not (held[i, 0] and inside) or backs[i, 0] > MOST_BACK_PX or change.reshape(-1, count)[i, 0] > MOST_CHANGE:
            way.lost = new.number
            continue
        # Where the skin around goes another way, part of the window shows the hall behind, or another limb.
        known = held[i] & (backs[i] <= MOST_BACK_PX)
        apart = float(np.hypot(*steps[i][known].std(axis=0)))
        grown = max(across, down) * float(np.sqrt(GROWTH_PX**2 + backs[i, 0] ** 2 + (APART_SHARE * apart) ** 2))
        sigma = float(np.hypot(way.spots[-1].sigma, grown))
        if sigma > MOST_SIGMA_PX * max(across, down):
            way.lost = new.number
            continue
        way.spots.append(TrackedSpot(frame=new.number, x=float(end[0] + 0.5) * across, y=float(end[1] + 0.5) * down, sigma=sigma))


def _flow(old: Grey, new: Grey, starts: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.uint8], NDArray[np.float32]]:
    """Where points (n × 1 × 2, pixel centres) go, whether they were found, and how much their windows changed."""
    size = (WINDOW_PX, WINDOW_PX)
    return cv2.calcOpticalFlowPyrLK(old, new, starts, None, winSize=size, maxLevel=LEVELS, criteria=_CRITERIA)


class _Kept:
    """Pictures gone through once forwards, and kept in a file to be gone through backwards."""

    def __init__(self, pictures: Iterator[Picture], file: IO[bytes]) -> None:
        self._pictures, self._file = pictures, file
        self._first: Picture | None = None

    def __iter__(self) -> Iterator[Picture]:
        for picture in self._pictures:
            self._first = self._first or picture
            self._file.write(picture.grey.tobytes())
            yield picture

    def backwards(self, start: int) -> Iterator[Picture]:
        if self._first is None:
            return
        shape = self._first.grey.shape
        size = shape[0] * shape[1]
        for number in range(start, self._first.number - 1, -1):
            self._file.seek((number - self._first.number) * size)
            grey = np.frombuffer(self._file.read(size), dtype=np.uint8).reshape(shape)
            yield Picture(number=number, grey=grey, scale=self._first.scale)
