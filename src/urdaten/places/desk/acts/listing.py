"""Which sentences of a project are gone through, a window at a time: however long the queue is, no more of it is read
than is shown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import ColumnElement, Select, Subquery, func, select, tuple_
from sqlalchemy.orm import Session

from urdaten.places.desk.acts.annotation import SIGNED
from urdaten.places.desk.acts.layers import gold_of
from urdaten.places.desk.tables import AnnotationRow, QuestionRow, RoundTextRow, TallyRow
from urdaten.places.texts import acts as texts
from urdaten.platform.database import among

# All of them, those that are not signed, or those with a question to the lead that has no answer.
Show = Literal["all", "open", "asked"]


@dataclass(frozen=True, kw_only=True)
class Portion:
    """Which sentences: of one split or of all ("") , of one round or of any (None), and which of those are shown."""

    split: str = ""
    round_id: int | None = None
    show: Show = "all"


@dataclass(frozen=True)
class _Place:
    """Where a sentence stands in reading order."""

    position: int
    text_id: int
    number: int


def is_listed(db: Session, project_id: int, portion: Portion, sentence_id: int) -> bool:
    """Does the sentence stand in a text of this portion, whether it is shown or not?"""
    index = texts.text_index(project_id)
    held = texts.sentence_index(project_id)
    query = select(held.c.id).join(index, index.c.id == held.c.text_id).where(held.c.id == sentence_id)
    return db.scalar(query.where(*_of_portion(index, portion))) is not None


def window(
    db: Session, project_id: int, portion: Portion, beside: int | None, limit: int, *, back: bool = False
) -> list[int]:
    """At most `limit` sentences in reading order after the one that is given, or `back` from it; without one from the
    beginning. What comes back is in reading order too. Raises NotFound for a sentence that is not there.
    """
    if limit <= 0:
        return []
    place = None if beside is None else _place_of(db, project_id, beside)
    bounds = _texts_of(db, project_id, portion, place, limit, back=back)
    held = texts.sentence_index(project_id)
    query = select(held.c.id).where(among(held.c.text_id, bounds), *_shown(held, project_id, portion.show))
    if place is not None:
        beyond = held.c.number < place.number if back else held.c.number > place.number
        query = query.where((held.c.text_id != place.text_id) | beyond)
    order: Sequence[ColumnElement[int]] = (held.c.position, held.c.text_id, held.c.number)
    query = query.order_by(*(column.desc() for column in order) if back else order).limit(limit)
    found = list(db.scalars(query))
    return found[::-1] if back else found


def texts_listed(db: Session, project_id: int, portion: Portion) -> list[int]:
    """The texts that have a sentence of this portion, in reading order."""
    query, _ = _with_listed(project_id, portion)
    return [text for text, _ in db.execute(query)]


def shown_among(db: Session, project_id: int, show: Show, sentence_ids: Sequence[int]) -> set[int]:
    """Those of these sentences that are shown."""
    if show == "all":
        return set(sentence_ids)
    held = texts.sentence_index(project_id)
    query = select(held.c.id).where(among(held.c.id, sentence_ids), *_shown(held, project_id, show))
    return set(db.scalars(query))


def _place_of(db: Session, project_id: int, sentence_id: int) -> _Place:
    held = texts.sentence_index(project_id)
    query = select(held.c.position, held.c.text_id, held.c.number).where(held.c.id == sentence_id)
    found = db.execute(query).first()
    if found is None:
        raise texts.no_sentence(sentence_id)
    return _Place(*found)


def _of_portion(index: Subquery, portion: Portion) -> list[ColumnElement[bool]]:
    wanted: list[ColumnElement[bool]] = [index.c.split == portion.split] if portion.split else []
    if portion.round_id is not None:
        own = select(RoundTextRow.text_id).where(RoundTextRow.round_id == portion.round_id)
        wanted.append(index.c.id.in_(own))
    return wanted


def _with_listed(project_id: int, portion: Portion) -> tuple[Select[Any], Subquery]:
    """Texts in reading order with how many of their sentences are shown, those with none left out."""
    index = texts.text_index(project_id)
    count: ColumnElement[int] = index.c.sentences
    if portion.show != "all":
        # Looked up text by text: joined to sums of all, a plan that takes minutes is sometimes chosen.
        what = TallyRow.signed if portion.show == "open" else TallyRow.asked
        counted = select(func.coalesce(func.sum(what), 0)).where(TallyRow.text_id == index.c.id)
        summed = counted.scalar_subquery()
        count = index.c.sentences - summed if portion.show == "open" else summed
    query = select(index.c.id, count).where(count > 0, *_of_portion(index, portion))
    return query.order_by(index.c.position, index.c.id), index


def _texts_of(
    db: Session, project_id: int, portion: Portion, place: _Place | None, limit: int, *, back: bool
) -> list[int]:
    """As many texts as hold so many sentences that are shown; the one of the place may have none left beyond it."""
    query, index = _with_listed(project_id, portion)
    key = (index.c.position, index.c.id)
    if back:
        query = query.order_by(None).order_by(*(column.desc() for column in key))
    if place is not None:
        here = (place.position, place.text_id)
        query = query.where(tuple_(*key) <= here if back else tuple_(*key) >= here)
    found: list[int] = []
    left = limit
    for text, count in db.execute(query.limit(limit + 1)):
        if left <= 0:
            break
        found.append(text)
        left -= count if place is None or text != place.text_id else 0
    return found


def _shown(held: Subquery, project_id: int, show: Show) -> list[ColumnElement[bool]]:
    if show == "all":
        return []
    stands = select(AnnotationRow.id).where(
        AnnotationRow.sentence_id == held.c.id, AnnotationRow.layer_id == gold_of(project_id)
    )
    if show == "open":
        return [~stands.where(AnnotationRow.state == SIGNED).exists()]
    asked = stands.join(QuestionRow, QuestionRow.annotation_id == AnnotationRow.id)
    return [asked.where(QuestionRow.words != "", QuestionRow.answer == "").exists()]
