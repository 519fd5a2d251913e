"""How many texts and sentences there are, and which: for figures, and for joins by other places."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from sqlalchemy import (
    BindParameter,
    Subquery,
    func,
    select,
)
from sqlalchemy.orm import Session

from urdaten.places.texts.tables import SentenceRow, TextRow
from urdaten.platform.database import among


def count_texts(db: Session, project_id: int) -> int:
    return db.scalar(select(func.count()).where(TextRow.project_id == project_id)) or 0


def count_sentences(db: Session, text_id: int) -> int:
    return db.scalar(select(func.count()).where(SentenceRow.text_id == text_id)) or 0


def lengths(db: Session, text_ids: Collection[int]) -> dict[int, int]:
    """How many sentences each of these texts has."""
    query = select(TextRow.id, TextRow.sentences).where(among(TextRow.id, text_ids))
    return {number: count for number, count in db.execute(query)}


def group_sizes(db: Session, project_id: int) -> dict[str, int]:
    """How many texts each named group has."""
    query = select(TextRow.group, func.count()).where(TextRow.project_id == project_id, TextRow.group != "")
    return {group: count for group, count in db.execute(query.group_by(TextRow.group))}


def sizes(db: Session, project_ids: Iterable[int]) -> dict[int, tuple[int, int]]:
    """How many texts and sentences each project has; empty ones are absent."""
    query = select(TextRow.project_id, func.count(), func.sum(TextRow.sentences)).where(
        among(TextRow.project_id, project_ids)
    )
    return {number: (count, total) for number, count, total in db.execute(query.group_by(TextRow.project_id))}


def sentences_there(db: Session, project_id: int, sentence_ids: Iterable[int]) -> set[int]:
    """Which of these sentences the project still has."""
    query = select(SentenceRow.id).join(TextRow, TextRow.id == SentenceRow.text_id)
    return set(db.scalars(query.where(TextRow.project_id == project_id, among(SentenceRow.id, sentence_ids))))


def in_reading_order(db: Session, project_id: int, sentence_ids: Collection[int]) -> list[int]:
    """Those of these sentences that the project has, in reading order."""
    query = select(SentenceRow.id).join(TextRow, TextRow.id == SentenceRow.text_id)
    query = query.where(TextRow.project_id == project_id, among(SentenceRow.id, sentence_ids))
    return list(db.scalars(query.order_by(TextRow.position, TextRow.id, SentenceRow.number)))


def sentence_index(project_id: int | BindParameter[int]) -> Subquery:
    """For joins by other places: every sentence of a project.

    Columns: id, text_id, number in its text, position of its text, split.
    """
    return (
        select(SentenceRow.id, SentenceRow.text_id, SentenceRow.number, TextRow.position, TextRow.split)
        .join(TextRow, TextRow.id == SentenceRow.text_id)
        .where(TextRow.project_id == project_id)
        .subquery()
    )


def bare_sentences() -> Subquery:
    """For joins by other places, by text: columns id, text_id, number, start and end of sentences of any project."""
    columns = (
        SentenceRow.id,
        SentenceRow.text_id,
        SentenceRow.number,
        SentenceRow.start,
        SentenceRow.end,
    )
    return select(*columns).subquery()


def body_index(project_id: int) -> Subquery:
    """For joins by other places: every sentence's id, its text_id and its text's body."""
    return (
        select(SentenceRow.id, SentenceRow.text_id, TextRow.body)
        .join(TextRow, TextRow.id == SentenceRow.text_id)
        .where(TextRow.project_id == project_id)
        .subquery()
    )


def text_index(project_id: int) -> Subquery:
    """For joins by other places: columns id, title, position, split, group, sentences and cut of every text of a
    project."""
    columns = (
        TextRow.id,
        TextRow.title,
        TextRow.position,
        TextRow.split,
        TextRow.group,
        TextRow.sentences,
        TextRow.cut,
    )
    return select(*columns).where(TextRow.project_id == project_id).subquery()


def members_of(db: Session, project_id: int, groups: Collection[str]) -> dict[str, list[int]]:
    """The numbers of the texts of each of these groups, ascending."""
    found: dict[str, list[int]] = {}
    query = select(TextRow.group, TextRow.id).where(TextRow.project_id == project_id)
    for group, number in db.execute(query.where(TextRow.group.in_(groups)).order_by(TextRow.id)):
        found.setdefault(group, []).append(number)
    return found


def numbers_by_group(db: Session, project_id: int) -> list[tuple[int, str]]:
    """Number and group of every text, by group."""
    query = select(TextRow.id, TextRow.group).where(TextRow.project_id == project_id)
    return [(number, group) for number, group in db.execute(query.order_by(TextRow.group, TextRow.id))]


def hold(db: Session, numbers: Iterable[int]) -> set[int]:
    """Those of these texts that are there and stay until this transaction ends. Nobody is waited for: a text that somebody
    is about to remove is left out."""
    query = select(TextRow.id).where(among(TextRow.id, numbers)).order_by(TextRow.id)
    return set(db.scalars(query.with_for_update(read=True, key_share=True, skip_locked=True)))


def sentence_alone(sentence_id: BindParameter[int], project_id: BindParameter[int]) -> Subquery:
    """For queries: columns id, text_id, number, start, end and words of a sentence, if the project has it."""
    words = func.substr(TextRow.body, SentenceRow.start + 1, SentenceRow.end - SentenceRow.start)
    return (
        select(
            SentenceRow.id,
            SentenceRow.text_id,
            SentenceRow.number,
            SentenceRow.start,
            SentenceRow.end,
            words.label("words"),
        )
        .join(TextRow, TextRow.id == SentenceRow.text_id)
        .where(SentenceRow.id == sentence_id, TextRow.project_id == project_id)
        .subquery()
    )


def sentence_numbers(
    db: Session, project_id: int, splits: Collection[str], only: Collection[int] | None = None
) -> list[int]:
    """Of every sentence of these splits, and `only` of these texts if they are given."""
    query = select(SentenceRow.id).join(TextRow, TextRow.id == SentenceRow.text_id)
    query = query.where(TextRow.project_id == project_id, TextRow.split.in_(splits))
    if only is not None:
        query = query.where(among(TextRow.id, only))
    return list(db.scalars(query))
