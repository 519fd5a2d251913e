"""What stands between two gaps of white space is cut into tokens once per distinct chunk.

No token runs over white space, so a chunk's tokens depend on the chunk alone; in running text nearly
every chunk has been met before.
"""

from __future__ import annotations

import re
import threading
from collections.abc import Callable, Sequence

import numpy as np

from urdaten.core.arrays import Ints

# Gaps: white space and controls. Split with the gaps kept, so that lengths give all offsets.
_GAPS = re.compile(r"([\s\x00-\x1f\x7f-\x9f]+)")
# Beyond this many distinct chunks, or code points in them, the table begins anew; it is a memory, not a record.
MOST_CHUNKS = 500_000
MOST_CODE_POINTS = 20_000_000


class _Column:
    """An int32 array that grows."""

    def __init__(self) -> None:
        self._values = np.zeros(1024, dtype=np.int32)
        self._size = 0

    def extend(self, values: Sequence[int]) -> None:
        size = self._size + len(values)
        if size > len(self._values):
            grown = np.zeros(max(size, 2 * len(self._values)), dtype=np.int32)
            grown[: self._size] = self._values[: self._size]
            self._values = grown
        self._values[self._size : size] = values
        self._size = size

    def __len__(self) -> int:
        return self._size

    @property
    def values(self) -> Ints:
        return self._values[: self._size]


class ChunkTable:
    """Tokens of every chunk met so far, as columns: offsets within the chunk, and a number per form."""

    def __init__(self, cut: Callable[[str], list[tuple[int, int]]]) -> None:
        self._cut = cut
        self._lock = threading.Lock()
        self._begin()

    def _begin(self) -> None:
        self._numbers: dict[str, int] = {}
        # Tokens of chunk k lie at first[k] .. first[k + 1].
        self._first, self._start, self._end, self._form = _Column(), _Column(), _Column(), _Column()
        self._first.extend([0])
        self._forms: dict[str, int] = {}
        self._size = 0

    def _add(self, chunk: str) -> int:
        bounds = self._cut(chunk)
        self._start.extend([a for a, _ in bounds])
        self._end.extend([b for _, b in bounds])
        self._form.extend([self._forms.setdefault(chunk[a:b], len(self._forms)) for a, b in bounds])
        self._first.extend([len(self._start)])
        self._size += len(chunk)
        number = self._numbers[chunk] = len(self._numbers)
        return number

    def tokens(self, body: str) -> tuple[Ints, Ints, Ints, list[str]]:
        """(start, end, form) columns over the tokens of a body, and the forms that `form` indexes.

        Forms are numbered from 0 in the order in which this body first has them.
        """
        parts = _GAPS.split(body)
        offsets = np.zeros(len(parts) + 1, dtype=np.int64)
        np.cumsum(np.fromiter(map(len, parts), dtype=np.int64, count=len(parts)), out=offsets[1:])
        chunks = parts[::2]
        with self._lock:
            if len(self._numbers) > MOST_CHUNKS or self._size > MOST_CODE_POINTS:
                self._begin()
            known = self._numbers
            for chunk in set(chunks).difference(known):
                self._add(chunk)
            numbers = np.fromiter(map(known.__getitem__, chunks), dtype=np.int64, count=len(chunks))
            first = self._first.values.astype(np.int64)[numbers]
            counts = self._first.values[numbers + 1] - first
            # Token t of the body is token at[t] of the table.
            total = int(counts.sum())
            before = np.cumsum(counts) - counts
            at = np.arange(total) + np.repeat(first - before, counts)
            base = np.repeat(offsets[:-1:2], counts)
            start = (base + self._start.values[at]).astype(np.int32)
            end = (base + self._end.values[at]).astype(np.int32)
            table_form = self._form.values[at]
        distinct, where, inverse = np.unique(table_form, return_index=True, return_inverse=True)
        order = np.argsort(where, kind="stable")
        rank = np.empty(len(distinct), dtype=np.int32)
        rank[order] = np.arange(len(distinct), dtype=np.int32)
        forms = [body[start[t] : end[t]] for t in where[order].tolist()]
        return start, end, rank[inverse], forms
