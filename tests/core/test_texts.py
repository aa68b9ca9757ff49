"""Texts and names from outside."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_file_name, checked_name, checked_text, first_unkept


@pytest.mark.parametrize("name", ["kick.mp4", "Tritt links – Übung 3.mov", "é" * 125 + "x.mp4", "踢.mp4", "a..b.mp4", " kick.mp4 "])
def test_ordinary_names_are_kept(name: str) -> None:
    assert checked_file_name(name) == name.strip()


@pytest.mark.parametrize(
    "name",
    [
        *("", " ", "/etc/passwd", "a/b.mp4", "a\\b.mp4", "..", "."),
        *("a\nb.mp4", "a\rb.mp4", "a\0.mp4", "a\x7f.mp4", "a\x85b.mp4", "gpj.\u202e4pm", "\u2066a", "\ud800a.mp4"),
        "é" * 126 + "x.mp4",
    ],
)
def test_a_name_that_is_a_path_or_cannot_be_shown_is_refused(name: str) -> None:
    with pytest.raises(BadInput, match="name"):
        checked_file_name(name)


@given(st.text(max_size=300))
def test_whatever_is_kept_is_one_line_below_a_folder(name: str) -> None:
    try:
        kept = checked_file_name(name)
    except BadInput:
        return
    assert len(kept.encode()) <= 255
    assert not set(kept) & set("/\\\n\r\0\u202e")
    assert kept not in ("", ".", "..")


def test_notes_may_have_lines_and_names_may_not() -> None:
    assert checked_text("one\ntwo\tthree", "the note") == "one\ntwo\tthree"
    with pytest.raises(BadInput, match="one line"):
        checked_name("one\ntwo", "a name")


@pytest.mark.parametrize(
    ("value", "words"),
    [
        ({"a": ["x\0"]}, "NUL"),
        ({"x\0": 1}, "NUL"),
        (["\udfff"], "half of a character"),
        ([[[1]]], "levels"),
        ({"a": [1, None, True, "fine"]}, None),
    ],
)
def test_what_no_database_keeps_is_told(value: object, words: str | None) -> None:
    found = first_unkept(value, most_depth=2)
    assert (found is None) == (words is None)
    assert words is None or words in (found or "")
