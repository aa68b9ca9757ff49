"""The command as people call it."""

from __future__ import annotations

import json
import subprocess
import sys
from typing import Any


def lacertus(*arguments: object) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "lacertus.cli", *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, timeout=120)


def answer(*arguments: object) -> Any:
    done = lacertus(*arguments, "--json")
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)
