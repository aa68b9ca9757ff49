"""What is installed: exact versions with the sums of their files, and nothing of the tests where Lacertus is only run."""

from __future__ import annotations

import re
import tomllib

import pytest

from tests.place import ROOT

LOCKS = ("requirements.lock", "requirements-dev.lock")
_ENTRY = re.compile(r"^([A-Za-z0-9_.-]+)==(\S+)(.*?)(?=^[A-Za-z0-9]|\Z)", re.MULTILINE | re.DOTALL)


def locked(name: str) -> dict[str, tuple[str, str]]:
    return {found[1].lower(): (found[2], found[3]) for found in _ENTRY.finditer((ROOT / name).read_text())}


@pytest.mark.parametrize("name", LOCKS)
def test_every_package_has_the_sums_of_its_files(name: str) -> None:
    found = locked(name)
    assert len(found) > 60
    assert [package for package, (_, rest) in found.items() if "--hash=sha256:" not in rest] == []
    assert "://" not in (ROOT / name).read_text()


def test_what_only_tests_need_is_not_where_it_runs() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    names = {re.split(r"[\[><=]", wanted)[0].lower() for wanted in project["optional-dependencies"]["dev"]}
    production, tests = (locked(name) for name in LOCKS)
    assert names <= set(tests)
    assert names & set(production) == set()
    assert [package for package, (version, _) in production.items() if tests[package][0] != version] == []
