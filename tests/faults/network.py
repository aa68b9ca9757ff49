"""Machines in network namespaces of their own, joined by a bridge, where root may make them: nothing of it is seen from outside.

Each has an address of the network 10.77.0.0/24 and a loopback of its own. `apart` runs a module of the tests in the namespace
of the bridge.
"""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

HUB = "10.77.0.1"
MARK = "LACERTUS_TESTS_APART"


def may_be_apart() -> bool:
    """Whether namespaces and what joins them can be made here."""
    joined = "ip link set lo up && ip link add one type veth peer name other && ip link add hub type bridge"
    asked = ["unshare", "--net", "sh", "-c", joined]
    try:
        return os.geteuid() == 0 and subprocess.run(asked, capture_output=True, timeout=20, check=False).returncode == 0
    except OSError:
        return False


def apart(module: str, *arguments: str) -> int:
    """Run a module in a network of its own where that can be, else as it is; gives the code that it ends with."""
    into = ["unshare", "--net"] if may_be_apart() else []
    command = [*into, sys.executable, "-m", module, *arguments]
    return subprocess.run(command, env=os.environ | {MARK: "yes" if into else "no"}, check=False).returncode


class Network:
    """The bridge and its machines; this process is in a namespace of its own already."""

    def __init__(self) -> None:
        for change in ("set lo up", "add hub type bridge", "set hub up"):
            _ip("link", *change.split())
        _ip("address", "add", f"{HUB}/24", "dev", "hub")
        self._last = 1

    def machine(self) -> Place:
        """A namespace that is joined to the bridge."""
        self._last += 1
        return Place(self._last)


class Place:
    """Where a machine runs: its address, and its cable, which can be pulled."""

    def __init__(self, number: int) -> None:
        self.address, self._cable = f"10.77.0.{number}", f"cable{number}"
        # The namespace is there as long as a process is in it.
        self._holder = subprocess.Popen(["unshare", "--net", "sleep", "infinity"])
        while not self.is_apart:
            time.sleep(0.01)
        _ip("link", "add", self._cable, "type", "veth", "peer", "name", "eth0", "netns", str(self._holder.pid))
        _ip("link", "set", self._cable, "master", "hub")
        _ip("link", "set", self._cable, "up")
        for change in (
            ("address", "add", f"{self.address}/24", "dev", "eth0"),
            ("link", "set", "eth0", "up"),
            ("link", "set", "lo", "up"),
        ):
            subprocess.run([*self.into, "ip", *change], check=True)

    @property
    def into(self) -> list[str]:
        """What stands before a command that runs there."""
        return ["nsenter", "--target", str(self._holder.pid), "--net"]

    def pull_the_cable(self) -> None:
        """From now on nothing reaches the machine, and nothing says so."""
        _ip("link", "set", self._cable, "down")

    def plug_it_in(self) -> None:
        _ip("link", "set", self._cable, "up")

    def end(self) -> None:
        self._holder.kill()
        self._holder.wait(10)

    @property
    def is_apart(self) -> bool:
        """Whether it is in another namespace than this process."""
        return Path(f"/proc/{self._holder.pid}/ns/net").readlink() != Path("/proc/self/ns/net").readlink()


def _ip(*change: str) -> None:
    subprocess.run(["ip", *change], check=True)
