"""Languages: every message is translated, none is left as it is in English, and what is put into one stays."""

from __future__ import annotations

import re

import pytest

from lacertus.core.sheets.sheet import numbers_of, plain, range_words
from lacertus.library.cautions import CAUTIONS
from lacertus.local.messages import brought_up_to_date, messages
from lacertus.outputs.languages import LANGUAGES, LOCALE, language
from tests.core.build import judge_one, rep, return_time

OTHERS = [code for code in LANGUAGES if code != "en"]
FIELDS = re.compile(r"{\w+}")


def test_templates_and_code_say_what_is_translated() -> None:
    found = messages()
    assert len(found) > 140
    assert {"Work on this", "Send a clip", "at most {most}", *CAUTIONS.values()} <= set(found)


@pytest.mark.parametrize("code", OTHERS)
def test_no_message_is_left_as_it_is_in_english(code: str) -> None:
    say = language(code).say
    assert [message for message in messages() if say(message) == message] == []


@pytest.mark.parametrize("code", OTHERS)
def test_names_and_numbers_stand_in_each_translation(code: str) -> None:
    say = language(code).say
    for message in messages():
        assert sorted(FIELDS.findall(say(message))) == sorted(FIELDS.findall(message)), message


@pytest.mark.parametrize("code", OTHERS)
def test_the_message_file_holds_nothing_else_and_is_up_to_date(code: str) -> None:
    made = brought_up_to_date(LOCALE / f"{code}.po", code)
    assert {str(one.id): str(one.string) for one in made if one.id} == dict(language(code).messages)


def test_what_a_file_lacks_stands_in_english_and_so_does_an_unknown_language() -> None:
    assert language("de").say("Nobody ever said this") == "Nobody ever said this"
    assert language("xx").code == "en"
    assert language("../de").code == "en"


@pytest.mark.parametrize(("code", "day"), [("en", "4 May 2026"), ("de", "4. Mai 2026"), ("es", "4 de mayo de 2026")])
def test_days_are_written_as_people_write_them(code: str, day: str) -> None:
    assert language(code).day("2026-05-04") == day
    assert language(code).day("") == ""


def test_numbers_of_a_sheet_are_told_in_its_language() -> None:
    say = language("de").say
    assert range_words((None, 85.0), "deg", say) == "höchstens 85°"
    assert plain(0.5, "partner.shoulder_width", say) == "0.50 einer Länge (Schulterbreite)"
    late = judge_one(return_time(within=[None, 100]), rep())
    counted, told = numbers_of([(1, late)], say)
    assert counted.startswith("Verfehlt.")
    assert "Gewünscht: höchstens 100 ms" in counted
    assert "plus oder minus" in told
