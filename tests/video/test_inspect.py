"""Reading clips: the frame table against the studio's own times, and files that are none."""

from __future__ import annotations

import wave
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from lacertus.studio.scene import Shot
from lacertus.video.errors import BadVideo
from lacertus.video.inspect import Limits, inspect_clip, is_variable
from lacertus.video.intake.reading import REVIEW, read_whole
from lacertus.video.upright import fitted
from tests.video.kinds import KINDS, make


@pytest.mark.parametrize("kind", ["constant", "variable", "long_gop"])
def test_every_frame_is_found_at_its_own_time(kind: str, clips: dict[str, Path], shots: dict[str, Shot]) -> None:
    found = inspect_clip(clips[kind])
    assert found.pts_s == pytest.approx(shots[kind].times_s, abs=1e-4)
    assert found.variable_rate is (kind == "variable")


@pytest.fixture(scope="module")
def copy(clips: dict[str, Path], tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("copy")
    read_whole(clips["constant"], folder)
    return folder / REVIEW


def encode(path: Path, *, rotation: int = 0, size: tuple[int, int] = (64, 48), frames: int = 12, audio: bool = False) -> Path:
    """A small clip: a white upper left corner on black."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=30)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        if rotation:
            stream.set_display_rotation(-rotation)
        picture = np.zeros((size[1], size[0], 3), dtype=np.uint8)
        picture[: size[1] // 2, : size[0] // 2] = 255
        for number in range(frames):
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            frame.pts, frame.time_base = number, Fraction(1, 30)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


@pytest.mark.parametrize(
    ("rotation", "size", "corner"),
    [(0, (64, 48), (0, 0)), (90, (48, 64), (0, 1)), (180, (64, 48), (1, 1)), (270, (48, 64), (1, 0))],
)
def test_rotation_is_told_and_the_copy_stands_upright(
    rotation: int, size: tuple[int, int], corner: tuple[int, int], tmp_path: Path
) -> None:
    facts = read_whole(encode(tmp_path / "turned.mp4", rotation=rotation), tmp_path).facts
    assert (facts.rotation, facts.width, facts.height) == (rotation, *size)
    with av.open(str(tmp_path / REVIEW)) as container:
        picture = next(container.decode(video=0)).to_ndarray(format="gray")
    rows, columns = picture.shape[0] // 2, picture.shape[1] // 2
    lit = [picture[r * rows : (r + 1) * rows, c * columns : (c + 1) * columns].mean() for r in (0, 1) for c in (0, 1)]
    assert int(np.argmax(lit)) == corner[0] * 2 + corner[1]


def audio_only(path: Path) -> Path:
    with wave.open(str(path.with_suffix(".wav")), "wb") as sound:
        sound.setnchannels(1), sound.setsampwidth(2), sound.setframerate(8000), sound.writeframes(b"\0\0" * 8000)
    with av.open(str(path.with_suffix(".wav"))) as source, av.open(str(path), "w") as out:
        stream = out.add_stream("aac", rate=8000)
        for frame in source.decode(audio=0):
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def bad_file(kind: str, folder: Path, whole: Path) -> Path:
    path = folder / f"{kind}.mp4"
    if kind == "empty":
        path.touch()
    elif kind == "text":
        path.write_text("this is no film\n" * 100)
    elif kind == "cut":
        path.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    elif kind == "folder":
        path.mkdir()
    elif kind == "audio":
        audio_only(path)
    return path


WORDS = {
    "empty": "is empty",
    "text": "is not a video that can be read",
    "cut": "not a video that can be read|ends early",
    "folder": "is a folder",
    "audio": "holds no picture, only sound",
    "missing": "there is no such file",
}


@pytest.mark.parametrize("kind", WORDS)
def test_what_is_no_clip_is_told_and_leaves_nothing(kind: str, tmp_path: Path, clips: dict[str, Path]) -> None:
    path = bad_file(kind, tmp_path, clips["constant"])
    with pytest.raises(BadVideo, match=WORDS[kind]):
        inspect_clip(path)
    (tmp_path / "made").mkdir()
    with pytest.raises(BadVideo, match=r"holds no picture|not a video that can be read|is empty|is a folder|no such file"):
        read_whole(path, tmp_path / "made")
    assert not (tmp_path / "made" / REVIEW).exists()


def test_a_file_cut_behind_its_index_ends_early(tmp_path: Path, copy: Path) -> None:
    """The review copy has its index in front, so half of it opens, and must still not pass for whole."""
    whole = copy.read_bytes()
    path = tmp_path / "half.mp4"
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(BadVideo, match=r"ends early|damaged"):
        inspect_clip(path)


def test_a_playlist_cannot_reach_other_files(tmp_path: Path, clips: dict[str, Path]) -> None:
    path = tmp_path / "list.mp4"
    path.write_text(f"#EXTM3U\n#EXTINF:1,\nfile://{clips['constant']}\n")
    with pytest.raises(BadVideo, match="not a video that can be read"):
        inspect_clip(path)


SIZES = [((1920, 1080), (1920, 1080)), ((3840, 2160), (1920, 1080)), ((1080, 1920), (1080, 1920)), ((101, 55), (100, 56))]


@pytest.mark.parametrize(("size", "wanted"), SIZES)
def test_the_copy_has_at_most_1080_lines_and_even_sides(size: tuple[int, int], wanted: tuple[int, int]) -> None:
    assert fitted(*size) == wanted


@pytest.mark.parametrize(
    ("gaps", "tick", "wanted"),
    [([0.033, 0.034, 0.033], 0.001, False), ([1 / 60] * 5, 1e-5, False), ([1 / 60, 1 / 30, 1 / 60], 1e-5, True), ([], 1e-5, False)],
    ids=["clock rounds", "even", "dropped", "one frame"],
)
def test_variable_rate_is_more_than_the_clocks_rounding(gaps: list[float], tick: float, wanted: bool) -> None:
    assert is_variable(gaps, tick) is wanted


@pytest.mark.parametrize(
    ("limits", "words"),
    [
        (Limits(most_pixels=480 * 270 - 1), "480×270 pixels"),
        (Limits(most_frames=20), "more than 20 frames"),
        (Limits(most_minutes=0.01), r"more than 0\.01 minutes"),
    ],
    ids=["pixels", "frames", "minutes"],
)
def test_what_is_over_a_limit_is_refused_before_a_frame_is_decoded(
    limits: Limits, words: str, tmp_path: Path, clips: dict[str, Path]
) -> None:
    seen: list[int] = []
    with pytest.raises(BadVideo, match=words):
        read_whole(clips["constant"], tmp_path, lambda done, _of: seen.append(done), limits)
    assert seen == []
    assert not (tmp_path / REVIEW).exists()


def test_a_file_that_hides_its_length_is_stopped_at_the_limit(tmp_path: Path, clips: dict[str, Path]) -> None:
    """Matroska need not say how many frames it holds: they are counted as they come."""
    path = tmp_path / "clip.mkv"
    with av.open(str(clips["constant"])) as source, av.open(str(path), "w", options={"live": "1"}) as out:
        stream = out.add_stream_from_template(source.streams.video[0])
        for packet in source.demux(video=0):
            if packet.size:
                packet.stream = stream
                out.mux(packet)
    with pytest.raises(BadVideo, match="more than 20 frames"):
        read_whole(path, tmp_path, limits=Limits(most_frames=20))
    assert not (tmp_path / REVIEW).exists()


def test_a_broken_sound_leaves_the_picture_whole(tmp_path: Path) -> None:
    path = make(KINDS["mp4-h264-b-frames"], tmp_path / "clip.mp4")
    data = bytearray(path.read_bytes())
    with av.open(str(path)) as container:
        packets = [packet for packet in container.demux(container.streams.audio[0]) if packet.size]
        for packet in packets[len(packets) // 2 :]:
            assert packet.pos is not None
            data[packet.pos : packet.pos + packet.size] = b"\xff" * packet.size
    path.write_bytes(data)
    reading = read_whole(path, tmp_path)
    assert reading.facts.frames == len(KINDS["mp4-h264-b-frames"].times)
    assert reading.has_sound
    assert reading.sound_broke_off


def test_a_stop_in_the_middle_leaves_no_review_copy(tmp_path: Path, clips: dict[str, Path]) -> None:
    def stop(done: int, _of: int | None) -> None:
        if done == 20:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        read_whole(clips["constant"], tmp_path, stop)
    assert not (tmp_path / REVIEW).exists()
