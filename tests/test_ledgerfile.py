"""The ledger of a CSV, by the command line, and what is wrong with a file."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path

import pytest

from tests.command import lacertus as run


def lacertus(*arguments: str) -> tuple[int, str, str]:
    done = run(*arguments)
    return done.returncode, done.stdout, done.stderr


HEAD = "student,date,technique,fault,family,reps,misses,safety"
ROWS = [
    "Ana Reed,2026-01-12,front-kick,low-chamber,half range,4,2,false",
    "Ana Reed,2026-01-05,front-kick,low-chamber,half range,5,3,false",
    "Ana Reed,2026-01-12,outer-reap,short-reap,half range,4,0,false",
    '"Ost, Bo",2026-02-01,back-fall,head-back,unsafe head,6,1,true',
]


def write(folder: Path, *rows: str, head: str = HEAD) -> Path:
    path = folder / "ledger.csv"
    path.write_text("\n".join((head, *rows)) + "\n", encoding="utf-8")
    return path


def test_faults_and_families_of_a_file(tmp_path: Path) -> None:
    code, out, _ = lacertus("ledger", str(write(tmp_path, *ROWS)), "--json")
    assert code == 0
    found = json.loads(out)
    assert [(f["student"], f["fault"], f["state"], f["recheck"]) for f in found["faults"]] == [
        ("Ana Reed", "low-chamber", "recurring", "2026-01-19"),
        ("Ana Reed", "short-reap", "clean", None),
        ("Ost, Bo", "head-back", "once", "2026-02-04"),
    ]
    kick = found["faults"][0]
    assert kick["history"] == [
        {"date": "2026-01-05", "exposures": 5, "misses": 3, "state": "once"},
        {"date": "2026-01-12", "exposures": 4, "misses": 2, "state": "recurring"},
    ]
    assert (kick["exposures"], kick["misses"], kick["technique"], kick["family"]) == (9, 5, "front-kick", "half range")
    # The habit across techniques: both days, added up.
    assert [(f["family"], f["exposures"], f["misses"]) for f in found["families"]] == [("half range", 13, 5), ("unsafe head", 6, 1)]


def test_from_an_earlier_day_and_as_a_table(tmp_path: Path) -> None:
    path = write(tmp_path, *ROWS)
    code, out, _ = lacertus("ledger", str(path), "--on", "2026-01-06", "--json")
    assert code == 0 and [(f["fault"], f["misses"]) for f in json.loads(out)["faults"]] == [("low-chamber", 3)]
    code, out, _ = lacertus("ledger", str(path))
    assert code == 0 and "recurr" in out and "5 of 9" in out


def test_an_empty_ledger_has_no_faults_and_columns_may_stand_in_any_order(tmp_path: Path) -> None:
    code, out, _ = lacertus("ledger", str(write(tmp_path)), "--json")
    assert (code, json.loads(out)["faults"]) == (0, [])
    table = io.StringIO()
    order = ["misses", "reps", "safety", "family", "fault", "technique", "date", "student"]
    writer = csv.DictWriter(table, order)
    writer.writeheader()
    writer.writerow(dict(zip(HEAD.split(","), ROWS[0].split(","), strict=True)))
    path = tmp_path / "turned.csv"
    path.write_text("\ufeff" + table.getvalue(), encoding="utf-8")
    code, out, _ = lacertus("ledger", str(path), "--json")
    assert code == 0 and json.loads(out)["faults"][0]["misses"] == 2


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ("A,2026-13-05,t,f,x,4,2,false", "line 2: “2026-13-05” is not a date"),
        ("A,2026-01-05,t,f,x,4,5,false", "5 misses in 4 reps"),
        ("A,2026-01-05,t,f,x,four,2,false", "reps is “four”"),
        ("A,2026-01-05,t,f,x,-4,2,false", "reps is “-4”"),
        ("A,2026-01-05,t,f,x,4,2,maybe", "safety is “maybe”"),
        (",2026-01-05,t,f,x,4,2,false", "student is empty"),
        ("A,2026-01-05,t,f,x,4", "not as many cells"),
        ("A,2026-01-05,t,f,x,4,2,false,more", "not as many cells"),
        ("A,2026-01-05,t,f,x,000000000000999999999,2,false", "whole number"),
        ("A,2026-01-05,t,f,x,99999999999999999999,2,false", "whole number"),
    ],
)
def test_a_wrong_line_is_told_with_its_number(tmp_path: Path, row: str, words: str) -> None:
    code, out, error = lacertus("ledger", str(write(tmp_path, row)), "--json")
    assert (code, out) == (2, "") and words in error and error.count("\n") == 1


def test_a_name_may_hold_a_comma_a_quote_and_the_end_of_a_line(tmp_path: Path) -> None:
    code, out, _ = lacertus("ledger", str(write(tmp_path, '"A ""Bo""\nReed",2026-01-05,t,f,x,4,2,false')), "--json")
    assert code == 0 and json.loads(out)["faults"][0]["student"] == 'A "Bo"\nReed'


def test_a_row_twice_a_missing_column_and_no_file_are_told(tmp_path: Path) -> None:
    code, _, error = lacertus("ledger", str(write(tmp_path, ROWS[0], ROWS[0])))
    assert code == 2 and "line 3" in error and "on line 2" in error
    code, _, error = lacertus("ledger", str(write(tmp_path, head="student,date")))
    assert code == 2 and "column technique" in error
    for path in (tmp_path / "none.csv", tmp_path):
        assert lacertus("ledger", str(path))[0] == 2
    (tmp_path / "bytes.csv").write_bytes(b"\xff\xfe\x00")
    assert lacertus("ledger", str(tmp_path / "bytes.csv"))[0] == 2
    assert lacertus("ledger", str(write(tmp_path, *ROWS)), "--on", "soon")[0] == 2
