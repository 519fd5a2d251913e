"""The tokeniser: a body becomes half-open code point ranges that never overlap.

Every code point lies in exactly one token or in the gap between two tokens; gaps hold only
white space, controls and signs without width that follow no other sign.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import regex

from urdaten.core.arrays import Ints
from urdaten.core.text.chunks import ChunkTable

# Up to the next default word boundary of Unicode (UAX #29), which the WORD flag gives to \b. On top of it stand rules of ours:
# here, that neither a stop nor a colon joins words, and that a possessive ending is a token of its own.
_SEGMENT = r"[^\s\p{Cc}]+?(?:\b|(?=[.:]\p{L})|(?=['’]s(?![\p{L}\p{Nd}])))"
# Signs without a width of their own, which may follow a word and are none alone.
_INVISIBLE = r"\p{Default_Ignorable_Code_Point}"
# Which half of a day a time is of: 10:30am, 5 p.m.
_HALF = r"(?:[AaPp](?:[Mm](?![\p{L}\p{Nd}])|\.[Mm]\.))"
# Alternatives are tried in order; the last takes any visible code point, so nothing is lost. What stands before an @ has
# at most 64 signs (RFC 5321): without a limit a long run of dots would be read to its end again from each of them; and
# flags are paired here because a boundary among them is found by counting them all.
_TOKEN = regex.compile(
    r"""
      [\w.+-]{1,64}@[\w-]+(?:\.[\w-]+)+                   # e-mail address
    | (?:https?://|www\.)[^\s<>"]*[^\s<>".,;:!?)\]]       # web address
    | \p{Nd}{1,2}[:.h]\p{Nd}{2}(?!\p{Nd}|(?!HALF)\p{L}{2}|[.,/:]\p{Nd})  # clock time
    | \p{Nd}{4}-\p{Nd}{2}-\p{Nd}{2}(?![\p{L}\p{Nd}])       # ISO 8601 date
    | \p{Nd}+(?=[-–]\p{Nd}+(?![\p{L}\p{Nd}-]))             # first figure of a range: 0600-0700
    | \p{Nd}+(?:[.,/:'’]\p{Nd}+)+(?![\p{L}\p{Nd}])               # figures with separators
    | \p{Nd}+(?:st|nd|rd|th)(?!\p{L})                     # ordinals
    | \p{Nd}+(?:[.,]\p{Nd}+)*(?=(?:t|m|cm|mm|kg|g|km|l|h|hrs?|mt|cbm|teu|nm|kn)(?![\p{L}\p{Nd}])|HALF)  # figure glued to its unit
    | (?<=\p{Nd})HALF                                     # and that unit, whatever follows it
    | °[CFK](?!\p{L})                                     # degrees
    | \p{Lu}\.(?:\p{Lu}\.)+                               # initials: U.R.D.
    | \p{L}\.(?=\p{L}\.)\p{L}\.                           # e.g.
    | ['’]s(?![\p{L}\p{Nd}])                              # possessive ending
    | \.{2,}|-{2,}|[–—]+                                  # runs of one mark
    | [.:][\p{M}\p{Cf}]*                                  # a stop or colon
    | [\U0001F1E6-\U0001F1FF]{1,2}[\p{M}\p{Cf}]*          # flags
    | (?!INVISIBLE)SEGMENT(?:(?<=[\p{L}\p{Nd}\p{M}_])[&-](?=[\p{L}\p{Nd}])SEGMENT)*  # words and signs
    | (?!INVISIBLE)[^\s\p{Cc}]                             # whatever no rule foresaw
    """.replace("HALF", _HALF)
    .replace("SEGMENT", _SEGMENT)
    .replace("INVISIBLE", _INVISIBLE),
    regex.VERBOSE | regex.V1 | regex.WORD,
)


def _cut(chunk: str) -> list[tuple[int, int]]:
    return [match.span() for match in _TOKEN.finditer(chunk)]


def token_forms(words: str) -> list[str]:
    """The tokens of a name or another few words, without the columns of a whole analysis."""
    return [match[0] for match in _TOKEN.finditer(words)]


_TABLE = ChunkTable(_cut)
# Stands between texts that are cut as one; a control, so that no token runs over it.
_BETWEEN = "\0"


def tokens(body: str) -> tuple[Ints, Ints, Ints, list[str]]:
    """(start, end, form) columns over tokens, and the distinct forms that `form` indexes."""
    return _TABLE.tokens(body)


@dataclass(frozen=True, eq=False)
class CutTexts:
    """Several texts that were cut into tokens as one."""

    joined: str
    # Where each text begins in the whole, of shape (n_texts,).
    offset: Ints
    # Of shape (n_texts + 1,): text k has the tokens first[k] .. first[k + 1].
    first: Ints
    # As `tokens` has them, of the whole.
    start: Ints
    end: Ints
    form: Ints
    forms: list[str]


def cut_texts(bodies: Sequence[str]) -> CutTexts:
    """Tokens of all these texts; many short ones at once are quicker."""
    joined = _BETWEEN.join(bodies)
    start, end, form, forms = tokens(joined)
    lengths = np.fromiter(map(len, bodies), dtype=np.int64, count=len(bodies))
    offset = (np.cumsum(lengths + 1) - lengths - 1).astype(np.int32)
    first = np.append(np.searchsorted(start, offset), len(start)).astype(np.int32)
    return CutTexts(joined, offset, first, start, end, form, forms)
