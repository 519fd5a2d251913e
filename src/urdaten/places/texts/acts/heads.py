"""What is said of every text, without its body."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.places.texts.tables import TextRow


@dataclass(frozen=True, kw_only=True)
class Head:
    """A text without its body."""

    id: int
    title: str
    group: str
    split: str
    sentences: int


def heads(db: Session, project_id: int) -> list[Head]:
    """Of every text, in the order of their numbers."""
    query = select(TextRow.id, TextRow.title, TextRow.group, TextRow.split, TextRow.sentences)
    return [
        Head(id=number, title=title, group=group, split=split, sentences=sentences)
        for number, title, group, split, sentences in db.execute(
            query.where(TextRow.project_id == project_id).order_by(TextRow.id)
        )
    ]
