"""The sentence splitter: which tokens begin a sentence."""

from __future__ import annotations

import re
from bisect import bisect_right

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.text.lines import LineBreaks
from urdaten.core.text.pack import LanguagePack

# Tokens of the longest sentence. What goes on longer, such as a table without line breaks, is cut between words: nobody
# can read it as one, and whatever looks at a sentence looks at all of it.
LONGEST = 1000
# How far back from there a gap between words is looked for.
_BACK = 200
# Those of scripts that set no space between sentences end one without a gap too.
_WITHOUT_GAP = frozenset("。｡！？")
_ENDERS = frozenset(".!?…؟۔।॥።") | {"..", "..."} | _WITHOUT_GAP
_CLOSERS = frozenset("\"'”’»)]」』）")
_LIST_NUMBER = re.compile(r"\d{1,3}|[A-Za-z]")


def sentence_starts(
    body: str,
    start: Ints,
    end: Ints,
    form: Ints,
    forms: list[str],
    text_first: NDArray[np.int64],
    pack: LanguagePack,
) -> NDArray[np.bool_]:
    """Flags of shape (n_tokens,): does a sentence begin at this token?

    The body may hold several texts; `text_first` are their first tokens, ascending from 0. A sentence
    ends at a stop, exclamation or question mark that is not part of an abbreviation, an initial or a
    list number; after a token with stops of its own only where a word follows that opens sentences; at an empty line, and at a line break that was made on purpose and not by a program
    that wraps lines (see LineBreaks). None has more than LONGEST tokens.
    """
    count = len(start)
    starts = np.zeros(count, dtype=bool)
    if count == 0:
        return starts
    starts[text_first] = True
    words = [forms[k] for k in form.tolist()]
    texts = text_first.tolist()
    # Whoever begins with a small letter begins every sentence with one.
    small = [words[first][:1].islower() for first in texts]
    is_bar = np.array([f == "|" for f in forms], dtype=bool)[form]
    lines = LineBreaks(body, start, end, text_first, is_bar)
    is_ender = np.array([f in _ENDERS for f in forms], dtype=bool)
    without_gap = np.array([f in _WITHOUT_GAP for f in forms], dtype=bool)
    # "U.S.", "p.m.": the last stop is within the token, and may be that of the sentence too.
    is_dotted = np.array([f[-1] == "." and f not in _ENDERS for f in forms], dtype=bool)
    is_last = is_ender | is_dotted
    # A mark that the next token follows without a gap ends nothing, unless that one closes a quote.
    is_closer = np.array([f in _CLOSERS for f in forms], dtype=bool)
    gap_after = start[1:] > end[:-1]
    stands_off = gap_after | is_closer[form[1:]] | without_gap[form[:-1]]
    for i in np.flatnonzero(is_last[form[:-1]] & stands_off).tolist():
        after = i + 1
        while after < count and words[after] in _CLOSERS and not gap_after[after - 1]:
            after += 1
        if after == count or not (gap_after[after - 1] or words[i] in _WITHOUT_GAP) or starts[after]:
            continue
        writes_small = small[bisect_right(texts, i) - 1]
        broken = lines.breaks_before(after) > 0
        mark, following = words[i], words[after]
        goes_on = following[:1].islower() and not writes_small
        if is_dotted[form[i]]:
            opens = following[:1].isupper() and following.casefold() in pack.openers
            starts[after] = mark.casefold().rstrip(".") not in pack.abbreviations and (opens or broken)
        elif mark in ("!", "?"):
            starts[after] = broken or not (goes_on and after > i + 1)
        elif mark != "." or i == 0 or gap_after[i - 1]:
            starts[after] = broken or not goes_on
        else:
            opens_line = i == 1 or starts[i - 1] or lines.breaks_before(i - 1) > 0
            starts[after] = _stop_ends(words[i - 1], following, goes_on, broken, opens_line, pack)
    for first in lines.firsts:
        if not starts[first]:
            starts[first] = lines.on_purpose(first, words[first], small[bisect_right(texts, first) - 1])
    _cut_long(starts, gap_after)
    return starts


def _cut_long(starts: NDArray[np.bool_], gap_after: NDArray[np.bool_]) -> None:
    bounds = np.append(np.flatnonzero(starts), len(starts))
    for i in np.flatnonzero(np.diff(bounds) > LONGEST).tolist():
        first, end = int(bounds[i]), int(bounds[i + 1])
        while end - first > LONGEST:
            # The last token in reach that stands apart from the one before it.
            reach = first + LONGEST - _BACK
            gaps = np.flatnonzero(gap_after[reach : first + LONGEST])
            first = reach + int(gaps[-1]) + 1 if len(gaps) else first + LONGEST
            starts[first] = True


def _stop_ends(
    word: str, following: str, goes_on: bool, broken: bool, opens_line: bool, pack: LanguagePack
) -> bool:
    """Does a stop glued to a word end a sentence?

    `goes_on`: the next word begins as no sentence of this writer does; `broken`: a line break lies
    between; `opens_line`: the word is the first of its line.
    """
    folded = word.casefold()
    if folded in pack.abbreviations or (folded in pack.before_figures and following[:1].isdigit()):
        return False
    if opens_line and not broken and _LIST_NUMBER.fullmatch(word):
        return False  # "1. Berths"
    if folded in pack.may_end:
        return broken or (following[:1].isupper() and following.casefold() not in pack.may_end)
    if len(word) == 1 and word.isalpha() and not broken:
        # An initial (J. Marsh, c. lindmoor), but "9.4 m. Call the desk".
        return word.islower() and following[:1].isupper()
    return broken or not goes_on
