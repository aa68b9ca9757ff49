"""JSON from outside: read with limits, or refused in a sentence, quickly and without spending memory on it."""

from __future__ import annotations

import json
import time
import tracemalloc

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.errors import BadInput
from lacertus.jsonfile import JsonLimits, parse_json

VALUES = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(2**53), 2**53)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0")),
    lambda inner: st.lists(inner, max_size=5) | st.dictionaries(st.text('ab"\\[]{},', max_size=6), inner, max_size=5),
    max_leaves=30,
)


@given(VALUES)
def test_ordinary_json_is_read_as_it_is(value: object) -> None:
    for text in (json.dumps(value), json.dumps(value, ensure_ascii=False)):
        assert parse_json(text.encode(), "the file") == value


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"[" * 50_000, "levels deep"),
        (b'{"a":' * 50_000, "levels deep"),
        (b"[" + b"[]," * 2_000_001 + b"[]]", "more than 2,000,000 values"),
        (b" " * 20_000_001, "larger than 20 MB"),
        (b"", "no JSON"),
        (b"{", "no JSON"),
        (b"\xff", "not UTF-8"),
        (b"[NaN]", "no number"),
        (b"[-Infinity]", "no number"),
        (b"[" + b"9" * 5000 + b"]", "too long"),
        (b'["\\u0000"]', "NUL"),
        (b'{"\\ud800": 1}', "half of a character"),
        (b'"' + b"[" * 100 + b'"]', "no JSON"),
    ],
    ids=range(13),
)
def test_what_is_none_or_too_much_is_refused_at_once(content: bytes, words: str) -> None:
    started = time.process_time()
    with pytest.raises(BadInput, match=words):
        parse_json(content, "the file")
    assert time.process_time() - started < 3


def test_brackets_in_texts_count_for_nothing() -> None:
    assert parse_json(json.dumps(["[" * 100 + '\\"' + "{" * 100]).encode(), "the file", JsonLimits(most_depth=1)) == [
        "[" * 100 + '\\"' + "{" * 100
    ]


def test_memory_is_bounded_before_it_is_spent() -> None:
    """Forty bytes of memory for each byte is what an empty list takes."""
    content = b"[" + b"[]," * 3_000_000 + b"1]"
    tracemalloc.start()
    with pytest.raises(BadInput, match="values"):
        parse_json(content, "the file")
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert peak < 12 * len(content)
