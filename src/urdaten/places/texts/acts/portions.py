"""Some of a project's texts, however many, a portion at a time."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import InstrumentedAttribute, Session

from urdaten.places.texts.acts.reading import SPLITS, Text, read_texts
from urdaten.places.texts.tables import TextRow
from urdaten.platform.database import among

# A portion has no more texts than this, and ends with the one that brings its bodies, as they are stored, to so many bytes.
TEXTS_AT_ONCE = 500
BYTES_AT_ONCE = 2_000_000


@dataclass(frozen=True, kw_only=True)
class Which:
    """Which texts are meant: everything that is said has to hold, and what is empty says nothing."""

    splits: Sequence[str] = SPLITS
    only: Collection[int] | None = None
    # May stand in the body, whatever its case: what is left out does not have them.
    words: str = ""
    # Stands in the title, whatever its case.
    title: str = ""
    group: str = ""
    # Bounds of the date, both included; a text without a date is out of any bounds.
    since: date | None = None
    until: date | None = None


def in_portions(db: Session, project_id: int, which: Which) -> Iterator[list[Text]]:
    """Those texts in reading order, a portion at a time."""
    query = (
        select(TextRow.id, func.pg_column_size(TextRow.body))
        .where(TextRow.project_id == project_id, *_conditions(which))
        .order_by(TextRow.position, TextRow.id)
    )
    portion: list[int] = []
    size = 0
    for number, stored in db.execute(query).all():
        portion.append(number)
        size += stored
        if len(portion) == TEXTS_AT_ONCE or size >= BYTES_AT_ONCE:
            yield read_texts(db, project_id, portion)
            portion, size = [], 0
    if portion:
        yield read_texts(db, project_id, portion)


def _conditions(which: Which) -> Iterator[ColumnElement[bool]]:
    if set(which.splits) != set(SPLITS):
        yield TextRow.split.in_(list(which.splits))
    if which.only is not None:
        yield among(TextRow.id, which.only)
    if which.words:
        yield may_have(TextRow.body, which.words)
    if which.title:
        yield TextRow.title.icontains(which.title, autoescape=True)
    if which.group:
        yield TextRow.group == which.group
    if which.since:
        yield TextRow.dated >= which.since
    if which.until:
        yield TextRow.dated <= which.until


# What case folding makes of several signs, or of the end of one, where the database's own comparison knows one alone.
_SEVERAL = re.compile("s{2,}|[ßσς]+|^s|s$")


def may_have(column: InstrumentedAttribute[str] | ColumnElement[str], words: str) -> ColumnElement[bool]:
    """For queries: may these words stand in a text, whatever the case of both?

    True wherever case folding finds them, but for long s and ligatures; somewhat oftener too. Uses the index of words.
    """
    parts = _SEVERAL.split(words.casefold())
    escaped = (re.sub(r"([\\%_])", r"\\\1", part) for part in parts)
    return column.ilike(f"%{'%'.join(escaped)}%", escape="\\")
