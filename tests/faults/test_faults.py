"""The short form of `script/bench faults`: everything is hit a few times, and nothing that was acknowledged is lost."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.place import ROOT


@pytest.mark.timeout(600)
def test_nothing_that_was_acknowledged_is_lost(tmp_path: Path) -> None:
    """In a process of its own: its site has other settings than the one of the tests."""
    done = subprocess.run(
        [sys.executable, "-m", "tests.faults", str(tmp_path)], cwd=ROOT, capture_output=True, text=True, check=False, timeout=560
    )
    assert done.returncode == 0, done.stderr[-3000:]
    told = json.loads(done.stdout.splitlines()[-1])
    assert told["wrong"] == []
    assert told["hits"]["worker killed"] == told["hits"]["server killed"] == told["hits"]["database killed"] == 2
    assert told["hits"]["database away for 3 s"] == 1
    assert told["uploads"] >= 2
    assert all(told["acts"][who][0] > 3 for who in ("Marker", "Finisher", "OnTheFloor"))
    assert all(told["acts"][who][0] > 0 for who in ("Asker", "Uploader"))
    assert sum(broke_off for _, broke_off in told["acts"].values()) > 0
