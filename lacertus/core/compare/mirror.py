"""A rep as a mirror shows it: left is right, in the picture and in the names."""

from __future__ import annotations

from typing import TypeVar

from lacertus.core.measuring.body import mirrored as other_name
from lacertus.core.measuring.body import other_side
from lacertus.core.measuring.rep_facts import Heading
from lacertus.core.measuring.repfile import Body, FloorPoint, OtherView, RepFile
from lacertus.core.measuring.steady import Matrix

Picture = TypeVar("Picture", RepFile, OtherView)


def mirrored(rep: RepFile) -> RepFile:
    """The rep in a mirror. Twice mirrored it is the same again; what is measured of it is the same already once."""
    found = _picture(rep)
    nearer = tuple(one.model_copy(update={"landmark": other_name(one.landmark)}) for one in rep.nearer)
    views = tuple(_picture(view) for view in rep.views)
    return found.model_copy(update={"side": other_side(rep.side), "nearer": nearer, "views": views})


def _picture(one: Picture) -> Picture:
    width = float(one.size[0])
    changes = {
        "heading": _other_heading(one.heading),
        "upright": one.upright.model_copy(update={"deg": -one.upright.deg}),
        "bodies": {name: _body(body, width) for name, body in one.bodies.items()},
        "floor": None if one.floor is None else tuple(_spot(spot, width) for spot in one.floor),
        "camera_motion": None if one.camera_motion is None else tuple(_motion(matrix, width) for matrix in one.camera_motion),
    }
    # A key that was never said stays unsaid: an unknown camera motion is no still camera.
    return one.model_copy(update={name: value for name, value in changes.items() if name in one.model_fields_set})


def _other_heading(heading: Heading | None) -> Heading | None:
    return None if heading is None else other_side(heading)


def _body(body: Body, width: float) -> Body:
    landmarks = {
        other_name(name): tuple(point.model_copy(update={"x": width - point.x}) for point in points)
        for name, points in body.landmarks.items()
    }
    lengths = {other_name(name): length for name, length in body.reference_lengths_px.items()}
    return body.model_copy(update={"landmarks": landmarks, "reference_lengths_px": lengths})


def _spot(spot: FloorPoint, width: float) -> FloorPoint:
    """A spot of the mat: its plan is mirrored too."""
    return spot.model_copy(update={"x": width - spot.x, "X": -spot.X})


def _motion(matrix: Matrix, width: float) -> Matrix:
    """The camera's motion from one frame to the first, in a picture that is mirrored: F·M·F with F: x → width − x."""
    (a, b, across), (c, d, down) = matrix
    return ((a, -b, width - a * width - across), (-c, d, down + c * width))
