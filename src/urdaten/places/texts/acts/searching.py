"""Searching texts by their words.

Words count from their beginning, whatever their case and order; a run in double quotes is looked for letter by letter, as is
what is not one word.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from sqlalchemy import ColumnElement, and_, cast, literal, literal_column, or_, select
from sqlalchemy.dialects.postgresql import TSQUERY
from sqlalchemy.orm import Session

from urdaten.core.text import searched_word
from urdaten.places.texts.acts.indexing import LONGEST_WORD
from urdaten.places.texts.tables import IS_LONG, TextRow

_PARTS = re.compile(r'"([^"]*)"?|[^\s"]+')


def conditions_of(search: str, *, any_long: bool) -> Iterator[ColumnElement[bool]]:
    """For queries: a text has everything that is searched for, in its title or body.

    any_long: may there be bodies of which the index does not know all words? Where there are none, the index alone is asked.
    """
    words = []
    for part in _PARTS.finditer(search):
        run = part.group(1)
        if run is None and (word := searched_word(part.group())):
            words.append(word[:LONGEST_WORD])
        elif (letters := part.group() if run is None else run.strip()) != "":
            yield _letters(letters)
    if words:
        wanted = cast(literal(" & ".join(map(_beginning, words))), TSQUERY)
        indexed = TextRow.words.op("@@")(wanted)
        if not any_long:
            yield indexed
            return
        yield or_(indexed, and_(literal_column(IS_LONG), *(_letters(word) for word in words)))


def has_long(db: Session, project_id: int) -> bool:
    """Has the project bodies of which the index does not know all words?"""
    query = select(TextRow.id).where(TextRow.project_id == project_id, literal_column(IS_LONG)).limit(1)
    return db.scalar(query) is not None


def _letters(run: str) -> ColumnElement[bool]:
    return or_(TextRow.title.icontains(run, autoescape=True), TextRow.body.icontains(run, autoescape=True))


def _beginning(word: str) -> str:
    quoted = word.replace("\\", "\\\\").replace("'", "''")
    return f"'{quoted}':*"
