"""What can go wrong in a step of the work, besides bad input.

ServiceError
├── NotFound        there is no such thing in this academy
├── Conflict        it cannot be done in this state
│   ├── HereAlready the same is here already
│   └── LikelyDouble a student of nearly this name is here already
├── Held            somebody else is at it this moment
├── NotAllowed      the role of whoever asks does not have the right
│   ├── WrongPassword      the current password was asked again, and is another one
│   └── SecondFactorLacking the academy asks for a second factor, and this account has none yet
├── SignInRefused   wrong e-mail or password
│   ├── CodeNeeded  the password is right; a code is needed too
│   ├── WrongCode   the code is wrong, or was used before
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


class ChangedMeanwhile(Conflict):
    """Another window changed the same since it was looked at. Nothing was changed."""


class HereAlready(Conflict):
    """The same file is here already. It was not stored twice."""


class LikelyDouble(Conflict):
    """There is a student of nearly this name. Nothing was added."""


class Held(ServiceError):
    """Another connection is uploading this file right now. Nothing was changed; try again in a moment."""


class SignInRefused(ServiceError):
    """E-mail or password is wrong. Nothing was changed; try again."""


class NotAllowed(ServiceError):
    """You may not do this. Nothing was changed; ask an owner of the academy."""


class WrongPassword(NotAllowed):
    """This is not your current password. Nothing was changed."""


class SecondFactorLacking(NotAllowed):
    """Your academy asks everybody for a second factor. Set yours up on your account’s page first."""


class CodeNeeded(SignInRefused):
    """Type the six digits that your app shows."""


class WrongCode(SignInRefused):
    """This code is wrong, or it was used before. Wait for the next one and type that."""


class NotSignedIn(SignInRefused):
    """You are not signed in, or the session has ended. What you saved is kept; sign in again."""


class TooManyTries(ServiceError):
    """Too many wrong passwords. Wait a quarter of an hour and try again."""


class Busy(ServiceError):
    """Many people are signing in right now. Nothing was changed; try again in a few seconds."""


class TooLarge(ServiceError):
    """This is over a set limit. Nothing was stored."""
