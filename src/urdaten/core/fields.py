"""Records from plain values, as JSON has them: every field there, none unknown, each of the kind that it is declared as."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import fields, is_dataclass
from types import NoneType, UnionType
from typing import Any, Literal, TypeVar, Union, get_args, get_origin, get_type_hints

from urdaten.errors import BadInput

LONGEST_TEXT = 10_000
MOST_NAMES = 10_000
MOST_COUNT = 1_000_000
R = TypeVar("R")


def read_record(of: type[R], values: object, where: str) -> R:
    """A record of a dataclass whose fields are texts, flags, counts from 0 on, shares from 0 to 1, choices, lists, records by
    name, and records. `where` says what it is of. Raises BadInput that names the field."""
    hints = _hints(of)
    held = read_fields(values, hints.keys(), where)
    return of(**{name: _read(hint, held[name], where, name) for name, hint in hints.items()})


def plain(value: Any) -> Any:
    """What read_record reads, of a record or a field."""
    if is_dataclass(value):
        return {one.name: plain(getattr(value, one.name)) for one in fields(value)}
    if isinstance(value, Mapping):
        return {name: plain(one) for name, one in value.items()}
    return [plain(one) for one in value] if isinstance(value, tuple) else value


def read_fields(values: object, names: Iterable[str], where: str) -> dict[str, Any]:
    """Values by name, these names and no others. Raises BadInput."""
    if not isinstance(values, dict):
        raise BadInput(f"The {where} is not a record of settings.", field=where)
    known = set(names)
    if missing := known - values.keys():
        raise BadInput(f"The {where} lacks “{min(missing)}”.", field=min(missing))
    if unknown := sorted(map(str, values.keys() - known)):
        raise BadInput(f"The {where} has “{unknown[0][:60]}”, which nobody knows.", field=unknown[0][:60])
    return values


def read_text(value: object, where: str, name: str) -> str:
    """Raises BadInput for anything else, and for one that is too long."""
    if (
        not isinstance(value, str)
        or len(value) > LONGEST_TEXT
        or any("\ud800" <= c <= "\udfff" for c in value)
    ):
        raise _bad(where, name, f"a text of at most {LONGEST_TEXT} letters", value)
    return value


def _hints(of: type[Any]) -> dict[str, Any]:
    hints = get_type_hints(of)
    return {one.name: hints[one.name] for one in fields(of)}


def _read(hint: Any, value: object, where: str, name: str) -> Any:
    """As it is declared."""
    origin, inner = get_origin(hint), get_args(hint)
    if origin is Literal:
        if not isinstance(value, str) or value not in inner:
            raise _bad(where, name, f"one of {', '.join(inner)}", value)
        return value
    if origin in (Union, UnionType):
        if value is None and NoneType in inner:
            return None
        (hint,) = (one for one in inner if one is not NoneType)
        return _read(hint, value, where, name)
    if origin is tuple:
        if not isinstance(value, list) or len(value) > MOST_NAMES:
            raise _bad(where, name, "a list", value)
        return tuple(_read(inner[0], one, where, name) for one in value)
    if origin is not None and issubclass(origin, Mapping):
        if not isinstance(value, dict) or len(value) > MOST_NAMES:
            raise _bad(where, name, "a record of names", value)
        return {read_text(key, where, name): _read(inner[1], one, where, name) for key, one in value.items()}
    if is_dataclass(hint) and isinstance(hint, type):
        return read_record(hint, value, f"“{name}” of the {where}")
    return _SIMPLE[hint](value, where, name)


def _flag(value: object, where: str, name: str) -> bool:
    if not isinstance(value, bool):
        raise _bad(where, name, "yes or no", value)
    return value


def _share(value: object, where: str, name: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value <= 1:
        raise _bad(where, name, "a number from 0 to 1", value)
    return float(value)


def _count(value: object, where: str, name: str) -> int:
    if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value <= MOST_COUNT:
        raise _bad(where, name, f"a whole number from 0 to {MOST_COUNT}", value)
    return value


_SIMPLE: Mapping[Any, Callable[[object, str, str], Any]] = {
    str: read_text,
    bool: _flag,
    int: _count,
    float: _share,
}


def _bad(where: str, name: str, wanted: str, value: object) -> BadInput:
    return BadInput(f"“{name}” of the {where} is {wanted}, not {str(value)[:60]!r}.", field=name)
