"""Files of every kind: the frame table against the file's own tables and against what was put in, and the review copy."""

from __future__ import annotations

import json
from pathlib import Path

import av
import numpy as np
import pytest

from lacertus.studio.picture.stamp import read_stamp
from lacertus.video.inspect import inspect_clip
from lacertus.video.intake.reading import REVIEW, TRACES, Reading, read_whole
from lacertus.video.review_copy import write_still
from tests.video.independent import frame_times
from tests.video.kinds import KINDS, KNOCKS_S, Kind, make


class Made:
    """A file of a kind, read once for all tests."""

    def __init__(self, kind: Kind, file: Path, folder: Path) -> None:
        self.kind, self.file, self.folder = kind, file, folder
        self.reading: Reading = read_whole(file, folder)
        self.copy = folder / REVIEW
        self.traces = json.loads((folder / TRACES).read_text())


@pytest.fixture(scope="module", params=KINDS)
def made(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Made:
    kind, folder = KINDS[request.param], tmp_path_factory.mktemp(request.param)
    return Made(kind, make(kind, folder / f"clip.{kind.suffix}"), folder)


def test_the_frame_table_is_the_files_own(made: Made) -> None:
    """To a tick of the file's clock: Matroska counts in milliseconds."""
    tick = 0.0011 if made.kind.suffix in ("mkv", "webm") else 2e-5
    assert made.reading.facts.pts_s == pytest.approx(frame_times(made.file), abs=1e-6)
    assert made.reading.facts.pts_s == pytest.approx(made.kind.times, abs=tick)
    assert inspect_clip(made.file).pts_s == made.reading.facts.pts_s


def test_size_turn_and_mirroring_are_those_of_the_shown_picture(made: Made) -> None:
    facts, kind = made.reading.facts, made.kind
    assert (facts.width, facts.height, facts.rotation, facts.mirrored) == (*kind.shown, kind.rotation, kind.mirrored)


def test_the_review_copy_holds_each_frame_at_its_time_and_can_be_stepped(made: Made) -> None:
    assert frame_times(made.copy) == pytest.approx(made.reading.facts.pts_s, abs=1.2e-5)
    with av.open(str(made.copy)) as container:
        stream = container.streams.video[0]
        packets = [packet for packet in container.demux(stream) if packet.size]
        context = stream.codec_context
        assert (context.name, context.pix_fmt, context.has_b_frames) == ("h264", "yuv420p", False)
    assert [packet.pts for packet in packets] == sorted(packet.pts or 0 for packet in packets)
    keyframes = [number for number, packet in enumerate(packets) if packet.is_keyframe]
    assert max(np.diff([*keyframes, len(packets)])) <= 12
    # The index in front: a browser plays and seeks by ranges, without the end of the file.
    assert made.copy.read_bytes().index(b"moov") < made.copy.read_bytes().index(b"mdat")


def test_every_picture_of_the_copy_is_that_of_its_number_upright(made: Made) -> None:
    with av.open(str(made.copy)) as container:
        numbers = [read_stamp(frame.to_ndarray(format="rgb24").astype(np.uint8, copy=False)) for frame in container.decode(video=0)]
    wanted = list(range(made.reading.facts.frames))
    if made.kind.repeats:
        wanted = [k - 1 if k and k % made.kind.repeats == 0 else k for k in wanted]
    assert numbers == wanted


def test_a_still_shows_the_frame_of_its_number(made: Made) -> None:
    from PIL import Image

    facts = made.reading.facts
    for frame in np.random.default_rng(3).integers(0, facts.frames, 4):
        if made.kind.repeats and frame % made.kind.repeats == 0:
            continue
        after = facts.pts_s[frame + 1] if frame + 1 < facts.frames else facts.duration_s
        write_still(made.copy, (facts.pts_s[frame] + after) / 2, made.folder / "still.jpg")
        assert read_stamp(np.asarray(Image.open(made.folder / "still.jpg"))) == frame


def test_what_the_phone_left_out_or_showed_twice_is_told(made: Made) -> None:
    gaps = np.diff(made.kind.times)
    assert made.reading.dropped == int((gaps > 1.5 * np.median(gaps)).sum())
    assert made.reading.facts.variable_rate is bool(np.ptp(gaps) > 0.01 * np.median(gaps))
    repeats = len(range(made.kind.repeats, made.reading.facts.frames, made.kind.repeats)) if made.kind.repeats else 0
    assert made.reading.repeated == repeats


def test_sound_is_carried_along_and_its_onsets_are_heard(made: Made) -> None:
    assert made.reading.has_sound is (made.kind.sound is not None)
    heard = [onset["time_s"] for onset in made.traces["onsets"]]
    assert heard == pytest.approx(KNOCKS_S if made.kind.sound else [], abs=0.03)
    with av.open(str(made.copy)) as container:
        assert len(container.streams.audio) == (made.kind.sound is not None)


CAPTURE = {
    "mp4-h264-240-fps": (((0, 1.0),), True),
    "mp4-h264-slowed": (((0, 8.0),), True),
    "mp4-h264-ramped": (((0, 1.0), (72, 8.0), (144, 1.0)), False),
}


def test_high_speed_capture_is_proposed_and_asked_where_unsure(made: Made, request: pytest.FixtureRequest) -> None:
    name = next(key for key, kind in KINDS.items() if kind is made.kind)
    rates, sure = CAPTURE.get(name, (((0, 1.0),), True))
    assert (made.reading.capture.rates, made.reading.capture.sure) == (rates, sure)
