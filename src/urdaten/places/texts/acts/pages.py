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
    no_sentence,
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


Page = list[tuple[Text, list[Sentence]]]


def page_of_sentences(
    db: Session,
    project_id: int,
    *,
    after: int | None,
    limit: int,
    split: str = "",
    only: Collection[int] | None = None,
) -> tuple[Page, bool]:
    """Sentences in reading order, by text: those after the sentence with this number; at most `limit`, and `only` those of
    these texts if they are given; and whether more follow. Raises NotFound for a sentence that is not there.
    """
    place = (TextRow.position, TextRow.id)
    query = select(TextRow.id, TextRow.sentences).where(TextRow.project_id == project_id)
    begun = begin = 0
    if after is not None:
        last = select(*place, SentenceRow.number).join(SentenceRow, SentenceRow.text_id == TextRow.id)
        found = db.execute(last.where(TextRow.project_id == project_id, SentenceRow.id == after)).first()
        if found is None:
            raise no_sentence(after)
        position, begun, number = found
        begin = number + 1
        query = query.where(tuple_(*place) >= (position, begun))
    if split:
        query = query.where(TextRow.split == split)
    if only is not None:
        query = query.where(among(TextRow.id, only))
    # One more than is wanted says whether more follow. Every text has a sentence, so as many texts are enough, and the
    # one that the last page ended in.
    left = limit + 1
    bounds: dict[int, int] = {}
    for text_id, count in db.execute(query.order_by(*place).limit(limit + 2)):
        if left == 0:
            break
        first = begin if text_id == begun else 0
        bounds[text_id] = min(count, first + left)
        left -= bounds[text_id] - first
    if not bounds:
        return [], False
    text_id, end = list(bounds.items())[-1]
    held = (
        select(SentenceRow)
        .where(among(SentenceRow.text_id, bounds))
        .where((SentenceRow.text_id != begun) | (SentenceRow.number >= begin))
        .where((SentenceRow.text_id != text_id) | (SentenceRow.number < end))
        .order_by(SentenceRow.number)
    )
    by_text: dict[int, list[Sentence]] = {number: [] for number in bounds}
    for row in db.scalars(held):
        by_text[row.text_id].append(sentence_of(row))
    if left == 0:
        by_text[text_id].pop()
    shown = [number for number, sentences in by_text.items() if sentences]
    texts = {row.id: text_of(row) for row in db.scalars(select(TextRow).where(among(TextRow.id, shown)))}
    return [(texts[number], by_text[number]) for number in shown], left == 0


def page_of_one(db: Session, text_id: int, *, after: int | None, limit: int) -> list[Sentence]:
    """Sentences of one text, those after the one of this number in it; at most `limit`."""
    query = select(SentenceRow).where(SentenceRow.text_id == text_id).order_by(SentenceRow.number)
    if after is not None:
        query = query.where(SentenceRow.number > after)
    return [sentence_of(row) for row in db.scalars(query.limit(limit))]
