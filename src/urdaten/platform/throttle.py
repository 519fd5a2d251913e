"""Guessing is slowed down: so many wrong passwords in a while, by account, by address, and by both."""

from __future__ import annotations

import time

from limits import RateLimitItem, RateLimitItemPerMinute
from limits.storage import MemoryStorage
from limits.strategies import MovingWindowRateLimiter

from urdaten.errors import TooMany

# Somebody who mistypes, an account that is tried from everywhere, an address that tries everybody.
_BOTH = RateLimitItemPerMinute(6, 5)
_ACCOUNT = RateLimitItemPerMinute(30, 15)
_ADDRESS = RateLimitItemPerMinute(60, 5)


class Throttle:
    """Counts failures in memory: one server's own, gone with it."""

    def __init__(self) -> None:
        self._limiter = MovingWindowRateLimiter(MemoryStorage())

    @staticmethod
    def _keys(account: str, address: str) -> tuple[tuple[RateLimitItem, str, str], ...]:
        return (_BOTH, account, address), (_ACCOUNT, account, ""), (_ADDRESS, "", address)

    def check(self, account: str, address: str) -> None:
        """Raises TooMany while there were too many failures; it says when to try again, in seconds."""
        for limit, *key in self._keys(account, address):
            if not self._limiter.test(limit, *key):
                until = self._limiter.get_window_stats(limit, *key).reset_time
                seconds = max(1, round(until - time.time()))
                raise TooMany(
                    f"Too many sign-ins failed. Wait {_in_words(seconds)}, then try again.",
                    retry_after=seconds,
                )

    def failed(self, account: str, address: str) -> None:
        """Count a failure."""
        for limit, *key in self._keys(account, address):
            self._limiter.hit(limit, *key)


def _in_words(seconds: int) -> str:
    if seconds < 90:
        return f"{seconds} seconds"
    return f"{-(-seconds // 60)} minutes"
