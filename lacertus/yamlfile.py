"""YAML files that people write: read with limits, and every problem told with its path and line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar

import yaml12
from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.events import AliasEvent, CollectionEndEvent, CollectionStartEvent, NodeEvent

from lacertus.core.errors import BadDefinition, BadInput, Problem
from lacertus.core.texts import first_unkept

Bad = TypeVar("Bad", bound=BadDefinition)
Read = TypeVar("Read")
LARGEST_FILE_BYTES = 1_000_000
LARGEST_TEXT_BYTES = 200_000
"""More than twenty times the longest shipped technique: so much is parsed in about two seconds."""
MOST_DEPTH = 20
MOST_NODES = 20_000


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
    """Parse YAML, keeping line numbers; raises `bad` where it is none, or over a limit."""
    if len(text.encode("utf-8", "replace")) > LARGEST_TEXT_BYTES:
        message = f"is larger than {LARGEST_TEXT_BYTES // 1000} kB, the most that is read"
        raise bad([Problem(path=(), message=message)], source)
    try:
        _check_events(text, source, bad)
        return YAML(typ="rt").load(text)
    except MarkedYAMLError as error:
        line = error.problem_mark.line + 1 if error.problem_mark else None
        raise bad([Problem(path=(), message=f"is not valid YAML: {error.problem or error.context}", line=line)], source) from error
    except (YAMLError, ValueError) as error:
        raise bad([Problem(path=(), message=f"is not valid YAML: {error}")], source) from error


def parse_own(path: Path) -> Any:
    """Parse a file that ships with this package: no limits are held, no lines kept. Plain dicts, lists and scalars.

    A reader without lines takes a hundredth of the time (docs/decisions.md).
    """
    return yaml12.read_yaml(str(path))


def _check_events(text: str, source: str, bad: type[BadDefinition]) -> None:
    """Raise where a text is nested too deeply, holds too much, or an alias, which can make a small file endless.

    The events come one by one while the text is read, so that reading stops at the first that is too much.
    """
    depth = nodes = 0
    for event in YAML(typ="rt").parse(text):
        line = event.start_mark.line + 1
        if isinstance(event, AliasEvent):
            raise bad([Problem(path=(), message="aliases (*name) are not taken: write it out", line=line)], source)
        depth += isinstance(event, CollectionStartEvent) - isinstance(event, CollectionEndEvent)
        nodes += isinstance(event, NodeEvent)
        if depth > MOST_DEPTH:
            raise bad([Problem(path=(), message=f"is nested more than {MOST_DEPTH} levels deep", line=line)], source)
        if nodes > MOST_NODES:
            raise bad([Problem(path=(), message=f"holds more than {MOST_NODES} values", line=line)], source)


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
    value = plain(tree)
    unkept = first_unkept(value)
    if unkept is not None:
        raise bad([Problem(path=(), message=unkept)], source)
    try:
        return read(value, source)
    except bad as error:
        raise bad(located(error.problems, tree), source) from error
