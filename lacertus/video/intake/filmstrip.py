"""Small pictures along the strand at several zooms, laid out in sheets.

Level 0 has one picture every few frames; each further level has one of four of the level before. A sheet
is a JPEG of 10 × 10 pictures, so that a browser fetches few files and never all of a long clip.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from lacertus.core.clips.film import Film, Level

LINES = 90
ACROSS, DOWN = 10, 10
COARSER = 4
LEVELS = 6
PICTURES_A_SECOND = 8.0
"""Of the finest level, by the file's clock."""
FEWEST = 12
"""A level with fewer pictures than this is not kept, as long as a finer one is there."""
QUALITY = 72

RGB = NDArray[np.uint8]


def sheet_name(level: int, sheet: int) -> str:
    return f"film-{level}-{sheet}.jpg"


def picture_size(width: int, height: int) -> tuple[int, int]:
    """Size of a small picture of a clip, even sides."""
    return max(round(width * LINES / height / 2) * 2, 16), LINES


class _LevelWriter:
    """Fills a sheet, writes it when it is full, and starts the next."""

    def __init__(self, folder: Path, level: int, step: int, size: tuple[int, int]) -> None:
        self.folder, self.level, self.step = folder, level, step
        self.size = size
        self.pictures = 0
        self._sheet = self._blank()

    def _blank(self) -> RGB:
        return np.zeros((DOWN * self.size[1], ACROSS * self.size[0], 3), dtype=np.uint8)

    def add(self, picture: RGB) -> None:
        at = self.pictures % (ACROSS * DOWN)
        if at == 0 and self.pictures:
            self._write(self.pictures // (ACROSS * DOWN) - 1, self._sheet)
            self._sheet = self._blank()
        row, column = divmod(at, ACROSS)
        width, height = self.size
        self._sheet[row * height : (row + 1) * height, column * width : (column + 1) * width] = picture
        self.pictures += 1

    def finish(self) -> Level:
        sheets = -(-self.pictures // (ACROSS * DOWN))
        if sheets:
            on_last = self.pictures - (sheets - 1) * ACROSS * DOWN
            rows, columns = -(-on_last // ACROSS), min(on_last, ACROSS)
            # A last sheet of fewer rows; columns only where it is the one row there is.
            self._write(sheets - 1, self._sheet[: rows * self.size[1], : (columns if rows == 1 else ACROSS) * self.size[0]])
        return Level(step=self.step, pictures=self.pictures, sheets=sheets)

    def _write(self, number: int, sheet: RGB) -> None:
        # The cast is OpenCV's order of colours: blue first.
        done, data = cv2.imencode(".jpg", sheet[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
        assert done
        (self.folder / sheet_name(self.level, number)).write_bytes(data.tobytes())

    def drop(self) -> None:
        for path in self.folder.glob(f"film-{self.level}-*.jpg"):
            path.unlink()


class FilmWriter:
    """Takes every frame's number in turn, says which are wanted, and writes the sheets."""

    def __init__(self, folder: Path, size: tuple[int, int], fps: float) -> None:
        self.size = size
        finest = max(round(fps / PICTURES_A_SECOND), 1)
        self._levels = [_LevelWriter(folder, n, finest * COARSER**n, size) for n in range(LEVELS)]

    def wants(self, frame: int) -> bool:
        return frame % self._levels[0].step == 0

    def add(self, frame: int, picture: RGB) -> None:
        """`picture`: height × width × 3, RGB, of the film's picture size."""
        for level in self._levels:
            if frame % level.step == 0:
                level.add(picture)

    def finish(self) -> Film:
        done = [level.finish() for level in self._levels]
        kept = [level for n, level in enumerate(done) if n == 0 or level.pictures >= FEWEST]
        for writer in self._levels[len(kept) :]:
            writer.drop()
        return Film(width=self.size[0], height=self.size[1], levels=tuple(kept))
