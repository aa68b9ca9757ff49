"""`script/poses TECHNIQUE AFTER:BEFORE:COUNT …`: solves the poses between steps of a move on the mat, into its file."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from importlib import resources
from pathlib import Path
from typing import Any


def main() -> None:
    parser = argparse.ArgumentParser(description="Solve the poses between the steps of a move on the mat.")
    parser.add_argument("technique")
    parser.add_argument("stretches", nargs="+", metavar="AFTER:BEFORE:COUNT", help="two steps of a rep, and how many poses between")
    parser.add_argument("--reaction", default="", help="the rep in which the partner reacts so")
    asked = parser.parse_args()
    stretches = [stretch.split(":") for stretch in asked.stretches]
    if any(len(stretch) != 3 or not stretch[2].isdigit() for stretch in stretches):
        parser.error("a stretch is AFTER:BEFORE:COUNT, such as tips:clear:5")
    path = Path(str(resources.files("lacertus.studio") / "moves" / "poses" / f"{asked.technique}.json"))
    if not path.is_file():
        parser.error(f"{asked.technique} has no poses on the mat: there is no file {path.name} in studio/moves/poses")
    before_all = path.read_text(encoding="utf-8")
    told = json.loads(before_all)
    told["between"] = [b for b in told["between"] if [b["after"], b["before"]] not in [stretch[:2] for stretch in stretches]]
    path.write_text(as_text(told), encoding="utf-8")
    try:
        for after, before, count in stretches:
            found = solved(asked.technique, asked.reaction, after, before, int(count))
            told["between"] += found
            print(f"{after} → {before}: {len(found)} poses")
    except BaseException:
        # Whatever stopped it, a stretch that was not solved keeps the poses that it had.
        path.write_text(before_all, encoding="utf-8")
        raise
    path.write_text(as_text(told), encoding="utf-8")


def solved(technique: str, reaction: str, after: str, before: str, count: int) -> list[dict[str, object]]:
    # A move reads its poses when it is imported, so that comes after the old poses between are out of the file.
    from lacertus.studio.authoring.stretch import Stretch
    from lacertus.studio.script import read_script, scene_of

    script = {"lacertus_script": 1, "id": "poses", "technique": technique, "scatter": 0.0, "reps": [{"reaction": reaction}]}
    stretch = Stretch(scene=scene_of(read_script(script)), after=after, before=before, count=count)
    return [asdict(between) for between in stretch.solve()]


def as_text(told: dict[str, Any]) -> str:
    """A file of poses with a body's channels on one line."""
    poses = ",\n".join(
        f'    "{name}": {{\n' + ",\n".join(f'      "{key}": {json.dumps(value)}' for key, value in pose.items()) + "\n    }"
        for name, pose in told["poses"].items()
    )
    between = ",\n".join(
        f'    {{"after": "{b["after"]}", "before": "{b["before"]}", "share": {b["share"]},\n'
        f'      "performer": {json.dumps(b["performer"])},\n      "partner": {json.dumps(b["partner"])}}}'
        for b in told["between"]
    )
    return f'{{\n  "poses": {{\n{poses}\n  }},\n  "between": [\n{between}\n  ]\n}}\n'


if __name__ == "__main__":
    main()
