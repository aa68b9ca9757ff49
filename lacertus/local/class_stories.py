"""What the invented academy practised and how its classes went: prescriptions, a month of classes, floor notes, and a round."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from datetime import UTC, date, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.plan.lesson import Teach
from lacertus.services.classes import calendar, curriculum, floor, lessons, rounds
from lacertus.services.classes.calendar import WeeklyWish
from lacertus.services.classes.lessons import Change
from lacertus.services.days import day_at
from lacertus.services.practice import drills, log, prescriptions
from lacertus.services.practice.log import Entry
from lacertus.services.practice.prescriptions import Wish
from lacertus.store.tables import Academy, Clip, RepRow, Review

Students = Mapping[str, uuid.UUID]

FIRST = (
    "Ilse Marrane", "Koen Drask", "Naila Osterby", "Sunniva Hoel", "Emrik Falkenau", "Tomas Verhaal", "Oda Lindqvar",
    "Hedda Quillan",
)  # fmt: skip
SECOND = ("Tomas Verhaal", "Oda Lindqvar", "Benno Achterdam", "Pelle Varga", "Hedda Quillan", "Emrik Falkenau")
"""Who belongs to which of the two weekly classes."""
AWAY = {0: ("Koen Drask",), 1: ("Naila Osterby", "Pelle Varga"), 2: (), 3: ("Sunniva Hoel", "Benno Achterdam")}
"""Who did not come, by how many weeks ago, counted from 0."""
TAUGHT = (
    ("front-kick", "advancing-foot-sweep"),
    ("front-kick", "arm-drag"),
    ("back-fall", "scissor-sweep"),
    ("front-kick", "arm-drag"),
)
"""What the two classes were taught, the latest week first."""

Prescribed = tuple[str, str, str, int, int | None, tuple[int, ...]]
PRESCRIBED: tuple[Prescribed, ...] = (
    ("Tomas Verhaal", "advancing-foot-sweep", "late-sweep", 91, 60, (88, 84, 79, 74, 68, 63)),
    ("Ilse Marrane", "front-kick", "low-chamber", 97, 46, (95, 90, 86, 81, 70, 60)),
    ("Ilse Marrane", "front-kick", "falls-forward", 34, None, (27, 20, 12, 5)),
    ("Ilse Marrane", "front-kick", "no-return", 8, None, (6, 4, 3, 1)),
    ("Naila Osterby", "front-kick", "hands-drop", 11, None, (9,)),
)
"""Who, of which technique, for which fault, since when, ended when, and ticked when (days ago). The first two
helped; the landing is missed as before."""

SEEN: tuple[tuple[str, floor.Kind, str, str, str], ...] = (
    ("Ilse Marrane", "fault", "front-kick", "lands_by_choice", ""),
    ("Oda Lindqvar", "good", "front-kick", "thigh_lifted", ""),
    ("Koen Drask", "remark", "", "", "Hip is looser than last week; still kicks with the left only"),
    ("Hedda Quillan", "question", "", "", "Can I practise the fall alone at home?"),
    ("Naila Osterby", "film", "front-kick", "hands_up", "From the front, please"),
)
"""What was seen and asked on the floor."""
OUTCOMES = ("completed", "blocked", "completed", "countered", "blocked", "completed")
"""How the six attempts of the round ended."""


def tell(db: Session, academy: uuid.UUID, students: Students, coach: uuid.UUID) -> None:
    """All of it, through the services."""
    today = day_at(db.get_one(Academy, academy))
    prescribe(db, academy, students, coach, today)
    last = _classes(db, academy, students, coach, today)
    _see(db, academy, students, coach, last)
    _round(db, academy, students, coach)


def prescribe(db: Session, academy: uuid.UUID, students: Students, coach: uuid.UUID, today: date) -> None:
    """What was prescribed, ticked and ended, each on its day."""
    for name, technique, fault, since, ended, ticks in PRESCRIBED:
        known = curriculum.find_technique(db, academy, technique)
        drill = drills.for_faults(db, academy, known, fault)[0]
        wish = Wish(technique=technique, faults=(fault,), dose=drill.dose, drill=drill.id, made_in="review")
        row = prescriptions.prescribe(db, academy, students[name], wish, coach, today - timedelta(days=since)).row
        for ago in ticks:
            # Each was ticked on its own day.
            on = today - timedelta(days=ago)
            entry = Entry(prescription=row.id, on=on, felt="sure" if ago < 5 else "unsure")
            log.enter(db, academy, students[name], entry, "student", None, on)
        if ended is not None:
            prescriptions.end(db, academy, row.id, "cleared", today - timedelta(days=ended))


def _classes(db: Session, academy: uuid.UUID, students: Students, coach: uuid.UUID, today: date) -> uuid.UUID:
    """Two weekly classes with a month that was held, and tomorrow's class planned. Returns the class that was held last."""
    tomorrow, other = today + timedelta(days=1), today - timedelta(days=3)
    start = today - timedelta(days=60)
    last = None
    for number, (name, day, who, at) in enumerate(
        (("Fundamentals", tomorrow, FIRST, 18 * 60), ("Throws and ground", other, SECOND, 19 * 60 + 30))
    ):
        wish = WeeklyWish(name=name, weekday=day.weekday(), at=at, minutes=90, mats=8, since=start, equipment=("belts", "pads"))
        row = calendar.add(db, academy, wish)
        calendar.set_members(db, academy, row.id, [students[one] for one in who])
        held = [one for one in (day - timedelta(days=7 * weeks) for weeks in range(6)) if one <= today][:4]
        for weeks, on in reversed(list(enumerate(held))):
            lesson = lessons.plan_weekly(db, academy, row.id, on, coach)
            came = tuple(students[one] for one in who if one not in AWAY[weeks])
            _plan(db, academy, lesson.id, TAUGHT[weeks][number], tuple(students[one] for one in who))
            lesson = lessons.lesson(db, academy, lesson.id)
            lessons.book(db, academy, lesson.id, came, [unit.key for unit in lesson.units], coach)
            last = lesson.id
        if day == tomorrow:
            lesson = lessons.plan_weekly(db, academy, row.id, tomorrow, coach)
            _plan(db, academy, lesson.id, "front-kick", tuple(students[one] for one in who))
    assert last is not None
    return last


def _plan(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID, technique: str, coming: tuple[uuid.UUID, ...]) -> None:
    known = curriculum.find_technique(db, academy, technique)
    layer = known.layers[0].id if known.layers else ""
    row = lessons.lesson(db, academy, lesson_id)
    what = Change(teach=(Teach(technique=technique, layer=layer),), coming=coming)
    row = lessons.change(db, academy, lesson_id, row.version, what)
    row = lessons.make(db, academy, lesson_id, row.version)
    lessons.pair(db, academy, lesson_id, row.version)


def _see(db: Session, academy: uuid.UUID, students: Students, coach: uuid.UUID, lesson: uuid.UUID) -> None:
    now = datetime.now(UTC)
    for number, (name, kind, technique, checkpoint, words) in enumerate(SEEN):
        noted = floor.Noted(
            kind=kind, students=(students[name],), key=uuid.uuid4(), at=now - timedelta(days=3, minutes=10 * number),
            lesson=lesson, technique=technique, checkpoint=checkpoint, words=words,
        )  # fmt: skip
        floor.note(db, academy, noted, coach)


def _round(db: Session, academy: uuid.UUID, students: Students, coach: uuid.UUID) -> None:
    """A round of six attempts, read from a clip in which they were cut."""
    reps = select(RepRow).join(Review, Review.id == RepRow.review_id).join(Clip, Clip.id == Review.clip_id)
    own = list(db.scalars(reps.where(Clip.name == "arm-drag, 6 reps", Clip.academy_id == academy).order_by(RepRow.first_frame)))
    for rep, outcome in zip(own, OUTCOMES, strict=True):
        rep.outcome = outcome
    db.flush()
    review = db.get_one(Review, own[0].review_id)
    wish = rounds.Wish(
        objective="Past the arm and behind", student=students["Pelle Varga"], other=students["Tomas Verhaal"], seconds=60,
        held_on=rounds.day_of(db, academy, review.clip_id), clip=review.clip_id,
    )  # fmt: skip
    rounds.add(db, academy, wish, coach)
