"""Analysis: a body as columns over tokens, with attributes held once per distinct word."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.text.vocabulary import Vocabulary
from urdaten.errors import BadSpan


@dataclass(frozen=True)
class Analysis:
    """Tokens of one body. Columns are int32 of shape (n_tokens,), offsets in code points."""

    body: str
    vocabulary: Vocabulary
    start: Ints
    end: Ints
    word: Ints
    sentence: Ints

    def __len__(self) -> int:
        return len(self.start)

    def sentence_bounds(self) -> list[tuple[int, int]]:
        """Half-open code point bounds of each sentence, in order."""
        if not len(self):
            return []
        first = np.flatnonzero(np.diff(self.sentence, prepend=-1))
        last = np.append(first[1:], len(self)) - 1
        return [(int(self.start[a]), int(self.end[b])) for a, b in zip(first, last, strict=True)]

    def with_sentences(self, starts: Sequence[int]) -> Analysis:
        """The same tokens in sentences that begin at the given offsets, ascending; what stands before the first is of it."""
        column = np.searchsorted(np.asarray(starts, dtype=np.int64), self.start, side="right") - 1
        return replace(self, sentence=np.maximum(column, 0).astype(np.int32))

    def token_range(self, start: int, end: int) -> tuple[int, int]:
        """First token and one past the last token that lie within [start, end)."""
        first = self._at(self.start, start, "left")
        last = self._at(self.end, end, "right")
        return first, max(first, last)

    def token_at(self, offset: int) -> int | None:
        """The token that holds this code point, or the next one; None where none follows."""
        token = self._at(self.end, offset, "right")
        return token if token < len(self) else None

    def _at(self, column: Ints, offset: int, side: Literal["left", "right"]) -> int:
        # Of the column's own kind: for another one the whole column would be copied.
        return int(column.searchsorted(np.int32(min(offset, len(self.body))), side))

    def token_ranges(self, start: Sequence[int], end: Sequence[int]) -> tuple[Ints, Ints]:
        """As token_range, for many ranges at once: int64 columns."""
        first = np.searchsorted(self.start, np.asarray(start, dtype=np.int64), side="left")
        last = np.searchsorted(self.end, np.asarray(end, dtype=np.int64), side="right")
        return first, np.maximum(first, last)

    def widen(self, start: int, end: int) -> tuple[int, int]:
        """The smallest token-bounded range that covers [start, end).

        Raises BadSpan when the range holds no token at all.
        """
        first = self._at(self.end, start, "right")
        last = self._at(self.start, end, "left") - 1
        if first >= len(self) or last < first:
            raise BadSpan(f"There is no word between offsets {start} and {end}.", start=start, end=end)
        return int(self.start[first]), int(self.end[last])
