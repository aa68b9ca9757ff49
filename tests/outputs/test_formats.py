"""Open formats, read back by other libraries: keypoints, measures, captions, calendar, mail."""

from __future__ import annotations

import csv
import io
from dataclasses import fields
from datetime import UTC, date, datetime, timedelta
from email import message_from_bytes, policy
from typing import Any

import icalendar
import pytest
import webvtt
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.errors import BadInput
from lacertus.core.sheets.sheet import Sheet
from lacertus.outputs.calendar import due_calendar
from lacertus.outputs.captions import vtt
from lacertus.outputs.coco import SEVENTEEN, BadKeypoints, bodies_of, coco_of
from lacertus.outputs.mail import checked_address, sheet_mail
from lacertus.outputs.measures import MeasureRow, measures_csv
from tests.outputs.bodies import BODY, FRAMES, SIZE


class TestKeypoints:
    @given(st.dictionaries(st.sampled_from(["performer", "partner"]), BODY, min_size=1))
    def test_what_goes_out_comes_back_the_same(self, bodies: Any) -> None:
        assert bodies_of(coco_of(bodies, SIZE), SIZE, FRAMES) == bodies

    def usual(self, **changes: Any) -> dict[str, Any]:
        points = [float(v) for i in range(17) for v in (10 + i, 20 + i, 2 if i % 2 else 1)]
        return {
            "images": [{"id": 8, "file_name": "shot/frame_000007.png", "width": 640, "height": 480}],
            "annotations": [{"id": 1, "image_id": 8, "category_id": 1, "keypoints": points}],
            "categories": [{"id": 1, "name": "person", "keypoints": list(SEVENTEEN)}],
        } | changes

    def test_the_usual_seventeen_are_read_without_the_eyes(self) -> None:
        found = bodies_of(self.usual(), SIZE, FRAMES)["performer"].landmarks
        assert len(found) == 15
        (knee,) = found["left_knee"]
        assert (knee.frame, knee.x, knee.y, knee.by, knee.hidden) == (7, 23.0, 33.0, "model", False)

    @pytest.mark.parametrize(
        ("changes", "words"),
        [
            ({"categories": [{"id": 1, "keypoints": ["nose", "tail"]}]}, "another skeleton \\(tail\\)"),
            ({"categories": [{"id": 1, "keypoints": ["nose", "nose"]}]}, "stands twice"),
            ({"images": [{"id": 8, "width": 640, "height": 360, "file_name": "7"}]}, "640×360, the clip is 640×480"),
            ({"images": [{"id": 8, "width": 640, "height": 480, "file_name": "f_100"}]}, "would be frame 100"),
            ({"annotations": [{"image_id": 9, "category_id": 1, "keypoints": [0.0] * 51}]}, "image 9"),
            ({"annotations": [{"image_id": 8, "category_id": 2, "keypoints": [0.0] * 51}]}, "category 2"),
            ({"annotations": [{"image_id": 8, "category_id": 1, "keypoints": [0.0] * 50}]}, "50 numbers"),
            ({"annotations": [{"image_id": 8, "category_id": 1, "track_id": 3, "keypoints": [0.0] * 51}]}, "two bodies"),
            ({"annotations": 2 * [{"image_id": 8, "category_id": 1, "keypoints": [1.0] * 51}]}, "the same body on one frame"),
            ({"annotations": "none"}, "annotations"),
        ],
    )
    def test_another_skeleton_or_clip_is_refused_with_the_reason(self, changes: dict[str, Any], words: str) -> None:
        with pytest.raises(BadKeypoints, match=words):
            bodies_of(self.usual(**changes), SIZE, FRAMES)


def row(**changes: Any) -> MeasureRow:
    empty: dict[str, Any] = {"str": "", "int": 1, "bool": False, "float | None": None}
    return MeasureRow(**({field.name: empty[str(field.type)] for field in fields(MeasureRow)} | changes))


class TestMeasures:
    @given(
        st.lists(
            st.tuples(
                st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0\r"), max_size=30),
                st.floats(allow_nan=False, allow_infinity=False),
            )
        )
    )
    def test_a_reader_of_csv_finds_every_cell(self, cells: list[tuple[str, float]]) -> None:
        text = measures_csv(row(student=name, value=value) for name, value in cells)
        found = list(csv.DictReader(io.StringIO(text, newline="")))
        for read, (name, value) in zip(found, cells, strict=True):
            assert read["student"].removeprefix("'") == name.removeprefix("'")
            assert float(read["value"]) == value

    @pytest.mark.parametrize("name", ["=1+1", "+cmd", "-2", "@sum(A1)", "\t=1"])
    def test_no_text_is_run_as_a_formula(self, name: str) -> None:
        (found,) = csv.DictReader(io.StringIO(measures_csv([row(student=name)])))
        assert found["student"] == f"'{name}"


class TestCaptions:
    @given(
        st.lists(
            st.tuples(
                st.floats(0, 5000),
                st.floats(0.01, 60),
                st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs", "Zl", "Zp"]), min_size=1, max_size=60),
            )
        )
    )
    def test_a_reader_of_captions_finds_every_cue(self, cues: list[tuple[float, float, str]]) -> None:
        wanted = [(start, start + length, words) for start, length, words in cues if words.split()]
        found = list(webvtt.from_string(vtt(wanted)))
        assert len(found) == len(wanted)
        for caption, (start, end, words) in zip(found, wanted, strict=True):
            assert caption.start_in_seconds * 1000 + 0 == pytest.approx(start * 1000, abs=1000)
            plain = caption.raw_text.replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&")
            assert plain == " ".join(words.split())
            assert end > start

    def test_markup_and_arrows_are_plain_words(self) -> None:
        text = vtt([(0.0, 1.0, "<v Coach>00:01 --> 00:02\n\nNOTE no")])
        assert text.count("-->") == 1
        assert "<v" not in text


def test_the_calendar_holds_the_day_and_a_reminder() -> None:
    raw = due_calendar(
        "one", date(2026, 5, 4), "Film again: Front kick", "Knee first; out, and back", datetime(2026, 4, 1, tzinfo=UTC)
    )
    (event,) = icalendar.Calendar.from_ical(raw).walk("VEVENT")
    assert event["summary"] == "Film again: Front kick"
    assert event["description"] == "Knee first; out, and back"
    assert event.decoded("dtstart") == date(2026, 5, 4)
    assert event.walk("VALARM")[0].decoded("trigger") == timedelta(days=-1)


SHEET = Sheet(
    academy="Hall",
    coach="A Coach",
    student="Ana\r\nBcc: x@y.zz",
    filmed_on="2026-05-04",
    techniques=("Front kick",),
    reps=2,
    good=(),
    fixes=(),
)


class TestMail:
    def test_another_library_reads_link_and_pdf(self) -> None:
        until = datetime(2026, 6, 1, tzinfo=UTC)
        mail = sheet_mail(
            SHEET, "https://hall.example/s/abc", until, "ana@home.example", "Hall <hall@hall.example>", b"%PDF-1.7 x", until
        )
        read = message_from_bytes(bytes(mail), policy=policy.default)
        assert (read["to"], read["bcc"]) == ("ana@home.example", None)
        body = read.get_body(("plain",))
        assert body is not None
        assert "https://hall.example/s/abc" in body.get_content()
        assert "2026-06-01" in body.get_content()
        (paper,) = read.iter_attachments()
        assert paper.get_content_type() == "application/pdf"
        assert paper.get_content() == b"%PDF-1.7 x"

    @pytest.mark.parametrize("text", ["", "ana", "a@b\nBcc: c@d", "a@b, c@d", "Ana <a@b>", "a" * 300 + "@b", "a b@c"])
    def test_an_address_is_one_plain_address(self, text: str) -> None:
        with pytest.raises(BadInput, match="not an e-mail address"):
            checked_address(text)
