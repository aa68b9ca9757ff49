"""What can go wrong in a step of the work, besides bad input.

ServiceError
├── NotFound        there is no such thing in this academy
├── Conflict        it cannot be done in this state
│   └── HereAlready the same is here already
├── Held            somebody else is at it this moment
├── SignInRefused   wrong e-mail or password
│   └── NotSignedIn nobody is signed in, or no longer
├── TooManyTries    wait before trying again
├── Busy            too much at once; try again in a moment
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


class HereAlready(Conflict):
    """The same file is here already. It was not stored twice."""


class Held(ServiceError):
    """Another connection is uploading this file right now. Nothing was changed; try again in a moment."""


class SignInRefused(ServiceError):
    """E-mail or password is wrong. Nothing was changed; try again."""


class NotSignedIn(SignInRefused):
    """You are not signed in, or the session has ended. What you saved is kept; sign in again."""


class TooManyTries(ServiceError):
    """Too many wrong passwords. Wait a quarter of an hour and try again."""


class Busy(ServiceError):
    """Many people are signing in right now. Nothing was changed; try again in a few seconds."""


class TooLarge(ServiceError):
    """This is over a set limit. Nothing was stored."""
