"""Rows of tables as lines of JSON, and lines that somebody may have written by hand as rows again."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import ARRAY, BigInteger, Boolean, Column, Date, DateTime, Float, Integer, LargeBinary, Uuid
from sqlalchemy.dialects.postgresql import JSONB

from urdaten.errors import BadFile

MOST_NUMBER = 2**31 - 1
MOST_CHARACTERS = 4_000_000


def plain(value: object) -> object:
    """A column's value as JSON has it."""
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value) if isinstance(value, UUID) else value


def typed(column: Column[Any], value: object) -> object:
    """A value from a line as the column takes it. Raises BadFile for one that it cannot."""
    if value is None:
        if not column.nullable:
            raise BadFile(f"“{column.name}” is missing")
        return None
    return _typed(column, value)


def _typed(column: Column[Any], value: object) -> object:
    kind = column.type
    if isinstance(kind, Boolean):
        ok = isinstance(value, bool)
    elif isinstance(kind, Integer | BigInteger):
        ok = isinstance(value, int) and not isinstance(value, bool) and abs(value) <= MOST_NUMBER
    elif isinstance(kind, Float):
        number = isinstance(value, int | float) and not isinstance(value, bool)
        ok = number and math.isfinite(float(value))  # type: ignore[arg-type] # a number, as was seen
    elif isinstance(kind, DateTime | Date | Uuid):
        return _parsed(column, value)
    elif isinstance(kind, ARRAY):
        ok = isinstance(value, list) and all(isinstance(one, str) and _storable(one) for one in value)
    elif isinstance(kind, JSONB):
        ok = isinstance(value, dict | list) and _storable(json.dumps(value, ensure_ascii=False))
    elif isinstance(kind, LargeBinary):
        ok = isinstance(value, bytes)
    else:
        ok = isinstance(value, str) and _storable(value)
    if not ok:
        raise BadFile(f"“{column.name}” cannot be {json.dumps(value, default=str)[:60]}")
    return value


def _parsed(column: Column[Any], value: object) -> object:
    try:
        if not isinstance(value, str):
            raise ValueError
        if isinstance(column.type, Uuid):
            return UUID(value)
        if isinstance(column.type, DateTime):
            moment = datetime.fromisoformat(value)
            if moment.tzinfo is None:
                raise ValueError
            return moment
        return date.fromisoformat(value)
    except ValueError as fault:
        raise BadFile(f"“{column.name}” cannot be {str(value)[:60]!r}") from fault


def _storable(text: str) -> bool:
    return (
        len(text) <= MOST_CHARACTERS
        and "\0" not in text
        and "\\u0000" not in text
        and (text.isascii() or not any("\ud800" <= sign <= "\udfff" for sign in text))
    )


def line_of(row: Mapping[str, object]) -> bytes:
    return json.dumps(row, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"


def row_of(line: bytes, names: frozenset[str], added: Mapping[str, Any]) -> dict[str, Any]:
    """The members of a line. Raises BadFile for what is no object with just these.

    added: members that an older archive does not have, with what they are then.
    """
    try:
        row = json.loads(line)
    except (ValueError, RecursionError) as fault:
        raise BadFile("this is no JSON") from fault
    if not isinstance(row, dict):
        raise BadFile("a line is an object")
    row = {**added, **row}
    if row.keys() != names:
        wrong = sorted(row.keys() ^ names)[0]
        raise BadFile(f"“{wrong[:40]}” is {'missing' if wrong in names else 'unknown'}")
    return row
