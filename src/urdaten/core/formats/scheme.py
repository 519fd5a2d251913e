"""Schemes as files: TOML with a [[type]] for each entity type, or JSON of the same shape."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal, cast, get_args

import tomli_w

from urdaten.core.spans import Overlap
from urdaten.errors import BadFile

SchemeFormat = Literal["toml", "json"]
MOST_TYPES = 200
_STRINGS = ("definition", "value_kind", "parent")
_LISTS = ("counts", "counts_not", "rulings")
_KNOWN = {"code", "name", "key", "hue", *_STRINGS, *_LISTS}
_KEYS = "abcdefghijklmnopqrstuvwxyz0123456789"
_HUES = 24


@dataclass(frozen=True, kw_only=True)
class SchemeType:
    """One entity type as a file has it."""

    code: str
    name: str
    key: str
    hue: int
    definition: str = ""
    counts: tuple[str, ...] = ()
    counts_not: tuple[str, ...] = ()
    rulings: tuple[str, ...] = ()
    # Code of the type that it is a kind of; "" for none.
    parent: str = ""
    value_kind: str = "none"


@dataclass(frozen=True, kw_only=True)
class Scheme:
    """Entity types in their order, and how spans may stand to each other."""

    types: tuple[SchemeType, ...]
    overlap: Overlap = "apart"


def read_scheme(source: str, form: SchemeFormat) -> Scheme:
    """The scheme that a file says. A type without key or hue gets a free one.

    Raises BadFile that names the line of the file, or the type and member, that is amiss.
    """
    return scheme_from(_parsed(source, form))


def _parsed(source: str, form: SchemeFormat) -> object:
    try:
        return tomllib.loads(source) if form == "toml" else json.loads(source)
    except tomllib.TOMLDecodeError as fault:
        raise BadFile(f"This is no TOML: {fault}.") from fault
    except json.JSONDecodeError as fault:
        raise BadFile(f"Line {fault.lineno}: this is no JSON: {fault.msg}.", line=fault.lineno) from fault
    except (RecursionError, ValueError) as fault:
        raise BadFile("The file is nested too deeply, or holds a number that is too large.") from fault


def scheme_from(values: object) -> Scheme:
    """The scheme that parsed values say. Raises BadFile that names the type and member."""
    if not isinstance(values, Mapping) or not isinstance(values.get("type"), list):
        raise BadFile("A scheme has a [[type]] for each entity type; in JSON a list named “type”.")
    overlap = values.get("overlap", "apart")
    if overlap not in get_args(Overlap):
        raise BadFile(f"“overlap” is one of {', '.join(get_args(Overlap))}, not {overlap!r}.")
    if unknown := sorted(set(values) - {"type", "overlap"}):
        raise BadFile(f"A scheme has “overlap” and types, but no {unknown[0]!r}.")
    rows = values["type"]
    if len(rows) > MOST_TYPES:
        raise BadFile(f"A scheme has at most {MOST_TYPES} types, not {len(rows)}.")
    checked = [_checked(row, number) for number, row in enumerate(rows, start=1)]
    keys = {row["key"] for row in checked if row.get("key")}
    hues = {row["hue"] for row in checked if row.get("hue") is not None}
    types = []
    for row in checked:
        if not row.get("key"):
            free = (k for k in f"{row['name'].lower()}{_KEYS}" if k in _KEYS and k not in keys)
            row["key"] = next(free, "")
            keys.add(row["key"])
        if row.get("hue") is None:
            row["hue"] = next((h for h in range(_HUES) if h not in hues), 0)
            hues.add(row["hue"])
        types.append(SchemeType(**row))
    return Scheme(types=tuple(types), overlap=cast("Overlap", overlap))


def _checked(row: object, number: int) -> dict[str, Any]:
    where = f"Type {number}"
    if not isinstance(row, Mapping):
        raise BadFile(f"{where} has no members.")
    if isinstance(row.get("code"), str):
        where = f"Type {number}, {row['code'][:12]}"
    if unknown := sorted(set(map(str, row)) - _KNOWN):
        raise BadFile(f"{where}: there is no member {unknown[0]!r}; they are {', '.join(sorted(_KNOWN))}.")
    for name in ("code", "name"):
        if not isinstance(row.get(name), str) or not row[name].strip():
            raise BadFile(f"{where}: “{name}” is missing, or no text.")
    for name in ("key", *_STRINGS):
        if not isinstance(row.get(name, ""), str):
            raise BadFile(f"{where}: “{name}” is no text.")
    hue = row.get("hue")
    if hue is not None and (isinstance(hue, bool) or not isinstance(hue, int) or not 0 <= hue < _HUES):
        raise BadFile(f"{where}: “hue” is a whole number from 0 to {_HUES - 1}.")
    made = dict(row)
    for name in _LISTS:
        listed = row.get(name, [])
        if not isinstance(listed, list) or not all(isinstance(one, str) for one in listed):
            raise BadFile(f"{where}: “{name}” is a list of texts.")
        made[name] = tuple(listed)
    for name in (*_STRINGS, *_LISTS, "code", "name", "key"):
        for part in made[name] if isinstance(made.get(name), tuple) else (made.get(name) or "",):
            if "\0" in part or any("\ud800" <= sign <= "\udfff" for sign in part):
                raise BadFile(f"{where}: “{name}” holds a character that is no text.")
    return made


def scheme_values(scheme: Scheme) -> dict[str, Any]:
    """A scheme as plain values, what is empty left out."""
    return {
        "overlap": scheme.overlap,
        "type": [
            {
                name: list(value) if isinstance(value, tuple) else value
                for name, value in vars(one).items()
                if value not in ("", ()) and (name, value) != ("value_kind", "none")
            }
            for one in scheme.types
        ],
    }


def write_scheme(scheme: Scheme, form: SchemeFormat) -> str:
    """The file that `read_scheme` reads back to the same scheme."""
    values = scheme_values(scheme)
    if form == "toml":
        return tomli_w.dumps(values, multiline_strings=False)
    return json.dumps(values, ensure_ascii=False, indent=1) + "\n"
