"""Films whose insides were changed by hand: refused with a reason, or read as they are."""

from __future__ import annotations

from pathlib import Path

import av
import pytest

from lacertus.video.errors import BadVideo
from lacertus.video.inspect import inspect_clip

TITLE = b"A plain one"


def changed(clip: Path, target: Path, box: bytes, offset: int, value: bytes) -> Path:
    """The film with some bytes of every box of a kind put in place of what was there."""
    data = bytearray(clip.read_bytes())
    at = data.find(box)
    assert at > 0
    while at > 0:
        data[at + 4 + offset : at + 4 + offset + len(value)] = value
        at = data.find(box, at + 4)
    target.write_bytes(data)
    return target


@pytest.mark.parametrize("ticks", [0, 1])
def test_a_clock_without_ticks_is_no_clock(clips: dict[str, Path], tmp_path: Path, ticks: int) -> None:
    """It was read as one tick a second, so that a kick lasted for minutes."""
    film = changed(clips["constant"], tmp_path / "film.mp4", b"mdhd", 12, ticks.to_bytes(4, "big"))
    with pytest.raises(BadVideo, match="a clock that is slower than its pictures"):
        inspect_clip(film)


def test_a_title_in_another_encoding_is_no_reason_to_refuse_a_film(clips: dict[str, Path], tmp_path: Path) -> None:
    """As cameras of some years write it: its bytes are no UTF-8."""
    film = tmp_path / "film.mp4"
    with av.open(str(clips["constant"])) as source, av.open(str(film), "w") as out:
        out.metadata["title"] = TITLE.decode()
        stream = out.add_stream_from_template(source.streams.video[0])
        for packet in source.demux(source.streams.video[0]):
            if packet.dts is not None:
                packet.stream = stream
                out.mux(packet)
    data = film.read_bytes()
    assert TITLE in data
    film.write_bytes(data.replace(TITLE, b"\xff\xfe\xe9 " + TITLE[4:]))
    assert inspect_clip(film).frames == inspect_clip(clips["constant"]).frames
