"""Frame times read straight out of a file's own tables, with no decoder: what Lacertus finds is compared with it."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path

Box = tuple[bytes, bytes]


def frame_times(path: Path) -> list[float]:
    """Display times in seconds, in order, from the first shown frame."""
    data = path.read_bytes()
    if path.suffix in (".mp4", ".mov"):
        found = _mp4(data)
    elif path.suffix == ".avi":
        found = _avi(data)
    else:
        found = _matroska(data)
    return [time - found[0] for time in found]


# --- MP4 and MOV: ISO/IEC 14496-12 ------------------------------------------------------------------


def _boxes(data: bytes) -> Iterator[Box]:
    at = 0
    while at + 8 <= len(data):
        size, kind = struct.unpack(">I4s", data[at : at + 8])
        start = 8
        if size == 1:
            size, start = struct.unpack(">Q", data[at + 8 : at + 16])[0], 16
        size = size or len(data) - at
        yield kind, data[at + start : at + size]
        at += size


def _inside(data: bytes, *path: bytes) -> bytes | None:
    for kind in path:
        found = next((body for name, body in _boxes(data) if name == kind), None)
        if found is None:
            return None
        data = found
    return data


def _mp4(data: bytes) -> list[float]:
    moov = _inside(data, b"moov") or b""
    for kind, trak in _boxes(moov):
        handler = _inside(trak, b"mdia", b"hdlr") if kind == b"trak" else None
        if handler is not None and handler[8:12] == b"vide":
            return _track(trak, moov)
    raise ValueError("no video track")


def _track(trak: bytes, moov: bytes) -> list[float]:
    scale = _timescale(_inside(trak, b"mdia", b"mdhd") or b"")
    table = _inside(trak, b"mdia", b"minf", b"stbl") or b""
    decoded, clock = [], 0
    for count, step in struct.iter_unpack(">II", (_inside(table, b"stts") or b"")[8:]):
        for _ in range(count):
            decoded.append(clock)
            clock += step
    offsets = [0] * len(decoded)
    composed = _inside(table, b"ctts")
    if composed is not None:
        offsets = [off for count, off in struct.iter_unpack(">Ii", composed[8:]) for _ in range(count)]
    shown = sorted(at + off for at, off in zip(decoded, offsets, strict=True))
    first, last = _edit(trak, _timescale(_inside(moov, b"mvhd") or b""), scale)
    return [at / scale for at in shown if first <= at < last]


def _timescale(header: bytes) -> int:
    return int(struct.unpack(">I", header[20:24] if header[0] == 1 else header[12:16])[0])


def _edit(trak: bytes, movie_scale: int, scale: int) -> tuple[float, float]:
    """First and last media time that the edit list shows; empty edits only shift."""
    elst = _inside(trak, b"edts", b"elst")
    if elst is None:
        return 0, float("inf")
    wide = elst[0] == 1
    for entry in struct.iter_unpack(">QqI" if wide else ">IiI", elst[8:]):
        length, media = entry[0], entry[1]
        if media >= 0:
            return media, media + length / movie_scale * scale if length else float("inf")
    return 0, float("inf")


# --- Matroska and WebM: RFC 9559 --------------------------------------------------------------------

_PARENTS = {0x18538067, 0x1549A966, 0x1654AE6B, 0xAE, 0x1F43B675, 0xA0}


def _vint(data: bytes, at: int, keep_marker: bool) -> tuple[int, int]:
    length = 9 - data[at].bit_length()
    value = int.from_bytes(data[at : at + length], "big")
    unknown = value == (1 << 7 * length + 1) - 1 and not keep_marker
    if not keep_marker:
        value = -1 if unknown else value & ((1 << 7 * length) - 1)
    return value, at + length


def _elements(data: bytes, at: int, end: int) -> Iterator[tuple[int, bytes]]:
    """Every element in file order, parents before what is in them."""
    while at < end:
        kind, at = _vint(data, at, True)
        size, at = _vint(data, at, False)
        stop = end if size < 0 else at + size
        yield kind, b"" if kind in _PARENTS else data[at:stop]
        if kind in _PARENTS:
            yield from _elements(data, at, stop)
        at = stop


def _matroska(data: bytes) -> list[float]:
    scale, cluster, number, video = 1_000_000, 0, 0, -1
    found = []
    for kind, body in _elements(data, 0, len(data)):
        value = int.from_bytes(body[:8], "big")
        if kind == 0x2AD7B1:
            scale = value
        elif kind == 0xD7:
            number = value
        elif kind == 0x83 and value == 1:
            video = number
        elif kind == 0xE7:
            cluster = value
        elif kind in (0xA3, 0xA1):
            track, at = _vint(body, 0, False)
            if track == video:
                found.append((cluster + struct.unpack(">h", body[at : at + 2])[0]) * scale / 1e9)
    return sorted(found)


# --- AVI: RIFF ----------------------------------------------------------------------------------------


def _chunks(data: bytes, at: int, end: int) -> Iterator[tuple[bytes, bytes]]:
    while at + 8 <= end:
        kind, size = struct.unpack("<4sI", data[at : at + 8])
        if kind in (b"RIFF", b"LIST"):
            yield from _chunks(data, at + 12, at + 8 + size)
        else:
            yield kind, data[at + 8 : at + 8 + size]
        at += 8 + size + size % 2


def _avi(data: bytes) -> list[float]:
    step, count = 0.0, 0
    for kind, body in _chunks(data, 0, len(data)):
        if kind == b"strh" and body[:4] == b"vids":
            scale, rate = struct.unpack("<II", body[20:28])
            step = scale / rate
        elif kind in (b"00dc", b"00db") and body:
            count += 1
    return [k * step for k in range(count)]
