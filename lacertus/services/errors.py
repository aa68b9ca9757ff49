"""What can go wrong in a step of the work, besides bad input.

ServiceError
├── NotFound        there is no such thing in this academy
├── Conflict        it cannot be done in this state
├── SignInRefused   wrong e-mail or password, or nobody is signed in
├── TooManyTries    wait before trying again
└── TooLarge        over a set limit
"""

from __future__ import annotations

from lacertus.core.errors import LacertusError


class ServiceError(LacertusError):
    """This could not be done."""


class NotFound(ServiceError):
    """There is no such thing here. It may have been deleted; go back and reload."""


class Conflict(ServiceError):
    """This cannot be done now."""


class SignInRefused(ServiceError):
    """E-mail or password is wrong. Nothing was changed; try again."""


class TooManyTries(ServiceError):
    """Too many wrong passwords. Wait a quarter of an hour and try again."""


class TooLarge(ServiceError):
    """This is over a set limit. Nothing was stored."""
