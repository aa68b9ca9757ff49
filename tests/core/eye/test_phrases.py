"""Questions in words, in English and in the languages that pages are translated to."""

from __future__ import annotations

import pytest

from lacertus.core.eye.phrases import EyePhrase, Told, as_written, point_name, told
from lacertus.core.measuring.measures.angle import AngleMeasure
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.library import shipped
from lacertus.outputs.languages import LANGUAGES, language

TRANSLATED = [code for code in LANGUAGES if code != "en"]


@pytest.mark.parametrize(
    ("point", "english", "german"),
    [
        ("working_knee", "working knee", "Knie (arbeitende Seite)"),
        ("left_hip", "left hip", "Hüfte (links)"),
        ("mid_hip", "middle of the hips", "Mitte der Hüften"),
        ("partner.other_elbow", "other elbow of the partner", "Ellbogen (andere Seite), Partner"),
        ("0.5 of the way left_knee–right_knee", "0.5 of the way left knee–right knee", "0.5 of the way left knee–right knee"),
    ],
)
def test_a_point_is_named(point: str, english: str, german: str) -> None:
    assert (point_name(point), point_name(point, language("de").say)) == (english, german)


@pytest.mark.parametrize("code", TRANSLATED)
def test_every_joint_that_a_shipped_technique_asks_an_angle_of_has_a_name(code: str) -> None:
    angles = [
        asked.measure
        for technique in shipped()
        for asked in technique.everything_asked
        if isinstance(asked, Checkpoint) and isinstance(asked.measure, AngleMeasure)
    ]
    joints = {str(measure.points_used[1]) for measure in angles}
    assert len(joints) >= 5
    for joint in joints:
        assert "_" not in point_name(joint) and "." not in point_name(joint)
        assert point_name(joint, language(code).say) != point_name(joint)


@pytest.mark.parametrize("code", TRANSLATED)
@pytest.mark.parametrize("phrase", EyePhrase)
def test_a_translated_sentence_says_all_that_the_english_one_does(phrase: EyePhrase, code: str) -> None:
    names = ("missed", "number", "corner", "one", "other", "reaction", "value", "low", "high")
    values = {name: f"<{name}>" for name in names if f"{{{name}}}" in phrase}
    own, english = told(phrase, **values).said(language(code).say), told(phrase, **values).said()
    assert own != english and "{" not in own + english
    assert all((value in own) and (value in english) for value in values.values())


def test_what_somebody_wrote_is_never_translated_nor_filled_in() -> None:
    assert as_written("left {x}").said(language("de").say) == "left {x}"
    assert told(EyePhrase.MISSED, missed="{number}").said() == "Missed: {number}."
    asked = Told(phrase=EyePhrase.HOW_MANY_DEGREES, points={"corner": "neck", "one": "nose", "other": "left_toe"})
    assert asked.said() == "How many degrees is the angle at the neck, between nose and left toe?"
