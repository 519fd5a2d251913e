"""What the database driver raises, as errors of ours: no driver exception leaves a transaction."""

from __future__ import annotations

import psycopg
from psycopg import errors as pg
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from urdaten.errors import BadInput, Busy, Clash, Unavailable, UrdatenError

# In seconds: when trying again is worth it.
SOON, LATER = 1, 3

_OF_DRIVER: tuple[
    tuple[type[psycopg.Error] | tuple[type[psycopg.Error], ...], type[UrdatenError], str], ...
] = (
    (
        pg.UniqueViolation,
        Clash,
        "Somebody made the same thing in this very moment; look at it, then try again.",
    ),
    (
        (pg.ForeignKeyViolation, pg.CheckViolation, pg.NotNullViolation),
        Clash,
        "What this leans on was changed or removed in this very moment; look again, then try once more.",
    ),
    (
        (pg.DeadlockDetected, pg.SerializationFailure, pg.LockNotAvailable, pg.QueryCanceled),
        Busy,
        "Somebody else was changing the same thing; nothing was changed. Try again in a moment.",
    ),
    (
        pg.DataError,
        BadInput,
        "A number is too large or a text holds NUL characters, so nothing here can match it.",
    ),
    (
        (pg.TooManyConnections, pg.InsufficientResources),
        Busy,
        "The database is busy; nothing was changed. Try again in a moment.",
    ),
)


def translated(fault: Exception) -> UrdatenError | None:
    """The error of ours that a driver's or pool's fault comes to; None for a mistake in the program itself."""
    if isinstance(fault, PoolTimeout):
        return Busy("Too many people are at work at once; nothing was changed.", retry_after=SOON)
    # COPY speaks with the driver itself.
    driver = fault.orig if isinstance(fault, DBAPIError) else fault
    for kinds, error, message in _OF_DRIVER:
        if isinstance(driver, kinds):
            return error(message, retry_after=SOON) if issubclass(error, Busy) else error(message)
    if isinstance(driver, psycopg.OperationalError | psycopg.InterfaceError):
        return Unavailable(
            "The database is out of reach; nothing was changed. Wait a moment and try again.",
            retry_after=LATER,
        )
    return None
