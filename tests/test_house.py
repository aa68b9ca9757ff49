"""How the house is kept: what no linter looks at."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
MOST_MODULES = 14
"""About a dozen: a folder that has more is parted."""
MAY_HOLD_MORE = ("measures", "moves", "versions")
"""One module a checkpoint kind, a move, a migration: a list, not a floor to find one's way on."""
SAY_NOTHING = {"KeyboardInterrupt", "StopHere", "WebSocketDisconnect"}
"""What has no message that a test could match."""


def modules(folder: str) -> Iterator[Path]:
    yield from (path for path in sorted((ROOT / folder).rglob("*.py")) if "__pycache__" not in path.parts)


def test_no_folder_holds_more_than_can_be_taken_in() -> None:
    folders = {path.parent for floor in ("lacertus", "tests") for path in modules(floor)}
    assert len(folders) > 40
    for folder in folders:
        if folder.name not in MAY_HOLD_MORE:
            own = [path.name for path in folder.glob("*.py") if path.name not in ("__init__.py", "conftest.py")]
            assert len(own) <= (MOST_MODULES if "lacertus" in folder.parts[-4:] else 20), (folder, sorted(own))


def test_tests_share_what_they_set_up_outside_of_tests() -> None:
    taken = [
        (path.name, found.module)
        for path in modules("tests")
        for found in ast.walk(ast.parse(path.read_text()))
        if isinstance(found, ast.ImportFrom) and re.search(r"(^|\.)test_\w+$", found.module or "")
    ]
    assert taken == []


def test_what_is_raised_is_held_to_its_words() -> None:
    seen, loose = 0, []
    for path in modules("tests"):
        for found in ast.walk(ast.parse(path.read_text())):
            if not isinstance(found, ast.With):
                continue
            for item in found.items:
                call = item.context_expr
                if isinstance(call, ast.Call) and ast.unparse(call.func) == "pytest.raises":
                    seen += 1
                    named = any(one.arg == "match" for one in call.keywords) or item.optional_vars is not None
                    if not named and ast.unparse(call.args[0]) not in SAY_NOTHING:
                        loose.append(f"{path.name}:{call.lineno}")
    assert loose == []
    assert seen > 80


def test_the_front_end_reads_codes_and_swallows_nothing() -> None:
    sources = [
        path for path in (ROOT / "ui" / "src").rglob("*") if path.suffix in (".ts", ".svelte") and path.name != "schema.d.ts"
    ]
    assert len(sources) > 80
    for path in sources:
        text = path.read_text()
        assert not re.search(r"(?<!json\(\))\.catch\(\(\) => (\[\]|undefined|null|\{\s*\})\)", text), path
        if ".test." not in path.name:
            assert "as unknown as" not in text, path
            assert not re.search(r"\.message\s*(===|!==|\.includes|\.startsWith|\.match)", text), path
