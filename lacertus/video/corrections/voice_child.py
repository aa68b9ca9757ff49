"""The process that reads one voice note: python -m lacertus.video.corrections.voice_child writes mono samples as 32-bit floats."""

from __future__ import annotations

import sys

import av
import numpy as np
from av.audio.resampler import AudioResampler
from numpy.typing import NDArray

from lacertus.confined.child import confine
from lacertus.confined.opened import OpenedFile
from lacertus.confined.runner import Bounds, request_here
from lacertus.video.corrections.voice import SAMPLE_HZ, SAMPLES


def decoded(source: OpenedFile, most_seconds: float) -> NDArray[np.float32]:
    """Samples of the first sound in a file, a little more than `most_seconds` of them at the most."""
    parts: list[NDArray[np.float32]] = []
    count = 0
    options = {"format_whitelist": "matroska,webm,mov,mp4,ogg,wav", "protocol_whitelist": "none"}
    with av.open(source, mode="r", options=options) as container:
        resampler = AudioResampler(format="flt", layout="mono", rate=SAMPLE_HZ)
        for frame in container.decode(audio=0):
            for piece in resampler.resample(frame):
                parts.append(piece.to_ndarray().reshape(-1).astype(np.float32))
                count += parts[-1].size
            if count > most_seconds * SAMPLE_HZ:
                break
    return np.concatenate(parts) if parts else np.zeros(0, dtype=np.float32)


def main() -> int:
    request = request_here()
    bounds = Bounds(**request["bounds"])
    source = OpenedFile(request["source"], "voice note")
    confine(bounds.most_bytes, bounds.most_seconds, bounds.most_written)
    decoded(source, float(request["most_seconds"])).tofile(SAMPLES)
    return 0


if __name__ == "__main__":
    sys.exit(main())
