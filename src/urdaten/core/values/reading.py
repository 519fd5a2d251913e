"""Reading a value of any kind, and comparing two."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date

from urdaten.core.text import fold
from urdaten.core.values.clock import read_clock
from urdaten.core.values.codes import read_code
from urdaten.core.values.days import Direction, read_day
from urdaten.core.values.english import ENGLISH
from urdaten.core.values.moments import read_moment
from urdaten.core.values.money import read_money
from urdaten.core.values.numbers import read_number
from urdaten.core.values.quantities import read_quantity, same_quantity
from urdaten.core.values.value import Value, unread
from urdaten.core.values.words import ValueWords


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What a value is read with: the language's words, the day of its text, which way days lie, and what a field says."""

    words: ValueWords = ENGLISH
    base: date | None = None
    direction: Direction = "near"
    # The unit or currency of a bare number; the pattern of a code.
    unit: str = ""
    pattern: str = ""


_READERS: Mapping[str, Callable[[str, Reading], Value]] = {
    "none": lambda written, _: Value(kind="none", text=" ".join(written.split())),
    "name": lambda written, _: Value(kind="name", text=" ".join(written.split())),
    "date": lambda written, how: read_day(written, how.words, how.base, how.direction),
    "time": lambda written, how: read_clock(written, how.words),
    "moment": lambda written, how: read_moment(written, how.words, how.base, how.direction),
    "number": lambda written, how: read_number(written, how.words),
    "quantity": lambda written, how: read_quantity(written, how.words, how.unit),
    "money": lambda written, how: read_money(written, how.words, how.unit),
    "code": lambda written, how: read_code(written, how.pattern),
}
# Longer words hold more than one value.
LONGEST = 200


def read_value(written: str, kind: str, how: Reading) -> Value:
    """A value of one of KINDS from the words as they are written. What cannot be read is told by its fault; nothing raises."""
    if len(written) > LONGEST and kind not in ("none", "name"):
        return unread(kind, written, "too long")
    return _READERS[kind](written, how)


def same_value(one: Value, other: Value) -> bool:
    """Do two values of a kind stand for the same? Names in any letters, quantities in any unit."""
    if not one.known or not other.known:
        return fold(one.text) == fold(other.text)
    if one.kind == other.kind == "quantity":
        return same_quantity(one, other)
    if one.kind in ("none", "name") or other.kind in ("none", "name"):
        return fold(one.text) == fold(other.text)
    return one.text.rstrip("~?%") == other.text.rstrip("~?%")
