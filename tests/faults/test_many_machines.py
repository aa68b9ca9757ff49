"""Two servers and three workers at one database."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.faults.hitting import STEPS
from tests.faults.network import may_be_apart
from tests.place import ROOT


@pytest.mark.timeout(900)
def test_servers_and_workers_are_one_site(tmp_path: Path) -> None:
    """In a process of its own: its site has other settings than the one of the tests."""
    command = [sys.executable, "-m", "tests.faults.many", str(tmp_path)]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False, timeout=860)
    assert done.returncode == 0, done.stderr[-3000:]
    told = json.loads(done.stdout.splitlines()[-1])
    assert told["read"]
    assert set(told["states"]) == {"ready"}
    # Each clip was read to its end once, also those whose worker was killed in a step of it or lost its network.
    assert told["most_read"] == 1
    assert told["by_workers"] >= 2
    assert told["lost"] == dict.fromkeys(STEPS, True)
    assert told["apart"] == may_be_apart()
    if told["apart"]:
        cut_off = told["cut_off"]
        assert cut_off["read"] and cut_off["lives"] and cut_off["works_on"]
        assert cut_off["kept"] == 1, "of the clip that another one read meanwhile it keeps nothing"
    assert told["same"]
    assert min(told["live"]) > 5
    assert told["heard_s"] < 2
    assert told["left"] == []
