"""The studio's sound: what is heard, and when, is what the truth says; slowed clips are silent and say their rate."""

from __future__ import annotations

import json
from pathlib import Path

import av
import numpy as np
import pytest

from lacertus.studio.clips import render, truth_text
from lacertus.studio.script import read_script, shipped_script, shots_of
from lacertus.studio.sound import SAMPLE_HZ, heard, samples_of

FALL = shipped_script("back-fall-head-back")


def test_a_command_comes_before_each_rep_and_what_strikes_the_mat_is_heard() -> None:
    shot = shots_of(FALL)[0]
    found = heard(shot)
    assert [one.what for one in found].count("command") == len(shot.scene.reps)
    start = shot.times_s[0]
    strikes = sorted(rep.events_s["arms_strike"] - start for rep in shot.scene.reps)
    assert [one.time_s for one in found if one.what == "arms_strike"] == pytest.approx(strikes)
    told = json.loads(truth_text([shot]))["sounds"]
    assert [(one["what"], one["time_s"]) for one in told] == [(one.what, pytest.approx(one.time_s, abs=1e-4)) for one in found]


def test_each_sound_begins_at_its_time_and_there_is_a_hum_between() -> None:
    shot = shots_of(FALL)[0]
    samples = samples_of(shot)
    assert np.abs(samples).max() <= 1
    for one in heard(shot):
        at = round(one.time_s * SAMPLE_HZ)
        before, after = samples[max(at - 960, 0) : at], samples[at : at + 2400]
        if one.what != "command" or one.time_s > 1:
            assert np.abs(before).max() < 0.1
        assert np.abs(after).max() > 0.02
    assert 0 < np.abs(samples[: SAMPLE_HZ // 20]).max() < 0.05


SMALL = {"lacertus_script": 1, "id": "small", "technique": "front-kick", "camera": {"size": [160, 90]}}


@pytest.mark.parametrize(
    ("recording", "sounds", "captured"),
    [({"fps": 30}, 1, None), ({"fps": 30, "sound": False}, 0, None), ({"fps": 120, "slowed": 4}, 0, 120.0)],
    ids=["with sound", "without", "slowed"],
)
def test_the_file_has_sound_or_its_capture_rate(
    recording: dict[str, object], sounds: int, captured: float | None, tmp_path: Path
) -> None:
    render(read_script(SMALL | {"recording": recording}), tmp_path)
    with av.open(str(tmp_path / "clip.mp4")) as clip:
        assert len(clip.streams.audio) == sounds
        rate = clip.metadata.get("com.android.capture.fps")
        assert (None if rate is None else float(rate)) == captured
