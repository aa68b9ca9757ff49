"""The media store's errors are ours, at one boundary, whatever store it is."""

from __future__ import annotations

import errno
from pathlib import Path

import fsspec.exceptions
import pytest

from lacertus.core.errors import LacertusError
from lacertus.store.media import Media, NoMedia, StorageAway, StorageFull, as_ours


@pytest.mark.parametrize(
    ("error", "kind"),
    [
        (FileNotFoundError(2, "no such file"), NoMedia),
        (OSError(errno.ENOSPC, "no space"), StorageFull),
        (OSError(errno.EDQUOT, "over quota"), StorageFull),
        (PermissionError(13, "refused"), StorageAway),
        (ConnectionResetError(104, "reset"), StorageAway),
        (fsspec.exceptions.FSTimeoutError(), StorageAway),
        (ImportError("install the driver of this store"), StorageAway),
    ],
    ids=lambda one: getattr(one, "__name__", type(one).__name__),
)
def test_what_a_store_raises_becomes_ours(error: Exception, kind: type[LacertusError]) -> None:
    with pytest.raises(kind, match=r"\w") as found, as_ours():
        raise error
    assert found.value.__cause__ is error


def test_a_root_that_is_no_folder_is_told_and_nothing_is_lost(tmp_path: Path) -> None:
    (tmp_path / "root").write_text("a file")
    store = Media(str(tmp_path / "root"))
    with pytest.raises(StorageAway, match="Nothing was stored"):
        store.write("clips/x", b"x")
    assert (tmp_path / "root").read_text() == "a file"


def test_what_is_not_there_is_told_by_every_way_of_reading(tmp_path: Path) -> None:
    store = Media(str(tmp_path))
    for read in (
        lambda: store.size("clips/x"),
        lambda: store.facts("clips/x"),
        lambda: list(store.read("clips/x", 0, 9)),
        lambda: store.as_local("clips/x").__enter__(),
    ):
        with pytest.raises(NoMedia, match="not there"):
            read()
