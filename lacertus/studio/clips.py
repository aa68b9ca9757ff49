"""Shots → video files as phones make them: constant or variable rate, short or long groups of pictures, turned, slowed."""

from __future__ import annotations

import json
import shutil
import tempfile
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.frame import VideoFrame

from lacertus.core.errors import BadInput
from lacertus.studio.body.flesh import Part, parts_of
from lacertus.studio.picture.camera import Camera
from lacertus.studio.picture.render import Picture, Stage
from lacertus.studio.picture.stamp import write_stamp
from lacertus.studio.scene import Shot, truth
from lacertus.studio.script import RecordingScript, Script, shots_of
from lacertus.studio.sound import SAMPLE_HZ, sound_frames, told

CLOCK = Fraction(1, 90_000)
EXPOSURES = 3
"""A blurred frame is the mean of so many exposures."""
Progress = Callable[[int, int], None]


def pictures(shot: Shot, blur: float = 0.0) -> Iterator[Picture]:
    """Every frame of a shot, drawn."""
    stage = Stage(shot.camera.width, shot.camera.height)
    gaps = np.diff(shot.times_s, append=2 * shot.times_s[-1] - shot.times_s[-2] if len(shot.times_s) > 1 else 0.0)
    for time_s, gap in zip(shot.times_s, gaps, strict=True):
        yield stage.draw(_exposures(shot, time_s, blur * float(gap)))


def _exposures(shot: Shot, time_s: float, open_s: float) -> list[tuple[Camera, list[Part]]]:
    """One exposure at a time, or several while the shutter is open around it."""
    offsets = [0.0] if open_s == 0 else list((np.arange(EXPOSURES) - (EXPOSURES - 1) / 2) / EXPOSURES * open_s)
    return [(shot.camera_at(time_s + off), parts_at(shot, time_s + off)) for off in offsets]


def parts_at(shot: Shot, time_s: float) -> list[Part]:
    """All solid parts of both figures at a time."""
    figures = shot.figures(time_s)
    looks = {str(body): look for body, look in shot.scene.looks.items()}
    return [part for body, joints in figures.items() for part in parts_of(joints, looks[body])]


def record(shot: Shot, target: Path, recording: RecordingScript, progress: Progress | None = None) -> None:
    """Write a shot as an MP4 file; nothing is left behind when it fails."""
    part = target.with_suffix(".part")
    try:
        # Phones write down at what rate a slowed clip was captured; without the flag MP4 drops such keys.
        with av.open(str(part), "w", format="mp4", options={"movflags": "use_metadata_tags"}) as out:
            _encode(shot, out, recording, progress)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def _encode(shot: Shot, out: av.container.OutputContainer, how: RecordingScript, progress: Progress | None) -> None:
    stream = out.add_stream("libx264", rate=30)
    size = (shot.camera.width, shot.camera.height)
    stream.width, stream.height = size[::-1] if how.rotation in (90, 270) else size
    stream.pix_fmt = "yuv420p"
    options: dict[str, object] = {"crf": str(how.crf), "g": str(how.group), "bf": str(how.b_frames)}
    stream.options = options | {"preset": "veryfast", "sc_threshold": "0"}
    stream.codec_context.time_base = CLOCK
    stream.time_base = CLOCK
    if how.rotation:
        stream.set_display_rotation(-how.rotation)
    if how.slowed > 1:
        out.metadata["com.android.capture.fps"] = f"{how.fps:.6f}"
    sound = out.add_stream("aac", rate=SAMPLE_HZ, layout="mono") if how.sound and how.slowed == 1 else None
    if sound is not None:
        for heard in sound_frames(shot):
            out.mux(sound.encode(heard))
        out.mux(sound.encode(None))
    for number, picture in enumerate(pictures(shot, how.blur)):
        shown = write_stamp(picture, number) if how.stamp else picture
        # The phone was held turned: what the file says to turn clockwise was written anticlockwise.
        turned = np.ascontiguousarray(np.rot90(shown, how.rotation // 90))
        frame = VideoFrame.from_ndarray(turned, format="rgb24")
        frame.pts, frame.time_base = round((shot.times_s[number] - shot.times_s[0]) * how.slowed / CLOCK), CLOCK
        out.mux(stream.encode(frame))
        if progress is not None:
            progress(number + 1, len(shot.times_s))
    out.mux(stream.encode(None))


def truth_text(shots: list[Shot]) -> str:
    """`truth.json`: a rep file for each rep as the first camera sees it, the faults put in, what is
    heard, and the second camera's reps."""
    first = truth(shots[0])
    views = [{"clip": f"clip-{number}.mp4", "reps": truth(shot)["reps"]} for number, shot in enumerate(shots[1:], 2)]
    sounds = told(shots[0])
    return json.dumps({"clip": "clip.mp4", **first, "sounds": sounds, "views": views}, separators=(",", ":"))


def render(script: Script, folder: Path, progress: Progress | None = None) -> list[Path]:
    """Write `clip.mp4`, `truth.json` and, with a second camera, `clip-2.mp4`: all of them or none.

    Raises:
        BadInput: the folder cannot be written to.
    """
    shots = shots_of(script)
    names = ["clip.mp4", *(f"clip-{number}.mp4" for number in range(2, len(shots) + 1))]
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=folder, prefix=".render-") as part:
            for name, shot in zip(names, shots, strict=True):
                record(shot, Path(part) / name, script.recording, progress)
            (Path(part) / "truth.json").write_text(truth_text(shots), encoding="utf-8")
            for name in (*names, "truth.json"):
                shutil.move(Path(part) / name, folder / name)
    except (FileExistsError, NotADirectoryError, PermissionError) as error:
        raise BadInput(f"{folder} cannot be written to: {error.strerror or error}") from error
    return [folder / name for name in (*names, "truth.json")]
