"""The scenes of the demo academy: who does what, with which faults, and how it was filmed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from lacertus.studio import foot_sweep, front_kick
from lacertus.studio.camera import Camera
from lacertus.studio.clips import Recording, even_times, uneven_times
from lacertus.studio.figure import Look
from lacertus.studio.foot_sweep import FootSweep
from lacertus.studio.front_kick import FrontKick
from lacertus.studio.motion import joined
from lacertus.studio.scene import Actor, Rep, Scene

LEAD_IN_S = 0.35

ILSE = Look(stature_m=1.68, build=0.96, hair=(0.42, 0.27, 0.14), skin=(0.87, 0.69, 0.57), belt=(0.32, 0.22, 0.14))
TOMAS = Look(stature_m=1.80, build=1.04, hair=(0.11, 0.09, 0.08), skin=(0.62, 0.44, 0.33))
ODA = Look(stature_m=1.62, build=0.94, hair=(0.60, 0.44, 0.22), skin=(0.90, 0.73, 0.62), belt=(0.20, 0.36, 0.24))
PARTNER = Look(stature_m=1.76, cloth=(0.20, 0.29, 0.47), belt=(0.75, 0.62, 0.30), hair=(0.24, 0.17, 0.12), skin=(0.84, 0.66, 0.53))


@dataclass(frozen=True, kw_only=True)
class DemoScene:
    """A scene to record, by its file name."""

    name: str
    build: Callable[[], Scene]
    recording: Recording


def kicks(look: Look, reps: Sequence[FrontKick], times: Callable[[float], tuple[float, ...]]) -> Scene:
    """A solo clip of front kicks, one after another."""
    parts, found = [front_kick.stance()], []
    for i, kick in enumerate(reps):
        start = LEAD_IN_S + i * front_kick.LENGTH_S
        keys, events = front_kick.rep(kick, start)
        parts.append(keys)
        found.append(Rep(start_s=start - 0.2, end_s=start + front_kick.LENGTH_S - 0.25, events_s=events))
    return Scene(
        technique="front-kick",
        side="right",
        performer=Actor(look=look, motion=joined(parts)),
        partner=None,
        reps=tuple(found),
        camera=Camera(position=(0.16, -4.4, 1.10), target=(0.16, 0.0, 0.86)),
        times_s=times(LEAD_IN_S + len(reps) * front_kick.LENGTH_S),
    )


def sweep(look: Look, how: FootSweep, times: Callable[[float], tuple[float, ...]]) -> Scene:
    """A clip of one advancing foot sweep."""
    performer, partner = foot_sweep.stance()
    first, second, events = foot_sweep.rep(how, LEAD_IN_S)
    return Scene(
        technique="advancing-foot-sweep",
        side="right",
        performer=Actor(look=look, motion=joined([performer, first])),
        partner=Actor(look=PARTNER, motion=joined([partner, second])),
        reps=(Rep(start_s=0.1, end_s=LEAD_IN_S + foot_sweep.LENGTH_S - 0.4, events_s=events),),
        camera=Camera(position=(0.18, -4.5, 1.12), target=(0.18, 0.0, 0.82)),
        times_s=times(LEAD_IN_S + foot_sweep.LENGTH_S),
    )


GOOD, LOW, SLOW = FrontKick(), FrontKick(thigh=66.0, fold=92.0), FrontKick(thigh=76.0, return_s=0.42, refold=60.0)

SCENES: tuple[DemoScene, ...] = (
    DemoScene(
        name="ilse-front-kick-first.mp4",
        build=lambda: kicks(ILSE, [LOW, LOW], lambda seconds: even_times(seconds, 30)),
        recording=Recording(),
    ),
    DemoScene(
        name="ilse-front-kick-second.mp4",
        build=lambda: kicks(ILSE, [LOW, GOOD], lambda seconds: uneven_times(seconds, 30, 3)),
        recording=Recording(),
    ),
    DemoScene(
        name="ilse-front-kick-third.mp4",
        build=lambda: kicks(ILSE, [SLOW, LOW], lambda seconds: even_times(seconds, 60)),
        recording=Recording(),
    ),
    DemoScene(
        name="tomas-foot-sweep.mp4",
        build=lambda: sweep(TOMAS, FootSweep(sweep_s=0.19, knee=22.0), lambda seconds: uneven_times(seconds, 50, 11)),
        recording=Recording(),
    ),
    DemoScene(
        name="oda-front-kick.mp4",
        build=lambda: kicks(ODA, [SLOW], lambda seconds: even_times(seconds, 30)),
        recording=Recording(group=250, b_frames=3),
    ),
)
