"""One pass over the studio's clips against what is true of them: camera, cuts, sounds, filmstrip."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from lacertus.local.academy import SHIPPED
from lacertus.studio.script import shipped_script, shots_of
from lacertus.studio.sound import heard
from lacertus.video.intake.filmstrip import ACROSS, sheet_name
from lacertus.video.intake.reading import CAMERA, TRACES, Reading, read_whole

CLIPS = ["front-kick-portrait-by-hand", "back-fall-head-back", "front-kick-low-and-late"]


class Filmed:
    def __init__(self, name: str, folder: Path) -> None:
        self.name, self.folder = name, folder
        self.reading: Reading = read_whole(SHIPPED / f"{name}.mp4", folder)
        self.truth: dict[str, Any] = json.loads((SHIPPED / f"{name}.json").read_text())
        self.traces = json.loads((folder / TRACES).read_text())
        self.camera = json.loads((folder / CAMERA).read_text())


@pytest.fixture(scope="module", params=CLIPS)
def filmed(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Filmed:
    return Filmed(request.param, tmp_path_factory.mktemp(request.param))


def corners(matrices: Any, size: tuple[int, int]) -> np.ndarray:
    """Where four places of the picture lie in the first frame, frames × 4 × 2."""
    width, height = size
    places = np.array([[x * width, y * height] for x in (0.2, 0.8) for y in (0.2, 0.8)])
    matrices = np.array(matrices)
    return np.asarray(np.einsum("nij,cj->nci", matrices[:, :, :2], places) + matrices[:, None, :, 2])


def test_the_cameras_motion_is_known_to_pixels_and_a_tripod_stands_still(filmed: Filmed) -> None:
    told, facts = filmed.truth["reps"][0]["camera_motion"], filmed.reading.facts
    assert filmed.reading.camera.lost == ()
    if told is None:
        assert filmed.camera["camera_motion"] is None
        assert filmed.reading.camera.still
        return
    found = corners(filmed.camera["camera_motion"], (facts.width, facts.height))
    off = np.linalg.norm(found - corners(told, (facts.width, facts.height)), axis=2)
    # The wall and the mat lie at different depths, so no one matrix fits both: shares of the longer side.
    assert np.median(off) < 0.002 * max(facts.width, facts.height)
    assert np.percentile(off, 95) < 0.006 * max(facts.width, facts.height)


def test_every_rep_has_a_proposed_cut_that_holds_its_events(filmed: Filmed) -> None:
    """Most of a rep, and no two reps in one cut."""
    cuts = filmed.reading.cuts
    held = []
    for rep in filmed.truth["reps"]:
        frames = [frame for marks in rep["events"].values() for frame in marks]
        share = [sum(cut.first <= frame <= cut.last for frame in frames) / len(frames) for cut in cuts]
        held.append(int(np.argmax(share)))
        assert max(share) >= 0.75
    assert len(set(held)) == len(filmed.truth["reps"])


def test_calls_and_strikes_are_heard_when_they_come_and_told_apart(filmed: Filmed) -> None:
    shot = shots_of(shipped_script(filmed.name))[0]
    wanted = [(one.time_s, one.what == "command") for one in heard(shot)]
    found = [(onset["time_s"], onset["voiced"]) for onset in filmed.traces["onsets"]]
    # Two within the time that onsets are kept apart are one; that one is allowed for.
    for time_s, voiced in found:
        assert min(abs(time_s - at) for at, _ in wanted) < 0.03
        assert voiced in [call for at, call in wanted if abs(time_s - at) < 0.16]
    assert all(min(abs(at - time_s) for time_s, _ in found) < 0.16 for at, _ in wanted)


def test_the_motion_trace_is_still_before_the_rep_and_highest_within_it(filmed: Filmed) -> None:
    motion = filmed.traces["motion"]
    assert len(motion) == filmed.reading.facts.frames
    assert max(motion) == 99
    (first, last), times = filmed.truth["reps"][0]["range"], filmed.truth["reps"][0]["pts_s"]
    # A rep's stretch begins 0.3 s before anybody moves.
    moves = next(frame for frame, time_s in enumerate(times) if time_s >= times[first] + 0.25)
    assert np.mean(motion[moves:last]) > 2 * np.mean(motion[:moves])


def test_the_filmstrip_has_every_picture_at_every_zoom(filmed: Filmed) -> None:
    film, frames = filmed.reading.film, filmed.reading.facts.frames
    assert [after.step // before.step for before, after in zip(film.levels, film.levels[1:], strict=False)] == [4] * (
        len(film.levels) - 1
    )
    for number, level in enumerate(film.levels):
        assert level.pictures == -(-frames // level.step)
        sheets = [Image.open(filmed.folder / sheet_name(number, sheet)) for sheet in range(level.sheets)]
        assert all(sheet.width <= ACROSS * film.width for sheet in sheets)
        shown = sum((sheet.width // film.width) * (sheet.height // film.height) for sheet in sheets)
        assert level.pictures <= shown < level.pictures + ACROSS
