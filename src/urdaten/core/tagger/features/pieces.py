"""Beginnings, ends and middles of words, looked up in many words at once."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints

LONGEST_AFFIX = 4
GRAM = 3
# Longer words are code, addresses or noise; their middle tells nothing.
LONGEST_GRAMMED = 24
BEGINS, ENDS, HOLDS = PIECE_KINDS = ("begins=", "ends=", "holds=")
# A piece is one whole number: its signs by their number among those of all pieces, and its kind above them.
_BITS = 15
_KIND_AT = _BITS * LONGEST_AFFIX
_UNKNOWN = 2**_BITS - 1


def affixes_of(word: str) -> Iterator[str]:
    """Names of the beginnings and ends of a word, the whole word not among them."""
    for size in range(1, min(LONGEST_AFFIX, len(word) - 1) + 1):
        yield BEGINS + word[:size]
        yield ENDS + word[-size:]


def grams_of(word: str) -> Iterator[str]:
    """Names of what a word holds within, each once."""
    if len(word) <= LONGEST_GRAMMED:
        yield from dict.fromkeys(HOLDS + word[at : at + GRAM] for at in range(1, len(word) - GRAM))


class Pieces:
    """Numbered pieces of words: of all names those that affixes_of and grams_of can give.

    Of pieces with more different signs than a number holds (32 766), those with the rarest are never found.
    """

    def __init__(self, names: Sequence[str]) -> None:
        codes, first, length = _spelt(names)
        found, kinds = [], []
        for kind, prefix in enumerate(PIECE_KINDS, start=1):
            at = np.flatnonzero((length > len(prefix)) & (length <= len(prefix) + LONGEST_AFFIX))
            for place, sign in enumerate(prefix):
                at = at[codes[first[at] + place] == ord(sign)]
            found.append((at, first[at] + len(prefix), length[at] - len(prefix)))
            kinds.append(np.full(len(at), kind, dtype=np.int64))
        number, begin, size = (np.concatenate(column) for column in zip(*found, strict=True))
        places = [np.flatnonzero(size > place) for place in range(LONGEST_AFFIX)]
        signs = [codes[begin[has] + place] for place, has in enumerate(places)]
        distinct, counts = np.unique(np.concatenate(signs), return_counts=True)
        # The commonest signs; equally common ones in a fixed order, so that the same names are found always.
        kept = distinct[np.argsort(-counts, kind="stable")[: _UNKNOWN - 1]]
        self._sign = np.full(int(kept.max(initial=0)) + 2, _UNKNOWN, dtype=np.int64)
        self._sign[kept] = np.arange(1, len(kept) + 1)
        keys = np.concatenate(kinds) << _KIND_AT
        fits = np.ones(len(keys), dtype=bool)
        for place, has in enumerate(places):
            own = self._numbered(signs[place])
            keys[has] |= own << (_BITS * place)
            fits[has[own == _UNKNOWN]] = False
        # Where a file has a name twice, the first counts.
        self._keys, once = np.unique(keys[fits], return_index=True)
        self._numbers: Ints = number[fits][once]

    def _numbered(self, codes: NDArray[np.uint32]) -> Ints:
        return np.asarray(self._sign[np.minimum(codes, len(self._sign) - 1)])

    def affixes(self, words: Sequence[str]) -> tuple[Ints, Ints]:
        """(word, number) of every known beginning and end of the words."""
        signs, first, length = _spelt(words)
        codes = self._numbered(signs)
        begins, ends = (np.zeros(len(words), dtype=np.int64) for _ in range(2))
        found = []
        for size in range(1, LONGEST_AFFIX + 1):
            has = np.flatnonzero(length > size)
            begins[has] |= codes[first[has] + size - 1] << (_BITS * (size - 1))
            ends[has] = (ends[has] << _BITS) | codes[first[has] + length[has] - size]
            for kind, key in ((BEGINS, begins[has]), (ENDS, ends[has])):
                found.append(self._known(kind, has, key))
        return _joined(found)

    def grams(self, words: Sequence[str]) -> tuple[Ints, Ints]:
        """(word, number) of everything known that the words hold within, each once."""
        signs, first, length = _spelt(words)
        codes = self._numbered(signs)
        count = np.where(length <= LONGEST_GRAMMED, np.maximum(length - GRAM - 1, 0), 0)
        word: Ints = np.repeat(np.arange(len(words)), count)
        at = np.arange(len(word)) - np.repeat(np.cumsum(count) - count, count) + first[word] + 1
        key = codes[at] | (codes[at + 1] << _BITS) | (codes[at + 2] << 2 * _BITS)
        word, number = self._known(HOLDS, word, key)
        size = int(number.max(initial=0)) + 1
        once = np.unique(word * size + number)
        return once // size, once % size

    def _known(self, kind: str, word: Ints, key: Ints) -> tuple[Ints, Ints]:
        if not len(self._keys):
            return word[:0], key[:0]
        key = key | ((PIECE_KINDS.index(kind) + 1) << _KIND_AT)
        at = np.minimum(np.searchsorted(self._keys, key), len(self._keys) - 1)
        known = np.flatnonzero(self._keys[at] == key)
        return word[known], self._numbers[at[known]]


def _spelt(words: Sequence[str]) -> tuple[NDArray[np.uint32], Ints, Ints]:
    """Code points of all words end to end, where each word begins, and how long it is."""
    codes = np.frombuffer("".join(words).encode("utf-32-le", "surrogatepass"), dtype="<u4")
    length = np.fromiter(map(len, words), dtype=np.int64, count=len(words))
    return codes, np.cumsum(length) - length, length


def _joined(parts: Sequence[tuple[Ints, Ints]]) -> tuple[Ints, Ints]:
    words, numbers = zip(*parts, strict=True)
    return np.concatenate(words), np.concatenate(numbers)
