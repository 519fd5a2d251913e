"""Words and runs of words as 64-bit sums, by which they are found and compared without being held."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from urdaten.core.lists.kernels import sums_of_runs

Sums = NDArray[np.uint64]
# Odd, so that no factor is lost modulo 2^64.
FACTOR = 0x9E3779B97F4A7C15 | 1
# Of no word: a sum of code points is never shifted so.
_SALT = np.uint64(0xD6E8FEB86659FD93)


def code_points(words: Sequence[str]) -> tuple[NDArray[np.uint32], NDArray[np.int64]]:
    """Of all words after each other, and where each begins, of shape (n_words + 1,)."""
    joined = "".join(words).encode("utf-32-le", errors="surrogatepass")
    lengths = np.fromiter(map(len, words), dtype=np.int64, count=len(words))
    return np.frombuffer(joined, dtype="<u4").astype(np.uint32), np.append(0, np.cumsum(lengths))


def word_sums(words: Sequence[str]) -> Sums:
    """Of each word the sum of its code points c: Σ (c + 1) · FACTOR^(places behind it), modulo 2^64. Words may share one."""
    points, first = code_points(words)
    found = np.zeros(len(words), dtype=np.uint64)
    sums_of_runs(points.astype(np.uint64) + np.uint64(1), first[:-1], first[1:], np.uint64(FACTOR), found)
    return found


def mixed(sums: Sums) -> Sums:
    """Word sums with their bits spread, so that sums over them are apart too (the finaliser of SplitMix64: Steele, Lea and
    Flood 2014)."""
    made = sums + _SALT
    made = (made ^ (made >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    made = (made ^ (made >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return made ^ (made >> np.uint64(31))


def run_sums(of_tokens: Sums, first: NDArray[np.integer], last: NDArray[np.integer]) -> Sums:
    """Of each run of tokens [first, last) a sum of its words' mixed sums: two runs of the same words have the same; others
    share one with a probability of about 2^-64."""
    found = np.zeros(len(first), dtype=np.uint64)
    sums_of_runs(of_tokens, first.astype(np.int64), last.astype(np.int64), np.uint64(FACTOR), found)
    return found
