"""JSON Schemas of the open formats, generated from the models: python -m lacertus.local.schemas FOLDER."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from lacertus.core.corrections.marks import Mark
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.sheets.sheet import Sheet
from lacertus.core.techniques.definition import Technique
from lacertus.studio.script import Script

_DIALECT = "https://json-schema.org/draft/2020-12/schema"


def rep_schema() -> dict[str, Any]:
    """The rep file."""
    return {"$schema": _DIALECT, "title": "Lacertus rep file"} | RepFile.model_json_schema(by_alias=True)


def technique_schema() -> dict[str, Any]:
    """The technique file; `measure` follows the checkpoint's kind."""
    schema = {"$schema": _DIALECT, "title": "Lacertus technique file"} | Technique.model_json_schema(by_alias=True)
    definitions, rules = schema["$defs"], []
    for name, kind in sorted(KINDS.items()):
        own = kind.measure_model.model_json_schema(by_alias=True)
        definitions |= own.pop("$defs", {})
        definitions[kind.measure_model.__name__] = own
        wanted = {"properties": {"measure": {"$ref": f"#/$defs/{kind.measure_model.__name__}"}}}
        rules.append({"if": {"properties": {"kind": {"const": name}}}, "then": wanted})
    checkpoint = definitions["Checkpoint"]
    checkpoint["properties"]["kind"] |= {"enum": sorted(KINDS)}
    checkpoint["properties"]["measure"] = {"type": "object", "description": "Keys by kind: docs/measurement.md"}
    checkpoint["allOf"] = rules
    definitions.pop("Measure", None)
    return schema


def script_schema() -> dict[str, Any]:
    """The studio script."""
    return {"$schema": _DIALECT, "title": "Lacertus studio script"} | Script.model_json_schema(by_alias=True)


def sheet_schema() -> dict[str, Any]:
    """The sheet of a review, as it is kept with each revision."""
    return {"$schema": _DIALECT, "title": "Lacertus sheet"} | Sheet.model_json_schema(by_alias=True)


def mark_schema() -> dict[str, Any]:
    """A mark of a correction."""
    return {"$schema": _DIALECT, "title": "Lacertus mark"} | Mark.model_json_schema(by_alias=True)


SCHEMAS = {
    "rep.schema.json": rep_schema,
    "technique.schema.json": technique_schema,
    "script.schema.json": script_schema,
    "sheet.schema.json": sheet_schema,
    "mark.schema.json": mark_schema,
}


def text_of(name: str) -> str:
    return json.dumps(SCHEMAS[name](), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    for file in SCHEMAS:
        (Path(sys.argv[1]) / file).write_text(text_of(file), encoding="utf-8")
