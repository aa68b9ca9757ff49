"""The inbox, students' links and consents, and films that are about to go."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime

import segno
from fastapi import APIRouter, Request

from lacertus.services.people import academies, consents, inbox, people
from lacertus.services.people.accounts import Coach
from lacertus.services.people.inbox import Shown
from lacertus.services.students import links, retention
from lacertus.services.students.links import OwnLink
from lacertus.web.session import Db, SignedIn, site_of
from lacertus.web.students import schemas as t

router = APIRouter(tags=["students"])


# --- inbox -----------------------------------------------------------------------------------------


@router.get("/inbox")
def read_inbox(coach: SignedIn, db: Db, done: bool = False) -> t.InboxOut:
    """What came in from students and waits, pain first and then the oldest; with `done` what was dealt with."""
    items = [_item(one) for one in inbox.items(db, coach.academy_id, done)]
    return t.InboxOut(waiting=inbox.open_count(db, coach.academy_id), items=items)


@router.get("/inbox/waiting")
def read_waiting(coach: SignedIn, db: Db) -> t.WaitingOut:
    """How much waits in the inbox."""
    return t.WaitingOut(waiting=inbox.open_count(db, coach.academy_id))


@router.get("/clips/{clip_id}/questions")
def read_questions(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> list[t.ItemOut]:
    """What the student asked that nobody has answered: with this clip, or besides any clip."""
    return [_item(one) for one in inbox.of_clip(db, coach.academy_id, clip_id)]


@router.post("/inbox/{item_id}/reply")
def reply(item_id: uuid.UUID, form: t.ReplyIn, coach: SignedIn, db: Db) -> t.InboxOut:
    """Answer an item; the reply stands on the student's page, and goes out by mail where that is wanted."""
    inbox.reply(db, coach.academy_id, item_id, form.words, coach.id, form.mail)
    return read_inbox(coach, db)


@router.put("/inbox/{item_id}/done")
def settle(item_id: uuid.UUID, coach: SignedIn, db: Db) -> t.InboxOut:
    """Put an item away as dealt with."""
    inbox.settle(db, coach.academy_id, item_id, True, coach.id)
    return read_inbox(coach, db)


@router.delete("/inbox/{item_id}/done")
def reopen(item_id: uuid.UUID, coach: SignedIn, db: Db) -> t.InboxOut:
    """Take an item back that was put away."""
    inbox.settle(db, coach.academy_id, item_id, False, coach.id)
    return read_inbox(coach, db)


def _item(one: Shown) -> t.ItemOut:
    own = {name: getattr(one.row, name) for name in t.ItemOut.model_fields if hasattr(one.row, name)}
    address = one.student.guardian_email if one.row.sent_by == "guardian" else one.student.email
    return t.ItemOut(**own, student=one.student.name, clip=one.clip_name, by=one.by, has_address=bool(address))


# --- links to a student's own page ------------------------------------------------------------------


@router.get("/students/{student_id}/own-links")
def read_links(student_id: uuid.UUID, coach: SignedIn, db: Db, request: Request) -> list[t.OwnLinkOut]:
    """The links to a student's own page, the newest first."""
    return [_link(one, site_of(request)) for one in links.of_student(db, coach.academy_id, student_id)]


@router.post("/students/{student_id}/own-links", status_code=201)
def make_link(student_id: uuid.UUID, form: t.OwnLinkIn, coach: SignedIn, db: Db, request: Request) -> list[t.OwnLinkOut]:
    """Make a link, for the student or for a guardian."""
    links.make(db, coach.academy_id, student_id, coach.id, form.holder)
    return read_links(student_id, coach, db, request)


@router.delete("/own-links/{link_id}")
def revoke(link_id: uuid.UUID, coach: SignedIn, db: Db, request: Request) -> list[t.OwnLinkOut]:
    """Withdraw a link: it opens nothing from now on."""
    gone = links.revoke(db, coach.academy_id, link_id)
    return read_links(gone.student_id, coach, db, request)


def _link(one: OwnLink, site: str) -> t.OwnLinkOut:
    address = f"{site}/me/{one.token}"
    own = {name: getattr(one.link, name) for name in t.OwnLinkOut.model_fields if hasattr(one.link, name)}
    return t.OwnLinkOut(**own, address=address, qr=segno.make(address, micro=False).svg_data_uri(scale=3, border=2))


# --- consents --------------------------------------------------------------------------------------


@router.get("/students/{student_id}/consents")
def read_consents(student_id: uuid.UUID, coach: SignedIn, db: Db) -> t.ConsentsOut:
    """What was agreed to for a student, and how each purpose stands today."""
    student = people.student(db, coach.academy_id, student_id)
    standings = [
        t.ConsentStandingOut(
            purpose=one.purpose, state=one.state, allows=one.allows, consent=one.row and t.ConsentOut.model_validate(one.row)
        )
        for one in consents.standings(db, student)
    ]
    return t.ConsentsOut(
        is_child=consents.is_child(student, datetime.now(UTC).date()),
        asked=academies.wishes_of(db, coach.academy_id).needs_consent,
        standings=standings,
        history=[t.ConsentOut.model_validate(row) for row in consents.history(db, coach.academy_id, student_id)],
    )


@router.post("/students/{student_id}/consents", status_code=201)
def give_consent(student_id: uuid.UUID, form: t.ConsentIn, coach: SignedIn, db: Db) -> t.ConsentsOut:
    """Write down that somebody agreed to something for a student."""
    consents.give(db, coach.academy_id, student_id, form.purpose, form.given_by, form.given_as, form.given_on, form.until, coach.id)
    return read_consents(student_id, coach, db)


@router.post("/students/{student_id}/consents/{purpose}/withdraw")
def withdraw_consent(student_id: uuid.UUID, purpose: t.Purpose, form: t.WithdrawIn, coach: SignedIn, db: Db) -> t.ConsentsOut:
    """End a consent today."""
    consents.withdraw(db, coach.academy_id, student_id, purpose, form.by)
    return read_consents(student_id, coach, db)


# --- films that are about to go ---------------------------------------------------------------------


@router.get("/films/going")
def read_going(coach: SignedIn, db: Db) -> list[t.GoingFilmOut]:
    """Films that are deleted within the next two weeks, as the academy keeps none for longer."""
    return _going(coach, db)


@router.put("/clips/{clip_id}/keep")
def keep_film(clip_id: uuid.UUID, form: t.KeepIn, coach: SignedIn, db: Db) -> list[t.GoingFilmOut]:
    """Keep a clip's film for good, or for the academy's time."""
    retention.keep(db, coach.academy_id, clip_id, form.keep)
    return _going(coach, db)


def _going(coach: Coach, db: Db) -> list[t.GoingFilmOut]:
    found = retention.due(db, coach.academy_id)
    return [
        t.GoingFilmOut(clip=clip.id, name=clip.name, student=clip.student.name if clip.student else None, goes_on=on)
        for clip, on in found
    ]
