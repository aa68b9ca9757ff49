"""Stored files on their way out: whole, by ranges of bytes, or not at all where the browser has them already."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Header
from fastapi.responses import Response, StreamingResponse

from lacertus.store.media import Media
from lacertus.web.errors import body

_RANGE = re.compile(r"bytes=(\d{0,18})-(\d{0,18})")
ASK_AGAIN = "private, no-cache"
"""A browser may keep a file, and asks each time whether it may still show it: after signing out it may not."""
KEEP_NOTHING = "no-store"
"""What a link shows: once it is withdrawn nothing of it is left."""


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Which bytes of a file a browser asks for, and which version of it the browser has."""

    range: str | None = None
    has: str | None = None


def _asked(
    range: Annotated[str | None, Header(include_in_schema=False)] = None,
    if_none_match: Annotated[str | None, Header(include_in_schema=False)] = None,
) -> Asked:
    return Asked(range=range, has=if_none_match)


FileAsked = Annotated[Asked, Depends(_asked)]


def send_file(files: Media, key: str, kind: str, asked: Asked, keep: str = ASK_AGAIN) -> Response:
    """A stored file, whole or the range of bytes that is wanted."""
    size, mark = files.facts(key)
    tag = hashlib.sha256(f"{key} {size} {mark}".encode()).hexdigest()
    return _sent(lambda start, end: files.read(key, start, end), size, tag, kind, asked, keep)


def send_bytes(data: bytes, kind: str, asked: Asked, keep: str = ASK_AGAIN) -> Response:
    """A file that is made as it is asked for, whole or the range of bytes that is wanted."""
    digest = hashlib.sha256(data).hexdigest()
    return _sent(lambda start, end: iter((data[start:end],)), len(data), digest, kind, asked, keep)


def _sent(read: Callable[[int, int], Iterator[bytes]], size: int, digest: str, kind: str, asked: Asked, keep: str) -> Response:
    tag = f'"{digest[:24]}"'
    headers = {"Accept-Ranges": "bytes", "Cache-Control": keep, "ETag": tag}
    if asked.has is not None and tag in asked.has:
        return Response(status_code=304, headers=headers)
    match = _RANGE.fullmatch(asked.range or "")
    if match is None:
        return StreamingResponse(read(0, size), media_type=kind, headers=headers | {"Content-Length": str(size)})
    start, end = _span(match, size)
    if start >= size or start >= end:
        response = body(416, "bad_range", f"The file has {size} bytes.")
        response.headers["Content-Range"] = f"bytes */{size}"
        return response
    headers |= {"Content-Range": f"bytes {start}-{end - 1}/{size}", "Content-Length": str(end - start)}
    return StreamingResponse(read(start, end), 206, media_type=kind, headers=headers)


def _span(match: re.Match[str], size: int) -> tuple[int, int]:
    """First byte and the one after the last, of `bytes=a-b`, `bytes=a-` or `bytes=-n`."""
    first, last = match.groups()
    if not first:
        return (max(size - int(last), 0), size) if last else (size, size)
    return int(first), min(int(last) + 1, size) if last else size
