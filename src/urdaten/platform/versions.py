"""A version on everything that two people may change, so that nobody overwrites what they have not seen."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from urdaten.errors import StaleWrite


def check_seen(what: str, theirs: Mapping[str, Any], yours: Mapping[str, Any], seen: int) -> None:
    """Raises StaleWrite, with both, unless the version that stands is the one that was seen."""
    if theirs["version"] != seen:
        raise StaleWrite(
            f"{what} was changed by somebody else while you had it open; look at both versions and choose.",
            theirs=dict(theirs),
            yours=dict(yours) | {"version": seen},
        )
