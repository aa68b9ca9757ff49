"""The papers keep up: every setting, command, kind and format is documented, and what is generated is current."""

from __future__ import annotations

import json
import re

import jsonschema_rs
import pytest

from lacertus.cli import app
from lacertus.core.measuring.measures import KINDS
from lacertus.library import shipped
from lacertus.local.schemas import SCHEMAS, rep_schema, technique_schema, text_of
from lacertus.settings import ENVIRONMENT, Settings
from tests.core.build import rep_data, technique_data
from tests.place import ROOT

DOCS = ROOT / "docs"


@pytest.mark.parametrize("name", ENVIRONMENT)
def test_every_setting_is_documented_with_its_default(name: str) -> None:
    default = getattr(Settings, name)
    written = str(default).lower() if isinstance(default, bool) else str(default)
    assert f"| `{ENVIRONMENT[name]}` | `{written}` |" in (DOCS / "operations.md").read_text()


def commands() -> list[str]:
    groups = [(f"{group.name} ", group.typer_instance) for group in app.registered_groups if group.typer_instance]
    found = [(prefix, command) for prefix, part in [("", app), *groups] for command in part.registered_commands]
    return [prefix + (command.name or command.callback.__name__) for prefix, command in found if command.callback]


@pytest.mark.parametrize("command", commands())
def test_every_command_is_documented(command: str) -> None:
    assert f"`lacertus {command}" in (DOCS / "formats.md").read_text()


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_has_its_entry(kind: str) -> None:
    assert f"\n### {kind}\n" in (DOCS / "measurement.md").read_text()


@pytest.mark.parametrize("name", SCHEMAS)
def test_the_published_schema_is_current(name: str) -> None:
    assert (DOCS / "schemas" / name).read_text() == text_of(name), "run script/client"


@pytest.mark.parametrize("technique", shipped(), ids=lambda t: t.id)
def test_a_shipped_technique_fits_its_schema(technique: object) -> None:
    body = technique.model_dump(mode="json", by_alias=True, exclude_unset=True)  # type: ignore[attr-defined]
    jsonschema_rs.validate(technique_schema(), body)


def test_the_schemas_refuse_what_the_models_refuse() -> None:
    jsonschema_rs.validate(rep_schema(), rep_data())
    assert not jsonschema_rs.is_valid(rep_schema(), rep_data(surprise=1))
    broken = technique_data()
    broken["checkpoints"][0]["measure"] = {"from": "a", "to": "b"}
    assert not jsonschema_rs.is_valid(technique_schema(), broken)


def test_the_example_in_the_papers_is_a_rep_file() -> None:
    from lacertus.core.measuring.repfile import read_rep

    example = re.search(r"```json\n(.*?)```", (DOCS / "formats.md").read_text(), re.DOTALL)
    assert example is not None
    assert read_rep(json.loads(example.group(1))).technique == "front-kick"


def test_links_of_the_papers_lead_somewhere() -> None:
    for paper in (*ROOT.glob("*.md"), *DOCS.glob("*.md")):
        for target in re.findall(r"\]\(([^)#]+)", paper.read_text()):
            assert (paper.parent / target).exists(), f"{paper.name}: {target}"


def test_the_script_in_the_papers_is_a_studio_script() -> None:
    from lacertus.studio.script import parse_script

    example = re.search(r"```yaml\n(.*?)```", (DOCS / "formats.md").read_text(), re.DOTALL)
    assert example is not None
    assert parse_script(example.group(1)).side == "left"


def test_the_glossary_explains_every_kind_of_checkpoint() -> None:
    section = (DOCS / "glossary.md").read_text(encoding="utf-8").partition("## Kinds of checkpoint")[2]
    told = re.findall(r"^\| ([a-z_]+) \|", section, re.MULTILINE)
    assert sorted(set(told) - {"term"}) == sorted(KINDS)
