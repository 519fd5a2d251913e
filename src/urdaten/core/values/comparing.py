"""Values told by another one: "two hours later", "half that weight", "a metre longer than …"."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from fractions import Fraction

import regex

from urdaten.core.values.cutting import Cursor
from urdaten.core.values.numbers import Amount, read_amount
from urdaten.core.values.units import UNITS, convert, unit_of_sign
from urdaten.core.values.value import Note, Value
from urdaten.core.values.words import ValueWords
from urdaten.errors import BadInput

_DAY = regex.compile(r"\d{4}-\d{2}-\d{2}")
_MOMENT = regex.compile(r"(\d{4}-\d{2}-\d{2})T(\d{2}):(\d{2})")
_CLOCK = regex.compile(r"(\d{2}):(\d{2})")


@dataclass(frozen=True)
class Comparison:
    """What a value is to another one: times it, or by so much of a unit more."""

    factor: Fraction = Fraction(1)
    more: Fraction = Fraction(0)
    unit: str = ""
    about: bool = False


def read_comparison(written: str, words: ValueWords) -> Comparison | None:
    """What the words say in relation to another value; None where they do not."""
    cursor = Cursor.on(written, words)
    about = False
    while cursor.take_phrase(words.about) is not None:
        about = True
    if (cursor.take_phrase(words.same)) is not None:
        return Comparison(about=about) if _rest(cursor) else None
    begin = cursor.at
    factor = cursor.value_of(words.times)
    if factor is not None and _refers(cursor):
        return (
            Comparison(Fraction(factor).limit_denominator(100), about=about) if begin == 0 or about else None
        )
    cursor.at = begin
    amount: Amount | None
    unit: str | None
    if cursor.take(*words.articles):
        amount, unit = Amount(Fraction(1), Fraction(1)), _unit(cursor)
        if unit is None:
            cursor.at = begin
            amount = read_amount(cursor, suffixes=False)
            unit = _unit(cursor)
    else:
        amount = read_amount(cursor, suffixes=False)
        unit = _unit(cursor)
    if amount is None or amount.low is None or amount.low != amount.high or unit is None:
        return None
    if cursor.take(*words.more) or cursor.take_phrase(words.later) is not None:
        sign = 1
    elif cursor.take(*words.less) or cursor.take_phrase(words.earlier) is not None:
        sign = -1
    else:
        return None
    if not _rest(cursor):
        return None
    return Comparison(Fraction(1), sign * amount.low, unit, about or amount.about)


def _unit(cursor: Cursor) -> str | None:
    found = cursor.value_of(cursor.words.unit_names)
    if found is not None:
        return str(found)
    token = cursor.peek()
    code = None if token is None or token.kind != "word" else unit_of_sign(token.text)
    if code is not None:
        cursor.at += 1
    return code


def _refers(cursor: Cursor) -> bool:
    token = cursor.peek()
    return token is not None and token.fold in cursor.words.that


def _rest(cursor: Cursor) -> bool:
    """May what is left stand behind a comparison? "Than the Amber Quay" may: whose value it is, others have to say."""
    return cursor.done or _refers(cursor)


def compared(comparison: Comparison, other: Value) -> Value | None:
    """The value that follows from another one; None where it does not: other dimensions, ranges, words."""
    if not other.known:
        return None
    notes = (*other.notes, Note("derived from", (other.text,)))
    made: Value | None
    if other.kind in ("date", "time", "moment"):
        made = _later(comparison, other)
    elif other.low is None or other.low != other.high:
        return None
    else:
        made = _measured(comparison, other)
    return (
        None
        if made is None
        else replace(made, derived=True, about=other.about or comparison.about, notes=notes)
    )


def _measured(comparison: Comparison, other: Value) -> Value | None:
    assert other.low is not None
    more = Fraction(0)
    if comparison.more:
        try:
            more = convert(comparison.more, comparison.unit, other.unit)
        except BadInput:
            return None
    figure = Fraction(other.low) * comparison.factor + more
    amount = Amount(figure, figure)
    low, high = amount.ends
    return replace(other, text=f"{amount.said()} {other.unit}".strip(), low=low, high=high)


def _later(comparison: Comparison, other: Value) -> Value | None:
    if comparison.factor != 1:
        return None
    minutes = 0
    if comparison.more:
        unit = UNITS.get(comparison.unit)
        if unit is None or unit.dimension != "time":
            return None
        seconds = comparison.more * unit.factor
        if seconds.denominator != 1 or seconds % 60:
            return None
        minutes = int(seconds) // 60
    if match := _MOMENT.fullmatch(other.text):
        start = datetime.fromisoformat(match.group())
        return replace(other, text=(start + timedelta(minutes=minutes)).isoformat()[:16])
    if match := _CLOCK.fullmatch(other.text):
        hours, rest = divmod((int(match[1]) * 60 + int(match[2]) + minutes) % (24 * 60), 60)
        return replace(other, text=f"{hours:02}:{rest:02}")
    if _DAY.fullmatch(other.text) and minutes % (24 * 60) == 0:
        day = date.fromisoformat(other.text) + timedelta(days=minutes // (24 * 60))
        return replace(other, text=day.isoformat())
    return None
