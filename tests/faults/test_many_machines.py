"""Two servers and three workers at one database."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.place import ROOT


@pytest.mark.timeout(600)
def test_servers_and_workers_are_one_site(tmp_path: Path) -> None:
    """In a process of its own: its site has other settings than the one of the tests."""
    command = [sys.executable, "-m", "tests.faults.many", str(tmp_path)]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False, timeout=560)
    assert done.returncode == 0, done.stderr[-3000:]
    told = json.loads(done.stdout.splitlines()[-1])
    assert told["busy"] and told["read"]
    assert told["states"] == {"ready": told["sent"]}
    # Each clip was read to its end once, also the one whose worker was killed.
    assert told["most_read"] == 1
    assert told["by_workers"] >= 2
    assert told["same"]
    assert min(told["live"]) > 5
    assert told["heard_s"] < 2
    assert told["left"] == []
