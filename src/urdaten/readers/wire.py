"""Items as lines of JSON, between the process that reads and the one that asked."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import asdict, fields
from datetime import date
from typing import Any

from urdaten.core.formats import read_corpus, write_corpus
from urdaten.readers.document import (
    Beat,
    Column,
    Document,
    Found,
    How,
    HowNames,
    Item,
    NameRow,
    Names,
    Refusal,
)

_KINDS: dict[str, Callable[..., Item]] = {
    "found": Found,
    "document": Document,
    "names": Names,
    "refusal": Refusal,
    "beat": Beat,
}


def to_line(item: Item) -> str:
    """One line for an item."""
    kind = type(item).__name__.lower()
    values = {field.name: getattr(item, field.name) for field in fields(item)}
    if isinstance(item, Document):
        values["dated"] = item.dated.isoformat() if item.dated else None
        values["meta"] = dict(item.meta)
        values["corpus"] = next(write_corpus([item.corpus])) if item.corpus else None
    elif isinstance(item, Found):
        values["columns"] = [asdict(column) for column in item.columns]
    elif isinstance(item, Names):
        values["rows"] = [list(row) for row in item.rows]
    return json.dumps([kind, values]) + "\n"


def item_of(kind: str, values: dict[str, Any]) -> Item:
    """The item of a line that has been read."""
    if kind == "document":
        values["dated"] = date.fromisoformat(values["dated"]) if values["dated"] else None
        values["aside"] = tuple((start, end) for start, end in values["aside"])
        values["corpus"] = next(read_corpus([values["corpus"]])) if values["corpus"] else None
    elif kind == "found":
        values["readings"] = tuple((name, words) for name, words in values["readings"])
        values["columns"] = tuple(
            Column(**column | {"values": tuple(column["values"])}) for column in values["columns"]
        )
    elif kind == "names":
        values["rows"] = tuple(
            NameRow(name, tuple(variants), *rest) for name, variants, *rest in values["rows"]
        )
    return _KINDS[kind](**values)


def how_values(how: How | HowNames) -> dict[str, Any]:
    return asdict(how) | {"roles": dict(how.roles), "of": "names" if isinstance(how, HowNames) else "texts"}


def how_of(values: dict[str, Any]) -> How | HowNames:
    """What how_values has told."""
    return HowNames(**values) if values.pop("of") == "names" else How(**values)
