"""Shapes of the API for accounts, links and the academy's settings."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from lacertus.web.schemas import In, Name, Out

Email = Annotated[str, Field(max_length=254)]
Password = Annotated[str, Field(max_length=300)]
Token = Annotated[str, Field(min_length=10, max_length=200)]
Role = Literal["owner", "coach", "assistant"]
Code = Annotated[str, Field(max_length=20)]


class AccountChange(In):
    """What is left out stays as it is; the current password is asked again."""

    password: Password
    name: Name | None = None
    email: Email | None = None
    new_password: Password | None = None


class DeviceOut(Out):
    id: uuid.UUID
    device: str
    made_at: datetime
    seen_at: datetime
    own: bool = Field(default=False, description="It is the one that asks")


class FactorOfferOut(Out):
    """A second factor that may be turned on."""

    address: str = Field(description="otpauth://…, for apps on the same device")
    qr: str = Field(description="The same as a picture, as a data: address")
    offered: str = Field(description="To be sent back with the first code")


class TurnOn(In):
    offered: Annotated[str, Field(max_length=1000)]
    code: Code


class PersonOut(Out):
    id: uuid.UUID
    name: str
    email: str
    role: str
    has_second_factor: bool
    left_at: datetime | None


class InvitationOut(Out):
    id: uuid.UUID
    name: str
    email: str
    role: str
    expires_at: datetime


class PeopleOut(Out):
    people: list[PersonOut]
    invitations: list[InvitationOut]


class InvitationIn(In):
    name: Name
    email: Email
    role: Role
    mail: bool = Field(default=True, description="Send it by mail as well")


class MadeLinkOut(Out):
    """A link that works once; it is told only here."""

    link: str
    expires_at: datetime
    mailed: bool = False


class RoleIn(In):
    role: Role


class LinkIn(In):
    token: Token


class OpenedOut(Out):
    kind: Literal["setup", "invite", "reset"]
    academy: str
    email: str
    name: str
    role: str


class WishesOut(Out):
    """An academy's settings."""

    name: str
    time_zone: str
    sheet_language: str
    units: str
    needs_second_factor: bool
    needs_consent: bool
    keeps_films_days: int | None


class WishesIn(In):
    name: Name
    time_zone: Annotated[str, Field(max_length=60)]
    sheet_language: Annotated[str, Field(max_length=10)] = "en"
    units: Literal["metric", "imperial"] = "metric"
    needs_second_factor: bool = False
    needs_consent: bool = Field(default=False, description="Nobody is filmed or shown to others without consent")
    keeps_films_days: int | None = Field(default=None, ge=1, le=100_000, description="Days until films are deleted; null: never")


class SetUpIn(In):
    token: Token
    academy: WishesIn
    name: Name
    email: Email
    password: Password


class JoinIn(In):
    token: Token
    name: Name
    password: Password


class NewPasswordIn(In):
    token: Token
    password: Password


class ForgottenIn(In):
    email: Email


class AuditOut(Out):
    id: int
    at: datetime
    who: str
    what: str
    about: str


class SiteOut(Out):
    """Where the site is reached, to be opened on a phone."""

    address: str
    qr: str = Field(description="The address as a picture, as a data: address")
    local: bool = Field(description="It is reached from this machine alone")
    root: str | None = Field(description="Where a phone gets the root of the site’s own authority for TLS")
    root_qr: str | None
