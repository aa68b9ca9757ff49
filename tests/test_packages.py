"""What is installed: exact versions with the sums of their files, and nothing of the tests where Lacertus is only run."""

from __future__ import annotations

import ast
import json
import re
import sys
import tomllib
from importlib.metadata import packages_distributions
from pathlib import Path

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


def imported(folder: Path) -> set[str]:
    """Top-level names that the modules of a folder import."""
    found: set[str] = set()
    for path in folder.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Import):
                found |= {alias.name.partition(".")[0] for alias in node.names}
            elif isinstance(node, ast.ImportFrom) and node.level == 0:
                found.add((node.module or "").partition(".")[0])
    return found - set(sys.stdlib_module_names) - {"lacertus", "tests"}


@pytest.mark.parametrize(("folder", "extras"), [("lacertus", ["setup"]), ("tests", ["setup", "dev"])])
def test_every_import_is_declared(folder: str, extras: list[str]) -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    lines = [*project["dependencies"], *(line for extra in extras for line in project["optional-dependencies"][extra])]
    declared = {re.split(r"[\[><=; ]", line)[0].lower().replace("_", "-") for line in lines}
    homes = packages_distributions()
    names = imported(ROOT / folder)
    assert len(names) > 10
    missing = {name for name in names if not {one.lower().replace("_", "-") for one in homes.get(name, [])} & declared}
    assert missing == set()


LOADED_BY_OTHERS = {
    "python-multipart": "FastAPI reads forms with it",
    "s3fs": "fsspec reads object stores with it",
    "websockets": "uvicorn speaks WebSocket with it; tests of the live socket do too",
    "setuptools": "builds the package",
    "pytest-cov": "a plug-in of pytest",
    "pytest-timeout": "a plug-in of pytest",
    "pytest-xdist": "a plug-in of pytest",
    "import-linter": "a command of script/test",
    "mypy": "a command of script/test",
    "ruff": "a command of script/test",
}
"""What is declared and imported by no module of ours, and who loads it."""


@pytest.mark.parametrize(("folders", "extras"), [(["lacertus"], []), (["lacertus", "tests"], ["setup", "dev"])])
def test_everything_declared_is_imported(folders: list[str], extras: list[str]) -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    lines = [*project["dependencies"], *(line for extra in extras for line in project["optional-dependencies"][extra])]
    declared = {re.split(r"[\[><=; ]", line)[0].lower().replace("_", "-") for line in lines}
    homes = packages_distributions()
    names = set().union(*(imported(ROOT / folder) for folder in folders))
    used = {one.lower().replace("_", "-") for name in names for one in homes.get(name, [])}
    assert sorted(declared - used - set(LOADED_BY_OTHERS)) == []
    assert sorted(set(LOADED_BY_OTHERS) & declared & used - {"websockets"}) == []


@pytest.mark.parametrize("name", ["python", "ui"])
def test_the_bill_of_materials_has_what_is_locked(name: str) -> None:
    told = json.loads((ROOT / "sbom" / f"{name}.json").read_text())
    assert told["bomFormat"] == "CycloneDX"
    listed = {(one.get("group", "") + "/" + one["name"]).strip("/").lower(): one["version"] for one in told["components"]}
    if name == "python":
        wanted = {package: version for package, (version, _) in locked("requirements.lock").items()}
    else:
        packages = json.loads((ROOT / "ui" / "package-lock.json").read_text())["packages"]
        own = [(path, one) for path, one in packages.items() if path and not one.get("dev") and not one.get("optional")]
        wanted = {path.rpartition("node_modules/")[2].lower(): str(one["version"]) for path, one in own}
    assert len(wanted) > 20
    assert {package: version for package, version in wanted.items() if package not in listed} == {}
    assert all("pkg:" in one["purl"] for one in told["components"])
    assert "externalReferences" not in json.dumps(told)
