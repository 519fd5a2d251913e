"""Pages of texts and of their sentences."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import (
    select,
    tuple_,
)
from sqlalchemy.orm import Session

from urdaten.places.texts.acts.reading import (
    Sentence,
    Text,
    in_order,
    own_row,
    sentence_of,
    text_of,
)
from urdaten.places.texts.tables import SentenceRow, TextRow
from urdaten.platform.database import among


def page_of_texts(
    db: Session,
    project_id: int,
    *,
    after: int | None,
    limit: int,
    search: str = "",
    split: str = "",
    only: Collection[int] | None = None,
) -> list[Text]:
    """Texts in reading order, those after the text with this number; at most `limit`, and `only` these if they are given."""
    query = in_order(project_id).limit(limit)
    if after is not None:
        row = own_row(db, project_id, after)
        query = query.where(tuple_(TextRow.position, TextRow.id) > (row.position, row.id))
    if search:
        query = query.where(
            TextRow.title.icontains(search, autoescape=True) | TextRow.body.icontains(search, autoescape=True)
        )
    if split:
        query = query.where(TextRow.split == split)
    if only is not None:
        query = query.where(among(TextRow.id, only))
    return [text_of(row) for row in db.scalars(query)]


def page_of_one(db: Session, text_id: int, *, after: int | None, limit: int) -> list[Sentence]:
    """Sentences of one text, those after the one of this number in it; at most `limit`."""
    query = select(SentenceRow).where(SentenceRow.text_id == text_id).order_by(SentenceRow.number)
    if after is not None:
        query = query.where(SentenceRow.number > after)
    return [sentence_of(row) for row in db.scalars(query.limit(limit))]
