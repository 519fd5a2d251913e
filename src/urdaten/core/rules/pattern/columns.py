"""A text as columns over its signs, and which of its distinct signs are of which sets."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import regex
from numpy.typing import NDArray

from urdaten.core.arrays import Bools
from urdaten.core.rules.pattern.program import FIRST_LOOK, LINE_END, LINE_START, WORD_BOUND, Program
from urdaten.core.rules.pattern.tree import Property, Range, Signs

# What ends a line, as editors show it. It is of no set, so that no match runs from one line into the next.
_RETURN, _FEED = map(ord, "\r\n")
_WORD = regex.compile(r"\w")


@dataclass(frozen=True)
class Columns:
    """A text as columns over its signs, and where the places hold that every line has."""

    # Its distinct code points, int32 of shape (n_distinct,), ascending.
    distinct: NDArray[np.int32]
    # Their numbers, int32 of shape (n,).
    sign: NDArray[np.int32]
    # uint8 of shape (FIRST_LOOK, n + 1).
    holds: NDArray[np.uint8]


@lru_cache(maxsize=2)
def columns_of(text: str) -> Columns:
    """Kept for a moment: the rules of a project are held against a text one after the other."""
    points = np.frombuffer(text.encode("utf-32-le", "surrogatepass"), dtype=np.int32)
    distinct, sign = np.unique(points, return_inverse=True)
    end = _line_ends(distinct)[sign]
    # A return and a feed are one end: no line lies between them.
    both = (points[:-1] == _RETURN) & (points[1:] == _FEED)
    beside = np.zeros(len(sign) + 2, dtype=bool)
    beside[1:-1] = np.array([_in_words(point) for point in distinct.tolist()], dtype=bool)[sign]
    holds = np.ones((FIRST_LOOK, len(sign) + 1), dtype=np.uint8)
    holds[LINE_START, 1:] = end
    holds[LINE_END, :-1] = end
    holds[LINE_START, 1:-1][both] = 0
    holds[LINE_END, 1:-1][both] = 0
    holds[WORD_BOUND] = beside[1:] != beside[:-1]
    return Columns(distinct, sign.astype(np.int32), holds)


@lru_cache(maxsize=8192)
def _in_words(point: int) -> bool:
    return _WORD.match(chr(point)) is not None


def _line_ends(distinct: NDArray[np.int32]) -> Bools:
    return np.isin(distinct, (_RETURN, _FEED))


def members(program: Program, distinct: NDArray[np.int32]) -> NDArray[np.uint8]:
    """Which sets hold which signs: uint8 of shape (n_sets, n_distinct)."""
    properties: dict[str, Bools] = {}
    cases = _cases(distinct)
    found = np.zeros((len(program.sets), len(distinct)), dtype=np.uint8)
    ends = _line_ends(distinct)
    for number, signs in enumerate(program.sets):
        found[number] = _of(signs, cases if signs.fold else cases[:1], properties) & ~ends
    return found


def _cases(distinct: NDArray[np.int32]) -> NDArray[np.int32]:
    """Each sign, and how it looks in other cases: shape (n_cases, n_distinct)."""
    signs = [chr(point) for point in distinct]
    others = [[case(sign) for sign in signs] for case in (str.lower, str.upper, str.title, str.casefold)]
    return np.array(
        [
            [ord(other) if len(other) == 1 else ord(sign) for sign, other in zip(signs, row, strict=True)]
            for row in (signs, *others)
        ],
        dtype=np.int32,
    ).reshape(5, len(signs))


def _of(signs: Signs, cases: NDArray[np.int32], properties: dict[str, Bools]) -> Bools:
    found = np.zeros(cases.shape[1], dtype=bool)
    for item in signs.items:
        match item:
            case Range(low, high):
                found |= ((cases >= low) & (cases <= high)).any(axis=0)
            case Property(source, negated):
                found |= _has(source, cases, properties).any(axis=0) != negated
    return ~found if signs.negated else found


def _has(source: str, cases: NDArray[np.int32], properties: dict[str, Bools]) -> Bools:
    if source not in properties or properties[source].shape != cases.shape:
        text = "".join(map(chr, cases.ravel()))
        found = np.zeros(cases.size, dtype=bool)
        found[[match.start() for match in regex.compile(source).finditer(text)]] = True
        properties[source] = found.reshape(cases.shape)
    return properties[source]
