"""One pass over a clip: frame table, review copy, filmstrip, movement, camera motion and sound.

What a pass makes lies in one folder: `review.mp4`, `film-LEVEL-SHEET.jpg`, `traces.json` and `camera.json`.
The original is only read.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from av.container import InputContainer, OutputContainer
from av.video.frame import VideoFrame
from av.video.reformatter import VideoReformatter

from lacertus.core.clips.capture import Capture, propose_capture
from lacertus.core.clips.cuts import Cut, propose_cuts
from lacertus.core.clips.film import CameraSummary, Film
from lacertus.core.clips.onsets import Onset
from lacertus.core.measuring.timebase import TimeBase
from lacertus.video.errors import BadVideo, as_bad_video
from lacertus.video.inspect import (
    ClipFacts,
    FrameReader,
    Limits,
    Progress,
    Source,
    check_length,
    check_limits,
    dropped_frames,
    open_clip,
    video_stream,
)
from lacertus.video.intake.camera import CameraMotion, CameraWatch
from lacertus.video.intake.filmstrip import FilmWriter, picture_size
from lacertus.video.intake.in_thread import InThread
from lacertus.video.intake.movement import MovementTrace
from lacertus.video.intake.sound import STEP_S, Sound, sound_stream
from lacertus.video.review_copy import ReviewWriter
from lacertus.video.upright import Upright, brightness, shape_of

REVIEW, TRACES, CAMERA, RESULT = "review.mp4", "traces.json", "camera.json", "reading.json"
MADE = ("film-*.jpg", TRACES, CAMERA)
"""What is kept beside the review copy, as patterns."""
WATCHED_LINES = 216
"""Lines of the small picture, on its shorter side, that movement and camera are read from."""


@dataclass(frozen=True, kw_only=True)
class Reading:
    """All that one pass found out. `dropped`: frames after which the clock left some out; `repeated`: frames
    that show the one before once more."""

    facts: ClipFacts
    capture: Capture
    cuts: tuple[Cut, ...]
    onsets: tuple[Onset, ...]
    film: Film
    camera: CameraSummary
    dropped: int
    repeated: int
    has_sound: bool
    sound_broke_off: bool


def read_whole(source: Source, folder: Path, progress: Progress | None = None, limits: Limits | None = None) -> Reading:
    """Read a clip once and write all that is made of it into a folder.

    `progress` may raise to stop the work; the review copy is removed then.

    Raises:
        BadVideo: the source cannot be read, or is over a limit.
    """
    try:
        with as_bad_video(source.name):
            return _Pass(source, folder, progress, limits or Limits()).run()
    except BaseException:
        (folder / REVIEW).unlink(missing_ok=True)
        raise


class _Pass:
    """The pass itself, frame by frame; memory does not grow with the clip but for its table and traces."""

    def __init__(self, source: Source, folder: Path, progress: Progress | None, limits: Limits) -> None:
        self.source, self.folder, self.progress, self.limits = source, folder, progress, limits
        self.sound: Sound | None = None
        self.movement = MovementTrace()

    def run(self) -> Reading:
        cv2.setNumThreads(1)
        heard = sound_stream(self.source)
        options = {"movflags": "faststart"}
        with open_clip(self.source) as container, av.open(str(self.folder / REVIEW), "w", format="mp4", options=options) as out:
            reader = self._reader(container, out, heard)
            check_limits(reader, self.limits)
            return self._read(reader, container, out)

    def _reader(self, container: InputContainer, out: OutputContainer, heard: int | None) -> FrameReader:
        stream = video_stream(container, self.source.name)
        if heard is None:
            return FrameReader(container, stream, self.source.name)
        audio = next(other for other in container.streams.audio if other.index == heard)
        # The picture's stream comes first in the copy, so it is added before the sound's.
        self._writer_stream = out.add_stream("libx264", rate=stream.average_rate or 30)
        self.sound = Sound(audio, out)
        return FrameReader(container, stream, self.source.name, audio, self.sound.take)

    def _read(self, reader: FrameReader, container: InputContainer, out: OutputContainer) -> Reading:
        frames = iter(reader)
        first = next(frames, None)
        if first is None:
            raise BadVideo(f"{self.source.name} holds no picture that can be read")
        shape = shape_of(first, reader.stream)
        upright = Upright(shape, self.folder)
        writer = ReviewWriter(out, upright.size, reader.stream.average_rate, getattr(self, "_writer_stream", None))
        watch = _Watch(
            upright.size, (shape.width, shape.height), self.folder, float(reader.stream.average_rate or 30), self.movement
        )
        if self.sound is not None:
            self.sound.begin(reader.times[0])
        with InThread(watch) as beside:
            frame: VideoFrame | None = first
            while frame is not None:
                shown = upright(frame)
                beside(len(reader.times) - 1, shown)
                writer.write(shown, reader.since_first)
                self._note(reader)
                frame = next(frames, None)
        writer.finish()
        if self.sound is not None:
            self.sound.finish()
        captured = captured_fps(container, reader)
        return self._finish(reader.facts(shape), watch.film.finish(), watch.camera.finish(), captured, reader.times[0])

    def _note(self, reader: FrameReader) -> None:
        done = len(reader.times)
        check_length(self.source.name, done, float(reader.since_first), self.limits)
        if self.progress is not None:
            self.progress(done, reader.announced)

    def _finish(self, facts: ClipFacts, film: Film, camera: CameraMotion, captured: float | None, zero: Fraction) -> Reading:
        capture = propose_capture(facts.pts_s, captured, self.source.name)
        onsets = self.sound.trace.onsets(float(zero)) if self.sound is not None else ()
        onsets = tuple(onset for onset in onsets if 0 <= onset.time_s <= facts.duration_s)
        real_s = TimeBase(facts.pts_s, capture.rates).real_s
        calls = np.interp([onset.time_s for onset in onsets if onset.voiced], facts.pts_s, real_s)
        cuts = propose_cuts(self.movement.moved, real_s, calls.tolist())
        repeated = self.movement.repeated()
        sound = self.sound.trace.levels(float(zero), facts.duration_s) if self.sound is not None else []
        _write_json(
            self.folder / TRACES,
            {
                "lacertus_traces": 1,
                "motion": self.movement.levels(),
                "sound": {"step_s": STEP_S, "levels": sound},
                "onsets": [
                    {"time_s": round(onset.time_s, 3), "strength": round(onset.strength, 3), "voiced": onset.voiced}
                    for onset in onsets
                ],
                "repeated": repeated,
                "dropped": dropped_frames(facts.pts_s),
            },
        )
        matrices = None if camera.matrices is None else np.round(camera.matrices, 6).tolist()
        _write_json(self.folder / CAMERA, {"camera_motion": matrices, "lost": camera.lost})
        return Reading(
            facts=facts,
            capture=capture,
            cuts=cuts,
            onsets=onsets,
            film=film,
            camera=CameraSummary(still=camera.matrices is None, residual_px=camera.residual_px, lost=camera.lost),
            dropped=len(dropped_frames(facts.pts_s)),
            repeated=len(repeated),
            has_sound=bool(sound),
            sound_broke_off=self.sound is not None and self.sound.broke_off,
        )


class _Watch:
    """What is read off each picture on its way into the review copy."""

    def __init__(
        self, size: tuple[int, int], displayed: tuple[int, int], folder: Path, fps: float, movement: MovementTrace
    ) -> None:
        scale = min(1.0, WATCHED_LINES / min(size))
        self.small = max(round(size[0] * scale / 2) * 2, 2), max(round(size[1] * scale / 2) * 2, 2)
        self.film = FilmWriter(folder, picture_size(*displayed), fps)
        self.camera = CameraWatch((displayed[0] / self.small[0], displayed[1] / self.small[1]))
        self.movement = movement
        self._shrinks, self._pictures = VideoReformatter(), VideoReformatter()

    def __call__(self, number: int, shown: VideoFrame) -> None:
        # yuv420p, not grey: its first plane is the brightness as it is, and no range is stretched on the way.
        small = self._shrinks.reformat(shown, *self.small, format="yuv420p", interpolation="AREA")
        grey = brightness(small)
        self.movement(grey, self.camera(grey))
        if self.film.wants(number):
            picture = self._pictures.reformat(shown, *self.film.size, format="rgb24", interpolation="AREA")
            self.film.add(number, picture.to_ndarray().astype(np.uint8, copy=False))


def captured_fps(container: InputContainer, reader: FrameReader) -> float | None:
    """Frames a second at capture where the file's metadata says so."""
    for metadata in (container.metadata, reader.stream.metadata):
        for key, value in metadata.items():
            if key.lower().endswith("capture.fps"):
                try:
                    found = float(value)
                except ValueError:
                    continue
                return found if 1 <= found <= 10_000 else None
    return None


def _write_json(path: Path, data: object) -> None:
    path.write_text(json.dumps(data, separators=(",", ":")), encoding="utf-8")
