"""What the invented academy's coaches decided, noted, asked for and judged twice, beside the reviews of `history`."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from datetime import UTC, date, datetime, timedelta

import numpy as np
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from lacertus.local.history import COACH, EMAIL, SECOND, SECOND_EMAIL
from lacertus.services.academy import second_opinions
from lacertus.services.people import accounts, consents, inbox, notes, people
from lacertus.services.progress import grades, rungs
from lacertus.services.students import links
from lacertus.store.tables import Account, Clip, JudgementRow, RepRow, Review

Students = Mapping[str, uuid.UUID]

DECIDED = (
    ("Ilse Marrane", "front-kick", "advance", "Holds alone in class", 96),
    ("Ilse Marrane", "front-kick", "advance", "Ten against the pad; the landing is worked on beside it", 33),
    ("Tomas Verhaal", "back-fall", "advance", "Five clean ones standing, watched on the mat", 100),
    ("Tomas Verhaal", "advancing-foot-sweep", "advance", "Ten clean ones against a still partner", 50),
    ("Tomas Verhaal", "advancing-foot-sweep", "hold", "Late again once the partner steps", 6),
    ("Marit Solbakke", "back-fall", "advance", "Chin stays in from sitting", 12),
    ("Marit Solbakke", "back-fall", "step_back", "The head goes back again: from sitting until it stays in", 4),
)
"""Who, in which technique, what, why, and how many days ago."""

NOTED = (
    ("Ilse Marrane", 20, "Lands forward mostly when tired: film the last set, not the first."),
    ("Ilse Marrane", 8, "Asked about the return herself; try the wall drill before class."),
    ("Marit Solbakke", 5, "Mother asked when she may be thrown: not before ten falls standing with the chin in."),
    ("Oda Lindqvar", 19, "Left side only from now on until it catches up."),
)

GRADES = {
    "Yellow": (("front-kick", "static_partner"), ("back-fall", "standing"), ("scissor-sweep", "static_partner")),
    "Orange": (("advancing-foot-sweep", "moving"), ("triangle", "static_partner"), ("back-fall", "moving")),
}
TOWARDS = {
    "Ilse Marrane": "Yellow", "Marit Solbakke": "Yellow", "Benno Achterdam": "Yellow", "Lotte Brandeis": "Yellow",
    "Sunniva Hoel": "Yellow", "Tomas Verhaal": "Orange", "Pelle Varga": "Orange",
}  # fmt: skip
TAUGHT = (("front-kick", 6), ("front-kick", 27), ("back-fall", 13), ("scissor-sweep", 48), ("advancing-foot-sweep", 20))
"""Which technique was taught in class, and how many days ago."""

JUDGED_TWICE = ("front-kick-low-and-late.mp4", "foot-sweep-late.mp4", "triangle-held-after-tap.mp4")
BY_SECOND = "front-kick-clean.mp4"
"""The clip that the other coach reviewed, so that there is one to give a second opinion on."""
OTHERWISE_SHARE = 0.1


def decide_rungs(db: Session, academy: uuid.UUID, students: Students) -> None:
    """What was decided on rungs, and who said that they feel sure: one is ready to advance, one may be thrown."""
    today = date.today()
    for student, technique, decision, why, days_ago in DECIDED:
        rungs.decide(db, academy, students[student], technique, decision, why, None, today - timedelta(days=days_ago))
    for who in ("performer", "partner"):
        rungs.say_sure(db, academy, students["Benno Achterdam"], "scissor-sweep", who, True, today)


DESCRIBED: dict[str, tuple[int, str, float, float]] = {
    "Ilse Marrane": (24, "Monday", 168.0, 61.0), "Tomas Verhaal": (31, "Monday, Thursday", 184.0, 83.0),
    "Oda Lindqvar": (19, "Thursday", 172.0, 64.0), "Benno Achterdam": (38, "Thursday", 179.0, 88.0),
    "Marit Solbakke": (16, "Juniors", 165.0, 57.0), "Pelle Varga": (27, "Thursday", 191.0, 82.0),
    "Lotte Brandeis": (12, "Children", 151.0, 41.0), "Koen Drask": (45, "Monday", 176.0, 79.0),
    "Naila Osterby": (22, "Monday", 170.0, 63.0), "Sunniva Hoel": (29, "Monday", 174.0, 68.0),
    "Hedda Quillan": (52, "Thursday", 166.0, 70.0), "Emrik Falkenau": (33, "Monday", 182.0, 80.0),
}  # fmt: skip
"""Age, groups, height in centimetres, weight in kilograms."""
GUARDIANS = {"Lotte Brandeis": "Rut Brandeis", "Marit Solbakke": "Aksel Solbakke"}


def describe(db: Session, academy: uuid.UUID, students: Students) -> None:
    """What is known of each student beside the name."""
    today = date.today()
    for name, (years, groups, height, weight) in DESCRIBED.items():
        change = {
            "born_on": date(today.year - years, 1, 1 + len(name)), "groups": groups.split(", "), "height_cm": height,
            "weight_kg": weight, "guardian": GUARDIANS.get(name, ""),
        }  # fmt: skip
        people.change_student(db, academy, students[name], change)


ASKED: tuple[tuple[str, inbox.Kind, str, int], ...] = (
    ("Tomas Verhaal", "question", "Does the sweep come before my pull or with it?", 1),
    ("Ilse Marrane", "question", "How often should I do the wall drill in a week?", 2),
    ("Oda Lindqvar", "pain", "My left hip pinches when I lift the knee.", 0),
    ("Benno Achterdam", "answer", "tried; unsure; “The legs cross before I notice.”", 3),
)
"""What students sent from their own page: who, what, in which words, how many days ago."""
REPLIED = {"Ilse Marrane": "Three short sets on the days without class; stop before the knee drops."}
PARTNER = ("Tomas Verhaal", "Benno Achterdam")
"""Whose partner is named on the bench, and who that is."""
AGREED = ("Ilse Marrane", "Tomas Verhaal", "Oda Lindqvar", "Benno Achterdam", "Pelle Varga")


def write_in(db: Session, academy: uuid.UUID, students: Students, coach: uuid.UUID) -> None:
    """What came into the inbox, links to students' own pages, and what they agreed to."""
    now = datetime.now(UTC)
    for name, kind, words, days_ago in ASKED:
        row, _ = inbox.put(db, people.student(db, academy, students[name]), inbox.Item(kind=kind, words=words))
        row.created_at = now - timedelta(days=days_ago, hours=3)
        if name in REPLIED:
            inbox.reply(db, academy, row.id, REPLIED[name], coach)
    for name in AGREED:
        on = now.date() - timedelta(days=200)
        consents.give(db, academy, students[name], "filming", name, "student", on, on + timedelta(days=365))
        consents.give(db, academy, students[name], "sharing", name, "student", on)
    for name in {*AGREED[:2], *PARTNER}:
        consents.give(db, academy, students[name], "training", name, "student", now.date() - timedelta(days=60))
    for name, guardian in GUARDIANS.items():
        consents.give(db, academy, students[name], "filming", guardian, "guardian", now.date() - timedelta(days=90))
    links.make(db, academy, students["Ilse Marrane"], coach, "student")
    performer, partner = (students[name] for name in PARTNER)
    thrown = list(db.scalars(select(Review.id).where(Review.student_id == performer).order_by(Review.id).with_for_update()))
    reps = update(RepRow).where(RepRow.review_id.in_(thrown), RepRow.student_id.is_(None), RepRow.partner == "person")
    db.execute(reps.values(partner_student_id=partner))


def note_and_grade(db: Session, academy: uuid.UUID, students: Students, coach: uuid.UUID) -> None:
    """Notes on students, what each grade asks, who works towards which, and what was taught when."""
    today = date.today()
    for student, days_ago, words in NOTED:
        notes.add(db, academy, students[student], words, coach, today - timedelta(days=days_ago))
    made = {name: grades.add(db, academy, name).id for name in GRADES}
    for name, asked in GRADES.items():
        for technique, rung in asked:
            grades.require(db, academy, made[name], technique, rung)
    for student, name in TOWARDS.items():
        grades.work_towards(db, academy, students[student], made[name])
    for technique, days_ago in TAUGHT:
        grades.note_taught(db, academy, technique, today - timedelta(days=days_ago), coach, today)


REP_S, LEARNT_S_A_DAY = 48.0, 0.6
"""The coaches take so long for a rep now, and took so much longer for each day further back: they have learnt the bench."""


def _count_work(db: Session, academy: uuid.UUID) -> None:
    """How long each review took; some clips are harder than others."""
    rows = select(Review, Clip.filmed_on, func.count(RepRow.id)).join(Clip, Clip.id == Review.clip_id)
    rows = rows.join(RepRow, RepRow.review_id == Review.id).where(Review.academy_id == academy, Review.finished_at.is_not(None))
    for n, (review, on, reps) in enumerate(
        db.execute(rows.group_by(Review.id, Clip.filmed_on).order_by(Clip.filmed_on, Review.id))
    ):
        review.worked_s = round(reps * (REP_S + LEARNT_S_A_DAY * (date.today() - on).days) * (1 + 0.25 * (n % 3 - 1)))


def hire(db: Session, academy: uuid.UUID, password: str) -> uuid.UUID:
    """The two coaches, whose reviews are whose, and what the second one judged again; returns the first."""
    first = accounts.create_account(db, academy, EMAIL, COACH, password)
    second = accounts.create_account(db, academy, SECOND_EMAIL, SECOND, password)
    whose = select(Clip.id).where(Clip.academy_id == academy, Clip.name == BY_SECOND)
    db.execute(update(Review).where(Review.academy_id == academy).values(account_id=first.id))
    db.execute(update(Review).where(Review.clip_id.in_(whose)).values(account_id=second.id))
    _count_work(db, academy)
    db.flush()
    db.expire_all()
    for name in JUDGED_TWICE:
        _judge_again(db, academy, second, name)
    return first.id


def _judge_again(db: Session, academy: uuid.UUID, account: Account, clip: str) -> None:
    """As the first coach judged, but for a few: two people never agree in all."""
    found = select(Review.id).join(Clip, Clip.id == Review.clip_id).where(Clip.academy_id == academy, Clip.name == clip)
    review = db.scalars(found).one()
    chance = np.random.default_rng(len(clip))
    rows = db.scalars(select(JudgementRow).where(JudgementRow.review_id == review).order_by(JudgementRow.id)).all()
    said = [(row.rep_id, row.checkpoint, row.verdict) for row in rows if row.verdict != "not_asked"]
    for rep, checkpoint, verdict in said:
        own = verdict if verdict in ("met", "missed") else "not_seen"
        if own != "not_seen" and chance.random() < OTHERWISE_SHARE:
            own = "met" if own == "missed" else "missed"
        second_opinions.give(db, academy, account.id, review, rep, checkpoint, own)
    second_opinions.hand_in(db, academy, account.id, review)
