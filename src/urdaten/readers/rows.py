"""Rows with named values to documents: what each column or field is for, found out or said."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import islice
from statistics import mean

from urdaten.errors import BadFile
from urdaten.readers.dates import day_of
from urdaten.readers.document import MOST_SHOWN, ROLES, Column, Document, How, Refusal, text_meta

# So many rows are looked at to find out what columns are for.
LOOKED_AT = 200
_SHOWN = 3
_LONGEST_VALUE = 200
_NAMED = {
    "body": r"text|body|content|contents|message|remarks?|comment|description|note|notes|abstract|sentence|inhalt|bemerkung|nachricht",
    "title": r"title|subject|headline|heading|name|titel|betreff",
    "date": r"date|dated|day|datum|time|timestamp|created|created_at|sent|received|published",
    "group": r"group|thread|topic|category|folder|week|conversation|gruppe|thema",
    "split": r"split|partition|subset",
    "id": r"id|no|nr|number|key|uid|ref",
}
_SPLITS = {"train", "dev", "test", "none"}

# The values of a row by column, with where it stands.
Row = tuple[str, Mapping[str, str]]


def columns_of(names: Sequence[str], rows: Sequence[Mapping[str, str]], how: How) -> list[Column]:
    """What each column is for: as was said, or else by its name and values. One of them is the body.

    What is said of a column that is not there is said of another file's. Raises BadFile for a role that there is not, and for
    columns of which none can be the body.
    """
    for role in how.roles.values():
        if role not in ROLES:
            raise BadFile(f"A column is for one of {', '.join(ROLES)}, not {role!r}.")
    values = {name: [row[name] for row in rows if row.get(name, "").strip()] for name in names}
    roles = {name: role for name, role in how.roles.items() if name in names}
    taken = set(roles.values())
    open_ = [name for name in names if name not in roles]
    if "body" not in taken:
        roles |= dict.fromkeys(_bodies(open_, values)[:1], "body")
    for role in ("title", "date", "group", "split", "id"):
        if role not in taken:
            fits = (name for name in open_ if name not in roles and _fits(role, name, values[name], how))
            roles |= dict.fromkeys(islice(fits, 1), role)
    if "body" not in roles.values():
        raise BadFile("No column holds texts; say which one does.")
    return [
        Column(
            name=name,
            role=roles.get(name, "meta"),
            values=tuple(value[:_LONGEST_VALUE] for value in values[name][:_SHOWN]),
        )
        for name in names
    ]


def _bodies(names: Iterable[str], values: Mapping[str, Sequence[str]]) -> list[str]:
    """Columns that may hold the text, the likeliest first: those named so, then the longest."""

    def likely(name: str) -> tuple[bool, float]:
        return bool(re.fullmatch(_NAMED["body"], name.strip().lower())), mean(map(len, values[name]))

    filled = [name for name in names if values[name] and _worded(values[name])]
    return sorted(filled, key=likely, reverse=True)


def _worded(values: Sequence[str]) -> bool:
    """Are most of them words, not days or figures?"""
    return sum(any(map(str.isalpha, value)) and day_of(value) is None for value in values) > 0.5 * len(values)


def _fits(role: str, name: str, values: Sequence[str], how: How) -> bool:
    if not values:
        return False
    named = bool(re.fullmatch(_NAMED[role], name.strip().lower().rstrip(".")))
    if role == "date":
        return sum(day_of(value, day_first=how.day_first) is not None for value in values) > 0.8 * len(values)
    if role == "split":
        return named and all(value.strip().lower() in _SPLITS for value in values)
    return (
        named
        and (role != "group" or len(set(values)) < len(values))
        and max(map(len, values)) <= _LONGEST_VALUE
    )


def documents_of(
    rows: Iterable[Row | Refusal], columns: Sequence[Column], source: str, how: How
) -> Iterator[Document | Refusal]:
    """A document for each row, in the order that a column says, or as they stand."""
    by_role = {role: [column.name for column in columns if column.role == role] for role in ROLES}
    if not by_role["order"]:
        for row in rows:
            yield row if isinstance(row, Refusal) else _document(row, by_role, source, how)
        return
    made = [row if isinstance(row, Refusal) else _document(row, by_role, source, how) for row in rows]
    yield from (item for item in made if isinstance(item, Refusal))
    yield from sorted((item for item in made if isinstance(item, Document)), key=lambda d: _ordered(d.order))


def _ordered(order: str) -> tuple[bool, float, str]:
    """Figures by their size, before words; what has no order comes last."""
    try:
        return False, float(order.replace(",", ".")), ""
    except ValueError:
        return not order, float("inf"), order


def _document(row: Row, by_role: Mapping[str, Sequence[str]], source: str, how: How) -> Document | Refusal:
    place, values = row

    def said(role: str) -> list[str]:
        return [value for name in by_role[role] if (value := values.get(name, "").strip())]

    body = "\n".join(
        values[name].replace("\r\n", "\n").strip("\n ")
        for name in by_role["body"]
        if values.get(name, "").strip()
    )
    shown = " · ".join(value for value in values.values() if value)[:MOST_SHOWN]
    if not body.strip():
        return Refusal(source=source, place=place, why="There is no text in it.", content=shown)
    dated = " ".join(said("date"))
    day = day_of(dated, day_first=how.day_first)
    meta = {name: values.get(name, "") for name in (*by_role["meta"], *by_role["id"])}
    if dated and day is None:
        # What is no day is kept all the same.
        meta |= {name: values.get(name, "") for name in by_role["date"]}
    split = " ".join(said("split")).lower()
    if split and split not in _SPLITS:
        return Refusal(
            source=source,
            place=place,
            why=f"A split is one of {', '.join(sorted(_SPLITS))}, not {split[:40]!r}.",
            content=shown,
        )
    return Document(
        body=body,
        title=" ".join(" ".join(said("title")).split()),
        dated=day,
        group=" ".join(said("group")),
        split=split,
        order=" ".join(said("order")),
        meta=text_meta(meta),
        source=source,
        place=place,
    )
