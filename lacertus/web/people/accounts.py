"""One's own account, the people of the academy, the links that are used once, and the academy's settings."""

from __future__ import annotations

import uuid
from typing import Annotated
from urllib.parse import urlsplit
from zoneinfo import available_timezones

import segno
from fastapi import APIRouter, Query, Request, Response

from lacertus.services.people import academies, account_mail, accounts, audit, links, second_factor, staff
from lacertus.services.people.academies import Wishes
from lacertus.services.people.accounts import Coach
from lacertus.services.people.links import Made
from lacertus.settings import settings
from lacertus.web import schemas as s
from lacertus.web.people import schemas as p
from lacertus.web.people.cookies import device_word, open_session
from lacertus.web.session import Db, HalfSignedIn, SignedIn, site_of

router = APIRouter(tags=["accounts"])


# --- one's own account ------------------------------------------------------------------------------


@router.patch("/account")
def change_account(form: p.AccountChange, coach: HalfSignedIn, db: Db) -> s.CoachOut:
    """Change one's own name, e-mail address or password. A new password signs every other device out."""
    change = form.model_dump(exclude={"password"}, exclude_none=True)
    accounts.change_own(db, coach, form.password, **change)
    return _who(db, coach)


@router.get("/account/devices")
def read_devices(coach: HalfSignedIn, db: Db) -> list[p.DeviceOut]:
    """The devices in which one is signed in, the one used last first."""
    found = [p.DeviceOut.model_validate(one) for one in staff.devices(db, coach.id)]
    return [one.model_copy(update={"own": one.id == coach.sign_in}) for one in found]


@router.delete("/account/devices")
def sign_out_others(coach: HalfSignedIn, db: Db) -> list[p.DeviceOut]:
    """Sign out every other device."""
    staff.sign_out_others(db, coach.id, coach.sign_in)
    return read_devices(coach, db)


@router.delete("/account/devices/{device_id}")
def sign_out_device(device_id: uuid.UUID, coach: HalfSignedIn, db: Db) -> list[p.DeviceOut]:
    staff.sign_out_device(db, coach.id, device_id)
    return read_devices(coach, db)


@router.post("/account/second-factor")
def offer_second_factor(coach: HalfSignedIn, db: Db) -> p.FactorOfferOut:
    """A new secret for an app that shows codes. It counts once a first code was typed."""
    address, offered = second_factor.offer(db, coach.id)
    return p.FactorOfferOut(address=address, qr=_qr(address), offered=offered)


@router.put("/account/second-factor")
def turn_on_second_factor(form: p.TurnOn, coach: HalfSignedIn, db: Db) -> s.CoachOut:
    second_factor.turn_on(db, coach.id, form.offered, form.code)
    return _who(db, coach)


@router.post("/account/second-factor/off")
def turn_off_second_factor(form: p.AccountChange, coach: HalfSignedIn, db: Db) -> s.CoachOut:
    """Ask for no code any more; the current password is asked again."""
    accounts.change_own(db, coach, form.password)
    second_factor.turn_off(db, coach.id)
    return _who(db, coach)


def _who(db: Db, coach: Coach) -> s.CoachOut:
    db.flush()
    return s.CoachOut.model_validate(accounts.again(db, coach))


def _qr(text: str) -> str:
    return str(segno.make(text, micro=False).svg_data_uri(scale=5))


@router.get("/site")
def read_site(_coach: HalfSignedIn, request: Request) -> p.SiteOut:
    """Where the site is reached, as a code for phones."""
    address, root = site_of(request), settings().root_url or None
    host = urlsplit(address).hostname or ""
    local = host == "localhost" or host == "::1" or host.startswith("127.")
    return p.SiteOut(address=address, qr=_qr(address), local=local, root=root, root_qr=root and _qr(root))


# --- people -----------------------------------------------------------------------------------------


@router.get("/people")
def read_people(coach: SignedIn, db: Db) -> p.PeopleOut:
    """Everybody who signs in here, those who left too; to owners also the invitations that wait."""
    people = [
        p.PersonOut(
            id=one.id, name=one.name, email="" if one.left_at else one.email, role=one.role,
            has_second_factor=one.totp_secret is not None, left_at=one.left_at,
        )
        for one in staff.everyone(db, coach.academy_id)
    ]  # fmt: skip
    waiting = links.waiting(db, coach.academy_id) if coach.role == "owner" else []
    return p.PeopleOut(people=people, invitations=[p.InvitationOut.model_validate(one) for one in waiting])


@router.post("/people/invitations", status_code=201)
def invite(form: p.InvitationIn, coach: SignedIn, db: Db, request: Request) -> p.MadeLinkOut:
    """Invite somebody: a link that works once, shown here to be copied, and mailed where that is wanted."""
    made = links.invite(db, coach.academy_id, form.email, form.name, form.role, coach.id)
    return _link(db, coach, made, request, form.mail)


@router.delete("/people/invitations/{link_id}")
def withdraw_invitation(link_id: uuid.UUID, coach: SignedIn, db: Db) -> p.PeopleOut:
    links.withdraw(db, coach.academy_id, link_id)
    db.flush()
    return read_people(coach, db)


@router.put("/people/{account_id}/role")
def change_role(account_id: uuid.UUID, form: p.RoleIn, coach: SignedIn, db: Db) -> p.PeopleOut:
    staff.change_role(db, coach.academy_id, account_id, form.role)
    return read_people(accounts.again(db, coach), db)


@router.post("/people/{account_id}/leave")
def end_account(account_id: uuid.UUID, coach: SignedIn, db: Db) -> p.PeopleOut:
    """End an account. Its name stays on what it judged."""
    staff.leave(db, coach.academy_id, account_id)
    return read_people(coach, db)


@router.post("/people/{account_id}/reset", status_code=201)
def make_reset_link(account_id: uuid.UUID, coach: SignedIn, db: Db, request: Request) -> p.MadeLinkOut:
    """A link by which somebody chooses a new password, to be copied."""
    return _link(db, coach, links.reset(db, coach.academy_id, account_id), request, mail=False)


@router.delete("/people/{account_id}/second-factor")
def forget_second_factor(account_id: uuid.UUID, coach: SignedIn, db: Db) -> p.PeopleOut:
    """For somebody who has lost the phone that shows their codes."""
    staff.forget_second_factor(db, coach.academy_id, account_id)
    db.flush()
    return read_people(coach, db)


def _link(db: Db, coach: Coach, made: Made, request: Request, mail: bool) -> p.MadeLinkOut:
    site = site_of(request)
    if mail:
        # Written down before it leaves: a mail with a link that nobody knows of could not be withdrawn.
        db.commit()
        account_mail.send(made, coach.academy, site)
    return p.MadeLinkOut(link=account_mail.page_of(site, made), expires_at=made.link.expires_at, mailed=mail)


# --- links that are used once ----------------------------------------------------------------------


@router.post("/links/look")
def look_at_link(form: p.LinkIn, db: Db) -> p.OpenedOut:
    """What a link is for. It is not used up by that."""
    return p.OpenedOut.model_validate(links.look(db, form.token))


@router.post("/links/set-up", status_code=201)
def set_up(form: p.SetUpIn, db: Db, request: Request, response: Response) -> s.CoachOut:
    """Make an academy and its owner's account, who is signed in then."""
    # A new academy begins with consents asked for; whoever sets it up may turn that off.
    wishes = Wishes.model_validate({"needs_consent": True} | form.academy.model_dump(exclude_unset=True))
    account = links.set_up(db, form.token, wishes, form.email, form.name, form.password)
    return open_session(db, request, response, accounts.open_for(db, account, device_word(request)))


@router.post("/links/join", status_code=201)
def join(form: p.JoinIn, db: Db, request: Request, response: Response) -> s.CoachOut:
    """Make an account by an invitation; whoever it is is signed in then."""
    account = links.join(db, form.token, form.name, form.password)
    return open_session(db, request, response, accounts.open_for(db, account, device_word(request)))


@router.post("/links/password")
def choose_password(form: p.NewPasswordIn, db: Db) -> s.Done:
    """Choose a new password by a link. All devices are signed out; sign in with the new one."""
    links.choose_password(db, form.token, form.password)
    return s.Done()


@router.post("/session/forgotten")
def forgotten(form: p.ForgottenIn, db: Db, request: Request) -> s.Done:
    """Mail a link for a new password to whoever has this e-mail. The answer is the same where nobody has it."""
    accounts.note_attempt(db, form.email, request.client.host if request.client else "")
    # Without a fixed address a stranger could have a link to another site put into the mail.
    if settings().public_url:
        made = links.reset_asked(db, form.email)
        if made is not None:
            academy = academies.name_of(db, made.link.academy_id)
            db.commit()
            account_mail.send(made, academy, settings().public_url.rstrip("/"))
    return s.Done()


# --- the academy ------------------------------------------------------------------------------------


@router.get("/academy/settings")
def read_settings(coach: SignedIn, db: Db) -> p.WishesOut:
    return p.WishesOut.model_validate(academies.wishes_of(db, coach.academy_id))


@router.put("/academy/settings")
def change_settings(form: p.WishesIn, coach: SignedIn, db: Db) -> p.WishesOut:
    academies.change(db, coach.academy_id, Wishes.model_validate(form.model_dump()), coach.id)
    return read_settings(coach, db)


@router.get("/time-zones")
def read_time_zones() -> list[str]:
    """Every time zone by its name."""
    return sorted(available_timezones())


@router.get("/academy/audit")
def read_audit(coach: SignedIn, db: Db, before: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None) -> list[p.AuditOut]:
    """What was done, the newest first, a hundred at a time."""
    return [p.AuditOut.model_validate(row) for row in audit.trail(db, coach.academy_id, before)]
