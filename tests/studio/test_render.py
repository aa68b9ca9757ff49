"""The renderer: the same picture however it is put together, smooth edges, shadows, and blur where something moves."""

from __future__ import annotations

import numpy as np
import pytest

from lacertus.studio.body.figure import Frame3
from lacertus.studio.body.flesh import Capsule, Ellipsoid, Part
from lacertus.studio.body.vectors import UP
from lacertus.studio.picture.camera import Camera
from lacertus.studio.picture.render import Stage, part_boxes, part_table

CAMERA = Camera(width=320, height=180)
UPRIGHT = Frame3(forward=np.array([1.0, 0, 0]), left=np.array([0, 1.0, 0]), up=UP)
PINK = (1.0, 0.0, 1.0)


def ball(x: float = 0.0, z: float = 0.9, size: float = 0.2) -> Part:
    return Ellipsoid(centre=np.array([x, 0.0, z]), frame=UPRIGHT, size=(size,) * 3, colour=PINK)


def rod(a: tuple[float, float, float], b: tuple[float, float, float], colour: tuple[float, float, float] = PINK) -> Part:
    return Capsule(a=np.array(a), b=np.array(b), ra=0.05, rb=0.03, colour=colour)


def pink(picture: np.ndarray) -> np.ndarray:
    """How far each pixel is pink, 0–255."""
    found = picture.astype(int)
    return np.clip(found[..., 0] - found[..., 1], 0, None)


def test_a_picture_does_not_depend_on_what_was_drawn_before() -> None:
    stage = Stage(320, 180)
    stage.draw([(CAMERA, [ball(-0.5), rod((0, 0, 0.5), (0.4, 0.2, 1.4))])])
    again = stage.draw([(CAMERA, [ball(0.3)])])
    assert np.array_equal(again, Stage(320, 180).draw([(CAMERA, [ball(0.3)])]))


def test_the_part_of_the_picture_that_is_kept_is_as_if_drawn() -> None:
    """A camera moved by nothing worth seeing forces the whole picture to be drawn; it is the same one."""
    moved = Camera(width=320, height=180, position=(1e-9, -4.6, 1.15))
    parts = [ball(), rod((-0.3, 0, 0.2), (0.2, 0.1, 1.2))]
    kept = Stage(320, 180).draw([(CAMERA, parts)]).astype(int)
    drawn = Stage(320, 180).draw([(CAMERA, parts), (moved, parts)]).astype(int)
    assert np.abs(kept - drawn).max() <= 1


def test_an_empty_hall_has_mats_and_a_wall() -> None:
    picture = Stage(320, 180).draw([(CAMERA, [])])
    assert np.array_equal(picture, Stage(320, 180).draw([(CAMERA, [])]))
    assert picture[10:40].mean() > picture[90:110].mean()
    assert picture.std() > 20


def test_the_nearer_part_is_in_front() -> None:
    near = Ellipsoid(centre=np.array([0.0, -1.0, 0.9]), frame=UPRIGHT, size=(0.1,) * 3, colour=(0.0, 1.0, 0.0))
    picture = Stage(320, 180).draw([(CAMERA, [ball(), near])])
    x, y, _ = CAMERA.project(near.centre)
    assert picture[int(y), int(x), 1] > 120 > picture[int(y), int(x), 0]


def test_edges_are_smooth() -> None:
    """Between ball and wall there are pixels of both."""
    found = pink(Stage(320, 180).draw([(CAMERA, [ball()])]))
    assert ((found > 30) & (found < 110)).sum() > 20


def test_what_stands_on_the_mat_darkens_it() -> None:
    empty, stood = (Stage(320, 180).draw([(CAMERA, parts)]).astype(int) for parts in ([], [ball(z=0.2)]))
    darker = (empty - stood).min(axis=2) > 15
    rows = np.nonzero(darker)[0]
    assert darker.sum() > 50
    assert rows.min() > 90


def test_something_that_moves_is_blurred_and_what_stands_is_not() -> None:
    sharp = pink(Stage(320, 180).draw([(CAMERA, [ball(-0.6), ball(0.6, size=0.1)])]))
    shots = [(CAMERA, [ball(-0.6), ball(0.6 + off, size=0.1)]) for off in (-0.06, 0.0, 0.06)]
    blurred = pink(Stage(320, 180).draw(shots))
    left, right = slice(0, 160), slice(160, 320)
    assert np.abs(sharp[:, left] - blurred[:, left]).max() <= 2
    assert (blurred[:, right] > 20).sum() > 1.3 * (sharp[:, right] > 20).sum()


@pytest.mark.parametrize("end", [(0.5, 0.0, 1.5), (0.0, 0.8, 0.9), (-0.7, -0.6, 0.1), (0.0, 0.0, 0.91)])
def test_every_pixel_of_a_part_lies_in_its_box(end: tuple[float, float, float]) -> None:
    parts = [rod((0.0, 0.0, 0.9), end)]
    boxes, _ = part_boxes(*part_table(parts), CAMERA)
    rows, columns = np.nonzero(pink(Stage(320, 180).draw([(CAMERA, parts)])) > 40)
    left, top, right, bottom = boxes[0]
    assert left <= columns.min()
    assert columns.max() < right
    assert top <= rows.min()
    assert rows.max() < bottom
    assert len(rows) > 20


def test_a_part_outside_the_picture_draws_nothing() -> None:
    found = pink(Stage(320, 180).draw([(CAMERA, [ball(x=9.0)])]))
    assert found.max() < 40
