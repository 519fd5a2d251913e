"""What is said of every text, without its body."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select, tuple_
from sqlalchemy.orm import Session

from urdaten.places.texts.acts.portions import Which, conditions
from urdaten.places.texts.acts.reading import own_row
from urdaten.places.texts.tables import TextRow


@dataclass(frozen=True, kw_only=True)
class Head:
    """A text without its body."""

    id: int
    title: str
    group: str
    split: str
    sentences: int
    dated: date | None
    meta: Mapping[str, str]


_COLUMNS = (
    TextRow.id,
    TextRow.title,
    TextRow.group,
    TextRow.split,
    TextRow.sentences,
    TextRow.dated,
    TextRow.meta,
)


def heads(db: Session, project_id: int, which: Which | None = None) -> list[Head]:
    """Of every text, or of these, in the order of their numbers."""
    query = select(*_COLUMNS).where(TextRow.project_id == project_id, *conditions(which or Which()))
    return [_head(*row) for row in db.execute(query.order_by(TextRow.id))]


def page_of_heads(
    db: Session, project_id: int, which: Which, *, after: int | None, limit: int | None
) -> list[Head]:
    """Of these texts in reading order, beyond the text with this number; at most `limit`."""
    query = select(*_COLUMNS).where(TextRow.project_id == project_id, *conditions(which))
    if after is not None:
        row = own_row(db, project_id, after)
        query = query.where(tuple_(TextRow.position, TextRow.id) > (row.position, row.id))
    return [_head(*row) for row in db.execute(query.order_by(TextRow.position, TextRow.id).limit(limit))]


def _head(
    id: int, title: str, group: str, split: str, sentences: int, dated: date | None, meta: Mapping[str, str]
) -> Head:
    return Head(id=id, title=title, group=group, split=split, sentences=sentences, dated=dated, meta=meta)
