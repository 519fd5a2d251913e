"""The tokeniser: a body becomes half-open code point ranges that never overlap.

Every code point lies in exactly one token or in the gap between two tokens; gaps hold only
white space and controls.
"""

from __future__ import annotations

import numpy as np
import regex
from numpy.typing import NDArray

# Alternatives are tried in order; the last two take any visible code point, so nothing is lost.
_TOKEN = regex.compile(
    r"""
      [\w.+-]+@[\w-]+(?:\.[\w-]+)+                        # e-mail address
    | (?:https?://|www\.)[^\s<>"]*[^\s<>".,;:!?)\]]       # web address
    | \p{Nd}{1,2}[:.h]\p{Nd}{2}(?!\p{Nd}|\p{L}{2})         # clock time
    | \p{Nd}+(?:[.,/:'’-]\p{Nd}+)+(?![\p{L}\p{Nd}])               # figures with separators
    | \p{Nd}+(?:st|nd|rd|th)(?!\p{L})                     # ordinals
    | \p{Nd}+(?=(?:t|m|kg|km|l|h|hrs?|mt|cbm|teu|nm)(?![\p{L}\p{Nd}]))  # figure glued to its unit
    | \p{Lu}\.(?:\p{Lu}\.)+                               # initials: U.R.D.
    | \p{L}\.(?=\p{L}\.)\p{L}\.                           # e.g.
    | ['’]s(?![\p{L}\p{Nd}])                              # possessive ending
    | [\p{L}\p{Nd}\p{M}_](?:[\p{L}\p{Nd}\p{M}\p{Cf}_]|[·&-](?=[\p{L}\p{Nd}])|['’](?!s(?![\p{L}\p{Nd}]))(?=[\p{L}\p{Nd}]))*  # words
    | \.{2,}|-{2,}|[–—]+                                  # runs of one mark
    | [^\s\p{Cc}\p{Cf}\p{M}][\p{M}\p{Cf}]*                # any other visible sign
    | [\p{M}\p{Cf}]+                                      # marks that lean on nothing
    """,
    regex.VERBOSE | regex.V1,
)


def token_bounds(body: str) -> NDArray[np.int32]:
    """Token bounds of a body as an array of shape (n_tokens, 2), in code points, ascending."""
    bounds = [match.span() for match in _TOKEN.finditer(body)]
    return np.array(bounds, dtype=np.int32).reshape(-1, 2)
