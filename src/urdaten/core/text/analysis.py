"""Analysis: a body as columns over tokens, with attributes held once per distinct word."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from urdaten.core.text.pack import LanguagePack, language_pack
from urdaten.core.text.sentences import sentence_starts
from urdaten.core.text.tokens import tokens
from urdaten.errors import BadSpan

Ints = NDArray[np.int64]


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

    def with_sentences(self, starts: Sequence[int]) -> Analysis:
        """The same tokens in sentences that begin at the given offsets, ascending; what stands before the first is of it."""
        column = np.searchsorted(np.asarray(starts, dtype=np.int64), self.start, side="right") - 1
        return replace(self, sentence=np.maximum(column, 0).astype(np.int32))

    def token_range(self, start: int, end: int) -> tuple[int, int]:
        """First token and one past the last token that lie within [start, end)."""
        first = self._at(self.start, start, "left")
        last = self._at(self.end, end, "right")
        return first, max(first, last)

    def _at(self, column: NDArray[np.int32], offset: int, side: Literal["left", "right"]) -> int:
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


# Texts are joined to blocks of about this many code points: large enough to be quick, small in memory.
BLOCK = 1_000_000
# Stands between texts of a block; a control, so that no token runs over it.
_BETWEEN = "\0"


def analyse(
    body: str,
    language: str = "en",
    vocabulary: Vocabulary | None = None,
    abbreviations: frozenset[str] = frozenset(),
) -> Analysis:
    """Split a body into tokens and sentences; see analyse_many."""
    return analyse_many([body], language, vocabulary, abbreviations)[0]


def analyse_many(
    bodies: Sequence[str],
    language: str = "en",
    vocabulary: Vocabulary | None = None,
    abbreviations: frozenset[str] = frozenset(),
) -> list[Analysis]:
    """Split bodies into tokens and sentences, in their order; many short ones at once are quicker.

    All share one vocabulary, and texts analysed with the same vocabulary share their word numbers.
    `abbreviations` are a project's own, folded and without their stop; they add to those of the language.
    """
    vocabulary = Vocabulary() if vocabulary is None else vocabulary
    pack = language_pack(language).with_abbreviations(abbreviations)
    done: list[Analysis] = []
    block: list[str] = []
    size = 0
    for body in bodies:
        if block and size + len(body) > BLOCK:
            done += _analyse_block(block, vocabulary, pack)
            block, size = [], 0
        block.append(body)
        size += len(body) + 1
    return done + _analyse_block(block, vocabulary, pack)


def _analyse_block(bodies: Sequence[str], vocabulary: Vocabulary, pack: LanguagePack) -> list[Analysis]:
    joined = _BETWEEN.join(bodies)
    start, end, form, forms = tokens(joined)
    numbers = np.fromiter(map(vocabulary.add, forms), dtype=np.int32, count=len(forms))
    lengths = np.fromiter(map(len, bodies), dtype=np.int64, count=len(bodies))
    offset = np.cumsum(lengths + 1) - lengths - 1
    # Text k has the tokens first[k] .. first[k + 1]; a text may have none.
    first = np.append(np.searchsorted(start, offset), len(start))
    text_first = np.unique(first[:-1][np.diff(first) > 0])
    starts = sentence_starts(joined, start, end, form, forms, text_first, pack)
    sentence = np.cumsum(starts, dtype=np.int32)
    word = numbers[form]
    done = []
    for k, body in enumerate(bodies):
        at = slice(int(first[k]), int(first[k + 1]))
        here = sentence[at]
        done.append(
            Analysis(
                body=body,
                vocabulary=vocabulary,
                start=start[at] - np.int32(offset[k]),
                end=end[at] - np.int32(offset[k]),
                word=word[at],
                sentence=here - here[:1] if len(here) else here,
            )
        )
    return done
