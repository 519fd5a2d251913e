"""Reading records: page by page in any order, what there is to look at, and the values that fields have."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, and_, func, literal, or_, select, true
from sqlalchemy.orm import Session

from urdaten.errors import BadInput, NotFound
from urdaten.places.records.acts.keeping import LOOKS, told_values
from urdaten.places.records.acts.templates import REFUSED, SIGNED, StoredTemplate, read_template
from urdaten.places.records.tables import RecordRow
from urdaten.places.texts import acts as texts

# So many records are read at once when all are.
AT_ONCE = 1000
MOST_VALUES = 12


@dataclass(frozen=True, kw_only=True)
class StoredRecord:
    """A record as other places see it."""

    id: int
    text_id: int
    text_title: str
    values: dict[str, list[dict[str, Any]]]
    parts: dict[str, list[dict[str, Any]]]
    rivals: list[dict[str, Any]]
    missing: list[str]
    looks: list[str]
    probability: float | None
    state: str
    signed_by: int | None
    signed_at: datetime | None
    differs: dict[str, list[str]]

    @property
    def told(self) -> dict[str, str]:
        """Each field's value."""
        return told_values(self.values)


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """Which records, and in which order."""

    # One of LOOKS, or "".
    look: str = ""
    # A field that has this value.
    field: str = ""
    value: str = ""
    unsigned: bool = False
    # A field, or "" for reading order.
    sort: str = ""
    down: bool = False


ALL = Wanted()


def page_of_records(
    db: Session, project_id: int, template_id: int, *, after: int | None, limit: int, wanted: Wanted = ALL
) -> list[StoredRecord]:
    """Records in order, those after the record with this number; at most `limit`. Raises NotFound where that is gone."""
    stored = read_template(db, project_id, template_id)
    index = texts.text_index(project_id)
    key = _sort_key(stored, wanted.sort)
    place: list[Any] = [index.c.position, RecordRow.text_id, RecordRow.position, RecordRow.id]
    query = (
        select(RecordRow, index.c.title)
        .join(index, index.c.id == RecordRow.text_id)
        .where(_chosen(stored, wanted))
    )
    if after is not None:
        last = db.execute(
            select(key, *place).join(index, index.c.id == RecordRow.text_id).where(RecordRow.id == after)
        ).first()
        if last is None:
            raise NotFound("These records have been assembled anew; begin at the first page.")
        query = query.where(_behind(key, place, tuple(last), down=wanted.down))
    order = key.desc() if wanted.down else key
    query = query.order_by(order, *place).limit(limit)
    return [_record(row, title) for row, title in db.execute(query)]


def _behind(
    key: ColumnElement[Any], place: list[Any], last: tuple[Any, ...], *, down: bool
) -> ColumnElement[bool]:
    """What comes after a record in an order by a key, then by its place."""
    first = key < last[0] if down else key > last[0]
    rest: ColumnElement[bool] = literal(False)
    for k in range(len(place) - 1, -1, -1):
        rest = or_(place[k] > last[k + 1], and_(place[k] == last[k + 1], rest))
    return or_(first, and_(key == last[0], rest))


def _sort_key(stored: StoredTemplate, name: str) -> ColumnElement[Any]:
    if not name:
        return literal("")
    stored.template.field_called(name)
    told = RecordRow.values[name][0]["sort"].astext
    return func.coalesce(told, "").collate("C")


def _chosen(stored: StoredTemplate, wanted: Wanted) -> ColumnElement[bool]:
    chosen = and_(RecordRow.template_id == stored.id, RecordRow.state != REFUSED)
    if wanted.look:
        if wanted.look not in LOOKS:
            raise BadInput(f"What there is to look at is one of {', '.join(LOOKS)}.", field="look")
        chosen = and_(chosen, RecordRow.looks.contains([wanted.look]))
    if wanted.field:
        stored.template.field_called(wanted.field)
        chosen = and_(chosen, RecordRow.values.contains({wanted.field: [{"text": wanted.value}]}))
    if wanted.unsigned:
        chosen = and_(chosen, RecordRow.state != SIGNED)
    return chosen


def all_records(db: Session, project_id: int, template_id: int) -> Iterator[StoredRecord]:
    """Every record in reading order, some at a time."""
    stored = read_template(db, project_id, template_id)
    index = texts.text_index(project_id)
    query = (
        select(RecordRow, index.c.title)
        .join(index, index.c.id == RecordRow.text_id)
        .where(_chosen(stored, ALL))
        .order_by(index.c.position, RecordRow.text_id, RecordRow.position, RecordRow.id)
    )
    for row, title in db.execute(query.execution_options(yield_per=AT_ONCE)):
        yield _record(row, title)


def _record(row: RecordRow, title: str) -> StoredRecord:
    return StoredRecord(
        id=row.id,
        text_id=row.text_id,
        text_title=title,
        values=row.values,
        parts=row.parts,
        rivals=row.rivals,
        missing=row.missing,
        looks=row.looks,
        probability=row.probability,
        state=row.state,
        signed_by=row.signed_by,
        signed_at=row.signed_at,
        differs=row.differs,
    )


def read_record(db: Session, project_id: int, record_id: int) -> tuple[StoredTemplate, StoredRecord]:
    row = db.get(RecordRow, record_id)
    if row is None:
        raise NotFound("This record is gone: the records have been assembled anew. Choose it again.")
    template = read_template(db, project_id, row.template_id)
    return template, _record(row, texts.read_text(db, project_id, row.text_id).title)


def records_of_text(db: Session, template_id: int, text_id: int) -> list[StoredRecord]:
    """A text's records by one template, in its order, without those that were turned down."""
    rows = db.scalars(
        select(RecordRow)
        .where(RecordRow.template_id == template_id, RecordRow.text_id == text_id, RecordRow.state != REFUSED)
        .order_by(RecordRow.position, RecordRow.id)
    )
    return [_record(row, "") for row in rows]


def count_looks(db: Session, template_id: int) -> dict[str, int]:
    """How many records there is something to look at in, by what; in the order of LOOKS, what is in none left out."""
    each = func.jsonb_array_elements_text(RecordRow.looks).table_valued("value").lateral("look")
    query = (
        select(each.c.value, func.count())
        .select_from(RecordRow)
        .join(each, true())
        .where(RecordRow.template_id == template_id, RecordRow.state != REFUSED)
        .group_by(each.c.value)
    )
    found: dict[str, int] = {row[0]: row[1] for row in db.execute(query)}
    return {name: found[name] for name in LOOKS if name in found}


def count_values(db: Session, template_id: int, name: str) -> list[tuple[str, int]]:
    """The values that a field has most often, and in how many records."""
    each = func.jsonb_array_elements(RecordRow.values[name]).table_valued("value").lateral("one")
    text = each.c.value.op("->>")("text")
    query = (
        select(text, func.count())
        .select_from(RecordRow)
        .join(each, true())
        .where(
            RecordRow.template_id == template_id,
            RecordRow.state != REFUSED,
            func.jsonb_typeof(RecordRow.values[name]) == "array",
        )
        .group_by(text)
        .order_by(func.count().desc(), text)
        .limit(MOST_VALUES)
    )
    found: list[tuple[str, int]] = [(row[0], row[1]) for row in db.execute(query)]
    return found
