"""How texts spread over what is said of them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy import ColumnElement, Date, cast, func, select, true
from sqlalchemy.orm import InstrumentedAttribute, Session

from urdaten.errors import BadInput
from urdaten.places.texts.acts.portions import META, Which, conditions
from urdaten.places.texts.tables import TextRow

# Months go by their first day.
FACETS: Mapping[str, ColumnElement[Any] | InstrumentedAttribute[Any]] = {
    "split": TextRow.split,
    "group": TextRow.group,
    "source": TextRow.source,
    "month": func.coalesce(
        func.to_char(func.date_trunc("month", cast(TextRow.dated, Date)), "YYYY-MM-DD"), ""
    ),
}


def count_which(db: Session, project_id: int, which: Which) -> int:
    """How many texts these are."""
    query = select(func.count()).select_from(TextRow)
    return db.scalar(query.where(TextRow.project_id == project_id, *conditions(which))) or 0


def count_by(db: Session, project_id: int, which: Which, of: str, limit: int) -> list[tuple[str, int]]:
    """How many of these texts have each value of a facet, the most frequent ones first; "" stands for those without one.

    of: one of FACETS, or META and the name of what a source says. Raises BadInput for another.
    """
    if of.startswith(META):
        value: ColumnElement[Any] | InstrumentedAttribute[Any] = TextRow.meta[of.removeprefix(META)].astext
        found = [TextRow.meta.has_key(of.removeprefix(META))]
    elif of in FACETS:
        value, found = FACETS[of], []
    else:
        raise BadInput(f"There is no facet {of!r}; there are {', '.join(FACETS)} and {META}NAME.", field="of")
    count = func.count()
    query = (
        select(value, count)
        .where(TextRow.project_id == project_id, *found, *conditions(which))
        .group_by(value)
        .order_by(count.desc(), value)
        .limit(limit)
    )
    return [(name, number) for name, number in db.execute(query)]


def meta_names(db: Session, project_id: int, limit: int) -> list[str]:
    """Names of what sources say of texts, by how many have them."""
    name = func.jsonb_object_keys(TextRow.meta).table_valued("name", name="key")
    count = func.count()
    query = (
        select(name.c.name, count)
        .select_from(TextRow)
        .join(name, true())
        .where(TextRow.project_id == project_id, TextRow.meta != {})
        .group_by(name.c.name)
        .order_by(count.desc(), name.c.name)
        .limit(limit)
    )
    return [found for found, _ in db.execute(query)]
