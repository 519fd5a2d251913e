"""Regular expressions held against raw texts: as no match runs over the end of a line, texts can stand end to end."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.rules.pattern import OutOfSteps, Pattern
from urdaten.core.text import Batch

# What one expression may take on one text: a sensible one takes some ten steps a sign. Counted in steps and for each on its
# own, so that neither a busy machine nor another rule changes what is found.
STEPS = 2_000_000
STEPS_A_SIGN = 500
# So many code points stand end to end: a pattern that takes no more than STEPS on them takes no more on any of the texts.
BLOCK = 30_000


def raw_matches(pattern: Pattern, batch: Batch) -> tuple[Ints, Ints, list[int]]:
    """What a regular expression marks in each text, as the tokens [first, last) of the batch that it touches, in order; and the
    texts on which it took too long, in which it then marks nothing."""
    lengths = np.array([len(body) + 1 for body in batch.bodies], dtype=np.int64)
    # As if all bodies stood end to end, with a sign between them.
    shift = np.cumsum(lengths) - lengths
    marked: list[Ints] = [np.zeros((0, 2), dtype=np.int64)]
    troubled = []
    for a, b in _blocks(lengths):
        for own, found in _marked(pattern, batch.bodies, a, b):
            if found is None:
                troubled.append(own)
            else:
                marked.append(found + shift[own])
    start, end = (column + shift[batch.text] for column in (batch.start, batch.end))
    return *_tokens(np.concatenate(marked), start, end), troubled


def _blocks(lengths: Ints) -> Iterator[tuple[int, int]]:
    a, size = 0, 0
    for b, length in enumerate(lengths.tolist()):
        if b > a and size + length > BLOCK:
            yield a, b
            a, size = b, 0
        size += length
    if len(lengths):
        yield a, len(lengths)


def _marked(
    pattern: Pattern, bodies: Sequence[str], a: int, b: int
) -> Iterator[tuple[int, NDArray[np.int32] | None]]:
    """What is marked in the bodies a .. b, counted from the beginning of one of them, which is named with it; None for one on
    which it took too long."""
    try:
        if b - a == 1:
            limit = STEPS + STEPS_A_SIGN * len(bodies[a])
            yield a, pattern.marked(bodies[a], limit)[0]
        else:
            yield a, pattern.marked("\n".join(bodies[a:b]), STEPS)[0]
    except OutOfSteps:
        if b - a == 1:
            yield a, None
        else:
            # One of them may be what takes so long.
            half = (a + b) // 2
            yield from _marked(pattern, bodies, a, half)
            yield from _marked(pattern, bodies, half, b)


def _tokens(marked: Ints, start: Ints, end: Ints) -> tuple[Ints, Ints]:
    """The tokens that marked ranges touch; a range without any is left out."""
    first = np.searchsorted(end, marked[:, 0], side="right")
    last = np.searchsorted(start, marked[:, 1], side="left")
    held = last > first
    return first[held], last[held]
