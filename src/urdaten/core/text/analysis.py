"""Analysis: a body as columns over tokens, with attributes held once per distinct word."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from urdaten.core.text.pack import language_pack
from urdaten.core.text.sentences import sentence_starts
from urdaten.core.text.tokens import token_bounds
from urdaten.errors import BadSpan


class Vocabulary:
    """Distinct word forms, numbered from 0 in the order they were first met."""

    def __init__(self, forms: Iterable[str] = ()) -> None:
        self._ids: dict[str, int] = {}
        for form in forms:
            self.add(form)

    def add(self, form: str) -> int:
        return self._ids.setdefault(form, len(self._ids))

    def get(self, form: str) -> int:
        """The number of a form, or -1."""
        return self._ids.get(form, -1)

    @property
    def forms(self) -> list[str]:
        return list(self._ids)

    def __len__(self) -> int:
        return len(self._ids)


@dataclass(frozen=True)
class Analysis:
    """Tokens of one body. Columns are int32 of shape (n_tokens,), offsets in code points."""

    body: str
    vocabulary: Vocabulary
    start: NDArray[np.int32]
    end: NDArray[np.int32]
    word: NDArray[np.int32]
    sentence: NDArray[np.int32]

    def __len__(self) -> int:
        return len(self.start)

    def sentence_bounds(self) -> list[tuple[int, int]]:
        """Half-open code point bounds of each sentence, in order."""
        if not len(self):
            return []
        first = np.flatnonzero(np.diff(self.sentence, prepend=-1))
        last = np.append(first[1:], len(self)) - 1
        return [(int(self.start[a]), int(self.end[b])) for a, b in zip(first, last, strict=True)]

    def token_range(self, start: int, end: int) -> tuple[int, int]:
        """First token and one past the last token that lie within [start, end)."""
        first = int(np.searchsorted(self.start, start, side="left"))
        last = int(np.searchsorted(self.end, end, side="right"))
        return first, max(first, last)

    def widen(self, start: int, end: int) -> tuple[int, int]:
        """The smallest token-bounded range that covers [start, end).

        Raises BadSpan when the range holds no token at all.
        """
        first = int(np.searchsorted(self.end, start, side="right"))
        last = int(np.searchsorted(self.start, end, side="left")) - 1
        if first >= len(self) or last < first:
            raise BadSpan(f"There is no word between offsets {start} and {end}.", start=start, end=end)
        return int(self.start[first]), int(self.end[last])


def analyse(body: str, language: str = "en", vocabulary: Vocabulary | None = None) -> Analysis:
    """Split a body into tokens and sentences.

    Texts analysed with the same vocabulary share their word numbers.
    """
    vocabulary = Vocabulary() if vocabulary is None else vocabulary
    bounds = token_bounds(body)
    words = [body[start:end] for start, end in bounds.tolist()]
    starts = sentence_starts(body, bounds, words, language_pack(language))
    return Analysis(
        body=body,
        vocabulary=vocabulary,
        start=bounds[:, 0].copy(),
        end=bounds[:, 1].copy(),
        word=np.fromiter(map(vocabulary.add, words), dtype=np.int32, count=len(words)),
        sentence=np.cumsum(starts, dtype=np.int32) - 1,
    )
