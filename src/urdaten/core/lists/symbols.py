"""Distinct words in arrays: found by number and by what they look like, without an object for each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.lists.spelling import Sums, word_sums


def encoded(word: str) -> bytes:
    """As words lie in arrays; half a surrogate pair is kept."""
    return word.encode(errors="surrogatepass")


def decoded(blob: NDArray[np.uint8], start: int, end: int) -> str:
    """The words between two places."""
    return blob[start:end].tobytes().decode(errors="surrogatepass")


def laid_out(words: Sequence[str]) -> tuple[NDArray[np.uint8], Ints]:
    """Words end to end, and where each begins, int32 of shape (n_words + 1,)."""
    parts = list(map(encoded, words))
    lengths = np.fromiter(map(len, parts), dtype=np.int64, count=len(parts))
    return np.frombuffer(b"".join(parts), dtype=np.uint8), np.append(0, np.cumsum(lengths)).astype(np.int32)


@dataclass(frozen=True, eq=False)
class Symbols:
    """Words numbered from 0; word k lies at first[k] .. first[k + 1] of the blob. `sums` ascends; number[i] has sum i."""

    sums: Sums
    number: Ints
    first: Ints
    blob: NDArray[np.uint8]

    @classmethod
    def of(cls, words: Sequence[str]) -> Symbols:
        """Of words that differ, by their places."""
        sums = word_sums(words)
        order = np.argsort(sums, kind="stable")
        blob, first = laid_out(words)
        return cls(sums[order], order.astype(np.int32), first, blob)

    def __len__(self) -> int:
        return len(self.number)

    def word(self, number: int) -> str:
        """What word has this number."""
        return decoded(self.blob, int(self.first[number]), int(self.first[number + 1]))

    def find(self, words: Sequence[str]) -> Ints:
        """The number of each word, -1 for one that is not among them; int32."""
        found = np.full(len(words), -1, dtype=np.int32)
        if not len(self):
            return found
        sums = word_sums(words)
        at = np.searchsorted(self.sums, sums)
        for k in np.flatnonzero(self.sums[np.minimum(at, len(self) - 1)] == sums).tolist():
            # Words may share a sum.
            place = int(at[k])
            while place < len(self) and self.sums[place] == sums[k]:
                if self.word(int(self.number[place])) == words[k]:
                    found[k] = self.number[place]
                    break
                place += 1
        return found

    def get(self, word: str) -> int:
        """The number of a word, or -1."""
        return int(self.find([word])[0])

    @cached_property
    def characters(self) -> NDArray[np.int64]:
        """Of each word how many code points it has."""
        # Bytes that begin a code point.
        begins = np.append(0, np.cumsum((self.blob & 0xC0) != 0x80))
        return np.diff(begins[self.first])
