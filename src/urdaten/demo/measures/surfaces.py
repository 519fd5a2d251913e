"""How much of the gold is new, and how much of it is ambiguous, by surface: the folded words of a span."""

from __future__ import annotations

from collections.abc import Iterable, Sequence


def unseen_share(surfaces: Sequence[str], known: set[str]) -> float:
    """The share, 0 to 1, of spans whose surface is not among the known ones."""
    return sum(surface not in known for surface in surfaces) / max(1, len(surfaces))


def ambiguous_share(spans: Iterable[tuple[str, str]]) -> float:
    """The share, 0 to 1, of distinct surfaces that carry two or more types; from (surface, type) pairs."""
    types: dict[str, set[str]] = {}
    for surface, type_ in spans:
        types.setdefault(surface, set()).add(type_)
    return sum(len(found) > 1 for found in types.values()) / max(1, len(types))
