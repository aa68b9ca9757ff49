"""A whole body in the picture, still or moving, for tests of kinds that read much of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from lacertus.library.sample import STANDING

Move = Callable[[int, str], tuple[float, float]]


def body(
    frames: range | list[int],
    foot: tuple[float, float] = (600.0, 600.0),
    move: Move = lambda frame, name: (0.0, 0.0),
    sigma: float = 1.0,
    **changes: tuple[float, float],
) -> dict[str, Any]:
    """Landmarks on the frames; `move` adds pixels (x right, y up) by frame and landmark."""
    found: dict[str, Any] = {}
    for name, (x, y) in (STANDING | changes).items():
        found[name] = []
        for frame in frames:
            dx, dy = move(frame, name)
            found[name].append({"frame": frame, "x": foot[0] + x + dx, "y": foot[1] - y - dy, "sigma": sigma})
    return {"height_px": 400.0, "landmarks": found}
