"""The media store: every operation on it does the same in a folder and in an object store, and its errors are ours."""

from __future__ import annotations

import errno
import os
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import fsspec.exceptions
import pytest

from lacertus.core.errors import LacertusError
from lacertus.settings import settings
from lacertus.store.media import BadKey, Media, NoMedia, StorageAway, StorageFull, TooMuch, as_ours, media
from tests.store.objects import object_store


@pytest.fixture(scope="module")
def objects() -> Iterator[str]:
    """The root of an object store."""
    with object_store() as values:
        yield values["LACERTUS_MEDIA_URL"]


@pytest.fixture(params=["folder", "objects"])
def store(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Media]:
    """An empty store of each kind."""
    if request.param == "folder":
        yield Media(f"file://{tmp_path}/media")
        return
    found = Media(f"{request.getfixturevalue('objects')}-{tmp_path.name}")
    yield found
    found.delete("clips")


BIG = os.urandom(11_000_000)
"""More than an object store takes at once, and more than is asked of it at once."""


def test_what_is_stored_is_read_whole_and_by_ranges(store: Media, tmp_path: Path) -> None:
    source = tmp_path / "film"
    source.write_bytes(BIG)
    store.put(source, "clips/one/original")
    assert source.read_bytes() == BIG
    assert store.size("clips/one/original") == len(BIG)
    for start, end in ((0, len(BIG)), (0, 1), (4_194_303, 4_194_305), (len(BIG) - 3, len(BIG)), (7, 7)):
        assert b"".join(store.read("clips/one/original", start, end)) == BIG[start:end]
    with store.as_local("clips/one/original", tmp_path) as local:
        assert local.read_bytes() == BIG


def test_what_is_written_again_takes_the_place_of_what_was_there(store: Media) -> None:
    store.write("clips/one/words", b"first")
    before = store.facts("clips/one/words")
    store.write("clips/one/words", b"second")
    after = store.facts("clips/one/words")
    assert (before[0], after[0]) == (5, 6)
    assert before[1] != after[1]
    assert b"".join(store.read("clips/one/words", 0, 6)) == b"second"


def test_a_stream_that_is_longer_than_told_leaves_nothing(store: Media) -> None:
    store.write_stream("clips/one/papers/a.pdf", iter([b"ab", b"cd"]), 4)
    with pytest.raises(TooMuch, match="Nothing of it was stored"):
        store.write_stream("clips/one/papers/b.pdf", iter([b"ab", b"cde"]), 4)
    assert store.files("clips") == ["clips/one/papers/a.pdf"]


def test_files_and_folders_are_listed_as_they_are_now(store: Media) -> None:
    assert (store.files("clips"), store.sizes("clips"), store.folders("clips")) == ([], {}, [])
    store.write("clips/two/a", b"1")
    store.write("clips/one/made/b", b"22")
    store.write("clips/one-more/c", b"333")
    assert store.files("clips") == ["clips/one-more/c", "clips/one/made/b", "clips/two/a"]
    assert store.sizes("clips/one") == {"clips/one/made/b": 2}
    folders = dict(store.folders("clips"))
    assert sorted(folders) == ["one", "one-more", "two"]
    assert all(abs(changed - datetime.now(UTC)) < timedelta(minutes=5) for changed in folders.values())


def test_deleting_takes_all_below_a_name_and_nothing_beside_it(store: Media) -> None:
    for key in ("clips/one/a", "clips/one/made/b", "clips/one-more/c", "clips/two/d"):
        store.write(key, b"x")
    store.delete("clips/one")
    assert store.files("clips") == ["clips/one-more/c", "clips/two/d"]
    store.delete("clips/two/d")
    store.delete("clips/never-there")
    assert store.files("clips") == ["clips/one-more/c"]


def test_what_never_became_whole_is_swept(tmp_path: Path) -> None:
    store = Media(f"file://{tmp_path}/media")
    store.write("clips/one/original", b"whole")
    old, new = (tmp_path / "media" / "clips" / "one" / f"original.{name}.part" for name in ("old", "new"))
    for path in (old, new):
        path.write_bytes(b"ha")
    two_hours_ago = datetime.now(UTC) - timedelta(hours=2)
    os.utime(old, (two_hours_ago.timestamp(),) * 2)
    assert store.sweep_parts("clips", datetime.now(UTC) - timedelta(hours=1)) == 1
    assert (old.exists(), new.exists(), store.files("clips")) == (False, True, ["clips/one/original"])
    assert store.sweep_parts("nothing", datetime.now(UTC)) == 0


@pytest.mark.parametrize("key", ["../x", "clips/../../x", "clips//x", "/etc/passwd", "clips/.hidden", "clips/a b", ""])
def test_a_key_that_could_lie_elsewhere_is_refused(store: Media, key: str) -> None:
    for use in (lambda: store.write(key, b"x"), lambda: store.size(key), lambda: store.delete(key), lambda: store.files(key)):
        with pytest.raises(BadKey, match="no place among the media"):
            use()


def test_what_is_not_there_is_told_by_every_way_of_reading(store: Media) -> None:
    for read in (
        lambda: store.size("clips/x"),
        lambda: store.facts("clips/x"),
        lambda: list(store.read("clips/x", 0, 9)),
        lambda: store.as_local("clips/x").__enter__(),
    ):
        with pytest.raises(NoMedia, match="not there"):
            read()
    store.check()


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
        (type("EndpointConnectionError", (Exception,), {"__module__": "botocore.exceptions"})(), StorageAway),
    ],
    ids=lambda one: getattr(one, "__name__", type(one).__name__),
)
def test_what_a_store_raises_becomes_ours(error: Exception, kind: type[LacertusError]) -> None:
    with pytest.raises(kind, match=r"\w") as found, as_ours():
        raise error
    assert found.value.__cause__ is error


def test_an_error_that_is_none_of_a_store_stays_what_it_is() -> None:
    with pytest.raises(KeyError, match="ours"), as_ours():
        raise KeyError("ours")


def test_a_root_that_is_no_folder_is_told_and_nothing_is_lost(tmp_path: Path) -> None:
    (tmp_path / "root").write_text("a file")
    store = Media(str(tmp_path / "root"))
    with pytest.raises(StorageAway, match="Nothing was stored"):
        store.write("clips/x", b"x")
    assert (tmp_path / "root").read_text() == "a file"


def test_a_bucket_that_is_not_there_or_a_store_that_is_away_is_told(objects: str) -> None:
    nowhere = Media(objects.replace("s3://", "s3://no-such-"))
    with pytest.raises(StorageAway, match="Nothing was stored"):
        nowhere.write("clips/x", b"x")
    with object_store():
        away = media()
        away.write("clips/x", b"x")
    with pytest.raises(StorageAway, match="does not answer"):
        away.size("clips/x")


def test_what_opens_the_store_is_not_told_with_the_settings(objects: str) -> None:
    with object_store() as values:
        told = repr(settings())
        assert values["LACERTUS_MEDIA_URL"] in told
        assert "a-secret" not in told and "a-key" not in told
