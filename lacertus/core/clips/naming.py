"""Naming a clip in one line: who, what, which side and how, in any order, parts between commas.

    Marit, foot sweep, left, slow, static partner, "Why do I fall over?", 2026-05-03

A part is known by what it says, so no labels are typed. A part that nothing fits, or that fits several
things, is told with what it could be; nothing is guessed.
"""

from __future__ import annotations

import calendar
import re
import unicodedata
from collections.abc import Iterable, Mapping
from typing import Literal

from pydantic import Field

from lacertus.core.measuring.body import Side
from lacertus.core.measuring.rep_facts import AnyView
from lacertus.core.model import Record

PartKind = Literal[
    "student", "new student", "technique", "side", "option", "rung", "drill", "pace", "view", "partner", "question", "day"
]

LONGEST_QUESTION = 500
MOST_COMPLETIONS = 8
_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")
LEAST_TOKEN = 3
"""A file name's words shorter than this say nothing by themselves."""


class Naming(Record):
    """How the reps of a clip were done, as far as it was said, and the student's own question."""

    technique: str | None = None
    side: Side | None = None
    options: dict[str, str] = {}
    rung: str | None = None
    pace: Literal["slow", "full"] | None = None
    view: AnyView | None = None
    partner: Literal["person", "dummy", "bag", "none"] | None = None
    question: str = Field(default="", max_length=LONGEST_QUESTION)
    drill: str | None = Field(default=None, max_length=200)
    """The drill of the technique that it shows: its reps count as practice."""


class Known(Record):
    """A technique as naming needs it: its names, options by group and choice, ladder, and drills by the key that is kept."""

    id: str
    names: tuple[str, ...]
    options: dict[str, dict[str, str]] = {}
    ladder: tuple[str, ...] = ()
    drills: dict[str, str] = {}


class Vocabulary(Record):
    """Everything that a part can mean: students by id, and techniques."""

    students: dict[str, str]
    techniques: tuple[Known, ...]


class Part(Record):
    """One part of a line: what it was taken for, or why it was not understood."""

    text: str
    kind: PartKind | None = None
    means: str = ""
    problem: str | None = None


class Line(Record):
    """A line as it was understood. `student` is an id; `new_student` a name to be added; `day` (ISO) when it was filmed."""

    parts: tuple[Part, ...]
    student: str | None = None
    new_student: str | None = None
    naming: Naming = Naming()
    day: str | None = None

    @property
    def problems(self) -> tuple[str, ...]:
        return tuple(part.problem for part in self.parts if part.problem is not None)


class _Meaning(Record):
    """Something that a part can mean: a kind, the key that is kept, and the words it goes by."""

    kind: PartKind
    key: str
    shown: str
    words: tuple[str, ...]
    group: str = ""
    of: str = ""


_FIXED: tuple[tuple[PartKind, str, tuple[str, ...]], ...] = (
    ("side", "left", ("left", "l", "left side")),
    ("side", "right", ("right", "r", "right side")),
    ("pace", "slow", ("slow", "slow pace", "slowly")),
    ("pace", "full", ("full", "full pace", "at full pace")),
    ("view", "side", ("side view", "from the side", "side")),
    ("view", "front", ("front view", "from the front", "front")),
    ("view", "behind", ("from behind", "behind", "back view", "from the back", "back")),
    ("view", "angle", ("from an angle", "angle", "oblique view", "oblique")),
    ("view", "above", ("from above", "above", "view from above")),
    ("view", "two", ("two cameras", "two views", "from two sides")),
    ("partner", "person", ("with a partner", "with partner")),
    ("partner", "dummy", ("dummy", "on a dummy")),
    ("partner", "bag", ("bag", "on a bag", "on the bag")),
    ("partner", "none", ("no partner", "alone", "without a partner")),
)


_ORDER: tuple[PartKind, ...] = ("student", "technique", "side", "rung", "pace", "option", "view", "partner", "drill")
"""In which order parts are offered."""


def read_line(text: str, vocabulary: Vocabulary, naming: Naming | None = None) -> Line:
    """Understand a line; what it does not say stays as in `naming`.

    Students and techniques may be shortened to what only one of them begins with or contains. Rungs,
    options and drills are those of the technique that the line, else `naming`, says.
    """
    parts = [_Read.of(part) for part in split_parts(text)]
    base = naming or Naming()
    technique = _technique_said(parts, vocabulary) or base.technique
    meanings = [*_meanings(vocabulary), *_of_technique(vocabulary, technique)]
    found = [_understood(part, meanings) for part in parts]
    return _line(found, base, technique)


def split_parts(text: str) -> list[str]:
    """Parts between commas; commas inside quotes belong to their part."""
    found = re.findall(r'(?:"[^"]*"|“[^”]*”|[^,"“]|["“])+', text.replace("\n", " "))
    return [part.strip() for part in found if part.strip()]


class _Read(Record):
    """A part on its way: its text, and whether it is a question, a new student or a day by its form."""

    text: str
    plain: str
    question: str | None = None
    newcomer: str | None = None

    @classmethod
    def of(cls, text: str) -> _Read:
        quoted = re.fullmatch(r'["“](.*)["”]', text)
        question = quoted.group(1).strip() if quoted else text if text.endswith("?") and len(text) > 1 else None
        newcomer = text[1:].strip() if text.startswith("+") else None
        return cls(text=text, plain=plain(text), question=question, newcomer=newcomer)


def plain(text: str) -> str:
    """Lower case without accents and punctuation: how words are compared."""
    bare = "".join(c for c in unicodedata.normalize("NFKD", text) if not unicodedata.combining(c))
    return " ".join(re.findall(r"[\w]+", bare.lower().replace("_", " ")))


def _meanings(vocabulary: Vocabulary) -> list[_Meaning]:
    found = [_Meaning(kind=kind, key=key, shown=words[0], words=words) for kind, key, words in _FIXED]
    found += [_Meaning(kind="student", key=key, shown=name, words=(plain(name),)) for key, name in vocabulary.students.items()]
    found += [
        _Meaning(
            kind="technique", key=t.id, shown=t.names[0], words=tuple(plain(name) for name in (*t.names, t.id.replace("-", " ")))
        )
        for t in vocabulary.techniques
    ]
    return found


def _of_technique(vocabulary: Vocabulary, technique: str | None) -> list[_Meaning]:
    """Rungs, options and drills of the technique that is meant."""
    known = next((t for t in vocabulary.techniques if t.id == technique), None)
    if known is None:
        return []
    found = [_Meaning(kind="rung", key=rung, shown=plain(rung), words=(plain(rung),)) for rung in known.ladder]
    for group, choices in known.options.items():
        for key, name in choices.items():
            found.append(_Meaning(kind="option", key=key, shown=name, words=(plain(name), plain(key)), group=group))
    return found + [
        _Meaning(kind="drill", key=key, shown=_without_commas(name), words=(plain(name),)) for key, name in known.drills.items()
    ]


def _without_commas(name: str) -> str:
    """A name as one part of a line can hold it: neither two parts, nor a question, nor a new student."""
    return " ".join(re.sub(r'[,"“”]', " ", name).split()).lstrip("+ ").rstrip("? ")


def _technique_said(parts: Iterable[_Read], vocabulary: Vocabulary) -> str | None:
    meanings = _meanings(vocabulary)
    for part in parts:
        if part.question is not None or part.newcomer is not None:
            continue
        fits = _fitting(part.plain, meanings)
        if len(fits) == 1 and fits[0].kind == "technique":
            return fits[0].key
    return None


def _fitting(text: str, meanings: Iterable[_Meaning]) -> list[_Meaning]:
    """What a text means: said in full, else what alone begins with it, else what alone has words that begin with its words."""
    if not text:
        return []
    all_meanings = list(meanings)
    for fits in (_in_full, _begins, _has_words):
        found = [meaning for meaning in all_meanings if any(fits(text, words) for words in meaning.words)]
        # Short words said in part are nobody's: “s” is no slow.
        if fits is not _in_full:
            found = [meaning for meaning in found if meaning.kind in ("student", "technique", "rung", "option", "drill")]
        if found:
            return found
    return []


def _in_full(text: str, words: str) -> bool:
    return text == words


def _begins(text: str, words: str) -> bool:
    return words.startswith(text)


def _has_words(text: str, words: str) -> bool:
    own = words.split()
    return all(any(word.startswith(part) for word in own) for part in text.split())


def _understood(part: _Read, meanings: list[_Meaning]) -> tuple[Part, _Meaning | None]:
    if part.newcomer is not None:
        if not part.newcomer:
            return Part(text=part.text, problem="after + comes the new student’s name"), None
        return Part(text=part.text, kind="new student", means=part.newcomer), None
    if part.question is not None:
        if len(part.question) > LONGEST_QUESTION:
            return Part(text=part.text, problem=f"a question has at most {LONGEST_QUESTION} characters"), None
        return Part(text=part.text, kind="question", means=part.question), None
    if _DAY.fullmatch(part.text):
        return _day(part.text), None
    fits = _fitting(part.plain, meanings)
    if len(fits) == 1:
        return Part(text=part.text, kind=fits[0].kind, means=fits[0].shown), fits[0]
    return Part(text=part.text, problem=_problem(part.text, fits)), None


def _day(text: str) -> Part:
    year, month, day = (int(number) for number in text.split("-"))
    if year < 1 or not 1 <= month <= 12 or not 1 <= day <= calendar.monthrange(year, month)[1]:
        return Part(text=text, problem=f"“{text}” is no day of the calendar: write year-month-day")
    return Part(text=text, kind="day", means=text)


def _problem(text: str, fits: list[_Meaning]) -> str:
    if not fits:
        return f"“{text}” is no student, technique, side, rung, pace, view, partner, option or drill that is known here"
    could_be = ", ".join(meaning.shown for meaning in fits[:5])
    return f"“{text}” could be {could_be}{' …' if len(fits) > 5 else ''}: say more of it"


def _line(found: list[tuple[Part, _Meaning | None]], base: Naming, technique: str | None) -> Line:
    """Parts put together; a kind said twice is told, and options, rungs or drills of another technique fall away."""
    kept: dict[str, str] = {}
    parts: list[Part] = []
    options: dict[str, str] = {} if technique != base.technique else dict(base.options)
    for part, meaning in found:
        slot = (
            f"option {meaning.group}"
            if meaning and meaning.kind == "option"
            else "student"
            if part.kind == "new student"
            else part.kind
        )
        if slot is not None and slot in kept:
            parts.append(Part(text=part.text, problem=f"“{part.text}”: the {slot} is said twice"))
            continue
        if slot is not None:
            kept[slot] = meaning.key if meaning else part.means
        if meaning is not None and meaning.kind == "option":
            options[meaning.group] = meaning.key
        parts.append(part)
    said: dict[str, object] = {
        kind: kept[kind] for kind in ("side", "rung", "drill", "pace", "view", "partner", "question") if kind in kept
    }
    carried = base.model_copy(update={"rung": None, "drill": None}) if technique != base.technique else base
    naming = carried.model_copy(update={**said, "technique": technique, "options": options})
    newcomer = next((part.means for part in parts if part.kind == "new student"), None)
    student = None if newcomer else kept.get("student")
    return Line(parts=tuple(parts), student=student or None, new_student=newcomer, naming=naming, day=kept.get("day"))


def write_line(student: str | None, naming: Naming, vocabulary: Vocabulary) -> str:
    """A naming as a line that is understood again as the same."""
    known = next((t for t in vocabulary.techniques if t.id == naming.technique), None)
    shown = {(kind, key): words[0] for kind, key, words in _FIXED}
    parts = [student, known.names[0] if known else naming.technique]
    parts += [shown[kind, value] for kind in ("side", "pace") if (value := getattr(naming, kind))]
    parts += [known.options.get(group, {}).get(choice, choice) for group, choice in naming.options.items()] if known else []
    parts += [plain(naming.rung) if naming.rung else None]
    parts += [shown[kind, value] for kind in ("view", "partner") if (value := getattr(naming, kind))]
    parts += [_without_commas(known.drills.get(naming.drill, naming.drill)) if known and naming.drill else None]
    parts += [f'"{naming.question.replace(chr(34), chr(39))}"' if naming.question else None]
    return ", ".join(part for part in parts if part)


def complete(text: str, vocabulary: Vocabulary, naming: Naming | None = None) -> tuple[str, ...]:
    """What the last part of a line may become, in full words; of an empty part, what is not said yet."""
    parts = text.split(",")
    last, before = plain(parts[-1]), ",".join(parts[:-1])
    line = read_line(before, vocabulary, naming)
    taken = {part.kind for part in line.parts} | ({"student"} if line.new_student else set())
    meanings = [*_meanings(vocabulary), *_of_technique(vocabulary, line.naming.technique)]
    open_to = [meaning for meaning in meanings if meaning.kind not in taken or meaning.kind == "option"]
    if last:
        open_to.sort(key=lambda meaning: _ORDER.index(meaning.kind))
        found = [m for fits in (_begins, _has_words) for m in open_to if any(fits(last, words) for words in m.words)]
        return tuple(dict.fromkeys(meaning.shown for meaning in found))[:MOST_COMPLETIONS]
    kind = next((kind for kind in _ORDER if kind not in taken and any(m.kind == kind for m in open_to)), None)
    return tuple(meaning.shown for meaning in open_to if meaning.kind == kind)[:MOST_COMPLETIONS]


def suggest(name: str, vocabulary: Vocabulary, last: Mapping[str, Naming], student: str | None = None) -> tuple[str | None, Naming]:
    """What a file's name and folder say, and for the rest what the student's last clip was.

    Args:
        name: the file's name with its folders.
        vocabulary: the students and techniques that are known.
        last: the latest naming of each student by id.
        student: the clip's student where that is known.
    """
    words = [word for word in plain(re.sub(r"([a-z])([A-Z])", r"\1 \2", name)).split() if not word.isdigit()]
    student = student or _student_in(words, vocabulary)
    before = last.get(student or "", Naming())
    technique = _technique_in(words, vocabulary) or before.technique
    same = technique == before.technique
    side = next((side for word in words for side in ("left", "right") if word == side), None) or before.side
    pace: str | None = "slow" if "slow" in words else before.pace
    carried = {"rung": before.rung, "options": before.options} if same else {}
    return student, Naming(
        technique=technique,
        side=side,
        pace=pace,
        view=before.view,
        partner=before.partner,
        **carried,
    )


def _student_in(words: list[str], vocabulary: Vocabulary) -> str | None:
    """The one student a word of whose name is among the words."""
    found = [
        key
        for key, name in vocabulary.students.items()
        if any(part in words for part in plain(name).split() if len(part) >= LEAST_TOKEN)
    ]
    return found[0] if len(found) == 1 else None


def _technique_in(words: list[str], vocabulary: Vocabulary) -> str | None:
    """The technique a whole name of which is there, the longest first; else the one with two words of its main name there."""
    line = f" {' '.join(words)} "
    whole = [(len(name), t.id) for t in vocabulary.techniques for name in map(plain, (*t.names, t.id)) if f" {name} " in line]
    if whole:
        return max(whole)[1]
    shared = [(sum(word in words for word in plain(t.names[0]).split()), t.id) for t in vocabulary.techniques]
    best = max(shared, default=(0, ""))
    return best[1] if best[0] >= 2 and [count for count, _ in shared].count(best[0]) == 1 else None
