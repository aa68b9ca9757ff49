"""Studio scripts from outside: every mistake with its line, all files or none, the same truth each time."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from lacertus.core.errors import BadInput, BadScript
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.asking import check_fits
from lacertus.library import shipped_technique
from lacertus.studio.clips import render, truth_text
from lacertus.studio.script import load_script, parse_script, scene_of, shipped_script, shipped_scripts, shots_of
from lacertus.video.inspect import inspect_clip
from tests.command import answer, lacertus

TEXT = """\
lacertus_script: 1
id: test-kick
technique: front-kick
seed: 3
reps:
  - {}
  - faults: {low-chamber: 42}
camera:
  size: [192, 108]
recording:
  fps: 10
"""


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ("front-kick", "moonwalk", "line 3: technique: the studio has no technique “moonwalk”"),
        (
            "low-chamber: 42",
            "low-bridge: 42",
            "line 7: reps.1.faults.low-bridge: no fault “low-bridge”; the faults are low-chamber",
        ),
        ("- {}", "- {reaction: hops}", "line 6: reps.0.reaction: “front-kick” shows no reaction “hops”; it shows none"),
        ("low-chamber: 42", "low-chamber: 70", "line 7: reps.1.faults.low-chamber: lies outside 0 to 60 deg"),
        ("low-chamber: 42", "no-return: 9000", "lies outside 0 to 500 ms"),
        ("fps: 10", "fps: 1000", "line 11: recording.fps"),
        ("fps: 10", "fsp: 10", "line 11: recording.fsp: this key is not known here"),
        ("[192, 108]", "[191, 108]", "line 9: camera.size: width and height are even numbers"),
        ("seed: 3", "options: {extension: slap}", "line 4: options.extension: no choice “slap”; the choices are snap, push"),
        ("seed: 3", "partner: {look: elm}", "line 4: partner: “front-kick” is done without a partner"),
        ("seed: 3", "performer: {look: nobody}", "line 4: performer.look: no look “nobody”"),
        ("reps:", "reps: [", "is not valid YAML"),
        ("seed: 3", "seed: *three", "aliases"),
        (TEXT, "- a list", "a script is a mapping"),
    ],
)
def test_every_mistake_is_told_with_its_path_and_line(old: str, new: str, words: str) -> None:
    with pytest.raises(BadScript) as error:
        parse_script(TEXT.replace(old, new), "kick.yaml")
    assert words in str(error.value)


def test_all_mistakes_are_told_at_once() -> None:
    with pytest.raises(BadScript) as error:
        parse_script(TEXT.replace("low-chamber", "low-bridge").replace("[192, 108]", "[1, 1]"))
    assert len(error.value.problems) == 2


def test_a_bad_script_writes_nothing(tmp_path: Path) -> None:
    (tmp_path / "bad.yaml").write_text(TEXT.replace("front-kick", "moonwalk"))
    done = lacertus("studio", "render", tmp_path / "bad.yaml", "--out", tmp_path / "out")
    assert (done.returncode, done.stdout) == (2, "")
    assert len(done.stderr.strip().splitlines()) == 1
    assert not (tmp_path / "out").exists()


def test_render_gives_a_clip_and_a_truth_that_the_judge_takes(tmp_path: Path) -> None:
    (tmp_path / "kick.yaml").write_text(TEXT)
    found = answer("studio", "render", tmp_path / "kick.yaml", "--out", tmp_path / "out")
    assert [Path(file).name for file in found["files"]] == ["clip.mp4", "truth.json"]
    told = json.loads((tmp_path / "out" / "truth.json").read_text())
    facts = inspect_clip(tmp_path / "out" / "clip.mp4")
    assert len(told["reps"]) == 2
    assert told["faults"] == [
        {
            "rep": 1,
            "fault": "low-chamber",
            "degree": 42.0,
            "unit": "deg",
            "says": "the thigh is lifted so much less before the leg opens",
        }
    ]
    for number, rep in enumerate(told["reps"]):
        check_fits(shipped_technique("front-kick"), read_rep(rep))
        assert all(len(entries) == facts.frames for entries in rep["bodies"]["performer"]["landmarks"].values())
        (tmp_path / f"rep-{number}.json").write_text(json.dumps(rep))
    judged = answer("judge", tmp_path / "rep-1.json")["reps"][0]["checkpoints"]
    assert next(c for c in judged if c["fault"] == "low-chamber")["verdict"] == "missed"
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == ["clip.mp4", "truth.json"]


def test_the_same_script_and_seed_give_the_same_bytes_of_truth() -> None:
    first, again = (truth_text(shots_of(parse_script(TEXT))) for _ in range(2))
    assert first == again
    assert truth_text(shots_of(parse_script(TEXT.replace("seed: 3", "seed: 4")))) != first


def test_a_folder_that_cannot_be_written_to_is_told(tmp_path: Path) -> None:
    (tmp_path / "taken").write_text("")
    with pytest.raises(BadInput, match="cannot be written to"):
        render(parse_script(TEXT), tmp_path / "taken")


@pytest.mark.parametrize(
    ("recording", "size", "wanted"),
    [
        ("fps: 10, rotation: 90", "[192, 108]", {"rotation": 90, "width": 192, "height": 108}),
        ("fps: 10, rotation: 270", "[108, 192]", {"rotation": 270, "width": 108, "height": 192}),
        ("fps: 20, slowed: 4", "[192, 108]", {"nominal_fps": 5.0, "variable_rate": False}),
        ("fps: 20, variable: true, dropped: 0.2", "[192, 108]", {"variable_rate": True}),
    ],
    ids=["turned", "turned back, upright", "high speed", "variable"],
)
def test_files_are_as_the_script_says(tmp_path: Path, recording: str, size: str, wanted: dict[str, object]) -> None:
    text = TEXT.replace("  fps: 10", "  " + recording.replace(", ", "\n  ")).replace("[192, 108]", size)
    script = parse_script(text)
    render(script, tmp_path)
    facts = inspect_clip(tmp_path / "clip.mp4")
    assert {key: getattr(facts, key) for key in wanted} == wanted
    rep = json.loads((tmp_path / "truth.json").read_text())["reps"][0]
    assert rep["size"] == [facts.width, facts.height]
    assert rep["pts_s"] == pytest.approx(facts.pts_s, abs=1e-4)


def test_a_second_camera_sees_the_same_instants(tmp_path: Path) -> None:
    script = parse_script(TEXT + "second_camera: {view: angle, size: [192, 108]}\n")
    render(script, tmp_path)
    told = json.loads((tmp_path / "truth.json").read_text())
    assert told["views"][0]["clip"] == "clip-2.mp4"
    first, second = told["reps"][0], told["views"][0]["reps"][0]
    assert first["events"] == second["events"]
    assert (first["view"], second["view"]) == ("side", "angle")
    assert first["bodies"] != second["bodies"]
    assert inspect_clip(tmp_path / "clip-2.mp4").frames == len(second["pts_s"])


def test_a_handheld_clip_carries_its_cameras_motion() -> None:
    shot = shots_of(
        parse_script(TEXT + "").model_copy(update={"camera": parse_script(TEXT).camera.model_copy(update={"handheld": 1.0})})
    )[0]
    rep = read_rep(json.loads(truth_text([shot]))["reps"][0])
    assert rep.camera_motion is not None
    assert len(rep.camera_motion) == len(rep.pts_s)
    assert rep.camera_motion[0] == ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0))


@pytest.mark.parametrize("path", [path for path, _ in shipped_scripts()], ids=lambda path: path.stem)
def test_a_shipped_script_can_be_filmed(path: Path) -> None:
    script = load_script(path)
    assert script.id == path.stem
    scene = scene_of(script)
    assert 2 < scene.length_s < 20
    technique = shipped_technique(script.technique)
    assert all(set(rep.events_s) <= set(technique.events) for rep in scene.reps)


def test_list_names_every_script_with_its_faults() -> None:
    rows = answer("studio", "list")
    assert set(rows[0]) == {"id", "path", "technique", "faults"}
    assert {row["technique"] for row in rows} >= {
        "front-kick",
        "advancing-foot-sweep",
        "scissor-sweep",
        "triangle",
        "spinning-hook-kick",
    }
    assert all(Path(row["path"]).is_file() for row in rows)


def test_an_unknown_shipped_script_is_told() -> None:
    with pytest.raises(BadInput, match="no studio script"):
        shipped_script("nix")
