"""Passwords: which are taken, and their hashes, made and checked few at a time."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from threading import BoundedSemaphore

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from urdaten.errors import BadInput, Busy
from urdaten.platform.settings import Settings

LEAST, MOST = 10, 200
# Each takes tens of megabytes and a core for as long as it lasts.
AT_ONCE = 2
WAIT_S = 10.0
_room = BoundedSemaphore(AT_ONCE)


def check_password(password: str, field: str = "password") -> None:
    """Raises BadInput for a password that is too short or too long."""
    if not LEAST <= len(password) <= MOST:
        raise BadInput(f"A password has {LEAST} to {MOST} characters, not {len(password)}.", field=field)


@contextmanager
def _in_turn() -> Iterator[None]:
    if not _room.acquire(timeout=WAIT_S):
        raise Busy("Many people are signing in at once. Try again in a moment.", retry_after=3)
    try:
        yield
    finally:
        _room.release()


@cache
def _hasher(passes: int, memory_kib: int) -> PasswordHasher:
    return PasswordHasher(time_cost=passes, memory_cost=memory_kib)


@cache
def _nobodys(passes: int, memory_kib: int) -> str:
    return _hasher(passes, memory_kib).hash("nobody's")


def hash_password(settings: Settings, password: str) -> str:
    """Takes a noticeable time: never while holding a connection. Raises Busy when too many wait."""
    with _in_turn():
        return _hasher(settings.password_passes, settings.password_memory_kib).hash(password)


def fits(settings: Settings, kept: str | None, password: str) -> bool:
    """Does the password fit the hash that is kept? As slow where none is kept. Raises Busy when too many wait."""
    cost = settings.password_passes, settings.password_memory_kib
    if len(password) > MOST:
        return False
    with _in_turn():
        try:
            _hasher(*cost).verify(kept or _nobodys(*cost), password)
        except (VerificationError, InvalidHashError):
            return False
    return kept is not None
