"""What texts are searched by: the words of each, as the database keeps them."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import String, bindparam, cast, select, update
from sqlalchemy.dialects.postgresql import TSVECTOR
from sqlalchemy.orm import Session

from urdaten.core.text import Batch, batch_of, index_words, word_lists
from urdaten.places.texts.tables import TextRow

# The database takes no longer words, and no more of them than come to a megabyte; words beyond are looked for in the body.
LONGEST_WORD, MOST_BYTES = 200, 500_000
_AT_ONCE = 1000


def searched_by(bodies: Batch, titles: Sequence[str]) -> list[str]:
    """For the database: of each text the words of its body and title."""
    made = [_written(bodies), _written(batch_of(titles))]
    return [" ".join(part for part in parts if part) for parts in zip(*made, strict=True)]


def _written(batch: Batch) -> list[str]:
    forms, lists = word_lists(batch)
    entries = [" ".join(map(_quoted, index_words(form))) for form in forms]
    written = []
    for numbers in lists:
        words = " ".join([entries[number] for number in numbers.tolist()])
        written.append(words if len(words) * 4 <= MOST_BYTES else _cut(words))
    return written


def _quoted(word: str) -> str:
    return "'" + word[:LONGEST_WORD].replace("\\", "\\\\").replace("'", "''") + "'"


def _cut(words: str) -> str:
    """As many of them as the database takes."""
    kept, size = [], 0
    for entry in words.split(" "):
        size += len(entry.encode()) + 1
        if size > MOST_BYTES:
            break
        kept.append(entry)
    return " ".join(kept)


def index_anew(db: Session, project_id: int) -> None:
    """Note by what texts are searched that came by another way than `add_texts`."""
    query = select(TextRow.id, TextRow.title, TextRow.body).where(TextRow.project_id == project_id)
    query = query.where(TextRow.words == cast("", TSVECTOR)).order_by(TextRow.id).limit(_AT_ONCE)
    last = 0
    while rows := db.execute(query.where(TextRow.id > last)).all():
        last = rows[-1].id
        words = searched_by(batch_of([row.body for row in rows]), [row.title for row in rows])
        told = [{"number": row.id, "told": one} for row, one in zip(rows, words, strict=True)]
        db.connection().execute(_NOTE, told)


_NOTE = (
    update(TextRow)
    .where(TextRow.id == bindparam("number"))
    .values(words=cast(bindparam("told", type_=String), TSVECTOR))
)
