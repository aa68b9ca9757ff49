"""A value as people read it."""

import pytest

from lacertus.core.review.judgement import shown, shown_with


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


@pytest.mark.parametrize(
    ("value", "u", "unit", "words"),
    [
        (0.592, 0.021, "shoulder_width", "0.59 ± 0.02 shoulder width"),
        (138.4, 3.2, "deg", "138° ± 3.2°"),
        (412.4, 14.0, "ms", "412 ms ± 14 ms"),
    ],
)
def test_a_value_with_its_uncertainty_says_its_unit_once(value: float, u: float, unit: str, words: str) -> None:
    assert shown_with(value, u, unit) == words
