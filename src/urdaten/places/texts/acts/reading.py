"""Texts and their sentences, as they are read."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import (
    ARRAY,
    Select,
    String,
    any_,
    cast,
    select,
    tuple_,
)
from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.errors import NotFound
from urdaten.places.texts.tables import SentenceRow, TextRow
from urdaten.platform.database import among

SPLITS = ("train", "dev", "test", "none")


@dataclass(frozen=True, kw_only=True)
class TextDraft:
    """What is said of a text besides its body."""

    title: str
    group: str = ""
    dated: date | None = None
    split: str = "none"


@dataclass(frozen=True, kw_only=True)
class Text(TextDraft):
    """A text as other places see it."""

    id: int
    body: str
    position: int
    # How often its sentences have been cut anew; read before them, so that they are as new at least.
    cut: int
    version: int
    # What its source said of it besides, and where it came from.
    meta: Mapping[str, str]
    source: str
    place: str
    # Half-open bounds of what its writer quotes, and of signatures.
    aside: Sequence[tuple[int, int]]


@dataclass(frozen=True, kw_only=True)
class Sentence:
    """A sentence as other places see it; bounds are code points in its text's body."""

    id: int
    text_id: int
    number: int
    start: int
    end: int


def text_of(row: TextRow) -> Text:
    return Text(
        id=row.id,
        title=row.title,
        body=row.body,
        group=row.group,
        dated=row.dated,
        split=row.split,
        position=row.position,
        cut=row.cut,
        version=row.version,
        meta=row.meta,
        source=row.source,
        place=row.place,
        aside=[(start, end) for start, end in row.aside],
    )


def sentence_of(row: SentenceRow) -> Sentence:
    return Sentence(id=row.id, text_id=row.text_id, number=row.number, start=row.start, end=row.end)


def in_order(project_id: int) -> Select[TextRow]:
    return select(TextRow).where(TextRow.project_id == project_id).order_by(TextRow.position, TextRow.id)


def own_row(db: Session, project_id: int, text_id: int, *, to_change: bool = False) -> TextRow:
    row = db.get(TextRow, text_id, with_for_update=to_change or None)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no text {text_id} in this project; it may have been removed.")
    return row


def read_text(db: Session, project_id: int, text_id: int) -> Text:
    return text_of(own_row(db, project_id, text_id))


def read_texts(db: Session, project_id: int, numbers: Iterable[int]) -> list[Text]:
    """Those of these texts that the project has, in reading order."""
    return [text_of(row) for row in db.scalars(in_order(project_id).where(among(TextRow.id, numbers)))]


def read_from_sources(
    db: Session, project_id: int, sources: Iterable[str], numbers: Iterable[int]
) -> list[Text]:
    """Those of these texts that came from one of these files or addresses, in reading order."""
    query = in_order(project_id).where(among(TextRow.id, numbers))
    named = cast(list(sources), ARRAY(String))
    return [text_of(row) for row in db.scalars(query.where(TextRow.source == any_(named)))]


def any_from_source(db: Session, project_id: int, numbers: Iterable[int]) -> bool:
    """Did any of these texts come from a file or address?"""
    query = select(TextRow.id).where(TextRow.project_id == project_id, TextRow.source != "")
    return db.scalar(query.where(among(TextRow.id, numbers)).limit(1)) is not None


def all_texts(db: Session, project_id: int, splits: Iterable[str] = SPLITS) -> list[Text]:
    """Every text of the given splits, in reading order."""
    return [text_of(row) for row in db.scalars(in_order(project_id).where(TextRow.split.in_(list(splits))))]


def texts_of_groups(db: Session, project_id: int, groups: Iterable[str]) -> list[Text]:
    """Every text of the given groups, in reading order."""
    return [text_of(row) for row in db.scalars(in_order(project_id).where(TextRow.group.in_(list(groups))))]


def texts_from(db: Session, project_id: int, first: Text) -> Iterator[Text]:
    """A text, and the later ones of its group in reading order, some at a time."""
    yield first
    if first.group:
        later = tuple_(TextRow.position, TextRow.id) > (first.position, first.id)
        query = in_order(project_id).where(TextRow.group == first.group, later)
        with db.scalars(query.execution_options(yield_per=20)) as rows:
            yield from map(text_of, rows)


def first_texts(
    db: Session, project_id: int, signs: int, splits: Iterable[str] = SPLITS
) -> tuple[list[Text], bool]:
    """The first texts of the given splits in reading order, until they come to so many code points; and whether these are all."""
    taken: list[Text] = []
    query = in_order(project_id).where(TextRow.split.in_(list(splits)))
    with db.scalars(query.execution_options(yield_per=100)) as rows:
        for row in rows:
            if signs <= 0:
                return taken, False
            taken.append(text_of(row))
            signs -= len(row.body)
    return taken, True


def sentences_of(db: Session, text_ids: Iterable[int]) -> dict[int, list[Sentence]]:
    """Sentences of each text, in order."""
    found: dict[int, list[Sentence]] = {text_id: [] for text_id in text_ids}
    # Columns, not rows of the mapper: there are thousands.
    query = (
        select(SentenceRow.id, SentenceRow.text_id, SentenceRow.number, SentenceRow.start, SentenceRow.end)
        .where(among(SentenceRow.text_id, found))
        .order_by(SentenceRow.text_id, SentenceRow.number)
    )
    for number, text_id, at, start, end in db.execute(query):
        found[text_id].append(Sentence(id=number, text_id=text_id, number=at, start=start, end=end))
    return found


def sentences_by_text(
    db: Session, sentence_ids: Iterable[int], project_id: int | None = None
) -> list[tuple[Text, list[Sentence]]]:
    """The sentences with these numbers, by text in reading order; given a project, those of others are left out."""
    query = select(SentenceRow).where(among(SentenceRow.id, sentence_ids)).order_by(SentenceRow.number)
    found: dict[int, list[Sentence]] = {}
    for sentence in db.scalars(query):
        found.setdefault(sentence.text_id, []).append(sentence_of(sentence))
    # Bodies come once each: beside every sentence of a long text they would fill the memory.
    holders = select(TextRow).where(among(TextRow.id, found)).order_by(TextRow.position, TextRow.id)
    if project_id is not None:
        holders = holders.where(TextRow.project_id == project_id)
    return [(text_of(text), found[text.id]) for text in db.scalars(holders)]


def read_sentence(db: Session, project_id: int, sentence_id: int) -> tuple[Text, Sentence]:
    """A sentence with its text. Raises NotFound."""
    row = db.get(SentenceRow, sentence_id)
    if row is None:
        raise no_sentence(sentence_id)
    return read_text(db, project_id, row.text_id), sentence_of(row)


def no_sentence(sentence_id: int) -> NotFound:
    """What is said of a sentence that is not there."""
    return NotFound(f"There is no sentence {sentence_id}; its text may have been removed.")


def within(spans: Sequence[Span], sentence: Sentence) -> list[Span]:
    """Spans that lie in a sentence as a whole."""
    return [span for span in spans if sentence.start <= span.start and span.end <= sentence.end]


def by_sentence(spans: Iterable[Span], sentences: Sequence[Sentence]) -> dict[int, list[Span]]:
    """Spans of a text by the sentence that they lie in as a whole; the sentences are given in order."""
    found: dict[int, list[Span]] = {sentence.id: [] for sentence in sentences}
    starts = [sentence.start for sentence in sentences]
    for span in spans:
        at = bisect_right(starts, span.start) - 1
        if at >= 0 and span.end <= sentences[at].end:
            found[sentences[at].id].append(span)
    return found
