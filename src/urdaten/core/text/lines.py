"""Line breaks: made on purpose, or by a program that wraps lines."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints

_BREAK = re.compile(r"\r\n|\r|\n")
# Programs wrap at 60 to 90 code points: the longest line of a wrapped text is about that long.
WRAPS_FROM, WRAPS_TO = 60, 90
# A line shorter than this was ended, however the others look.
SHORT = 40
# Wrapped lines come close to the longest one.
RAGGED = 15
_ITEM_MARKS = frozenset("-–—*•·>|#")


class LineBreaks:
    """The lines of one or more texts that stand in one body, as far as they hold tokens.

    `text_first` are the first tokens of the texts, ascending from 0; `is_bar` flags tokens that are "|".
    """

    def __init__(
        self, body: str, start: Ints, end: Ints, text_first: NDArray[np.int64], is_bar: NDArray[np.bool_]
    ) -> None:
        at = np.fromiter((m.start() for m in _BREAK.finditer(body)), dtype=np.int64)
        first, breaks = np.unique(np.searchsorted(start, at), return_counts=True)
        held = (first > 0) & (first < len(start)) & ~np.isin(first, text_first)
        opens = np.union1d(text_first, first[held])
        last = np.append(opens[1:], len(start)) - 1
        lengths = end[last] - start[opens]
        # Line l belongs to text text[l]; line_of_text are the first lines of the texts.
        text = np.searchsorted(text_first, opens, side="right") - 1
        line_of_text = np.searchsorted(opens, text_first)
        longest = np.maximum.reduceat(lengths, line_of_text)
        # The last line of a text ends where the text ends, and tells nothing of wrapping.
        closing = np.append(line_of_text[1:], len(opens)) - 1
        near = lengths >= longest[text] - RAGGED
        near[closing] = False
        wrapped = np.add.reduceat(near, line_of_text, dtype=np.int64) > 1
        rows = np.add.reduceat(is_bar, opens, dtype=np.int64) > 0
        # First tokens of all lines that do not open a text.
        self.firsts: list[int] = first[held].tolist()
        self._breaks: dict[int, int] = dict(zip(self.firsts, breaks[held].tolist(), strict=True))
        before = np.searchsorted(opens, first[held]) - 1
        columns = (lengths[before], longest[text[before]], wrapped[text[before]], rows[before])
        self._before = dict(zip(self.firsts, zip(*(c.tolist() for c in columns), strict=True), strict=True))

    def breaks_before(self, token: int) -> int:
        """How many line breaks stand right before a token of a line within a text."""
        return self._breaks.get(token, 0)

    def on_purpose(self, token: int, word: str, small_opening: bool) -> bool:
        """Was the break before this first token of a line made on purpose?

        It was when an empty line stands there, the line before is short, a row of a table or could have
        taken the next word, the longest line of the text is not as long as wrapped ones are, or the next
        line begins an item, a quote or a time. A single long line tells little: then a small letter that goes on
        after it says that it was wrapped, unless the writer begins with small letters anyway.
        """
        length, longest, looks_wrapped, is_row = self._before[token]
        if self._breaks[token] > 1 or length < SHORT or not WRAPS_FROM <= longest <= WRAPS_TO:
            return True
        if is_row or _opens_item(word) or length + 1 + len(word) <= longest:
            return True
        if looks_wrapped:
            return False
        return not word[:1].islower() or small_opening


def _opens_item(word: str) -> bool:
    figures = word.rstrip("hH").replace(":", "").replace(".", "")
    return word in _ITEM_MARKS or (figures.isdigit() and len(figures) <= 4)
