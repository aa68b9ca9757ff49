"""Reference lengths read off a named still frame: one in which the limbs lie square to the camera."""

from __future__ import annotations

from lacertus.core.errors import Unreadable
from lacertus.core.measuring import body as anatomy
from lacertus.core.measuring import geometry
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.repfile import Length, RepFile
from lacertus.core.measuring.scene import DEPTH_U, Scene


def lengths_in(rep: RepFile, body: BodyName, frame: int) -> dict[str, Length]:
    """Every segment of a body whose two ends are placed in a frame, as long as it is seen there.

    u is that of the two ends, and DEPTH_U of the length, as the limb may be nearer or farther when it is judged.

    Returns:
        By segment (`right_shank`), pixels, with the frame; empty where nothing is placed in it.
    """
    scene = Scene(rep, {})
    found: dict[str, Length] = {}
    for segment, ends in anatomy.SEGMENTS.items():
        try:
            a, b = (scene.landmark(body, end, frame) for end in ends)
            seen = geometry.distance(a, b)
        except Unreadable:
            continue
        u = geometry.standard_uncertainty(seen.gradients)
        found[segment] = Length(px=seen.value, u=float((u**2 + (DEPTH_U * seen.value) ** 2) ** 0.5), frame=frame)
    return found
