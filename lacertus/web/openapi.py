"""Writes the OpenAPI file that the front end's types are generated from: python -m lacertus.web.openapi FILE."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from lacertus.web.app import create_app


def openapi_text() -> str:
    app = create_app()
    return json.dumps(app.openapi(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(openapi_text(), encoding="utf-8")
