"""Technique files: YAML in, checked definitions out, every error with its path and line."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.events import AliasEvent

from lacertus.core.errors import BadInput, BadTechnique, Problem
from lacertus.core.technique import Technique, read_technique

TECHNIQUES = Path(__file__).parent / "techniques"
LARGEST_FILE_BYTES = 1_000_000


def load_technique(path: Path) -> Technique:
    """Read a technique file.

    Raises:
        BadInput: it cannot be read.
        BadTechnique: with every problem, its path and line.
    """
    try:
        if path.stat().st_size > LARGEST_FILE_BYTES:
            raise BadInput(f"{path.name} is larger than a technique file may be (1 MB)")
        text = path.read_text(encoding="utf-8")
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror or error}") from error
    except UnicodeDecodeError as error:
        raise BadInput(f"{path.name} is not UTF-8 text") from error
    return parse_technique(text, path.name)


def parse_technique(text: str, source: str = "technique") -> Technique:
    """Check the text of a technique file; raises BadTechnique with path and line of every problem."""
    tree = parse_yaml(text, source)
    try:
        return read_technique(plain(tree), source)
    except BadTechnique as error:
        raise BadTechnique(located(error.problems, tree), source) from error


def parse_yaml(text: str, source: str) -> Any:
    """Parse YAML, keeping line numbers; raises BadTechnique where it is none."""
    try:
        _refuse_aliases(text, source)
        return YAML(typ="rt").load(text)
    except MarkedYAMLError as error:
        line = error.problem_mark.line + 1 if error.problem_mark else None
        problem = Problem(path=(), message=f"is no YAML: {error.problem or error.context}", line=line)
        raise BadTechnique([problem], source) from error
    except (YAMLError, ValueError) as error:
        raise BadTechnique([Problem(path=(), message=f"is no YAML: {error}")], source) from error


def _refuse_aliases(text: str, source: str) -> None:
    """An alias can make a small file endless; a technique needs none."""
    for event in YAML(typ="rt").parse(text):
        if isinstance(event, AliasEvent):
            problem = Problem(path=(), message="aliases (*name) are not taken: write it out", line=event.start_mark.line + 1)
            raise BadTechnique([problem], source)


def plain(node: Any) -> Any:
    """Strip the line-keeping types: plain dicts, lists and scalars."""
    if isinstance(node, dict):
        return {str(key) if not isinstance(key, int) else key: plain(value) for key, value in node.items()}
    if isinstance(node, list):
        return [plain(value) for value in node]
    if isinstance(node, bool) or node is None:
        return node
    for kind in (int, float, str):
        if isinstance(node, kind):
            return kind(node)
    return str(node)


def located(problems: tuple[Problem, ...], tree: Any) -> list[Problem]:
    """The problems with their line numbers, in file order."""
    found = [replace(problem, line=line_of(tree, problem.path)) for problem in problems]
    return sorted(found, key=lambda problem: problem.line or 0)


def line_of(tree: Any, path: tuple[str | int, ...]) -> int:
    """Line (from 1) of the deepest part of a path that the file has."""
    line, node = 1, tree
    for part in path:
        if isinstance(node, CommentedMap) and part in node:
            line = node.lc.key(part)[0] + 1
        elif isinstance(node, CommentedSeq) and isinstance(part, int) and part < len(node):
            line = node.lc.item(part)[0] + 1
        else:
            break
        node = node[part]
    return line


@cache
def shipped() -> tuple[Technique, ...]:
    """Every shipped technique, by id."""
    return tuple(load_technique(path) for path in sorted(TECHNIQUES.glob("*.yaml")))


def shipped_technique(technique_id: str) -> Technique:
    """One shipped technique.

    Raises:
        BadInput: there is none of that id.
    """
    for technique in shipped():
        if technique.id == technique_id:
            return technique
    known = ", ".join(technique.id for technique in shipped())
    raise BadInput(f"there is no technique “{technique_id}”; the shipped ones are {known}")
