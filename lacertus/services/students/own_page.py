"""What a student's own page shows: what to work on, the sheets, what has cleared, what was said; and what is sent from it."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.clips.naming import Naming
from lacertus.core.errors import BadInput
from lacertus.core.progress.ledger import State
from lacertus.core.review.asking import why_not_asked
from lacertus.core.sheets.phrases import Phrase
from lacertus.core.sheets.sheet import Sheet, words_of_dose
from lacertus.outputs.languages import Language
from lacertus.services.classes import calendar, floor
from lacertus.services.clips.intake import Sent
from lacertus.services.days import day_at
from lacertus.services.errors import NotFound
from lacertus.services.people import consents, inbox
from lacertus.services.people.consents import Holder, Standing
from lacertus.services.practice import log, prescriptions
from lacertus.services.progress import fix_first
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import rendering, share
from lacertus.services.sheets import sheet as sheets
from lacertus.services.sheets.share import Opened, key_of
from lacertus.services.students import own_rounds
from lacertus.services.students.links import OpenedPage
from lacertus.services.students.own_rounds import OwnRound
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Academy, Answer, Clip, FloorNote, InboxRow, Prescription, RepRow, Review, Revision

MOST_SHEETS = 30
MOST_CLEARED = 12
MOST_REVIEWS, MOST_QUESTIONS = 5, 6


@dataclass(frozen=True, kw_only=True)
class SheetLine:
    """A sheet in the list of all."""

    review: uuid.UUID
    filmed_on: str
    techniques: tuple[str, ...]
    fixes: int


@dataclass(frozen=True, kw_only=True)
class EyeQuestion:
    """A checkpoint of a rep that the student answers, as no film tells it."""

    rep: uuid.UUID
    number: int
    checkpoint: str
    technique: str
    ask: str
    look_for: str


@dataclass(frozen=True, kw_only=True)
class ToPractise:
    """A prescription as the student sees it, in their language as far as that goes: a drill keeps its own words."""

    id: uuid.UUID
    name: str
    how: str
    dose: str
    side: str
    times: int
    partner_task: str
    done_today: bool


@dataclass(frozen=True, kw_only=True)
class Trained:
    """Whose eye is trained, in which language, and the techniques that the student works on, by their ids."""

    student: str
    academy: str
    language: Language
    own: Sequence[str]


@dataclass(frozen=True, kw_only=True)
class OwnPage:
    """A student's page: the newest sheet with its review, all sheets, what has cleared, what was said, what is agreed to."""

    student: str
    academy: str
    holder: Holder
    guardian: str
    is_child: bool
    language: Language
    newest: Opened | None
    sheets: Sequence[SheetLine]
    cleared: Sequence[str]
    questions: Sequence[EyeQuestion]
    said: Sequence[InboxRow]
    consents: Sequence[Standing]
    may_film: bool
    techniques: Sequence[tuple[str, str]]
    """What a clip may be of: ids and names, the student's own first."""
    practice: Sequence[ToPractise]
    wishes: Sequence[str]
    """What the coach wants to be filmed."""
    next_class: date | None
    today: date
    rounds: Sequence[OwnRound]

    @property
    def next_on(self) -> str:
        return (self.newest.sheet.next_on or "") if self.newest else ""


def page(db: Session, found: OpenedPage) -> OwnPage:
    """Everything that the page of a student shows."""
    student = found.student
    academy = db.get_one(Academy, student.academy_id)
    own = _sheets(db, student.id)
    newest = _opened(db, found, own[0][0]) if own else None
    known = {version.technique: catalogue.definition(version).names.main for version in catalogue.offered(db, academy.id)}
    agreed = consents.standings(db, student)
    today, language = day_at(academy), sheets.language_of(student, academy)
    return OwnPage(
        student=student.name,
        academy=academy.name,
        holder=found.holder,
        guardian=student.guardian,
        is_child=consents.is_child(student, datetime.now(UTC).date()),
        language=language,
        newest=newest,
        sheets=[
            SheetLine(review=review, filmed_on=sheet.filmed_on, techniques=sheet.techniques, fixes=len(sheet.fixes))
            for review, sheet in own
        ],
        cleared=_cleared(db, found),
        questions=_questions(db, found),
        said=inbox.said_with(db, student),
        consents=agreed,
        may_film=next(one.allows for one in agreed if one.purpose == "filming"),
        techniques=_in_order(known, [fix.technique for _, sheet in own for fix in sheet.fixes]),
        practice=_practice(db, student.id, language, today),
        wishes=[_wish(db, found.academy, row) for row in floor.wishes(db, student.id)],
        next_class=calendar.TrainingDays(db, academy.id, today).next(student.id),
        today=today,
        rounds=own_rounds.of_student(db, academy.id, student.id),
    )


def trained(db: Session, found: OpenedPage) -> Trained:
    """What the page says on which a student trains the eye."""
    own = dict.fromkeys(fix.technique for _, sheet in _sheets(db, found.student.id) for fix in sheet.fixes)
    academy = db.get_one(Academy, found.academy)
    return Trained(student=found.student.name, academy=academy.name, language=language_of(db, found), own=list(own))


def language_of(db: Session, found: OpenedPage) -> Language:
    """The language of a student's own page."""
    return sheets.language_of(found.student, db.get_one(Academy, found.academy))


def _practice(db: Session, student: uuid.UUID, language: Language, today: date) -> list[ToPractise]:
    """What is prescribed, the oldest first, and whether it was ticked today."""
    ticked = log.ticked_on(db, student, today)
    sides = {"left": Phrase.LEFT_ONLY, "right": Phrase.RIGHT_ONLY}
    return [
        ToPractise(
            id=row.id,
            name=row.name,
            how=row.how,
            dose=words_of_dose(row.dose, language.say),
            side=language.say(sides[row.side]) if row.side in sides else "",
            times=row.times_a_week,
            partner_task=row.partner_task,
            done_today=row.id in ticked,
        )
        for row in prescriptions.open_of(db, student)
    ]


def _wish(db: Session, academy: uuid.UUID, row: FloorNote) -> str:
    """What is to be filmed: the coach's words, the checkpoint, or the technique."""
    technique = catalogue.known(db, academy, [row.technique]).get(row.technique) if row.technique else None
    asked = technique.asked(row.checkpoint) if technique else None
    parts = [technique.names.main if technique else "", asked.ask if asked else "", row.words]
    return ": ".join(part for part in parts if part)


def _sheets(db: Session, student: uuid.UUID) -> list[tuple[uuid.UUID, Sheet]]:
    """The newest revision of each finished review, the newest film first."""
    newest = (
        select(Revision.review_id, Revision.sheet, Clip.filmed_on, Review.finished_at)
        .join(Review, Review.id == Revision.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .where(Review.student_id == student, Clip.student_id == student)
        .distinct(Revision.review_id)
        .order_by(Revision.review_id, Revision.number.desc())
        .subquery()
    )
    found = select(newest.c.review_id, newest.c.sheet).order_by(newest.c.filmed_on.desc(), newest.c.finished_at.desc().nulls_last())
    return [(review, sheet) for review, sheet in db.execute(found.limit(MOST_SHEETS))]


def _cleared(db: Session, found: OpenedPage) -> list[str]:
    """What was once a fault and has cleared, the latest first."""
    histories, known = fix_first.all_histories(db, found.academy, found.student)
    done = [one for one in histories if one.ledger.state is State.CLEARED and one.cleared_on is not None]
    asks = []
    for one in sorted(done, key=lambda one: -(one.cleared_on or 0)):
        technique = known.get(one.technique)
        asked = technique.asked(one.checkpoints[0]) if technique and one.checkpoints else None
        if technique is not None and asked is not None:
            asks.append(f"{technique.names.main}: {asked.ask}")
    return list(dict.fromkeys(asks))[:MOST_CLEARED]


def _questions(db: Session, found: OpenedPage) -> list[EyeQuestion]:
    """What the student has not answered yet of the reps that a coach has cut and not finished."""
    student = found.student.id
    open_ones = select(Review.id).join(Clip, Clip.id == Review.clip_id)
    wanted = open_ones.where(Review.student_id == student, Clip.student_id == student, Review.finished_at.is_(None))
    asked = []
    for review_id in db.scalars(wanted.order_by(Clip.filmed_on.desc()).limit(MOST_REVIEWS)):
        review = loading.load(db, found.academy, review_id)
        reps = [rep for rep in review.reps if rep.blind_of is None]
        for number, rep in enumerate(reps, 1):
            if rep.student_id in (None, student):
                asked += _asked_of_student(review, rep, number)
    return asked[:MOST_QUESTIONS]


def _asked_of_student(review: Review, rep: RepRow, number: int) -> list[EyeQuestion]:
    technique = catalogue.definition(rep.technique_version)
    done = {given.checkpoint for given in rep.answers if given.asked_of == "student"}
    file = loading.rep_file(review, rep)
    return [
        EyeQuestion(
            rep=rep.id, number=number, checkpoint=one.id, technique=technique.names.main, ask=one.ask, look_for=one.look_for or ""
        )
        for one in technique.checkpoints
        if one.asked_of == "student" and one.id not in done and why_not_asked(one, technique, file) is None
    ]


def _in_order(known: Mapping[str, str], own: Sequence[str]) -> list[tuple[str, str]]:
    first = [name for name in dict.fromkeys(own) if name in known]
    rest = sorted((name for name in known if name not in first), key=lambda name: known[name])
    return [(name, known[name]) for name in [*first, *rest]]


def opened_sheet(db: Session, found: OpenedPage, review_id: uuid.UUID) -> Opened:
    """A sheet of the student whose page it is. Raises NotFound where it is none of theirs."""
    own = (
        select(Review.id).join(Clip, Clip.id == Review.clip_id).where(Review.id == review_id, Review.student_id == found.student.id)
    )
    if db.scalar(own.where(Clip.student_id == found.student.id)) is None:
        raise NotFound("There is no such sheet on this page.")
    return _opened(db, found, review_id)


def _opened(db: Session, found: OpenedPage, review_id: uuid.UUID) -> Opened:
    review, revision = sheets.latest(db, found.academy, review_id)
    return Opened(link=None, review=review, revision=revision, sheet=rendering.filled(review, revision.sheet))


# --- what is sent from it ---------------------------------------------------------------------------


def send(db: Session, found: OpenedPage, given: Mapping[str, str]) -> None:
    """Keep a question, a word of pain, or the wish to be forgotten; with the same `key` once.

    Raises:
        BadInput: no words, or another kind.
        Conflict: too much waits already.
    """
    kind, words = given.get("kind", ""), given.get("words", "")
    if kind not in ("question", "pain", "forget"):
        raise BadInput("this page sends questions and what hurts; nothing was sent")
    if kind != "forget" and not words.strip():
        raise BadInput("write a word first; nothing was sent")
    if len(words) > inbox.LONGEST:
        raise BadInput(f"at most {inbox.LONGEST} characters; nothing was sent")
    kept = {"question": "question", "pain": "pain", "forget": "forget"}[kind]
    inbox.put(db, found.student, inbox.Item(kind=kept, sent_by=found.holder, words=words, key=key_of(given)))  # type: ignore[arg-type]


def answer(db: Session, found: OpenedPage, review_id: uuid.UUID, given: Mapping[str, str]) -> None:
    """Keep an answer to one of the student's sheets; raises as `share.answer`."""
    share.answer(db, opened_sheet(db, found, review_id), given, found.holder)


def say_seen(db: Session, found: OpenedPage, rep_id: uuid.UUID, checkpoint: str, yes: bool) -> None:
    """Keep the student's answer to a checkpoint that is asked of them; the same again, as sent twice, changes nothing.

    Raises:
        NotFound: it is none of this page's questions: of somebody else, or the review is finished.
    """
    own = [one for one in _questions(db, found) if one.rep == rep_id and one.checkpoint == checkpoint]
    if not own:
        given = (Answer.rep_id == rep_id, Answer.checkpoint == checkpoint, Answer.asked_of == "student", Answer.yes == yes)
        mine = select(Answer).join(RepRow, RepRow.id == Answer.rep_id).join(Review, Review.id == RepRow.review_id)
        if db.scalar(mine.where(*given, Review.student_id == found.student.id)) is not None:
            return
        raise NotFound("This is not asked any more. Nothing was changed.")
    reviewing.answer(db, found.academy, rep_id, checkpoint, yes)
    words = f"{own[0].ask} ({own[0].technique}, rep {own[0].number}): {'yes' if yes else 'no'}"
    clip = db.scalar(select(Review.clip_id).join(RepRow, RepRow.review_id == Review.id).where(RepRow.id == rep_id))
    inbox.put(db, found.student, inbox.Item(kind="answer", sent_by=found.holder, words=words, clip=clip, checkpoint=checkpoint))


def agree(db: Session, found: OpenedPage, purpose: str, yes: bool, name: str) -> None:
    """Give or withdraw a consent from the page, by whoever holds its link.

    Raises:
        BadInput: no such purpose, no name, or a child's own consent.
        NotFound: there is nothing to withdraw.
    """
    wanted = next((one for one in consents.PURPOSES if one == purpose), None)
    if wanted is None:
        raise BadInput("there is no such consent; nothing was changed")
    by = found.student.guardian if found.holder == "guardian" else found.student.name
    by = name.strip() or by
    before = next(one for one in consents.standings(db, found.student) if one.purpose == wanted)
    if yes == (before.state == "given"):
        return
    if not yes and consents.is_child(found.student, datetime.now(UTC).date()) and found.holder == "student":
        raise BadInput("a guardian decides this for a child; nothing was changed")
    if yes:
        today = datetime.now(UTC).date()
        consents.give(db, found.academy, found.student.id, wanted, by, found.holder, today)
    else:
        consents.withdraw(db, found.academy, found.student.id, wanted, by)
    words = f"{'agreed to' if yes else 'withdrew the consent to'} {consents.MEANS[wanted]} ({by})"
    inbox.put(db, found.student, inbox.Item(kind="consent", sent_by=found.holder, words=words))


def tick(db: Session, found: OpenedPage, given: Mapping[str, str]) -> None:
    """Keep that a prescribed drill was done; with the same `key` once. What hurt ends it, and the coach is told.

    Raises:
        BadInput: a day or a prescription that cannot be.
        NotFound: it is no prescription of this student.
    """
    today = day_at(db.get_one(Academy, found.academy))
    felt = given.get("felt") or None
    if felt not in (None, "sure", "unsure"):
        raise BadInput("it felt sure or unsure; nothing was stored")
    try:
        on = date.fromisoformat(given["on"]) if given.get("on") else today
        entry = log.Entry(
            prescription=uuid.UUID(given.get("prescription", "")), on=on, felt=felt, pain=given.get("pain") == "yes",  # type: ignore[arg-type]
            key=key_of(given),
        )  # fmt: skip
    except ValueError as error:
        raise BadInput("this is no day, or no prescription; nothing was stored") from error
    log.enter(db, found.academy, found.student.id, entry, found.holder, None, today)


def sent_clip(db: Session, found: OpenedPage, said: Mapping[str, str]) -> Sent:
    """What comes with a clip from the page: it arrives named.

    Raises:
        BadInput: an unknown technique, side or day.
    """
    technique, side = said.get("technique") or None, said.get("side") or None
    if technique is not None and not catalogue.known(db, found.academy, [technique]):
        raise BadInput("there is no such technique; choose one of the list. Nothing was sent")
    if side not in (None, "left", "right"):
        raise BadInput("the side is left or right. Nothing was sent")
    drill = _drill_of(db, found, said.get("drill", ""))
    technique = drill.technique if drill else technique
    try:
        filmed_on = date.fromisoformat(said["filmed_on"]) if said.get("filmed_on") else date.today()
        naming = Naming.model_validate(
            {
                "technique": technique,
                "side": side,
                "question": said.get("question", "").strip(),
                "drill": drill.name if drill else None,
            }
        )
    except ValueError as error:
        raise BadInput("the day or the question does not fit. Nothing was sent") from error
    return Sent(name=said.get("filename", ""), filmed_on=filmed_on, student=found.student.id, naming=naming, sent_by=found.holder)


def _drill_of(db: Session, found: OpenedPage, prescription: str) -> Prescription | None:
    """The prescription whose drill a clip shows; None where none is named."""
    if not prescription:
        return None
    row = next((one for one in prescriptions.open_of(db, found.student.id) if str(one.id) == prescription), None)
    if row is None:
        raise BadInput("this drill is not prescribed any more; choose another one, or none. Nothing was sent")
    return row
