"""The command line from outside: keys, exit codes, one clear line on standard error."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from lacertus.library import shipped
from tests.command import answer, lacertus
from tests.core.build import LEG, checkpoint, leg_known, points, rep_data, return_time, technique_data


def written(path: Path, data: Any) -> Path:
    path.write_text(data if isinstance(data, str) else json.dumps(data))
    return path


@pytest.fixture
def technique_file(tmp_path: Path) -> Path:
    return written(tmp_path / "kick.yaml", technique_data())  # JSON is YAML


def test_judge_gives_the_keys_of_the_format(tmp_path: Path, technique_file: Path) -> None:
    file = written(tmp_path / "rep.json", rep_data(bodies=leg_known(points(ankle=(400.0, 400.0)))))
    found = answer("judge", file, "--technique", technique_file)
    assert set(found) == {"reps", "set", "fix_first"}
    judged = found["reps"][0]["checkpoints"][0]
    wanted = {"id", "kind", "phase", "verdict", "value", "unit", "uncertainty", "rests_on", "frames", "reason", "fault", "safety"}
    assert wanted <= set(judged)
    assert (judged["verdict"], judged["unit"], judged["frames"]) == ("missed", "deg", [44])
    assert judged["value"] == pytest.approx(90.0, abs=1.0)
    assert judged["rests_on"] == ["picture", "lengths"]
    assert found["fix_first"][0]["fault"] == "bent-reach"


def test_judge_takes_a_shipped_technique_and_a_folder_of_reps(tmp_path: Path) -> None:
    for name in ("a", "b"):
        written(tmp_path / f"{name}.json", rep_data())
    found = answer("judge", tmp_path)
    assert len(found["reps"]) == 2
    assert {c["id"] for c in found["reps"][0]["checkpoints"]} >= {"leg_straight", "quick_return", "toes_back"}


def test_a_demonstration_is_judged_but_never_fixed(tmp_path: Path, technique_file: Path) -> None:
    file = written(tmp_path / "rep.json", rep_data(bodies=leg_known(points(ankle=(400.0, 400.0))), purpose="demonstration"))
    found = answer("judge", file, "--technique", technique_file)
    assert found["reps"][0]["checkpoints"][0]["verdict"] == "missed"
    assert found["fix_first"] == []


def test_what_to_know_of_a_reading_stands_in_its_reason(tmp_path: Path, technique_file: Path) -> None:
    judged = answer("judge", written(tmp_path / "rep.json", rep_data()), "--technique", technique_file)["reps"][0]["checkpoints"][0]
    assert judged["verdict"] == "borderline"
    assert judged["notes"][0].startswith("lean unknown") and judged["notes"][0] in judged["reason"]


def test_coincident_points_spoil_one_checkpoint_not_the_rep(tmp_path: Path) -> None:
    file = written(tmp_path / "rep.json", rep_data(points(knee=LEG["ankle"])))
    by_id = {c["id"]: c for c in answer("judge", file)["reps"][0]["checkpoints"]}
    assert "same spot" in by_id["leg_straight"]["reason"]
    assert by_id["quick_return"]["verdict"] == "met"


@pytest.mark.parametrize(
    ("rep", "words"),
    [
        ("{broken", "is no JSON"),
        ("[]", "JSON object"),
        (rep_data(technique="flying-carpet"), "no technique “flying-carpet”"),
        (rep_data(events={"full_reach": [500]}), "outside the rep’s range"),
        (rep_data(range=[0, 5000]), "does not fit the clip"),
        (rep_data(options={"extension": "slap"}), "no choice “slap”"),
    ],
    ids=["no json", "no object", "unknown technique", "event out of range", "range out of clip", "unknown option"],
)
def test_a_bad_rep_ends_with_two_and_one_line(tmp_path: Path, rep: Any, words: str) -> None:
    done = lacertus("judge", written(tmp_path / "rep.json", rep), "--json")
    assert (done.returncode, done.stdout) == (2, "")
    assert len(done.stderr.strip().splitlines()) == 1
    assert words in done.stderr


@pytest.mark.parametrize(
    "arguments",
    [
        ("judge", "/no/such.json"),
        ("clip", "inspect", "/no/such.mp4"),
        ("technique", "show", "nix"),
        ("judge",),
        ("judge", "x.json", "--colour"),
        ("dance",),
    ],
)
def test_what_is_not_there_ends_with_two(arguments: tuple[str, ...]) -> None:
    done = lacertus(*arguments)
    assert done.returncode == 2
    assert len(done.stderr.strip().splitlines()) == 1


def test_inspect_gives_the_keys_of_the_format(clips: dict[str, Path]) -> None:
    found = answer("clip", "inspect", clips["variable"])
    wanted = {"codec", "width", "height", "rotation", "frames", "duration_s", "nominal_fps", "variable_rate", "pts_s"}
    assert set(found) == wanted
    assert (found["codec"], found["width"], found["height"], found["rotation"]) == ("h264", 480, 270, 0)
    assert found["variable_rate"] is True
    assert len(found["pts_s"]) == found["frames"]
    assert found["pts_s"][0] == 0


def test_technique_check_names_path_and_line(tmp_path: Path) -> None:
    good = written(tmp_path / "good.yaml", technique_data(checkpoint(), return_time(when={"extension": "snap"})))
    assert answer("technique", "check", good)["problems"] == []
    bad = written(tmp_path / "bad.yaml", "lacertus_technique: 1\nid: x\nfamily: dance\n")
    done = lacertus("technique", "check", bad)
    assert done.returncode == 2
    assert "line 3: family: “dance” is not a family" in done.stderr


def test_technique_list_and_show() -> None:
    assert answer("technique", "list") == [{"id": t.id, "name": t.names.main, "family": t.family} for t in shipped()]
    assert answer("technique", "show", "front-kick")["id"] == "front-kick"


def test_without_json_people_can_read_it(tmp_path: Path, clips: dict[str, Path]) -> None:
    done = lacertus("judge", written(tmp_path / "rep.json", rep_data()))
    assert done.returncode == 0
    assert "quick_return" in done.stdout
    assert "frames" in lacertus("clip", "inspect", clips["constant"]).stdout
