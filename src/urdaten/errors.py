"""Every error that Urdaten raises on purpose.

UrdatenError
├── BadInput              what was handed in cannot be used as it is
│   ├── BadSpan           a span outside its text, empty, or off the token bounds
│   ├── BadPattern        a rule's pattern does not compile or takes too long
│   ├── BadSettings       training settings that are unknown or out of range
│   ├── BadFile           a file that does not follow its format; carries the line
│   ├── WrongPassword     the present password, asked for once more, does not fit
│   └── TooLarge          more was sent than is taken at once
├── NotFound              the thing asked for is not there
├── Clash                 the wish collides with what is already there
│   └── StaleWrite        somebody else wrote first; carries both versions
├── NotAllowed            the account may not do this
│   └── NotSignedIn       there is no valid session
├── TooMany               too many tries in a short time; carries when to try again
├── Stopped               long work was stopped on request
└── Unavailable           a part we lean on (database, worker) is out of reach
    └── Busy              too much is going on at once; carries when to try again

The core knows nothing of HTTP: `platform.problems` maps these classes to status codes.
"""

from __future__ import annotations

from typing import Any


class UrdatenError(Exception):
    """Something went wrong in Urdaten; try again, and report it if it stays."""

    def __init__(self, message: str | None = None, **detail: Any) -> None:
        self.message = message or (type(self).__doc__ or "").strip()
        self.detail = detail
        super().__init__(self.message)


class BadInput(UrdatenError):
    """The input cannot be used as it is; mend the named field and send it again."""


class BadSpan(BadInput):
    """The span does not lie within its text; mark it again on the words themselves."""


class BadPattern(BadInput):
    """The pattern does not compile; mend it at the place shown."""


class BadSettings(BadInput):
    """A training setting is unknown or out of range; choose one of those allowed."""


class BadFile(BadInput):
    """The file does not follow its format; mend the line shown."""


class WrongPassword(BadInput):
    """That is not your present password; type it again."""


class TooLarge(BadInput):
    """More was sent than is taken at once; send less, or in parts."""


class NotFound(UrdatenError):
    """There is nothing here; it may have been removed. Go back and choose again."""


class Clash(UrdatenError):
    """This collides with something that is already there; choose another value."""


class StaleWrite(Clash):
    """Somebody else changed this first; look at both versions and choose."""


class NotAllowed(UrdatenError):
    """Your account may not do this; ask the lead of the project."""


class NotSignedIn(NotAllowed):
    """You are not signed in; sign in and try again."""


class TooMany(UrdatenError):
    """There were too many tries in a short time; wait and try again."""


class Stopped(UrdatenError):
    """The work was stopped on request; what was best so far has been kept."""


class Unavailable(UrdatenError):
    """A part of Urdaten is out of reach; wait a moment and try again."""


class Busy(Unavailable):
    """Too much is going on at once; nothing was changed. Wait a moment and try again."""
