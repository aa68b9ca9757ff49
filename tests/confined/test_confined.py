"""What a process that reads a stranger's file cannot do, and what is taken of what it leaves behind."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import pytest

from lacertus.confined import landlock
from lacertus.confined.child import reader_account
from lacertus.confined.opened import OpenedFile
from lacertus.confined.probe import probe
from lacertus.confined.runner import Bounds, Ended, run_confined


def test_it_cannot_get_out() -> None:
    """Held against this machine's own kernel: what it has is used, and what it has not is said."""
    held = probe()
    assert held.landlock == landlock.version()
    if held.landlock:
        assert held.reads_nothing_else
        assert held.writes_nothing_else
    if held.landlock >= 4 or os.geteuid() == 0:
        assert held.no_network
    assert (held.user is not None) == (os.geteuid() == 0)
    assert held.whole or held.landlock < 4


def test_a_root_worker_reads_as_somebody_else() -> None:
    account = reader_account()
    assert (account is None) == (os.geteuid() != 0)
    if account is not None:
        assert account.pw_uid != 0


@pytest.fixture
def ended(tmp_path: Path) -> Ended:
    folder = tmp_path / "made"
    folder.mkdir()
    return Ended(code=0, folder=folder)


def test_a_plain_file_is_taken(ended: Ended, tmp_path: Path) -> None:
    (ended.folder / "review.mp4").write_bytes(b"film")
    assert ended.take("review.mp4", tmp_path / "out")
    assert (tmp_path / "out").read_bytes() == b"film"


@pytest.mark.parametrize("trick", ["link", "second name", "folder", "pipe", "nothing"])
def test_what_is_no_plain_file_of_its_own_is_not_taken(ended: Ended, tmp_path: Path, trick: str) -> None:
    secret = tmp_path / "secret"
    secret.write_text("password")
    left = ended.folder / "review.mp4"
    if trick == "link":
        left.symlink_to(secret)
    elif trick == "second name":
        left.hardlink_to(secret)
    elif trick == "folder":
        left.mkdir()
    elif trick == "pipe":
        os.mkfifo(left)
    assert not ended.take("review.mp4", tmp_path / "out")
    assert not (tmp_path / "out").exists()


def test_modules_come_neither_from_its_folder_nor_from_the_environment(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A file named like a module, in the folder where the process stands or on the path, is never run."""
    ran = tmp_path / "ran"
    evil = tmp_path / "evil"
    evil.mkdir()
    (evil / "pydantic.py").write_text(f"open({str(ran)!r}, 'w').write('x')\nraise SystemExit(7)")
    monkeypatch.setenv("PYTHONPATH", str(evil))
    source = tmp_path / "clip"
    source.write_bytes(b"no film")
    said: list[dict[str, object]] = []
    request = {"name": "clip.mp4", "limits": {}}
    with run_confined("lacertus.video.intake.child", source, request, tmp_path, Bounds(), said.append) as done:
        assert done.code == 2
    assert "not a video" in str(said[-1]["refused"])
    assert not ran.exists()
    assert str(evil) not in sys.path


def test_an_opened_file_is_read_by_place(tmp_path: Path) -> None:
    """Two readers of one descriptor do not move each other."""
    path = tmp_path / "file"
    path.write_bytes(bytes(range(100)))
    with path.open("rb") as opened:
        one = OpenedFile(opened.fileno(), "file")
        other = one.fresh()
        assert (one.size, one.read(10), other.read(3)) == (100, bytes(range(10)), bytes(range(3)))
        assert one.seek(-5, os.SEEK_END) == 95
        assert one.read() == bytes(range(95, 100))
        assert (one.read(9), other.tell(), other.seekable()) == (b"", 3, True)
        with pytest.raises(OSError, match="before the beginning"):
            one.seek(-1)
