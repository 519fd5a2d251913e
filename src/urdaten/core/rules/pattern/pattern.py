"""A pattern that is ready to be held against texts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from urdaten.core.rules.pattern.columns import columns_of, members
from urdaten.core.rules.pattern.machine import search, sweep
from urdaten.core.rules.pattern.program import FIRST_LOOK, Code, compiled
from urdaten.core.rules.pattern.syntax import read
from urdaten.core.rules.pattern.tree import may_be_empty
from urdaten.errors import BadPattern

_AT_ONCE = 1024
# What it counts for to tell which signs of a text are of a set.
_STEPS_A_SET = 200
# So much of which signs are of which sets is remembered, in bytes; a text in a larger script is looked at on its own.
_MOST_KNOWN = 1 << 18


class OutOfSteps(Exception):
    """Holding a pattern against a text would have taken more steps than it was given."""


@dataclass(frozen=True)
class Match:
    """Code points of the text, half-open; what is marked, None where the pattern has a mark that was not met."""

    start: int
    end: int
    marked: tuple[int, int] | None


class Pattern:
    """A compiled pattern. Raises BadPattern, in the name of its rule, with the offset of the fault."""

    def __init__(self, source: str, name: str) -> None:
        node = read(source, name)
        if may_be_empty(node):
            raise BadPattern(
                f"The pattern of “{name}” matches nothing at all; ask for at least one character.",
                field="pattern",
                offset=0,
            )
        self._program = compiled(node)
        # Signs that were met so far, ascending, and which sets they are of: replaced as one, for other threads.
        self._known = (np.empty(0, np.int32), np.empty((len(self._program.sets), 0), np.uint8))

    def find(self, text: str, limit: int) -> tuple[list[Match], int]:
        """Matches in a text, from left to right, none empty, none over the end of a line; and the steps they took.

        The steps depend on pattern and text alone. Raises OutOfSteps for more than `limit` of them.
        """
        found, steps = self._found(text, limit)
        return list(_matches(found, self._program.marks)), steps

    def marked(self, text: str, limit: int) -> tuple[NDArray[np.int32], int]:
        """As find, of every match that marks something what it marks: start and end, of shape (n, 2)."""
        found, steps = self._found(text, limit)
        if self._program.marks:
            found = found[(found[:, 2] >= 0) & (found[:, 2] <= found[:, 3]), 2:]
        return found[found[:, 0] < found[:, 1], :2], steps

    def _found(self, text: str, limit: int) -> tuple[NDArray[np.int32], int]:
        program = self._program
        steps = _STEPS_A_SET * len(program.sets)
        if steps > limit:
            raise OutOfSteps
        columns = columns_of(text)
        member = self._members(columns.distinct)
        holds = np.concatenate(
            (columns.holds, np.zeros((len(program.looks), len(columns.sign) + 1), np.uint8))
        )
        for row, look in enumerate(program.looks, FIRST_LOOK):
            code = look.code
            took = sweep(
                code.op, code.x, code.y, _first(code, member), code.empty, not look.behind,
                columns.sign, member, holds, row, limit - steps,
            )  # fmt: skip
            if took < 0:
                raise OutOfSteps
            steps += took
        found, took = _searched(program.code, columns.sign, member, holds, limit - steps)
        return found, steps + took

    def _members(self, distinct: NDArray[np.int32]) -> NDArray[np.uint8]:
        program = self._program
        known, member = self._known
        where = np.searchsorted(known, distinct)
        if len(known) == 0 or (known[np.minimum(where, len(known) - 1)] != distinct).any():
            known = np.union1d(known, distinct)
            if known.size * len(program.sets) > _MOST_KNOWN:
                return members(program, distinct)
            member = members(program, known)
            self._known = known, member
            where = np.searchsorted(known, distinct)
        return np.ascontiguousarray(member[:, where])


@lru_cache(maxsize=256)
def pattern_of(source: str, name: str) -> Pattern:
    """As Pattern; those met last are kept."""
    return Pattern(source, name)


def _first(code: Code, member: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Which signs the code can take first."""
    return np.asarray(member[code.first].any(axis=0), dtype=np.uint8)


def _searched(
    code: Code, sign: NDArray[np.int32], member: NDArray[np.uint8], holds: NDArray[np.uint8], limit: int
) -> tuple[NDArray[np.int32], int]:
    first = _first(code, member)
    parts = [np.empty((0, 4), dtype=np.int32)]
    begin = steps = 0
    while begin < len(sign):
        out = np.empty((_AT_ONCE, 4), dtype=np.int32)
        count, begin, took = search(
            code.op, code.x, code.y, first, sign, member, holds, begin, limit - steps, out
        )
        if count < 0:
            raise OutOfSteps
        steps += took
        parts.append(out[:count])
    return np.concatenate(parts), steps


def _matches(found: NDArray[np.int32], marks: bool) -> Iterator[Match]:
    for start, end, first, last in found.tolist():
        if not marks:
            yield Match(start, end, (start, end))
        else:
            yield Match(start, end, (first, last) if 0 <= first <= last else None)
