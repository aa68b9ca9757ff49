"""The demo: the invented academy on this machine, until it is stopped."""

from __future__ import annotations

import json
import signal
import sys
from pathlib import Path

from lacertus.local.history import EMAIL, SECOND_EMAIL
from lacertus.local.place import LocalPlace, Say


class Demo(LocalPlace):
    """Everything that the demo runs, in a folder of its own; the academy is made at the first start."""

    def is_prepared(self) -> bool:
        return self.sign_in_file.exists() and super().is_prepared()

    def fill(self) -> None:
        super().fill()
        from lacertus.local import academy
        from lacertus.logs import configure_logs

        with (self.folder / "log").open("a") as log:
            configure_logs(log)
            password = academy.load(academy.prepare(self.root / ".run" / "studio", self.say), None, self.say)
        if password is not None or not self.sign_in_file.exists():
            self._keep_sign_in(EMAIL, password or "set at an earlier start")

    @property
    def sign_in_file(self) -> Path:
        return self.folder / "sign-in"

    def _keep_sign_in(self, email: str, password: str) -> None:
        part = self.sign_in_file.with_suffix(".part")
        part.touch(mode=0o600)
        part.write_text(f"{email}\n{password}\n")
        part.replace(self.sign_in_file)


def run(root: Path, port: int | None, say: Say, as_json: bool = False) -> None:
    """Run the demo until it is interrupted; `as_json` puts address and sign-in on standard output as one JSON object."""
    demo = Demo(root / ".run" / "demo", root, say)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        demo.prepare()
        address = demo.start(port)
        email, password = demo.sign_in_file.read_text().splitlines()[:2]
        if as_json:
            print(json.dumps({"address": address, "email": email, "password": password}), flush=True)
        say("")
        say(f"  Lacertus is at  {address}")
        say(f"  e-mail          {email}")
        say(f"  password        {password}")
        say(f"  second coach    {SECOND_EMAIL}, with the same password")
        say("")
        say("  Ctrl-C stops it.")
        demo.wait()
    except KeyboardInterrupt:
        say("stopping")
    finally:
        demo.stop()
