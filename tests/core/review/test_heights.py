"""Standing heights from limbs and from the scale of the picture."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.measuring.body import PROPORTIONS
from lacertus.core.review.guiding.heights import from_limbs, from_scale
from tests.core.build import points, rep


def leg(tall: float, foreshortened: float = 1.0, frame: int = 44) -> dict[str, object]:
    """A straight leg of somebody so tall, seen shortened."""
    thigh, shank = (foreshortened * tall * PROPORTIONS[part] for part in ("thigh", "shank"))
    return points(frame, hip=(100.0, 300.0), knee=(100.0 + thigh, 300.0), ankle=(100.0 + thigh + shank, 300.0))


@given(tall=st.floats(100, 900))
def test_a_leg_in_the_plane_of_the_picture_tells_the_height(tall: float) -> None:
    found = from_limbs([rep(leg(tall))], "performer")
    assert found == pytest.approx(tall)


@given(tall=st.floats(100, 900), shortened=st.floats(0.1, 0.99))
def test_a_leg_that_points_at_the_camera_never_makes_anybody_taller(tall: float, shortened: float) -> None:
    assert from_limbs([rep(leg(tall, shortened))], "performer") <= tall  # type: ignore[operator]
    # Seen at its full length in another rep, that one tells.
    assert from_limbs([rep(leg(tall, shortened)), rep(leg(tall))], "performer") == pytest.approx(tall)


def test_nothing_placed_tells_nothing_and_a_guess_or_a_tracked_point_does_not_count() -> None:
    assert from_limbs([rep({})], "performer") is None
    assert from_limbs([rep()], "partner") is None
    hidden = {name: [entry | {"hidden": True} for entry in own] for name, own in leg(500).items()}  # type: ignore[attr-defined]
    assert from_limbs([rep(hidden)], "performer") is None


def test_centimetres_and_a_scale_tell_the_height() -> None:
    assert from_scale(172.0, 0.5) == pytest.approx(344)
