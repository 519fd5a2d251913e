"""Texts cut into tokens."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

from sqlalchemy import (
    select,
)
from sqlalchemy.orm import Session

from urdaten.core.text import Analysis, Batch, analyse
from urdaten.core.text import batch_of as make_batch
from urdaten.places.texts.acts.reading import Text
from urdaten.places.texts.tables import SentenceRow
from urdaten.platform.database import among


@dataclass(frozen=True)
class Token:
    """Half-open code point bounds of a token in its text's body."""

    start: int
    end: int


def tokens_between(text: Text, language: str, start: int, end: int) -> list[Token]:
    """Tokens of a text that lie within [start, end)."""
    return _tokens(analysis_of(text.body, language), start, end)


def tokens_of(words: str, language: str) -> list[Token]:
    """Tokens of words that are in no text."""
    return _tokens(analyse(words, language), 0, len(words))


def _tokens(analysis: Analysis, start: int, end: int) -> list[Token]:
    first, last = analysis.token_range(start, end)
    pairs = zip(analysis.start[first:last].tolist(), analysis.end[first:last].tolist(), strict=True)
    return [Token(a, b) for a, b in pairs]


@dataclass(frozen=True)
class Run:
    """Words one after the other, and where each begins and ends in its text's body."""

    words: list[str]
    starts: list[int]
    ends: list[int]


def words_of(text: Text, language: str, bounds: Sequence[tuple[int, int]]) -> Iterator[Run]:
    """The words of a text that lie within each [start, end)."""
    return runs_of(text, analysis_of(text.body, language), bounds)


def runs_of(text: Text, analysis: Analysis, bounds: Sequence[tuple[int, int]]) -> Iterator[Run]:
    """As words_of, of a text that has been analysed."""
    columns = analysis.token_ranges([start for start, _ in bounds], [end for _, end in bounds])
    for first, last in zip(*(column.tolist() for column in columns), strict=True):
        starts, ends = analysis.start[first:last].tolist(), analysis.end[first:last].tolist()
        yield Run([text.body[a:b] for a, b in zip(starts, ends, strict=True)], starts, ends)


@lru_cache(maxsize=4096)
def analysis_of(body: str, language: str) -> Analysis:
    """Tokens of a body, which never changes, so they are kept. For its sentences ask batch_of."""
    return analyse(body, language)


def batch_of(db: Session, texts: Sequence[Text], language: str) -> Batch:
    """Texts as a batch, in the sentences that they were split into when they were added.

    What lies between these and holds words is a sentence of its own, so that nothing is found over its bounds.
    """
    query = (
        select(SentenceRow.text_id, SentenceRow.start, SentenceRow.end)
        .where(among(SentenceRow.text_id, (text.id for text in texts)))
        .order_by(SentenceRow.text_id, SentenceRow.number)
    )
    bounds: dict[int, list[tuple[int, int]]] = {}
    for text_id, start, end in db.execute(query):
        bounds.setdefault(text_id, []).append((start, end))
    starts = [_starts(text.body, bounds[text.id]) for text in texts]
    return make_batch([text.body for text in texts], language).with_sentences(starts)


def _starts(body: str, sentences: Sequence[tuple[int, int]]) -> list[int]:
    made: list[int] = []
    at = 0
    for start, end in sentences:
        if start > at and not body[at:start].isspace():
            made.append(at)
        made.append(start)
        at = end
    if at < len(body) and not body[at:].isspace():
        made.append(at)
    return made
