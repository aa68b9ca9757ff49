"""Technique files: YAML in, checked definitions out, every error with its path and line."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from lacertus.core.errors import BadInput, BadTechnique
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reading import Shared, check_technique, read_technique
from lacertus.yamlfile import parse_checked, parse_own, read_text

TECHNIQUES = Path(__file__).parent / "techniques"
RETIRED = Path(__file__).parent / "retired"
BLOCKS = Path(__file__).parent / "blocks"
POSITIONS = Path(__file__).parent / "positions.yaml"


def load_technique(path: Path) -> Technique:
    """Read a technique file.

    Raises:
        BadInput: it cannot be read.
        BadTechnique: with every problem, its path and line.
    """
    return parse_technique(read_text(path, "a technique file"), path.name)


def parse_technique(text: str, source: str = "technique") -> Technique:
    """Read the text of a technique file as it stands; raises BadTechnique with path and line of every problem."""
    return parse_checked(text, source, BadTechnique, lambda data, name: read_technique(data, name, shared()))


def check_text(text: str, source: str = "technique") -> Technique:
    """Check the text of a technique file that is to be used from now on, as `check_technique`; raises BadTechnique likewise."""
    return parse_checked(text, source, BadTechnique, lambda data, name: check_technique(data, name, shared()))


def check_file(path: Path) -> Technique:
    """Check a technique file that is to be used from now on; raises as `load_technique`."""
    return check_text(read_text(path, "a technique file"), path.name)


@cache
def shared() -> Shared:
    """The blocks and positions that any technique may refer to."""
    blocks = [parse_own(path) for path in sorted(BLOCKS.glob("*.yaml"))]
    return Shared(blocks={block["id"]: block for block in blocks}, positions=frozenset(positions()))


@cache
def positions() -> dict[str, dict[str, str]]:
    """Named positions: `name` and what it `is`."""
    found: dict[str, dict[str, str]] = parse_own(POSITIONS)
    return found


@cache
def shipped() -> tuple[Technique, ...]:
    """Every shipped technique, by id."""
    return tuple(_shipped(technique_id) for technique_id in sorted(shipped_ids()))


@cache
def shipped_ids() -> frozenset[str]:
    """The ids of the shipped techniques: their files are named by them."""
    return frozenset(path.stem for path in TECHNIQUES.glob("*.yaml"))


@cache
def retired_ids() -> frozenset[str]:
    """The ids of techniques that are not offered any more; what was judged by them stays readable."""
    return frozenset(path.stem for path in RETIRED.glob("*.yaml"))


def shipped_technique(technique_id: str) -> Technique:
    """One shipped technique, or one that was shipped before; the others are not read.

    Raises:
        BadInput: there is none of that id.
    """
    if technique_id in shipped_ids():
        return _shipped(technique_id)
    if technique_id in retired_ids():
        return _retired(technique_id)
    known = ", ".join(sorted(shipped_ids()))
    raise BadInput(f"there is no technique “{technique_id}”; the shipped ones are {known}")


@cache
def _shipped(technique_id: str) -> Technique:
    return _load_own(TECHNIQUES / f"{technique_id}.yaml")


@cache
def _retired(technique_id: str) -> Technique:
    return _load_own(RETIRED / f"{technique_id}.yaml")


def _load_own(path: Path) -> Technique:
    """A file of our own, checked as any; it is read without its line numbers, in a third of the time, unless something is wrong."""
    try:
        return read_technique(parse_own(path), path.name, shared())
    except BadTechnique:
        return load_technique(path)
