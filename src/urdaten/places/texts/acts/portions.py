"""Some of a project's texts, however many, a portion at a time."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, timedelta

from sqlalchemy import ColumnElement, Select, String, Subquery, and_, cast, false, func, not_, select
from sqlalchemy.orm import InstrumentedAttribute, Session

from urdaten.errors import BadInput
from urdaten.places.texts.acts.reading import SPLITS, Text, read_texts
from urdaten.places.texts.acts.searching import conditions_of
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
    # What is looked for in title and body; see acts.searching.
    search: str = ""
    # May there be bodies of which the index of words does not know all? See acts.searching.
    any_long: bool = True
    # The file or address that it came from.
    source: str = ""
    # What its source says of it, by name.
    meta: Mapping[str, str] = field(default_factory=dict)
    # Of group, dated and source, those that it does not have.
    lacks: Collection[str] = ()
    # Queries of numbers of texts: it is among each.
    also: Sequence[Select[int]] = ()
    # Facets and values of them, as `with_facet` takes them, that it does not have.
    but: Sequence[tuple[str, str]] = ()


# What a text can be without.
LACKED: Mapping[str, ColumnElement[bool]] = {
    "group": TextRow.group == "",
    "dated": TextRow.dated.is_(None),
    "source": TextRow.source == "",
}


def in_portions(db: Session, project_id: int, which: Which) -> Iterator[list[Text]]:
    """Those texts in reading order, a portion at a time."""
    query = (
        select(TextRow.id, func.pg_column_size(TextRow.body))
        .where(TextRow.project_id == project_id, *conditions(which))
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


def numbers_of(project_id: int, which: Which) -> Select[int]:
    """For queries: the numbers of those texts."""
    return select(TextRow.id).where(TextRow.project_id == project_id, *conditions(which))


def sampled(db: Session, project_id: int, which: Which, most: int) -> Which:
    """Those texts, or where there are more a sample of so many: the same one whenever the same texts are meant."""
    query = numbers_of(project_id, which).order_by(func.md5(cast(TextRow.id, String)), TextRow.id)
    numbers = list(db.scalars(query.limit(most + 1)))
    return which if len(numbers) <= most else Which(only=numbers[:most])


def in_order_of(db: Session, project_id: int, which: Which) -> list[int]:
    """The numbers of those texts, in reading order."""
    return list(db.scalars(numbers_of(project_id, which).order_by(TextRow.position, TextRow.id)))


def told_of(project_id: int) -> Subquery:
    """For joins by other places: columns id, title, body, group, dated, split, position and meta of every text."""
    columns = (
        TextRow.id,
        TextRow.title,
        TextRow.body,
        TextRow.group,
        TextRow.dated,
        TextRow.split,
        TextRow.position,
        TextRow.meta,
    )
    return select(*columns).where(TextRow.project_id == project_id).subquery()


META = "meta:"


def with_facet(which: Which, facet: str, value: str) -> Which:
    """Those of these texts that have this value of a facet: split, group, source, month by its first day, or META and a name.

    "" stands for none. Raises BadInput for another facet, or a month that is none.
    """
    if facet == "split":
        return replace(which, splits=[split for split in which.splits if split == value])
    if facet.startswith(META):
        name = facet.removeprefix(META)
        return replace(which, meta={**which.meta, name: value})
    if facet == "group":
        return replace(which, group=value, lacks=[*which.lacks, *([] if value else [facet])])
    if facet == "source":
        return replace(which, source=value, lacks=[*which.lacks, *([] if value else [facet])])
    if facet != "month":
        raise BadInput(
            f"Texts are told apart by split, group, source, month or {META}NAME, not {facet!r}.", field="by"
        )
    if value == "":
        return replace(which, lacks=[*which.lacks, "dated"])
    try:
        first = date.fromisoformat(value).replace(day=1)
    except ValueError:
        raise BadInput(
            f"A month goes by its first day, such as 2026-03-01, not {value!r}.", field="one"
        ) from None
    last = (first + timedelta(days=31)).replace(day=1) - timedelta(days=1)
    return replace(
        which,
        since=max(first, which.since) if which.since else first,
        until=min(last, which.until) if which.until else last,
    )


def conditions(which: Which) -> Iterator[ColumnElement[bool]]:
    """For queries of texts: what has to hold of one."""
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
    if which.source:
        yield TextRow.source == which.source
    if which.meta:
        yield TextRow.meta.contains(dict(which.meta))
    for name in which.lacks:
        yield LACKED[name]
    for facet, value in which.but:
        yield not_(func.coalesce(and_(*conditions(with_facet(Which(), facet, value))), false()))
    for query in which.also:
        yield TextRow.id.in_(query)
    yield from conditions_of(which.search, any_long=which.any_long)


# What case folding makes of several signs, or of the end of one, where the database's own comparison knows one alone.
_SEVERAL = re.compile("s{2,}|[ßσς]+|^s|s$")


def may_have(column: InstrumentedAttribute[str] | ColumnElement[str], words: str) -> ColumnElement[bool]:
    """For queries: may these words stand in a text, whatever the case of both?

    True wherever case folding finds them, but for long s and ligatures; somewhat oftener too. Uses the index of words.
    """
    parts = _SEVERAL.split(words.casefold())
    escaped = (re.sub(r"([\\%_])", r"\\\1", part) for part in parts)
    return column.ilike(f"%{'%'.join(escaped)}%", escape="\\")
