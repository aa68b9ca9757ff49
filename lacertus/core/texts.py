"""Texts and names that come from outside: what can be shown, stored and written into a file name."""

from __future__ import annotations

import unicodedata
from typing import Any

from lacertus.core.errors import BadInput

LONGEST_NAME_BYTES = 255
"""What ext4, XFS, APFS and NTFS take for one name; a name that is longer could not be written beside the file again."""
MOST_DEPTH = 40
_TURNS = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Characters that turn the direction of what follows: with them `gpj.exe` is shown as `exe.jpg`."""


def checked_text(text: str, what: str, most: int = 200) -> str:
    """Trimmed text of one to `most` characters that can be shown.

    Raises:
        BadInput: it is empty, too long, or holds control characters or half of a surrogate pair.
    """
    text = text.strip()
    if not text:
        raise BadInput(f"{what} is missing")
    if len(text) > most:
        raise BadInput(f"{what} is longer than {most} characters")
    if not is_plain(text):
        raise BadInput(f"{what} holds characters that cannot be shown")
    return text


def checked_name(name: str, what: str, most: int = 200) -> str:
    """A name in one line: as `checked_text`, and nothing in it turns the direction of writing.

    Raises:
        BadInput: as `checked_text`, or it has several lines or turns its direction.
    """
    name = checked_text(name, what, most)
    if any(character in _TURNS or character in "\n\r\t\u2028\u2029" for character in name):
        raise BadInput(f"{what} holds characters that cannot be shown in one line")
    return name


def checked_file_name(name: str, what: str = "the file’s name") -> str:
    """The name of a file as it is shown: no folder in it, and at most 255 bytes in UTF-8.

    It is only ever shown. No path is made of it.

    Raises:
        BadInput: as `checked_name`, or it names a folder, or it is too long.
    """
    name = checked_name(name, what, LONGEST_NAME_BYTES)
    if "/" in name or "\\" in name or name in (".", ".."):
        raise BadInput(f"{what} holds a slash or names a folder; send the file under a plain name")
    if len(name.encode()) > LONGEST_NAME_BYTES:
        raise BadInput(f"{what} is longer than {LONGEST_NAME_BYTES} bytes; give it a shorter one")
    return name


def shown_text(text: str) -> str:
    """The text itself; raises ValueError where it cannot be shown as it is, or turns the direction of what stands behind it."""
    if not is_plain(text) or any(character in _TURNS for character in text):
        raise ValueError("this text holds characters that cannot be shown")
    return text


def is_plain(text: str) -> bool:
    """False where a text holds control characters other than line ends and tabs, or half of a surrogate pair."""
    return not any(unicodedata.category(character) in ("Cc", "Cs") and character not in "\n\r\t" for character in text)


def first_unkept(value: Any, most_depth: int = MOST_DEPTH) -> str | None:
    """What in a tree of lists and dicts no database keeps: a text with NUL or half of a surrogate pair, or too many levels.

    Returns None where all is well.
    """
    waiting: list[tuple[Any, int]] = [(value, 0)]
    while waiting:
        one, depth = waiting.pop()
        if isinstance(one, str):
            if "\0" in one:
                return "a text holds the character NUL, which cannot be kept; take it out"
            if any("\ud800" <= character <= "\udfff" for character in one):
                return "a text holds half of a character, which cannot be kept; write it again"
        elif isinstance(one, dict | list | tuple):
            if depth == most_depth:
                return f"it is nested more than {most_depth} levels deep"
            inside = [*one, *one.values()] if isinstance(one, dict) else one
            waiting += [(part, depth + 1) for part in inside]
    return None
