"""A value as people read it."""

import pytest

from lacertus.core.review.judgement import shown


@pytest.mark.parametrize(
    ("value", "unit", "words"),
    [
        (138.4, "deg", "138°"), (7.25, "deg", "7.2°"), (-0.04, "deg", "0.0°"), (18.2, "ms", "18 ms"), (-0.3, "ms", "0 ms"),
        (0.081, "shank", "0.08 shank"), (-0.002, "height", "0 height"),
        (-0.07, "partner.shoulder_width", "-0.07 partner’s shoulder width"), (2.0, None, "2"),
    ],
)  # fmt: skip
def test_a_value_is_rounded_and_nought_has_no_sign(value: float, unit: str | None, words: str) -> None:
    assert shown(value, unit) == words
