"""What a table of attributes says of the forms of one vocabulary, kept and extended as the vocabulary grows."""

from __future__ import annotations

from copy import copy

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.tagger.features.forms import AttributeTable
from urdaten.core.tagger.features.writing import CAPITAL, WORD, Writing
from urdaten.core.text import Vocabulary

# A control, which no form holds, so that an outline is never taken for a word.
MARK = "\x01"


class Lexicon:
    """Rows of attribute numbers, and symbols, by row: row 0 is beyond a sentence, row w + 1 is form w.

    Symbols number folded forms (odd) and outlines (even) together, and are the same in all lexicons of a vocabulary; 0 stands
    for nothing. Token features are named by them.
    """

    def __init__(self, table: AttributeTable, vocabulary: Vocabulary) -> None:
        self.table = table
        self.vocabulary = vocabulary
        self.pointer: Ints = np.array([0, 1], dtype=np.int64)
        self.column: Ints = np.zeros(1, dtype=np.int64)
        self._see(Writing(vocabulary), 0)

    def __len__(self) -> int:
        """Number of rows."""
        return len(self.folded)

    def grow(self) -> None:
        """Take in the forms that the vocabulary has gained."""
        if len(self.vocabulary) + 1 > len(self):
            self._see(Writing(self.vocabulary), len(self) - 1)

    def _see(self, writing: Writing, known: int) -> None:
        columns, ends = self.table.rows(writing, known)
        self.pointer = np.append(self.pointer, len(self.column) + ends)
        self.column = np.append(self.column, columns)
        self.folded: Ints = np.append(0, 2 * writing.folded.astype(np.int64) + 1)
        self.outline: Ints = np.append(0, 2 * writing.outline.astype(np.int64) + 2)
        self.is_capital = np.append(False, writing.case & CAPITAL > 0)
        self.is_word = np.append(False, writing.case & WORD > 0)
        self._writing = writing
        # One more than the largest symbol.
        self.symbols = 2 * max(len(writing.folds), len(writing.outlines)) + 1

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
        new = np.full(len(self.table), -1, dtype=np.int64)
        new[rows] = np.arange(len(rows))
        column = new[self.column]
        held = column >= 0
        kept.column = column[held]
        kept.pointer = np.append(0, np.cumsum(held))[self.pointer]
        return kept

    def symbol(self, name: str) -> int:
        """The number of a folded form, or of an outline behind a MARK; −1 for one that no form here has."""
        if not name:
            return 0
        if name.startswith(MARK):
            number = 2 * self._writing.outlines.get(name.removeprefix(MARK)) + 2
        else:
            number = 2 * self._writing.folds.get(name) + 1
        # The vocabulary may have grown meanwhile.
        return number if 0 < number < self.symbols else -1

    def name(self, symbol: int) -> str:
        """The folded form, or the outline behind a MARK, that a symbol stands for."""
        number, odd = divmod(symbol - 1, 2)
        if symbol == 0:
            return ""
        return MARK + self._writing.outlines.forms[number] if odd else self._writing.folds.forms[number]
