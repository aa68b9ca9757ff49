"""The sound of a shot: the hall's hum, a spoken command before each rep, and what strikes the mat, at known instants."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
from av.audio.frame import AudioFrame
from numpy.typing import NDArray

from lacertus.studio.scene import Shot

SAMPLE_HZ = 48_000
HUM = 0.004
COMMAND_S, COMMAND_HZ = 0.24, (170.0, 620.0, 1150.0)
"""A short shouted syllable: a voice's pitch and its two lowest formants (an open vowel)."""
COMMAND_SIZE, COMMAND_FADE_S = 0.16, 0.09
STRIKES = {"arms_strike": 0.8, "back_on_mat": 0.9, "seat_down": 0.2, "foot_down": 0.22, "tap": 0.25}
"""Events that are heard, and how loud (0 to 1)."""
STRIKE_FADE_S = 0.045
BLOCK = 1024


@dataclass(frozen=True, kw_only=True)
class Heard:
    """Something that is heard: when it begins, in seconds after the first frame, what it is, and how loud (0 to 1)."""

    time_s: float
    what: str
    size: float


def heard(shot: Shot) -> tuple[Heard, ...]:
    """Every command and strike of a shot in order of time. Slowed captures carry no sound, as on phones."""
    if shot.slowed != 1:
        return ()
    start = shot.times_s[0]
    found = [Heard(time_s=rep.start_s - start, what="command", size=COMMAND_SIZE) for rep in shot.scene.reps]
    for rep in shot.scene.reps:
        strikes = [(name, instant) for name, instant in rep.events_s.items() if name in STRIKES]
        found += [Heard(time_s=instant - start, what=name, size=STRIKES[name]) for name, instant in strikes]
    return tuple(sorted((one for one in found if one.time_s >= 0), key=lambda one: one.time_s))


def told(shot: Shot) -> list[dict[str, Any]]:
    """What is heard, for the truth file."""
    return [{"time_s": round(one.time_s, 4), "what": one.what} for one in heard(shot)]


def sound_frames(shot: Shot) -> Iterator[AudioFrame]:
    """The sound of a whole shot as mono frames of 48,000 samples a second."""
    samples = samples_of(shot)
    for first in range(0, samples.size, BLOCK):
        block = np.ascontiguousarray(samples[None, first : first + BLOCK])
        frame = AudioFrame.from_ndarray(block, format="fltp", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = SAMPLE_HZ, first, Fraction(1, SAMPLE_HZ)
        yield frame


def samples_of(shot: Shot) -> NDArray[np.float32]:
    """Samples from −1 to 1."""
    chance = np.random.default_rng(shot.scene.seed + 7)
    length = shot.times_s[-1] - shot.times_s[0] + 0.1
    samples = HUM * chance.standard_normal(round(length * SAMPLE_HZ))
    for one in heard(shot):
        burst = _command() if one.what == "command" else _strike(chance)
        first = round(one.time_s * SAMPLE_HZ)
        fits = samples[first : first + burst.size]
        fits += one.size * burst[: fits.size]
    return np.clip(samples, -1, 1).astype(np.float32)


def _command() -> NDArray[np.float64]:
    time = np.arange(round(COMMAND_S * SAMPLE_HZ)) / SAMPLE_HZ
    pitch, *formants = COMMAND_HZ
    voice = np.sign(np.sin(2 * np.pi * pitch * time)) * 0.4
    voice += sum(0.5 * np.sin(2 * np.pi * formant * time) for formant in formants)
    swell = np.minimum(time / 0.012, 1) * np.minimum((COMMAND_S - time) / COMMAND_FADE_S, 1)
    return np.asarray(voice * swell, dtype=np.float64)


def _strike(chance: np.random.Generator) -> NDArray[np.float64]:
    """A slap or a thump: noise that dies away."""
    time = np.arange(round(6 * STRIKE_FADE_S * SAMPLE_HZ)) / SAMPLE_HZ
    return np.asarray(chance.standard_normal(time.size) * np.exp(-time / STRIKE_FADE_S) * 0.5, dtype=np.float64)
