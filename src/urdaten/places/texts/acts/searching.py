"""Searching texts by their words.

Words count from their beginning, whatever their case and order; a run in double quotes is looked for letter by letter, as is
what has other signs than letters and digits, and words of scripts that are written without spaces.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator

from sqlalchemy import ColumnElement, and_, cast, func, literal, literal_column, or_
from sqlalchemy.dialects.postgresql import REGCONFIG

from urdaten.places.texts.tables import FULL_WORDS, IS_LONG, TextRow

# Signs that stand within words.
_WITHIN = "-'’."
_PARTS = re.compile(r'"([^"]*)"?|[^\s"]+')


def conditions_of(search: str) -> Iterator[ColumnElement[bool]]:
    """For queries: a text has everything that is searched for, in its title or body."""
    words = []
    for part in _PARTS.finditer(search):
        run = part.group(1)
        if run is None and _is_word(part.group()):
            words.append(part.group())
        elif (letters := part.group() if run is None else run.strip()) != "":
            yield _letters(letters)
    if words:
        wanted = func.to_tsquery(cast(literal("simple"), REGCONFIG), " & ".join(map(_beginning, words)))
        indexed = literal_column(FULL_WORDS).op("@@")(wanted)
        # The index does not know all of a long body.
        yield or_(indexed, and_(literal_column(IS_LONG), *(_letters(word) for word in words)))


def _letters(run: str) -> ColumnElement[bool]:
    return or_(TextRow.title.icontains(run, autoescape=True), TextRow.body.icontains(run, autoescape=True))


def _is_word(part: str) -> bool:
    """Does the index know it? It is made of letters and digits, and its script has spaces between words."""
    kinds = {unicodedata.category(sign) for sign in part if sign not in _WITHIN}
    return "Lo" not in kinds and {kind[0] for kind in kinds} <= set("LMN") and bool(kinds)


def _beginning(word: str) -> str:
    quoted = word.replace("\\", "\\\\").replace("'", "''")
    return f"'{quoted}':*"
