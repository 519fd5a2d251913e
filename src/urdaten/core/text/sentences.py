"""The sentence splitter: which tokens begin a sentence."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from urdaten.core.text.pack import LanguagePack

_ENDERS = frozenset(".!?…") | {"..", "..."}
# A line shorter than this, in code points, was ended on purpose; a longer one may have been wrapped.
WRAPPED_FROM = 60
_CLOSERS = frozenset("\"'”’»)]")


def sentence_starts(
    body: str, bounds: NDArray[np.int32], words: list[str], pack: LanguagePack
) -> NDArray[np.bool_]:
    """Flags of shape (n_tokens,): does a sentence begin at this token?

    A sentence ends at a stop, exclamation or question mark that is not part of an abbreviation or
    an initial, and at an empty line. A single line break ends one too when the line before it is
    short (a heading, a list item, a log line) or a row of a table (it holds "|"), or the next line
    begins with a list mark, a quote mark or a clock time; otherwise it is a wrapped line and the
    sentence runs on.
    """
    count = len(words)
    starts = np.zeros(count, dtype=bool)
    if count == 0:
        return starts
    starts[0] = True
    # Only tokens that end a sentence or stand before a line break are looked at one by one.
    candidates = [i for i, word in enumerate(words[:-1]) if word in _ENDERS]
    for i in candidates:
        nxt = i + 1
        while nxt < count and words[nxt] in _CLOSERS and bounds[nxt, 0] == bounds[nxt - 1, 1]:
            nxt += 1
        if nxt < count and bounds[nxt, 0] > bounds[nxt - 1, 1] and _ends_here(i, nxt, words, bounds, pack):
            starts[nxt] = True
    gaps = np.flatnonzero(bounds[1:, 0] > bounds[:-1, 1])
    line_start, line_first = int(bounds[0, 0]), 0
    for before in gaps:
        gap = body[bounds[before, 1] : bounds[before + 1, 0]]
        breaks = gap.count("\n") or gap.count("\r")
        if not breaks:
            continue
        line_length = int(bounds[before, 1]) - line_start
        is_row = "|" in words[line_first : before + 1]
        line_start, line_first = int(bounds[before + 1, 0]), int(before) + 1
        if breaks > 1 or line_length < WRAPPED_FROM or is_row or _opens_item(words, line_first):
            starts[before + 1] = True
    return starts


def _ends_here(i: int, nxt: int, words: list[str], bounds: NDArray[np.int32], pack: LanguagePack) -> bool:
    if words[i] != "." or i == 0 or bounds[i, 0] != bounds[i - 1, 1]:
        return True
    before, after = words[i - 1].casefold(), words[nxt]
    if before in pack.before_figures and after[:1].isdigit():
        return False
    if before in pack.abbreviations:
        return False
    if len(before) == 1 and before.isalpha() and words[i - 1].isupper():
        return False  # an initial: J. Marsh
    return not after[:1].islower()


def _opens_item(words: list[str], i: int) -> bool:
    first = words[i]
    if first in {"-", "–", "—", "*", "•", "·", ">", "|", "#"}:
        return True
    figures = first.rstrip("hH").replace(":", "").replace(".", "")
    return figures.isdigit() and len(figures) <= 4
