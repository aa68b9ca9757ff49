"""Reading a clip in a process of its own, with limits on memory and time: a hostile or broken file can end only that.

It says how far it is in lines of JSON; what it found lies in `reading.json` when it ends well.
"""

from __future__ import annotations

import shutil
from dataclasses import asdict
from pathlib import Path
from typing import Any

import structlog
from pydantic import TypeAdapter, ValidationError

from lacertus.confined.runner import Bounds, Ended, StoodStill, TookTooLong, run_confined
from lacertus.video.errors import BadVideo, DiskFull
from lacertus.video.inspect import Limits, Progress
from lacertus.video.intake.reading import MADE, RESULT, REVIEW, Reading

__all__ = ["Bounds", "read_apart"]
log = structlog.get_logger()
MODULE = "lacertus.video.intake.child"
LEAST_FREE_BYTES = 1 << 20
"""With less room than this a reader that failed is taken to have had too little: what it makes of a clip is larger."""
LARGEST_RESULT_BYTES = 50_000_000
_READING = TypeAdapter(Reading)


def read_apart(
    source: Path, folder: Path, limits: Limits, bounds: Bounds, progress: Progress | None = None, *, name: str | None = None
) -> Reading:
    """Read a clip as `reading.read_whole` does, in another process; what it makes lies in `folder` afterwards.

    `progress` may raise to stop the work: the process is ended then, and nothing of it goes on. `name` is what people call the
    file; no path is made of it.

    Raises:
        BadVideo: the file cannot be read, is over a limit, or made the reader end.
        DiskFull: there was no room for what is made of it.
    """
    name = name or source.name
    said = _Said(progress)
    request = {"name": name, "limits": asdict(limits)}
    try:
        with run_confined(MODULE, source, request, folder, bounds, said) as ended:
            failed = said.refused is not None or ended.code != 0
            if failed and shutil.disk_usage(ended.folder).free < LEAST_FREE_BYTES:
                # Whatever the reader says of the file then: it had no room to write.
                raise DiskFull()
            if said.refused is not None:
                raise BadVideo(said.refused)
            if ended.code != 0 or not _taken(ended, folder):
                log.warning("reader ended", code=ended.code, complaint=ended.complaint())
                raise BadVideo(_why(ended, name))
    except TookTooLong as error:
        raise BadVideo(
            f"{name} took longer than {bounds.most_seconds / 60:.0f} minutes to read and was given up; cut it on the phone first"
        ) from error
    except StoodStill as error:
        raise BadVideo(
            f"{name} stands still while it is read, so it was given up; it may be damaged: send the original again"
        ) from error
    return _reading(folder / RESULT, name)


def _taken(ended: Ended, folder: Path) -> bool:
    """Copy what was made into the folder; False where something that belongs to it is missing."""
    wanted = [RESULT, REVIEW, *ended.names(*MADE)]
    return all(ended.take(made, folder / made) for made in wanted)


def _reading(result: Path, name: str) -> Reading:
    try:
        if result.stat().st_size <= LARGEST_RESULT_BYTES:
            return _READING.validate_json(result.read_bytes())
    except ValidationError as error:
        raise BadVideo(f"{name} made the reader fail; it is damaged: export it as MP4 and send that") from error
    raise BadVideo(f"{name} made the reader fail; it is damaged: export it as MP4 and send that")


class _Said:
    """What the process says: how far it is, and why it refuses the file."""

    def __init__(self, progress: Progress | None) -> None:
        self.refused: str | None = None
        self._progress = progress

    def __call__(self, said: dict[str, Any]) -> None:
        if "refused" in said:
            self.refused = str(said["refused"])
            return
        done, expected = int(said["done"]), said["of"]
        if self._progress is not None:
            self._progress(done, None if expected is None else int(expected))


def _why(ended: Ended, name: str) -> str:
    if ended.was_killed:
        return f"{name} needs more memory or time to read than is allowed here; export it smaller or cut it first"
    return (
        f"{name} made the reader fail (code {ended.code}); it is damaged or of a kind that cannot be read here: "
        "export it as MP4 and send that"
    )
