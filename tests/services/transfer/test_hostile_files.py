"""A student's file that a stranger made: whatever stands in it, it is refused, or what is stored can be opened."""

from __future__ import annotations

import copy
import io
import json
import random
import resource
import uuid
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.jobs import tasks
from lacertus.services.people import accounts
from lacertus.services.transfer import archive, student_in
from lacertus.services.transfer.archive_child import ROWS as NAME
from lacertus.services.transfer.records import type_of
from lacertus.services.transfer.rows import ROWS, columns_of
from lacertus.settings import settings
from lacertus.store.media import BadKey, media
from lacertus.store.tables import Base, Clip, Correction, Student
from tests.halls import PASSWORD, Hall, hall, one_app
from tests.place import owner
from tests.services.transfer.student_files import changed, clips_with_files, first, rows, written

MUTATIONS = 60
"""So many rows are made wrong in one run, each in one place, by a chance of its own; a longer run found what is mended here."""
NASTY: tuple[Any, ...] = (
    *(None, True, "", "x", " ", "\u202egpj", "a/b", "../../etc/passwd", "/etc/passwd", "x" * 100_000, "9999-12-31", "0001-01-01"),
    *("2026-13-45", "9999-12-31T23:59:59+00:00", "1e300", "NaN", "00000000-0000-4000-8000-000000000000"),
    *(0, -1, 10**12, 10**300, 1e300, -1e300, 1e-300, 0.5, 2**31),
    *([], [[]], [None], [1e300], [10**12], {}, {"a": 1}, {"technique": "front-kick"}, {"px": 5}, 5),
)


@pytest.fixture
def whole(db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truths: dict[str, Any], tmp_path: Path) -> Path:
    return written(db, where, review, rep, truths, tmp_path)


def focus(choices: list[dict[str, str]]) -> dict[str, Any]:
    return {"choices": choices, "why": "x", "on": "2026-05-04"}


ROWS_REFUSED: dict[str, tuple[Callable[[dict[str, Any]], object], str]] = {
    "a name that is a path": (lambda d: first(d, "clips", name="/etc/cron.d/evil.mp4"), "clip.name"),
    "a name with a folder": (lambda d: first(d, "clips", name="../evil.mp4"), "clip.name"),
    "a name that turns": (lambda d: first(d, "clips", name="gpj.\u202e4pm"), "clip.name"),
    "a name of 300 bytes": (lambda d: first(d, "clips", name="é" * 150), "clip.name"),
    "a picture elsewhere": (
        lambda d: first(d, "corrections", beside={"source": "reference", "words": "x", "ready": True, "name": "../../../etc/x"}),
        "correction.example",
    ),
    "a day of the year 9999": (lambda d: first(d, "clips", filmed_on="9999-12-31"), "clip.filmed_on"),
    "a time of the year 1": (lambda d: first(d, "reviews", created_at="0001-01-01T00:00:00+00:00"), "review.created_at"),
    "a number of 1e300": (lambda d: first(d, "judgements", value=1e300), "judgement.value"),
    "a point of 1e300": (lambda d: first(d, "points", x=1e300), "point.x"),
    "a point that is not in the picture": (lambda d: first(d, "points", x=99_999.0), "outside the picture"),
    "frames without end": (lambda d: first(d, "events", frames=[10**30]), "event_mark.frames"),
    "lengths that are none": (lambda d: first(d, "reviews", reference={"lengths_px": 5}), "review.reference"),
    "a choice without its keys": (
        lambda d: first(d, "reviews", fix_choice={"choices": [{"technique": "front-kick"}], "why": "x"}),
        "review.fix_choice",
    ),
    "a focus without its keys": (lambda d: d["student"].update(focus=focus([{"technique": "front-kick"}])), "student.fix_choice"),
    "a number as text": (lambda d: first(d, "reviews", heights_px={"performer": "400"}), "review.heights_px"),
    "times that go back": (lambda d: first(d, "clips", pts_s=[0.0, 2.0, 1.0]), "clip.pts_s"),
    "a rate of nothing": (lambda d: first(d, "clips", capture_rate=[[0, 0.0]]), "clip.capture_rate"),
    "a sheet of no day": (lambda d: d["revisions"][0]["sheet"].update(filmed_on="yesterday"), "revision.sheet"),
    "a sheet due on no day": (lambda d: d["revisions"][0]["sheet"].update(next_on="2026-02-31"), "revision.sheet"),
    "a record with more in it": (lambda d: d["revisions"][0]["record"].update(evil=1), "revision.record"),
    "NUL in a technique": (lambda d: d["techniques"][0]["body"]["names"].update(main="x\0y"), "NUL"),
    "half a character": (lambda d: d["student"].update(note="\ud800"), "half of a character"),
    "an absurd weight": (lambda d: d["techniques"][0]["body"]["checkpoints"][0].update(weight=1e300), "beyond"),
    "a mail address that is two": (lambda d: d["student"].update(email="a@b.test\nBcc: c@d.test"), "student.email"),
}


@pytest.mark.parametrize("case", ROWS_REFUSED)
def test_a_row_that_would_break_later_is_refused_now(db: Session, where: Hall, whole: Path, case: str) -> None:
    change, words = ROWS_REFUSED[case]
    other = accounts.create_academy(db, "Elsewhere").id
    db.commit()
    before = clips_with_files()
    with pytest.raises(BadInput, match=words):
        student_in.read(db, other, changed(whole, change))
    db.rollback()
    assert db.scalar(sa.select(sa.func.count()).select_from(Student).where(Student.academy_id == other)) == 0
    assert clips_with_files() == before


def test_every_column_has_something_that_checks_it() -> None:
    """A new column of JSON or of a list without a record of its own fails here, not in an academy."""
    models: list[type[Base]] = [*(model for _, model in ROWS), Student]
    columns = [(model, column) for model in models for column in columns_of(model)]
    assert len(columns) > 100
    for model, column in columns:
        assert type_of(model, column) is not None


def test_no_name_becomes_a_path_in_the_worker(db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path) -> None:
    """Should a name with a path ever stand in a row, the worker reads the clip and writes nothing there."""
    clip = Clip(academy_id=where.academy, name="x.mp4", filmed_on=Clip.__table__.c.filmed_on.type.python_type(2026, 5, 4))
    db.add(clip)
    db.flush()
    db.commit()
    with owner() as connection:
        connection.execute("alter table clip drop constraint ck_clip_name")
    evil = tmp_path / "evil.py"
    db.execute(sa.update(Clip).where(Clip.id == clip.id).values(name=str(evil)))
    db.commit()
    try:
        media().put(clips["long_gop"], f"clips/{clip.id}/original")
        tasks.read_clip(str(clip.id))
        db.refresh(clip)
        assert (clip.state, evil.exists()) == ("ready", False)
    finally:
        db.execute(sa.delete(Clip).where(Clip.id == clip.id))
        check = r"alter table clip add constraint ck_clip_name check (name !~ '[/\\\x01-\x1f\x7f]' and octet_length(name) <= 255)"
        db.commit()
        with owner() as connection:
            connection.execute(check)


@pytest.mark.parametrize(
    "key", ["", "/etc/passwd", "clips/../../etc/passwd", "clips//x", "clips/./x", "clips/.hidden", "clips/a b", "clips/x\0"]
)
def test_media_lie_below_their_root_or_nowhere(key: str) -> None:
    store = media()
    for act in (
        store.size,
        store.facts,
        store.files,
        store.delete,
        lambda k: list(store.read(k, 0, 9)),
        lambda k: store.write(k, b"x"),
    ):
        with pytest.raises(BadKey, match="This is no place among the media"):
            act(key)


# --- bombs ----------------------------------------------------------------------------------------------


def bomb(path: Path, name: str, size: int, *, start: bytes = b"", fill: bytes = b" ") -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        if name != NAME:
            out.writestr(NAME, b"{}")
        with out.open(name, "w", force_zip64=True) as entry:
            entry.write(start)
            for _ in range(size // 1_000_000):
                entry.write(fill * (1_000_000 // len(fill)))
    return path


def overlapping(path: Path) -> Path:
    """Two entries that share their bytes."""
    with zipfile.ZipFile(path, "w") as out:
        out.writestr(NAME, b"{}")
        out.writestr(f"media/{uuid.UUID(int=1)}/original", b"x" * 5000)
    data = bytearray(path.read_bytes())
    end = data.rindex(b"PK\x05\x06")
    at = int.from_bytes(data[end + 16 : end + 20], "little")
    directory = bytes(data[at:end])
    second = directory.index(b"PK\x01\x02", 4)
    again = directory[second:].replace(str(uuid.UUID(int=1)).encode(), str(uuid.UUID(int=2)).encode())
    tail = bytearray(data[end:])
    tail[8:10] = tail[10:12] = (3).to_bytes(2, "little")
    tail[12:16] = (len(directory) + len(again)).to_bytes(4, "little")
    path.write_bytes(bytes(data[:end]) + again + bytes(tail))
    return path


FILM = f"media/{uuid.UUID(int=1)}/original"
MANY = {NAME: b"{}"} | {f"points/{uuid.UUID(int=number)}.json": b"" for number in range(60_000)}
BOMBS: dict[str, tuple[Callable[[Path], Path], str]] = {
    "rows of 400 MB": (lambda p: bomb(p, NAME, 400_000_000), "larger than it may be"),
    "rows of empty lists": (lambda p: bomb(p, NAME, 19_000_000, start=b"[", fill=b"[],,"), "compressed far more"),
    "a film that says it is large": (lambda p: lying(p), "compressed far more"),
    "a film that is nothing but zeros": (lambda p: bomb(p, FILM, 500_000_000, fill=b"\0"), "compressed far more"),
    "entries over each other": (overlapping, "overlap"),
    "deep rows": (lambda p: plain(p, {NAME: b"[" * 60_000}), "levels deep"),
    "rows in another encoding": (lambda p: plain(p, {NAME: "{}".encode("utf-16")}), "UTF-8"),
    "60,000 entries": (lambda p: plain(p, MANY), "holds more"),
    "a name twice": (lambda p: twice(p), "no name of ours"),
}


def plain(path: Path, entries: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(path, "w") as out:
        for name, content in entries.items():
            out.writestr(name, content)
    return path


def lying(path: Path) -> Path:
    """An entry that says in the directory that it is larger than any limit."""
    plain(path, {NAME: b"{}", f"media/{uuid.UUID(int=1)}/original": b"x"})
    data = bytearray(path.read_bytes())
    at = data.rindex(b"PK\x01\x02")
    data[at + 24 : at + 28] = (2**32 - 2).to_bytes(4, "little")
    path.write_bytes(data)
    return path


def twice(path: Path) -> Path:
    with zipfile.ZipFile(path, "w") as out, pytest.warns(UserWarning, match="Duplicate"):
        out.writestr(NAME, b"{}")
        out.writestr(NAME, b"{}")
    return path


@pytest.mark.parametrize("case", BOMBS)
def test_a_bomb_is_refused_and_takes_no_memory(db: Session, where: Hall, tmp_path: Path, case: str) -> None:
    make, words = BOMBS[case]
    file = make(tmp_path / "bomb.zip")
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    with pytest.raises(BadInput, match=words):
        student_in.read(db, where.academy, file)
    assert 1024 * (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) < 100_000_000


def test_no_more_comes_out_than_may(db: Session, where: Hall, whole: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The total of a site's setting, whatever is in it."""
    other = accounts.create_academy(db, "Elsewhere").id
    db.commit()
    size = max(entry.file_size for entry in zipfile.ZipFile(whole).infolist())
    now = replace(settings(), largest_archive_bytes=size - 1)
    monkeypatch.setattr(archive, "settings", lambda: now)
    with pytest.raises(BadInput, match=r"larger than it may be|holds more"):
        student_in.read(db, other, whole)


# --- mutations --------------------------------------------------------------------------------------------


def places(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Every place in a tree that may be made wrong."""
    if path:
        yield path
    inside = value.items() if isinstance(value, dict) else enumerate(value[:3]) if isinstance(value, list) else ()
    for key, inner in inside:
        yield from places(inner, (*path, key))


def test_whatever_is_taken_can_be_opened(db: Session, where: Hall, whole: Path, tmp_path: Path) -> None:
    """Rows with one thing wrong: each is refused in a sentence, or every page that shows them answers."""
    chance = random.Random(20261127)
    data = rows(whole)
    candidates = [place for place in places(data) if place[0] != "techniques" or len(place) < 5]
    assert len(candidates) > 500
    taken = refused = 0
    for turn in range(MUTATIONS):
        place, value = chance.choice(candidates), chance.choice(NASTY)
        elsewhere = hall(db, f"Elsewhere {turn}", f"other{turn}@example.test")

        def spoil(d: dict[str, Any], place: tuple[Any, ...] = place, value: Any = value) -> None:
            for key in place[:-1]:
                d = d[key]
            d[place[-1]] = copy.deepcopy(value)

        try:
            student, _ = student_in.read(db, elsewhere.academy, changed(whole, spoil))
            db.commit()
        except BadInput as error:
            db.rollback()
            refused += 1
            assert len(str(error)) < 1500, place
            continue
        taken += 1
        assert broken_pages(db, student, f"other{turn}@example.test") == [], (place, value)
    assert refused > MUTATIONS // 4
    assert taken > 5


def broken_pages(db: Session, student: Student, email: str) -> list[str]:
    """The pages of a student that do not answer."""
    clips = list(db.scalars(sa.select(Clip.id).where(Clip.student_id == student.id)))
    corrections = list(db.scalars(sa.select(Correction.id)))[:2]
    with TestClient(one_app(), raise_server_exceptions=False) as client:
        client.post("/api/session", json={"email": email, "password": PASSWORD}).raise_for_status()
        pages = ["students", "clips", "academy", *(f"clips/{clip}" for clip in clips)]
        pages += [f"students/{student.id}{part}" for part in ("", "/ledger", "/rungs", "/adaptations", "/file.zip", "/focus")]
        pages += [f"corrections/{one}/example" for one in corrections]
        broken = [page for page in pages if client.get(f"/api/{page}").status_code >= 500]
        for clip in clips:
            answer = client.post(f"/api/clips/{clip}/review")
            broken += [f"review {clip}"] if answer.status_code >= 500 else []
            if answer.status_code == 200:
                review = answer.json()["id"]
                parts = ("sheet", "sheet.html", "sheet.pdf", "measures.csv", "corrections.vtt", "schedule.ics", "newer")
                broken += [part for part in parts if client.get(f"/api/reviews/{review}/{part}").status_code >= 500]
                for rep in answer.json()["reps"]:
                    more = ("rep.json", "coco.json", "ground", "drawn")
                    broken += [part for part in more if client.get(f"/api/reps/{rep['id']}/{part}").status_code >= 500]
    return broken


def test_json_that_lies_about_its_lists_is_refused(db: Session, where: Hall, whole: Path) -> None:
    data = rows(whole)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        file.writestr(NAME, json.dumps(data | {"clips": {"id": 1}, "reps": 7}))
    target = whole.with_name("lies.zip")
    target.write_bytes(out.getvalue())
    with pytest.raises(BadInput, match="no list of rows"):
        student_in.read(db, where.academy, target)
