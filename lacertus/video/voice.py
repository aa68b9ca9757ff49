"""Voice notes: what a browser recorded becomes samples, read in a process of its own.

python -m lacertus.video.voice SOURCE TARGET MOST_SECONDS writes mono samples of 48,000 a second as 32-bit floats.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lacertus.video.errors import BadVideo

SAMPLE_HZ = 48_000
MOST_BYTES = 1_500_000_000
MOST_WAIT_S = 60.0


class BadVoice(BadVideo):
    """This voice note cannot be read. The correction is kept; record it again."""


def read_voice(source: Path, target: Path, most_seconds: float) -> NDArray[np.float32]:
    """The samples of a voice note (−1 to 1, mono, 48 kHz), cut off after `most_seconds`.

    Raises:
        BadVoice: it is no sound, torn, or hostile.
    """
    command = [sys.executable, "-m", "lacertus.video.voice", str(source), str(target), str(most_seconds)]
    # Nothing of the worker's own environment, which holds the database's password.
    kept = {name: os.environ[name] for name in ("PATH", "LANG", "TMPDIR", "PYTHONDONTWRITEBYTECODE") if name in os.environ}
    try:
        done = subprocess.run(command, env=kept, stdin=subprocess.DEVNULL, capture_output=True, timeout=MOST_WAIT_S, check=False)
    except subprocess.TimeoutExpired as error:
        raise BadVoice() from error
    if done.returncode != 0 or not target.is_file():
        raise BadVoice()
    found = np.fromfile(target, dtype=np.float32)
    if found.size == 0:
        raise BadVoice()
    return found


def _decode(source: Path, most_seconds: float) -> NDArray[np.float32]:
    import av
    from av.audio.resampler import AudioResampler

    parts: list[NDArray[np.float32]] = []
    count = 0
    with av.open(str(source)) as container:
        resampler = AudioResampler(format="flt", layout="mono", rate=SAMPLE_HZ)
        for frame in container.decode(audio=0):
            for piece in resampler.resample(frame):
                parts.append(piece.to_ndarray().reshape(-1).astype(np.float32))
                count += parts[-1].size
            if count > most_seconds * SAMPLE_HZ:
                break
    whole = np.concatenate(parts) if parts else np.zeros(0, dtype=np.float32)
    return np.clip(np.nan_to_num(whole), -1, 1)[: int(most_seconds * SAMPLE_HZ)]


if __name__ == "__main__":
    from lacertus.video.child import confine

    confine(MOST_BYTES, MOST_WAIT_S)
    _decode(Path(sys.argv[1]), float(sys.argv[3])).tofile(sys.argv[2])
