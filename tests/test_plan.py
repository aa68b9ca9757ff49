"""`lacertus plan` as people call it: files in, JSON out, and what is refused."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from tests.command import answer, lacertus

QUEUE = {"on": "2026-11-27", "items": [{"id": "a", "severity": 2.5, "since": "2026-11-20", "minutes": 4.5, "safety": False}]}
CLASS: dict[str, Any] = {
    "throw": "outer-reap",
    "fits": {"outer-reap": ["back-fall", "side-fall"]},
    "students": [
        {"id": "b", "adult": True, "weight_kg": 70.0, "height_cm": 175, "falls": ["back-fall"], "clean": ["late-sweep"]},
        {"id": "a", "adult": True, "weight_kg": None, "height_cm": None, "falls": ["side-fall"], "misses": ["late-sweep"]},
        {"id": "c", "adult": True, "falls": []},
    ],
    "together": [{"pair": ["b", "a"], "classes_ago": 1}],
    "apart": [["a", "c"]],
    "allowed": [["c", "a"]],
}


def written(folder: Path, data: Any) -> Path:
    path = folder / "plan.json"
    path.write_text(data if isinstance(data, str) else json.dumps(data))
    return path


def test_a_queue_tells_what_is_chosen_and_what_is_left(tmp_path: Path) -> None:
    path = written(tmp_path, QUEUE)
    assert answer("plan", "queue", path) == {"chosen": ["a"], "left": [], "minutes": 4.5, "priority": 5.0}
    assert answer("plan", "queue", path, "--minutes", "4") == {"chosen": [], "left": ["a"], "minutes": 0.0, "priority": 0.0}
    shown = lacertus("plan", "queue", path)
    assert (shown.returncode, "4.5 minutes, priority 5.00" in shown.stdout) == (0, True)


def test_a_class_is_paired(tmp_path: Path) -> None:
    path = written(tmp_path, CLASS)
    found = answer("plan", "pairs", path)
    assert found["pairs"] == [{"pair": ["a", "b"], "score": 3}]
    assert (found["thirds"], found["score"]) == ([], 3)
    assert [one["student"] for one in found["alone"]] == ["c"]
    assert "has not passed a fall that fits outer-reap" in found["alone"][0]["why"]
    assert "a and b" in lacertus("plan", "pairs", path).stdout


def test_nobody_is_a_class_too(tmp_path: Path) -> None:
    assert answer("plan", "pairs", written(tmp_path, {"students": []})) == {"pairs": [], "thirds": [], "alone": [], "score": 0}
    assert answer("plan", "queue", written(tmp_path, {"on": "2026-11-27", "items": []}))["chosen"] == []


@pytest.mark.parametrize(
    ("command", "data", "says"),
    [
        ("queue", "{", "plan.json"),
        ("queue", {"items": []}, "on"),
        ("queue", QUEUE | {"on": 20261127}, "year-month-day"),
        ("queue", QUEUE | {"items": [QUEUE["items"][0], QUEUE["items"][0]]}, "“a” stands there twice"),
        ("queue", QUEUE | {"items": [{"id": "a", "severity": -1, "since": "2026-11-20", "minutes": 1}]}, "severity"),
        ("queue", QUEUE | {"items": [{"id": "a", "severity": "2", "since": "2026-11-20", "minutes": 1}]}, "severity"),
        ("queue", QUEUE | {"more": 1}, "more"),
        ("pairs", CLASS | {"throw": "hip-throw"}, "which falls fit the throw “hip-throw”"),
        ("pairs", CLASS | {"apart": [["a", "x"]]}, "nobody has the id “x”"),
        ("pairs", CLASS | {"students": [{"id": "a"}, {"id": "a"}], "together": [], "apart": [], "allowed": []}, "twice"),
        ("pairs", CLASS | {"students": [{"id": "a", "weight_kg": 0}]}, "weight_kg"),
        ("pairs", [], "plan.json"),
    ],
)
def test_what_does_not_fit_ends_with_2_and_one_line(tmp_path: Path, command: str, data: Any, says: str) -> None:
    done = lacertus("plan", command, written(tmp_path, data), "--json")
    assert (done.returncode, done.stdout) == (2, "")
    assert says in done.stderr
    assert done.stderr.count("\n") == 1


@pytest.mark.parametrize("minutes", ["-1", "2000", "nan", "soon"])
def test_minutes_are_some(tmp_path: Path, minutes: str) -> None:
    assert lacertus("plan", "queue", written(tmp_path, QUEUE), "--minutes", minutes).returncode == 2


def test_a_file_that_is_not_there_is_told(tmp_path: Path) -> None:
    done = lacertus("plan", "queue", tmp_path / "none.json")
    assert (done.returncode, "none.json" in done.stderr) == (2, True)
