"""From decoded to displayed pictures: turns and mirrors, ordinary colour, the parts of the filmstrip, the camera at its limits."""

from __future__ import annotations

import math

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.video.colour import WHITE_NITS, hlg_nits, ordinary, ordinary_lut, pq_nits, pressed
from lacertus.video.intake.camera import CameraWatch
from lacertus.video.intake.movement import MovementTrace
from lacertus.video.upright import turned_by


@pytest.mark.parametrize("turn", [0, 90, 180, 270])
@pytest.mark.parametrize("mirrored", [False, True])
def test_a_display_matrix_is_read_as_mirrored_first_then_turned(turn: int, mirrored: bool) -> None:
    c, s = round(math.cos(math.radians(turn))), round(math.sin(math.radians(turn)))
    sign = -1 if mirrored else 1
    # (p, q) → mirrored (±p, q) → turned clockwise with y down.
    matrix = (sign * c, sign * s, -s, c)
    assert turned_by(tuple(65536 * value for value in matrix)) == (turn, mirrored)  # type: ignore[arg-type]


def test_a_matrix_of_nothing_turns_nothing() -> None:
    assert turned_by((0, 0, 0, 0)) == (0, False)


# Points of the standards: HLG reference white is the signal 0.75 at 203 cd/m²; PQ 0.58 is 203 cd/m², 1.0 is 10,000.
def test_reference_white_of_both_transfers_is_203_nits() -> None:
    assert float(hlg_nits(np.full(3, 0.75))[0]) == pytest.approx(WHITE_NITS, rel=0.01)
    assert float(pq_nits(np.array(0.5807))) == pytest.approx(WHITE_NITS, rel=0.01)
    assert float(pq_nits(np.array(1.0))) == pytest.approx(10_000)
    assert float(hlg_nits(np.ones(3))[0]) == pytest.approx(1000, rel=0.001)


@pytest.mark.parametrize("transfer", ["hlg", "pq"])
def test_grey_stays_grey_and_brighter_never_becomes_darker(transfer: str) -> None:
    steps = np.linspace(0, 1, 200)
    shown = ordinary(np.repeat(steps[:, None], 3, axis=1), transfer)  # type: ignore[arg-type]
    assert np.ptp(shown, axis=1).max() < 0.01
    assert (np.diff(shown[:, 0]) >= -1e-9).all()
    assert shown[0, 0] == pytest.approx(0, abs=0.01)


@given(st.floats(0, 4.9), st.floats(0, 4.9))
def test_highlights_are_pressed_together_without_a_corner(one: float, other: float) -> None:
    low, high = sorted((one, other))
    a, b = pressed(np.array([low, high]))
    assert a <= b <= 1
    assert b - a <= (high - low) * 1.001 + 1e-12


def test_the_table_has_red_fastest_and_is_whole() -> None:
    head, *rows = ordinary_lut("hlg").strip().split("\n")
    assert head == "LUT_3D_SIZE 33"
    assert len(rows) == 33**3
    red = ordinary(np.array([1 / 32, 0, 0]), "hlg")
    assert [float(value) for value in rows[1].split()] == pytest.approx(red.tolist(), abs=1e-5)


def room(width: int = 384, height: int = 216) -> np.ndarray:
    """A plain hall larger than the picture: a wall with seams and lines on a mat."""
    chance = np.random.default_rng(1)
    hall = np.full((height * 2, width * 2), 170, dtype=np.uint8)
    hall[height:] = 120
    hall[height - 6 : height] = 60
    for x in range(0, 2 * width, 70):
        cv2.line(hall, (x, 0), (x + 4, height), 120, 1)
        cv2.line(hall, (x, height), (x * 2 - width, 2 * height), 90, 1)
    return cv2.GaussianBlur(hall + chance.integers(0, 3, hall.shape, dtype=np.uint8), (3, 3), 0)


def seen(hall: np.ndarray, x: float, y: float, turn_deg: float = 0.0) -> np.ndarray:
    """What a camera sees whose view lies at (x, y), turned about its middle."""
    matrix = cv2.getRotationMatrix2D((192, 108), turn_deg, 1)
    matrix[:, 2] -= 0
    shift = np.array([[1, 0, -96 - x], [0, 1, -108 - y]])
    whole = matrix @ np.vstack([shift, [0, 0, 1]])
    return cv2.warpAffine(hall, whole, (384, 216), flags=cv2.INTER_LINEAR)


def test_a_pan_with_a_turn_is_followed_while_someone_moves_in_the_middle() -> None:
    hall, watch = room(), CameraWatch((2.0, 2.0))
    found = []
    for frame in range(40):
        x, y = 20 * math.sin(frame / 9), 6 * math.sin(frame / 5)
        picture = seen(hall, x, y)
        cv2.rectangle(picture, (150 + frame, 70), (200 + frame, 200), 240, -1)
        found.append(watch(picture)[:, 2] - (x, y))
    assert np.abs(found).max() < 0.5
    motion = watch.finish()
    assert motion.lost == ()
    assert motion.matrices is not None
    # In displayed pixels: twice the small ones.
    assert motion.matrices[10][:, 2] == pytest.approx((40 * math.sin(10 / 9), 12 * math.sin(2)), abs=1.0)


def test_where_the_camera_is_covered_it_says_so_and_goes_on() -> None:
    hall, watch = room(), CameraWatch((1.0, 1.0))
    for frame in range(30):
        watch(np.full((216, 384), 128, dtype=np.uint8) if 10 <= frame < 18 else seen(hall, 0, 0))
    motion = watch.finish()
    assert len(motion.lost) == 1
    first, last = motion.lost[0]
    assert first >= 7
    assert last <= 18
    assert motion.matrices is not None


def test_three_covered_frames_are_bridged() -> None:
    hall, watch = room(), CameraWatch((1.0, 1.0))
    for frame in range(20):
        watch(np.full((216, 384), 128, dtype=np.uint8) if 8 <= frame < 11 else seen(hall, frame, 0))
    motion = watch.finish()
    assert motion.lost == ()
    assert motion.matrices is not None
    assert motion.matrices[9][0, 2] == pytest.approx(9, abs=0.6)


def test_a_plain_wall_gives_no_motion_to_rely_on() -> None:
    watch = CameraWatch((1.0, 1.0))
    for _ in range(12):
        watch(np.full((216, 384), 128, dtype=np.uint8))
    assert watch.finish().lost


def test_movement_is_what_moves_by_itself_not_the_camera() -> None:
    hall = room()
    panned, walked = MovementTrace(), MovementTrace()
    for frame in range(20):
        panned(seen(hall, 3 * frame, 0), np.array([[1, 0, 3.0 * frame], [0, 1, 0]]))
        picture = seen(hall, 0, 0)
        cv2.rectangle(picture, (100 + 4 * frame, 60), (140 + 4 * frame, 190), 240, -1)
        walked(picture, np.eye(2, 3))
    assert np.median(walked.moved[1:]) > 3 * np.median(panned.moved[1:])


def test_a_frame_shown_twice_is_told_only_while_something_moves() -> None:
    hall, trace = room(), MovementTrace()
    for frame in range(12):
        at = frame - (frame == 6)
        picture = seen(hall, 0, 0)
        if frame < 9:
            cv2.rectangle(picture, (100 + 6 * at, 60), (140 + 6 * at, 190), 240, -1)
        trace(picture, np.eye(2, 3))
    assert trace.repeated() == [6]
