"""Rows with everything that belongs to them, taken out of their tables and put back as they were.

What belongs to a row is what the database would delete along with it. Columns that name other rows keep their numbers; tables
whose `info` says that they are derived are left out, because what is in them is made anew.
"""

from __future__ import annotations

import json
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import Any

from sqlalchemy import ForeignKey, Table, delete, false, func, literal_column, or_, select, text
from sqlalchemy.orm import Session

from urdaten.platform.database import Base, among

# {"info": DERIVED} among a table's arguments.
DERIVED = {"derived": True}
Row = Mapping[str, Any]
# A row and what belongs to it, by table.
Packed = Mapping[str, Sequence[Row]]


def take_out(db: Session, table: Table, numbers: Collection[int]) -> dict[int, Packed]:
    """Rows of a table by their numbers, each with what belongs to it; they are gone from the database then."""
    packed: dict[int, dict[str, list[Row]]] = {number: {} for number in numbers}
    # By table and number, the row of the table that a row belongs to.
    owners: dict[str, dict[int, int]] = {table.name: {number: number for number in numbers}}
    for each, links in _belonging(table):
        above = [(link, owners[link.column.table.name]) for link in links]
        found = (
            among(each.c.id, numbers)
            if each is table
            else or_(false(), *(among(link.parent, held) for link, held in above))
        )
        row = func.to_jsonb(literal_column(_quoted(each.name)))
        query = select(row).select_from(each).where(found).order_by(*each.primary_key.columns)
        owners[each.name] = {}
        for values in db.scalars(query):
            owner = next(
                (held[values[link.parent.name]] for link, held in above if values[link.parent.name] in held),
                values.get("id"),
            )
            packed[owner].setdefault(each.name, []).append(values)
            if "id" in values:
                owners[each.name][values["id"]] = owner
    db.execute(delete(table).where(among(table.c.id, numbers)))
    return {number: rows for number, rows in packed.items() if rows}


def put_back(db: Session, table: Table, packed: Sequence[Packed]) -> None:
    """Rows with what belongs to them, as they were taken out. What named a row that is gone by now names none, or is gone with it."""
    for each, links in _belonging(table):
        if rows := [row for one in packed for row in one.get(each.name, ())]:
            db.execute(text(_putting(each, links)), {"rows": json.dumps(rows)})


def _putting(table: Table, links: Collection[ForeignKey]) -> str:
    values, wanted = [], []
    for one in table.columns:
        value = f"came.{_quoted(one.name)}"
        for key in one.foreign_keys - set(links):
            other, number = _quoted(key.column.table.name), _quoted(key.column.name)
            there = f"(SELECT {number} FROM {other} WHERE {other}.{number} = {value})"
            if one.nullable:
                value = there
            else:
                wanted.append(f"EXISTS {there}")
        values.append(value)
    names = ", ".join(_quoted(one.name) for one in table.columns)
    # Without its schema "text" would be the type of that name.
    came = f"jsonb_populate_recordset(NULL::public.{_quoted(table.name)}, CAST(:rows AS jsonb)) AS came"
    conditions = " AND ".join(wanted) or "true"
    # Names are those of our own tables.
    return f"INSERT INTO {_quoted(table.name)} ({names}) SELECT {', '.join(values)} FROM {came} WHERE {conditions}"


def _quoted(name: str) -> str:
    return f'"{name}"'


def _belonging(table: Table) -> Iterator[tuple[Table, list[ForeignKey]]]:
    """The table and those that belong to it, each with its links to tables before it."""
    taken = {table.name}
    yield table, []
    for other in Base.metadata.sorted_tables:
        if other is table or other.info.get("derived"):
            continue
        links = [
            key
            for key in sorted(other.foreign_keys, key=lambda key: key.parent.name)
            if key.ondelete == "CASCADE" and key.column.table.name in taken and key.column.table is not other
        ]
        if links:
            taken.add(other.name)
            yield other, links
