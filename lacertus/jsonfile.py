"""JSON from outside: read with limits on size, depth and number of values, before and not after memory is spent on it."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from typing import Any, NoReturn

import numpy as np

from lacertus.core.errors import BadInput
from lacertus.core.texts import first_unkept

_TEXTS = re.compile(rb'"[^"\\]*(?:\\.[^"\\]*)*"', re.DOTALL)
_ESCAPED = re.compile(rb"\\u(?:0000|[dD][89a-fA-F])")
LONGEST_NUMBER = 400
_STRETCH = 1 << 18


@dataclass(frozen=True, kw_only=True)
class JsonLimits:
    """Bytes, levels of lists and objects, and values (a list, an object or what is parted by a comma) that are taken.

    A value takes at most some 80 bytes of memory once it is read, so the number of values bounds the memory.
    """

    most_bytes: int = 20_000_000
    most_depth: int = 40
    most_values: int = 2_000_000


def parse_json(content: bytes, what: str, limits: JsonLimits | None = None) -> Any:
    """The value of a JSON text.

    Raises:
        BadInput: it is none, over a limit, or holds numbers or texts that cannot be kept.
    """
    limits = limits or JsonLimits()
    if len(content) > limits.most_bytes:
        raise BadInput(f"{what} is larger than {limits.most_bytes / 1e6:g} MB, the most that is read; nothing was stored")
    try:
        text = content.decode("utf-8")
    except UnicodeDecodeError as error:
        raise BadInput(f"{what} is not UTF-8 text; nothing was stored") from error
    _check_size(content, what, limits)
    try:
        value = json.loads(text, parse_constant=_refuse, parse_int=_whole_number)
    except (ValueError, RecursionError) as error:
        raise BadInput(f"{what} is no JSON ({error}); nothing was stored") from error
    # Only where an escape may have made one is the tree looked through.
    unkept = first_unkept(value) if _ESCAPED.search(content) else None
    if unkept is not None:
        raise BadInput(f"{what}: {unkept}; nothing was stored")
    return value


def _check_size(content: bytes, what: str, limits: JsonLimits) -> None:
    """Count levels and values without reading them: what stands in texts is left out first. A stretch at a time."""
    bare = np.frombuffer(_TEXTS.sub(b"", content), dtype=np.uint8)
    depth = deepest = values = 0
    for first in range(0, bare.size, _STRETCH):
        part = bare[first : first + _STRETCH]
        opens = (part == ord("[")) | (part == ord("{"))
        closes = (part == ord("]")) | (part == ord("}"))
        levels = depth + np.cumsum(opens.astype(np.int8) - closes.astype(np.int8), dtype=np.int64)
        depth, deepest = int(levels[-1]), max(deepest, int(levels.max()))
        values += int(np.count_nonzero(opens)) + int(np.count_nonzero(part == ord(",")))
        if deepest > limits.most_depth:
            raise BadInput(f"{what} is nested more than {limits.most_depth} levels deep; nothing was stored")
        if values > limits.most_values:
            raise BadInput(f"{what} holds more than {limits.most_values:,} values, the most that are read; nothing was stored")


def _refuse(name: str) -> NoReturn:
    raise ValueError(f"{name} is no number that can be used")


def _whole_number(digits: str) -> int:
    if len(digits) > LONGEST_NUMBER:
        raise ValueError(f"a number of {len(digits)} digits is too long")
    return int(digits)
