"""YAML files that people write: read with limits, and every problem told with its path and line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.events import AliasEvent

from lacertus.core.errors import BadDefinition, BadInput, Problem

Bad = TypeVar("Bad", bound=BadDefinition)
Read = TypeVar("Read")
LARGEST_FILE_BYTES = 1_000_000


def read_text(path: Path, what: str) -> str:
    """The text of a file.

    Raises:
        BadInput: it cannot be read, is too large, or is no text.
    """
    try:
        if path.stat().st_size > LARGEST_FILE_BYTES:
            raise BadInput(f"{path.name} is larger than {what} may be (1 MB)")
        return path.read_text(encoding="utf-8")
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror or error}") from error
    except UnicodeDecodeError as error:
        raise BadInput(f"{path.name} is not UTF-8 text") from error


def parse_yaml(text: str, source: str, bad: type[BadDefinition]) -> Any:
    """Parse YAML, keeping line numbers; raises `bad` where it is none."""
    try:
        _refuse_aliases(text, source, bad)
        return YAML(typ="rt").load(text)
    except MarkedYAMLError as error:
        line = error.problem_mark.line + 1 if error.problem_mark else None
        raise bad([Problem(path=(), message=f"is no YAML: {error.problem or error.context}", line=line)], source) from error
    except (YAMLError, ValueError) as error:
        raise bad([Problem(path=(), message=f"is no YAML: {error}")], source) from error


def _refuse_aliases(text: str, source: str, bad: type[BadDefinition]) -> None:
    """An alias can make a small file endless; none is needed."""
    for event in YAML(typ="rt").parse(text):
        if isinstance(event, AliasEvent):
            line = event.start_mark.line + 1
            raise bad([Problem(path=(), message="aliases (*name) are not taken: write it out", line=line)], source)


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


def located(problems: Sequence[Problem], tree: Any) -> list[Problem]:
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


def parse_checked(text: str, source: str, bad: type[Bad], read: Callable[[Any, str], Read]) -> Read:
    """Parse YAML and check it with `read`, which raises `bad`; every problem gets its line."""
    tree = parse_yaml(text, source, bad)
    try:
        return read(plain(tree), source)
    except bad as error:
        raise bad(located(error.problems, tree), source) from error
