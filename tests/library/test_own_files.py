"""The files that ship are read by a quick reader without lines: it must read them as the one that keeps lines does."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from ruamel.yaml import YAML

from lacertus.library import loader
from lacertus.yamlfile import parse_own

FILES = sorted(loader.POSITIONS.parent.rglob("*.yaml"))


def kinds(value: Any) -> Any:
    """The types of all values: a year that is read as a number equals nothing, and 1 equals True."""
    if isinstance(value, dict):
        return {key: kinds(inner) for key, inner in value.items()}
    return [kinds(inner) for inner in value] if isinstance(value, list) else type(value)


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.stem)
def test_both_readers_read_the_same(path: Path) -> None:
    quick, careful = parse_own(path), YAML(typ="safe", pure=True).load(path.read_text(encoding="utf-8"))
    assert quick == careful
    assert kinds(quick) == kinds(careful)


def test_all_of_them_are_read() -> None:
    assert len(FILES) > 30
