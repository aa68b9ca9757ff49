"""Voice notes: what a browser recorded becomes samples, read in a process of its own."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lacertus.confined.runner import Bounds, StoodStill, TookTooLong, run_confined
from lacertus.video.errors import BadVideo

SAMPLE_HZ = 48_000
SAMPLES = "samples.f32"
Samples = NDArray[np.float32]
"""Mono, −1 to 1, 48,000 a second."""
MODULE = "lacertus.video.corrections.voice_child"
VOICE_BOUNDS = Bounds(most_bytes=1_500_000_000, most_seconds=60.0, most_idle_seconds=60.0, most_written=200_000_000)


class BadVoice(BadVideo):
    """This voice note cannot be read. The correction is kept; record it again."""


def read_voice(source: Path, target: Path, most_seconds: float) -> NDArray[np.float32]:
    """The samples of a voice note (−1 to 1, mono, 48 kHz), cut off after `most_seconds`; they are kept in `target` too.

    Raises:
        BadVoice: it is no sound, torn, or hostile.
    """
    request = {"most_seconds": most_seconds}
    try:
        with run_confined(MODULE, source, request, target.parent, VOICE_BOUNDS, lambda said: None) as ended:
            if ended.code != 0 or not ended.take(SAMPLES, target):
                raise BadVoice()
    except (TookTooLong, StoodStill) as error:
        raise BadVoice() from error
    found = np.fromfile(target, dtype=np.float32)[: int(most_seconds * SAMPLE_HZ)]
    if found.size == 0:
        raise BadVoice()
    return np.clip(np.nan_to_num(found), -1, 1)
