"""The sound of a clip: carried into the review copy, and read for its trace."""

from __future__ import annotations

from collections import deque
from fractions import Fraction
from typing import Any

import av
import av.error
import numpy as np
from av.audio.frame import AudioFrame
from av.audio.resampler import AudioResampler
from av.audio.stream import AudioStream
from av.container import InputContainer, OutputContainer
from av.packet import Packet
from numpy.typing import NDArray

from lacertus.core.clips.onsets import Onset, find_onsets
from lacertus.video.errors import as_bad_video
from lacertus.video.inspect import Source, open_clip

TRACE_HZ = 16_000
HOP = 160
WINDOW = 512
STEP_S = HOP / TRACE_HZ
"""A value of the trace every 10 ms, each from 32 ms of sound."""
COPY_HZ = 48_000
FIRST_PACKETS = 200
"""So many packets are tried for a first sound that can be decoded."""
LONGEST_SILENCE_S = 3600.0


def sound_stream(path: Source) -> int | None:
    """Index of the first sound that can be decoded, or None: a clip with none, or with a broken one, is a clip all the same."""
    with as_bad_video(path.name), open_clip(path) as container:
        for stream in container.streams.audio:
            if stream.codec_context is not None and _gives_sound(container, stream):
                return stream.index
    return None


def _gives_sound(container: InputContainer, stream: AudioStream) -> bool:
    try:
        container.seek(0)
        for number, packet in enumerate(container.demux(stream)):
            if any(isinstance(frame, AudioFrame) and frame.samples for frame in packet.decode()):
                return True
            if number > FIRST_PACKETS:
                break
    except (av.error.FFmpegError, ValueError):
        return False
    return False


class SoundTrace:
    """Loudness and spectral flux every 10 ms, built up as the sound comes."""

    def __init__(self) -> None:
        self.start_s: float | None = None
        self.loudness: list[float] = []
        self.flux: list[float] = []
        self.flatness: list[float] = []
        self._rest = np.zeros(0, dtype=np.float32)
        self._samples = 0
        self._before: NDArray[np.float64] | None = None
        self._shape = np.hanning(WINDOW)

    def add(self, samples: NDArray[np.float32], at_s: float) -> None:
        """Mono samples at TRACE_HZ that begin at `at_s`; a gap before them is silence."""
        if self.start_s is None:
            self.start_s = at_s
        missing = round((at_s - self.start_s) * TRACE_HZ) - self._samples
        if TRACE_HZ // 20 < missing < LONGEST_SILENCE_S * TRACE_HZ:
            self._append(np.zeros(missing, dtype=np.float32))
        self._append(samples)

    def _append(self, samples: NDArray[np.float32]) -> None:
        self._samples += samples.size
        held = np.concatenate((self._rest, samples))
        count = max((held.size - WINDOW) // HOP + 1, 0)
        for k in range(count):
            self._step(held[k * HOP : k * HOP + WINDOW])
        self._rest = held[count * HOP :]

    def _step(self, window: NDArray[np.float32]) -> None:
        sizes = np.abs(np.fft.rfft(window * self._shape))
        bands = np.log1p(100 * sizes)
        power = sizes**2 + 1e-9
        self.flatness.append(float(np.exp(np.log(power).mean()) / power.mean()))
        self.loudness.append(float(np.sqrt(np.mean(window.astype(np.float64) ** 2))))
        grew = 0.0 if self._before is None else float(np.maximum(bands - self._before, 0).sum())
        self.flux.append(grew)
        self._before = bands

    def onsets(self, zero_s: float) -> tuple[Onset, ...]:
        """Onsets with times counted from `zero_s`. A step's time is the middle of its window."""
        return find_onsets(self.flux, STEP_S, self._first_s(zero_s), self.flatness)

    def levels(self, zero_s: float, until_s: float) -> list[int]:
        """Loudness from 0 to 99 (the clip's loudest) every 10 ms from `zero_s` to `until_s` after it."""
        steps = max(round(until_s / STEP_S), 0)
        found = np.zeros(steps)
        first = round(self._first_s(zero_s) / STEP_S)
        heard = np.asarray(self.loudness)
        low, high = max(first, 0), min(first + heard.size, steps)
        if high > low:
            found[low:high] = heard[low - first : high - first]
        top = float(found.max()) if found.size else 0.0
        return [] if top <= 0 else [round(value) for value in 99 * found / top]

    def _first_s(self, zero_s: float) -> float:
        return (self.start_s or 0.0) - zero_s + WINDOW / 2 / TRACE_HZ


class Sound:
    """Decodes the packets of a sound once, for the trace and for the review copy. A fault in it ends the sound, not the clip."""

    def __init__(self, stream: AudioStream, out: OutputContainer) -> None:
        self.stream, self.out = stream, out
        self.trace = SoundTrace()
        self.broke_off = False
        self.zero_s: Fraction | None = None
        self._copy = out.add_stream("aac", rate=COPY_HZ, layout="mono")
        self._copy.bit_rate = 96_000
        # A quarter of the time of the usual search, for speech and slaps in a hall.
        self._copy.options = {"aac_coder": "fast"}
        self._for_copy = AudioResampler(format="fltp", layout="mono", rate=COPY_HZ)
        self._for_trace = AudioResampler(format="flt", layout="mono", rate=TRACE_HZ)
        self._early: deque[AudioFrame] = deque(maxlen=400)
        self._next = 0

    def take(self, packet: Packet[Any]) -> None:
        if self.broke_off:
            return
        try:
            for frame in packet.decode():
                if isinstance(frame, AudioFrame) and frame.pts is not None and frame.time_base:
                    self._take(frame)
        except (av.error.FFmpegError, ValueError):
            self.broke_off = True

    def _take(self, frame: AudioFrame) -> None:
        assert frame.pts is not None and frame.time_base is not None
        at_s = float(frame.pts * frame.time_base)
        for part in self._for_trace.resample(frame):
            samples = part.to_ndarray().reshape(-1).astype(np.float32)
            self.trace.add(samples, at_s)
            at_s += samples.size / TRACE_HZ
        if self.zero_s is None:
            self._early.append(frame)
        else:
            self._encode(frame)

    def begin(self, zero_s: Fraction) -> None:
        """The first picture's time is known: sound before it is left out of the copy."""
        self.zero_s = zero_s
        for frame in self._early:
            self._encode(frame)
        self._early.clear()

    def _encode(self, frame: AudioFrame) -> None:
        assert self.zero_s is not None and frame.pts is not None and frame.time_base is not None
        at = frame.pts * frame.time_base - self.zero_s
        if at < 0:
            return
        for part in self._for_copy.resample(frame):
            # Times are counted by samples, and moved on where the source leaves a gap.
            self._next = max(self._next, 0)
            wanted = round(at * COPY_HZ)
            if wanted - self._next > COPY_HZ // 20:
                self._next = wanted
            part.pts, part.time_base = self._next, Fraction(1, COPY_HZ)
            self._next += part.samples
            self.out.mux(self._copy.encode(part))

    def finish(self) -> None:
        self.out.mux(self._copy.encode(None))
