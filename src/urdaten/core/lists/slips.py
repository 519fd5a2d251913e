"""Words that differ from a list's word by one slip: a letter too many, too few, another one, or two in the wrong order."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.lists.kernels import near_words
from urdaten.core.lists.spelling import FACTOR, code_points
from urdaten.core.lists.symbols import Symbols

# Words with fewer letters than this are too like others to be found by a slip.
SLIP_LETTERS = 6
_NONE = np.zeros(0, dtype=np.int32)


def may_slip(word: str) -> bool:
    """Is it long enough, and nothing but letters? In codes and numbers every sign counts."""
    return len(word) >= SLIP_LETTERS and word.isalpha()


def one_slip(one: str, other: str) -> bool:
    """Do two words that differ become alike by one slip?"""
    shorter, longer = sorted((one, other), key=len)
    if len(longer) - len(shorter) > 1:
        return False
    at = next((k for k, (a, b) in enumerate(zip(shorter, longer, strict=False)) if a != b), len(shorter))
    if len(shorter) < len(longer):
        return shorter[at:] == longer[at + 1 :]
    if shorter[at + 1 :] == longer[at + 1 :]:
        return True
    swapped = longer[at + 1 : at + 2] + longer[at : at + 1]
    return shorter[at : at + 2] == swapped and shorter[at + 2 :] == longer[at + 2 :]


class Slips:
    """Some of the symbols, found by words that have a slip. Every edit of a word is looked up by its sum, so that nothing is
    held but the sums of the symbols."""

    def __init__(self, symbols: Symbols, numbers: Ints) -> None:
        """numbers: those of the symbols that may be found so."""
        self._symbols = symbols
        held = np.zeros(len(symbols), dtype=bool)
        held[numbers] = True
        at = np.flatnonzero(held[symbols.number])
        self._number, self._sums = symbols.number[at], symbols.sums[at]

    def __bool__(self) -> bool:
        return len(self._number) > 0

    @cached_property
    def _letters(self) -> NDArray[np.uint64]:
        points, _ = code_points([self._symbols.word(k) for k in self._number.tolist()])
        return np.unique(points).astype(np.uint64) + np.uint64(1)

    @cached_property
    def _longest(self) -> int:
        return int(self._symbols.characters[self._number].max(initial=0))

    @cached_property
    def _filter(self) -> NDArray[np.uint8]:
        """A bit of many for each sum, so that hardly any that there is not is looked for."""
        bits = max(10, len(self._sums).bit_length() + 4)
        held = np.zeros(1 << (bits - 3), dtype=np.uint8)
        at = self._sums >> np.uint64(64 - bits)
        np.bitwise_or.at(
            held, (at >> np.uint64(3)).astype(np.int64), np.uint8(1) << (at & np.uint64(7)).astype(np.uint8)
        )
        return held

    def near(self, words: Sequence[str]) -> list[Ints | None]:
        """Of each word the numbers of the symbols from which it differs by a slip, ascending; None for none."""
        found: list[Ints | None] = [None] * len(words)
        able = [
            k
            for k, word in enumerate(words)
            if SLIP_LETTERS - 1 <= len(word) <= self._longest + 1 and word.isalpha()
        ]
        if not able or not self:
            return found
        pairs: dict[int, set[int]] = {}
        for row, place in self._candidates([words[k] for k in able]).tolist():
            number = int(self._number[place])
            if one_slip(words[able[row]], self._symbols.word(number)):
                pairs.setdefault(able[row], set()).add(number)
        for k, numbers in pairs.items():
            found[k] = np.array(sorted(numbers), dtype=np.int32)
        return found

    def _candidates(self, words: Sequence[str]) -> Ints:
        points, first = code_points(words)
        values = points.astype(np.uint64) + np.uint64(1)
        out = np.empty((4 * len(words) + 64, 2), dtype=np.int32)
        while True:
            count = near_words(values, first, self._letters, self._sums, self._filter, np.uint64(FACTOR), out)
            if count <= len(out):
                return out[:count]
            out = np.empty((count, 2), dtype=np.int32)
