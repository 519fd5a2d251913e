"""What a table of attributes says of the forms of one vocabulary, kept and extended as the vocabulary grows."""

from __future__ import annotations

from copy import copy

import numpy as np
from numpy.typing import NDArray

from urdaten.core.tagger.features.forms import AttributeTable, outline
from urdaten.core.text import Vocabulary

Ints = NDArray[np.int64]
# A control, which no form holds, so that an outline is never taken for a word.
MARK = "\x01"


class Lexicon:
    """Rows of attribute numbers, and symbols, by row: row 0 is beyond a sentence, row w + 1 is form w.

    Symbols number folded forms and outlines together; they are what token features are named by.
    """

    def __init__(self, table: AttributeTable, vocabulary: Vocabulary) -> None:
        self.table = table
        self.vocabulary = vocabulary
        self.pointer: Ints = np.array([0, 1], dtype=np.int64)
        self.column: Ints = np.zeros(1, dtype=np.int64)
        self._symbols: dict[str, int] = {"": 0}
        self.folded: Ints = np.zeros(1, dtype=np.int64)
        self.outline: Ints = np.zeros(1, dtype=np.int64)
        self.is_capital = np.zeros(1, dtype=bool)
        self.is_word = np.zeros(1, dtype=bool)
        self.grow()

    def __len__(self) -> int:
        """Number of rows."""
        return len(self.folded)

    def grow(self) -> None:
        """Take in the forms that the vocabulary has gained."""
        if len(self.vocabulary) + 1 == len(self):
            return
        new = self.vocabulary.forms[len(self) - 1 :]
        columns, ends = self.table.rows(new)
        self.pointer = np.append(self.pointer, len(self.column) + np.array(ends, dtype=np.int64))
        self.column = np.append(self.column, np.array(columns, dtype=np.int64))
        symbol = self._symbols
        folded = [symbol.setdefault(form.casefold(), len(symbol)) for form in new]
        drawn = [symbol.setdefault(MARK + outline(form), len(symbol)) for form in new]
        self.folded = np.append(self.folded, np.array(folded, dtype=np.int64))
        self.outline = np.append(self.outline, np.array(drawn, dtype=np.int64))
        self.is_capital = np.append(self.is_capital, [form[0].isupper() for form in new])
        self.is_word = np.append(self.is_word, [form[0].isalpha() for form in new])

    def with_blanks(self) -> tuple[Ints, Ints]:
        """pointer and column with a second row, len(self) further on, for each: its word with hidden letters."""
        kept = self.table.letterless[self.column]
        kept[: self.pointer[1]] = True  # beyond a sentence there are no letters to hide
        ends = np.append(0, np.cumsum(kept))[self.pointer]
        return (
            np.append(self.pointer, len(self.column) + ends[1:]),
            np.append(self.column, self.column[kept]),
        )

    def only(self, rows: Ints) -> Lexicon:
        """What a table of some of the attributes says, found without looking at the forms again."""
        kept = copy(self)
        kept.table = self.table.only(rows)
        kept._symbols = dict(self._symbols)
        new = np.full(len(self.table), -1, dtype=np.int64)
        new[rows] = np.arange(len(rows))
        column = new[self.column]
        held = column >= 0
        kept.column = column[held]
        kept.pointer = np.append(0, np.cumsum(held))[self.pointer]
        return kept

    @property
    def symbols(self) -> list[str]:
        """Folded forms, and outlines behind a MARK, by number."""
        return list(self._symbols)

    def symbol(self, name: str) -> int:
        """The number of a symbol, or -1."""
        return self._symbols.get(name, -1)
