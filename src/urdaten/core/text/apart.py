"""Sentences without what stands aside in a text."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import islice

Bounds = tuple[int, int]


def apart_from(sentences: Iterable[Bounds], aside: Sequence[Bounds], body: str) -> list[Bounds]:
    """The parts of sentences that lie outside of what stands aside, without white space at their ends.

    All are half-open bounds of code points in the body, both in order and none over another of its own kind.
    """
    made: list[Bounds] = []
    first = 0
    for start, end in sentences:
        while first < len(aside) and aside[first][1] <= start:
            first += 1
        for a, b in _parts(start, end, aside, first):
            words = body[a:b]
            left = len(words) - len(words.lstrip())
            if words.strip():
                made.append((a + left, a + len(words.rstrip())))
    return made


def _parts(start: int, end: int, aside: Sequence[Bounds], first: int) -> Iterator[Bounds]:
    at = start
    for a, b in islice(aside, first, None):
        if a >= end:
            break
        if at < a:
            yield at, a
        at = max(at, b)
    if at < end:
        yield at, end
