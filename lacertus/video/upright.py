"""From decoded pictures to displayed ones: turned, mirrored, brought to square pixels, to size and to ordinary colour."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import cast

import numpy as np
from av.filter import Graph
from av.video.frame import VideoFrame
from av.video.stream import VideoStream
from numpy.typing import NDArray

from lacertus.video.colour import Transfer, ordinary_lut

MOST_LINES = 1080
_TRANSFERS: dict[int, Transfer] = {16: "pq", 18: "hlg"}
_MATRICES = {1: "bt709", 5: "bt470bg", 6: "smpte170m", 9: "bt2020", 10: "bt2020"}
"""Code points of ITU-T H.273 for transfer characteristics and matrix coefficients."""
FULL_RANGE = 2


@dataclass(frozen=True, kw_only=True)
class Shape:
    """How decoded pictures become displayed ones: mirrored left to right first, then turned clockwise by
    `rotation` degrees; and the displayed size in square pixels."""

    rotation: int
    mirrored: bool
    width: int
    height: int

    @property
    def lies_across(self) -> bool:
        return self.rotation in (90, 270)


def shape_of(frame: VideoFrame, stream: VideoStream) -> Shape:
    """Displayed size, rotation and mirroring of a decoded frame."""
    rotation, mirrored = turned_by(display_matrix(frame))
    aspect = stream.sample_aspect_ratio or Fraction(1)
    width = max(round(frame.width * (aspect if aspect > 0 else 1)), 1)
    across = rotation in (90, 270)
    size = (frame.height, width) if across else (width, frame.height)
    return Shape(rotation=rotation, mirrored=mirrored, width=size[0], height=size[1])


def display_matrix(frame: VideoFrame) -> tuple[int, int, int, int]:
    """The file's display matrix as (a, b, c, d): a place (p, q), y down, is shown at (a·p + c·q, b·p + d·q)."""
    data = frame.side_data.get("DISPLAYMATRIX")
    if data is None:
        return 1, 0, 0, 1
    a, b, _, c, d = (int(value) for value in np.frombuffer(bytes(cast(bytes, data)), dtype=np.int32)[:5])
    return a, b, c, d


def turned_by(matrix: tuple[int, int, int, int]) -> tuple[int, bool]:
    """Clockwise rotation (0, 90, 180, 270 degrees) and mirroring of a display matrix; the nearest quarter turn."""
    a, b, c, d = matrix
    mirrored = a * d - b * c < 0
    # The picture's left-to-right axis goes to (a, b); mirrored first, it went to (−a, −b).
    x, y = (-a, -b) if mirrored else (a, b)
    if x == y == 0:
        return 0, False
    return round(np.degrees(np.arctan2(y, x)) / 90) % 4 * 90, mirrored


def fitted(width: int, height: int) -> tuple[int, int]:
    """Even picture size with at most 1080 lines on the shorter side, same shape."""
    scale = min(1.0, MOST_LINES / min(width, height))
    return max(round(width * scale / 2) * 2, 2), max(round(height * scale / 2) * 2, 2)


_TURNS = {0: (), 90: ("transpose=clock",), 180: ("hflip", "vflip"), 270: ("transpose=cclock",)}


class Upright:
    """Makes displayed pictures (yuv420p, BT.709) of the fitted size out of decoded ones.

    A stream that changes its size or its format on the way is followed; the shown size stays that of the first frame.
    """

    def __init__(self, shape: Shape, folder: Path) -> None:
        self.shape, self.folder = shape, folder
        self.size = fitted(shape.width, shape.height)
        self._graph: Graph | None = None
        self._fits: tuple[object, ...] | None = None

    def __call__(self, frame: VideoFrame) -> VideoFrame:
        fits = (frame.width, frame.height, frame.format.name, frame.color_trc, frame.colorspace, frame.color_range)
        if self._graph is None or fits != self._fits:
            self._graph, self._fits = self._build(frame), fits
        self._graph.push(frame)
        upright = self._graph.pull()
        assert isinstance(upright, VideoFrame)
        return upright

    def _build(self, frame: VideoFrame) -> Graph:
        graph = Graph()
        nodes = [graph.add_buffer(width=frame.width, height=frame.height, format=frame.format, time_base=Fraction(1, 90_000))]
        for step in self._steps(frame):
            name, _, arguments = step.partition("=")
            nodes.append(graph.add(name, arguments or None))
        nodes.append(graph.add("buffersink"))
        graph.link_nodes(*nodes).configure()
        return graph

    def _steps(self, frame: VideoFrame) -> list[str]:
        width, height = self.size
        across = self.shape.lies_across
        # Scaled before it is turned: fewer pixels are moved about.
        size = f"{height}:{width}" if across else f"{width}:{height}"
        steps = [] if self._is_ready(frame) else [f"scale={size}:flags=bicubic{self._colours(frame)}", *self._hdr(frame)]
        steps += ["hflip"] if self.shape.mirrored else []
        return [*steps, *_TURNS[self.shape.rotation], "format=pix_fmts=yuv420p"]

    def _is_ready(self, frame: VideoFrame) -> bool:
        """True for a picture that needs no other size or colour."""
        width, height = self.size[::-1] if self.shape.lies_across else self.size
        plain = frame.colorspace in (1, 2) and frame.color_range != FULL_RANGE and frame.color_trc not in _TRANSFERS
        return (frame.width, frame.height, frame.format.name) == (width, height, "yuv420p") and plain

    def _colours(self, frame: VideoFrame) -> str:
        """Colour arguments of the scaler: to ordinary BT.709, or to RGB where brightness must be brought down."""
        found = f":in_color_matrix={_MATRICES.get(frame.colorspace, 'bt709')}"
        found += ":in_range=full" if frame.color_range == FULL_RANGE or frame.format.name.startswith("yuvj") else ""
        if frame.color_trc in _TRANSFERS:
            return found
        return f"{found}:out_color_matrix=bt709:out_range=tv"

    def _hdr(self, frame: VideoFrame) -> list[str]:
        transfer = _TRANSFERS.get(frame.color_trc)
        if transfer is None:
            return []
        lut = self.folder / f"{transfer}.cube"
        lut.write_text(ordinary_lut(transfer), encoding="ascii")
        return ["format=pix_fmts=gbrp10", f"lut3d={lut}", "scale=out_color_matrix=bt709:out_range=tv"]


def brightness(frame: VideoFrame) -> NDArray[np.uint8]:
    """The first plane of a yuv420p picture (lines × columns)."""
    plane = frame.planes[0]
    whole = np.frombuffer(bytes(plane), dtype=np.uint8).reshape(plane.height, plane.line_size)
    return whole[:, : plane.width].copy()
