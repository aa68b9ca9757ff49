"""A studio script: who does which technique with which faults, and how it is filmed."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BeforeValidator, Field, ValidationError

from lacertus.core.errors import BadInput, BadScript, Problem
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.rep_facts import named_now
from lacertus.core.model import Record, problems_of
from lacertus.studio.body.figure import Look
from lacertus.studio.body.move import How, Move
from lacertus.studio.moves import MOVES
from lacertus.studio.picture.camera import Camera
from lacertus.studio.picture.looks import LOOKS
from lacertus.studio.scene import Scene, Shot
from lacertus.yamlfile import parse_checked, read_text

SCRIPTS = Path(__file__).parent / "scripts"
SLOW = 2.4
"""How many times longer a rep at slow pace takes."""
VIEWS = {"side": 0.0, "angle": 35.0, "front": -90.0, "behind": 90.0}
"""How far the pair is turned before the camera, degrees."""


def view_for(best_view: str | None) -> str:
    """The view to film from: the best one where a camera on a tripod can take it, else the side."""
    return best_view if best_view in VIEWS else "side"


Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]


class BodyScript(Record):
    """A body: a named look, and what differs from it."""

    look: str = "ash"
    stature_m: float | None = Field(default=None, ge=1.0, le=2.2)
    build: float | None = Field(default=None, ge=0.8, le=1.3)
    cloth: Colour | None = None
    belt: Colour | None = None
    hair: Colour | None = None
    skin: Colour | None = None


class RepScript(Record):
    """One rep: faults by code with their degree (milliseconds, degrees or centimetres), pace, options, and what
    the partner does."""

    faults: dict[str, float] = {}
    reaction: str = Field(
        default="", max_length=60, description="A reaction of the partner’s; empty for a partner who does nothing"
    )
    pace: Literal["full", "slow"] = "full"
    options: dict[str, str] = {}


class CameraScript(Record):
    """Where the camera stands. `turn_deg` turns the pair before it, beside what the view says."""

    view: Annotated[Literal["side", "angle", "front", "behind"], BeforeValidator(named_now)] = "side"
    turn_deg: float = Field(default=0.0, ge=-180, le=180)
    height_m: float = Field(default=1.1, ge=0.2, le=4.0)
    distance_m: float = Field(default=4.4, ge=1.5, le=12.0)
    view_deg: float = Field(default=48.0, ge=15, le=100)
    handheld: float = Field(default=0.0, ge=0, le=4, description="0: a tripod, 1: an ordinary hand")
    size: tuple[int, int] = (960, 540)
    portrait: bool = False


class RecordingScript(Record):
    """How the file is written."""

    fps: float = Field(default=30.0, ge=5, le=240)
    variable: bool = False
    dropped: float = Field(default=0.06, ge=0, le=0.5, description="Share of frames lost where the rate varies")
    slowed: float = Field(default=1.0, ge=1, le=16, description="High-speed capture: how many times longer the file lasts")
    rotation: Literal[0, 90, 180, 270] = 0
    group: int = Field(default=30, ge=1, le=600, description="Frames from keyframe to keyframe")
    b_frames: int = Field(default=0, ge=0, le=4)
    blur: float = Field(default=0.0, ge=0, le=1, description="Share of a frame’s time that the shutter is open")
    crf: int = Field(default=23, ge=10, le=40)
    stamp: bool = True
    sound: bool = Field(default=True, description="A command before each rep, and what strikes the mat; never in a slowed clip")


class Script(Record):
    """A studio script (docs/formats.md)."""

    lacertus_script: Literal[1] = Field(description="Version of this format")
    id: Annotated[str, Field(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$")]
    technique: str
    says: str = ""
    side: Literal["left", "right"] = "right"
    seed: int = Field(default=0, ge=0)
    scatter: float = Field(default=1.0, ge=0, le=3, description="How much reps differ; 0: not at all")
    rung: str | None = None
    options: dict[str, str] = {}
    performer: BodyScript = BodyScript()
    partner: BodyScript | None = None
    reps: tuple[RepScript, ...] = Field(default=(RepScript(),), min_length=1, max_length=30)
    camera: CameraScript = CameraScript()
    second_camera: CameraScript | None = None
    recording: RecordingScript = RecordingScript()

    @property
    def faults(self) -> tuple[str, ...]:
        """Codes of the faults put in, each once."""
        return tuple(dict.fromkeys(code for rep in self.reps for code in rep.faults))

    def problems(self) -> list[Problem]:
        """What the models alone cannot tell: techniques, faults, options and looks that are not there."""
        move = MOVES.get(self.technique)
        if move is None:
            known = ", ".join(sorted(MOVES))
            return [Problem(path=("technique",), message=f"the studio has no technique “{self.technique}”; it has {known}")]
        found = _size_problems(self)
        if self.partner is not None and not move.partner:
            found.append(Problem(path=("partner",), message=f"“{self.technique}” is done without a partner"))
        for key, body in (("performer", self.performer), ("partner", self.partner)):
            if body is not None and body.look not in LOOKS:
                found.append(Problem(path=(key, "look"), message=f"no look “{body.look}”; there are {', '.join(LOOKS)}"))
        found += _option_problems(move, self.options, ("options",))
        for i, rep in enumerate(self.reps):
            found += _option_problems(move, rep.options, ("reps", i, "options"))
            found += _fault_problems(move, rep, ("reps", i, "faults"))
            if rep.reaction and rep.reaction not in move.reactions:
                known = ", ".join(move.reactions) or "none"
                message = f"“{move.technique}” shows no reaction “{rep.reaction}”; it shows {known}"
                found.append(Problem(path=("reps", i, "reaction"), message=message))
        return found


def _size_problems(script: Script) -> list[Problem]:
    found = []
    for key, camera in (("camera", script.camera), ("second_camera", script.second_camera)):
        if camera is not None and not all(64 <= side <= 1920 and side % 2 == 0 for side in camera.size):
            found.append(Problem(path=(key, "size"), message="width and height are even numbers from 64 to 1920"))
    return found


def _option_problems(move: Move, options: dict[str, str], path: tuple[str | int, ...]) -> list[Problem]:
    found = []
    for group, choice in options.items():
        if group not in move.options:
            found.append(Problem(path=(*path, group), message=f"“{move.technique}” has no option “{group}”"))
        elif choice not in move.options[group]:
            known = ", ".join(move.options[group])
            found.append(Problem(path=(*path, group), message=f"no choice “{choice}”; the choices are {known}"))
    return found


def _fault_problems(move: Move, rep: RepScript, path: tuple[str | int, ...]) -> list[Problem]:
    found = []
    for code, degree in rep.faults.items():
        fault = move.fault(code)
        if fault is None:
            known = ", ".join(fault.code for fault in move.faults)
            found.append(Problem(path=(*path, code), message=f"no fault “{code}”; the faults are {known}"))
        elif not 0 <= degree <= fault.most:
            found.append(Problem(path=(*path, code), message=f"lies outside 0 to {fault.most:g} {fault.unit}"))
    return found


def read_script(data: Any, source: str = "script") -> Script:
    """Check a parsed script.

    Raises:
        BadScript: with every problem and its path.
    """
    if not isinstance(data, dict):
        raise BadScript([Problem(path=(), message="a script is a mapping with lacertus_script: 1")], source)
    try:
        script = Script.model_validate(data)
    except ValidationError as error:
        raise BadScript(problems_of(error), source) from error
    problems = script.problems()
    if problems:
        raise BadScript(problems, source)
    return script


def parse_script(text: str, source: str = "script") -> Script:
    """Check the text of a script; raises BadScript with path and line of every problem."""
    return parse_checked(text, source, BadScript, read_script)


def load_script(path: Path) -> Script:
    """Read a script file; raises BadInput where it cannot be read, BadScript with every problem."""
    return parse_script(read_text(path, "a studio script"), path.name)


def shipped_scripts() -> list[tuple[Path, Script]]:
    """Every shipped script with its path, by name."""
    return [(path, load_script(path)) for path in sorted(SCRIPTS.glob("*.yaml"))]


def shipped_script(script_id: str) -> Script:
    """One shipped script; raises BadInput where there is none of that id."""
    for _, script in shipped_scripts():
        if script.id == script_id:
            return script
    raise BadInput(f"there is no studio script “{script_id}”")


# --- from a script to shots -------------------------------------------------------------------


def scene_of(script: Script) -> Scene:
    """Who moves, and how."""
    move = MOVES[script.technique]
    looks: dict[BodyName, Look] = {"performer": _look(script.performer)}
    if move.partner:
        looks["partner"] = _look(script.partner or BodyScript(look="elm"))
    default = {group: choices[0] for group, choices in move.options.items()}
    hows = tuple(
        How(
            faults=rep.faults,
            options=default | dict(move.goes_with.get(rep.reaction, {})) | script.options | rep.options,
            reaction=rep.reaction,
            slow=SLOW if rep.pace == "slow" else 1.0,
        )
        for rep in script.reps
    )
    move = replace(move, rung=script.rung or move.rung)
    return Scene(move=move, looks=looks, hows=hows, side=script.side, seed=script.seed, scatter=script.scatter)


def shots_of(script: Script) -> list[Shot]:
    """The scene as each camera of the script films it. A second camera starts at the same time."""
    scene = scene_of(script)
    times = frame_times(script.recording, scene.length_s, script.seed)
    cameras = [script.camera] + ([script.second_camera] if script.second_camera else [])
    return [_shot(scene, camera, times, script.recording.slowed) for camera in cameras]


def _shot(scene: Scene, how: CameraScript, times: tuple[float, ...], slowed: float) -> Shot:
    width, height = how.size[::-1] if how.portrait else how.size
    x, y = scene.move.middle
    y = -y if scene.side == "left" else y
    camera = Camera(
        position=(x, y - how.distance_m, how.height_m),
        target=(x, y, scene.move.height),
        width=width,
        height=height,
        view_deg=how.view_deg,
    )
    facing = scene.move.facing_deg if scene.side == "right" else -scene.move.facing_deg
    turn = facing + VIEWS[how.view] + how.turn_deg
    return Shot(scene=scene, camera=camera, times_s=times, turn_deg=turn, handheld=how.handheld, slowed=slowed)


def frame_times(recording: RecordingScript, seconds: float, seed: int) -> tuple[float, ...]:
    """Real seconds of every frame: even, or with jitter and frames lost as a phone's clock gives them in poor light."""
    if not recording.variable:
        return tuple(k / recording.fps for k in range(round(seconds * recording.fps)))
    chance = np.random.default_rng(seed + 31)
    times, clock = [0.0], 0.0
    while clock < seconds:
        lost = 2 if chance.random() < recording.dropped else 1
        clock += lost / recording.fps * (1 + float(chance.uniform(-0.12, 0.12)))
        times.append(round(clock, 5))
    return tuple(times)


def _look(body: BodyScript) -> Look:
    look = LOOKS[body.look]
    changes: dict[str, Any] = {key: getattr(body, key) for key in ("stature_m", "build") if getattr(body, key) is not None}
    for key in ("cloth", "belt", "hair", "skin"):
        colour = getattr(body, key)
        if colour is not None:
            changes[key] = tuple(int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
    return replace(look, **changes)
