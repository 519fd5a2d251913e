"""Pages of texts and of their sentences."""

from __future__ import annotations

from sqlalchemy import (
    select,
    tuple_,
)
from sqlalchemy.orm import Session

from urdaten.places.texts.acts.portions import Which, conditions
from urdaten.places.texts.acts.reading import (
    Sentence,
    Text,
    in_order,
    own_row,
    sentence_of,
    text_of,
)
from urdaten.places.texts.tables import SentenceRow, TextRow


def page_of_texts(db: Session, project_id: int, which: Which, *, after: int | None, limit: int) -> list[Text]:
    """Those texts in reading order, beyond the text with this number; at most `limit`."""
    query = in_order(project_id).where(*conditions(which)).limit(limit)
    if after is not None:
        row = own_row(db, project_id, after)
        query = query.where(tuple_(TextRow.position, TextRow.id) > (row.position, row.id))
    return [text_of(row) for row in db.scalars(query)]


def page_of_one(db: Session, text_id: int, *, after: int | None, limit: int) -> list[Sentence]:
    """Sentences of one text, those after the one of this number in it; at most `limit`."""
    query = select(SentenceRow).where(SentenceRow.text_id == text_id).order_by(SentenceRow.number)
    if after is not None:
        query = query.where(SentenceRow.number > after)
    return [sentence_of(row) for row in db.scalars(query.limit(limit))]
