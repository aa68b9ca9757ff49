"""Bodies with any points."""

from __future__ import annotations

from hypothesis import strategies as st

from lacertus.core.measuring.body import LANDMARKS
from lacertus.core.measuring.repfile import Body, PointEntry

SIZE, FRAMES = (640, 480), 100
PIXELS = st.floats(-50, 700, allow_nan=False)
POINTS = st.builds(
    PointEntry,
    frame=st.integers(0, FRAMES - 1),
    x=PIXELS,
    y=PIXELS,
    sigma=st.none() | st.floats(0.1, 50),
    shared=st.none() | st.floats(0, 1),
    grain=st.none() | st.floats(0.1, 5),
    by=st.sampled_from(["placed", "tracked", "model", "truth", "interpolated"]),
    hidden=st.booleans(),
)
TRACK = st.lists(POINTS, min_size=1, max_size=6, unique_by=lambda p: p.frame).map(
    lambda points: tuple(sorted(points, key=lambda p: p.frame))
)
BODY = st.builds(Body, landmarks=st.dictionaries(st.sampled_from(sorted(LANDMARKS)), TRACK, min_size=1, max_size=6))
