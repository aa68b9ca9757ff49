"""The process that reads one clip: python -m lacertus.video.intake.child, in a folder with its request. See `apart`."""

from __future__ import annotations

import sys
from pathlib import Path

from pydantic import TypeAdapter

from lacertus.confined.child import SayProgress, confine, say
from lacertus.confined.opened import OpenedFile
from lacertus.confined.runner import Bounds, request_here
from lacertus.core.errors import LacertusError
from lacertus.video.inspect import Limits
from lacertus.video.intake.reading import RESULT, Reading, read_whole


def main() -> int:
    request = request_here()
    bounds, source = Bounds(**request["bounds"]), OpenedFile(request["source"], request["name"])
    confine(bounds.most_bytes, bounds.most_seconds, bounds.most_written)
    try:
        reading = read_whole(source, Path(), SayProgress(), Limits(**request["limits"]))
    except LacertusError as error:
        say({"refused": str(error)})
        return 2
    except MemoryError:
        say({"refused": f"{source.name} needs more memory to read than is allowed here; export it smaller or cut it first"})
        return 2
    Path(RESULT).write_bytes(TypeAdapter(Reading).dump_json(reading))
    return 0


if __name__ == "__main__":
    sys.exit(main())
