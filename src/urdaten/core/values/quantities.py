"""Quantities: an amount and what it is an amount of, as a UCUM code, or counted things: "95 {crate}"."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from urdaten.core.values.cutting import Cursor
from urdaten.core.values.numbers import Amount, read_amount
from urdaten.core.values.units import UNITS, convert, unit_of_sign
from urdaten.core.values.value import Note, Value, unread
from urdaten.core.values.words import ValueWords
from urdaten.errors import BadInput

# What a number without a unit is of that follows one with: 3 metres and 20, 5 ft 6.
_BELOW = {"m": "cm", "[ft_i]": "[in_i]", "h": "min", "kg": "g", "[lb_av]": "[oz_av]", "min": "s"}
_PER = ("/", "per", "a", "an", "pro", "je")


def read_quantity(written: str, words: ValueWords, default_unit: str = "") -> Value:
    """A value of kind "quantity". A bare number is one of `default_unit`, where that is given.

    Parts of one quantity are added ("5 ft 6 in"); ranges keep both ends; counted things are told in braces, in the singular.
    """
    cursor = Cursor.on(written, words)
    amount = read_amount(cursor, suffixes=False) or _one(cursor)
    if amount is None:
        return unread("quantity", written, "no number" if not _digits(written) else "unclear figure")
    if _takes_thousands(cursor):
        amount = amount.scaled(Fraction(1000))
    unit, notes = _unit(cursor)
    if unit is None and cursor.done and default_unit:
        unit, notes = default_unit, [Note("unit by default", (default_unit,))]
    if unit is None and cursor.done:
        return unread("quantity", written, "no unit")
    if unit is None and (counted := _counted(cursor)) is not None:
        unit = counted
    if unit is None:
        return unread("quantity", written, "unknown unit")
    amount, unit = _more(cursor, amount, unit, notes)
    if cursor.take_phrase(words.about_after):
        amount = replace(amount, about=True, notes=(*amount.notes, Note("about")))
    if not cursor.done:
        return unread("quantity", written, "more than a quantity")
    if not _digits(written):
        notes.insert(0, Note("in words"))
    low, high = amount.ends
    return Value(
        kind="quantity",
        text=f"{amount.said()} {unit}",
        low=low,
        high=high,
        unit=unit,
        about=amount.about,
        notes=(*notes, *amount.notes),
    )


def in_unit(value: Value, unit: str) -> Value:
    """A quantity in another unit, with the original in a note.

    Raises BadInput where the value is no quantity or is of another dimension.
    """
    if value.kind != "quantity" or not value.known:
        raise BadInput("Only a quantity can be converted.", field="unit")
    if value.unit == unit:
        return value
    ends = [
        None if end is None else convert(Fraction(end), value.unit, unit) for end in (value.low, value.high)
    ]
    closed = not value.text.startswith((">", "<"))
    amount = Amount(ends[0], ends[1], closed)
    low, high = amount.ends
    return replace(
        value,
        text=f"{amount.said()} {unit}",
        low=low,
        high=high,
        unit=unit,
        notes=(*value.notes, Note("converted", (value.text,))),
    )


def same_quantity(one: Value, other: Value) -> bool:
    """Do two quantities stand for the same, whatever their units?"""
    if one.unit != other.unit:
        try:
            other = in_unit(other, one.unit)
        except BadInput:
            return False
    return (one.low, one.high) == (other.low, other.high)


def _digits(written: str) -> bool:
    return any(sign.isdigit() for sign in written)


def _one(cursor: Cursor) -> Amount | None:
    """A tonne, about an hour: one of a unit."""
    begin = cursor.at
    about = cursor.take_phrase(cursor.words.about) is not None
    if cursor.take(*cursor.words.articles):
        at = cursor.at
        unit, _ = _unit(cursor)
        if unit is not None:
            cursor.at = at
            one = Fraction(1)
            return Amount(one, one, True, about, (Note("about"),) if about else ())
    cursor.at = begin
    return None


def _takes_thousands(cursor: Cursor) -> bool:
    """A k at the figure that is no unit: "12k t", "3k crates"."""
    token = cursor.peek()
    if token is not None and token.glued and token.fold == "k" and cursor.peek(1) is not None:
        cursor.at += 1
        return True
    return False


def _unit(cursor: Cursor) -> tuple[str | None, list[Note]]:
    """The unit that begins here, with what it is per."""
    words = cursor.words
    start = cursor.at
    cursor.take("of")
    name = cursor.value_of(words.unit_names)
    if name is None:
        # "An hour" before "a", the sign of a year.
        begin = cursor.at
        name = cursor.value_of(words.unit_names) if cursor.take(*words.articles) else None
        if name is None:
            cursor.at = begin
            name = _sign(cursor)
    notes: list[Note] = []
    if name is None:
        cursor.at = start
        return None, []
    begin = cursor.at
    after = cursor.peek()
    if after is not None and after.fold in _PER and cursor.peek(1) is not None:
        cursor.at += 1
        below = cursor.value_of(words.unit_names) or _sign(cursor)
        if below is not None:
            return f"{name}/{below}", notes
        cursor.at = begin
    return str(name), notes


def _sign(cursor: Cursor) -> str | None:
    """The longest run of tokens that is a unit's sign: "° C", "sq m", "m ³", "km / h"."""
    for size in (3, 2, 1):
        tokens = cursor.tokens[cursor.at : cursor.at + size]
        if len(tokens) < size:
            continue
        if any(token.kind == "figure" and not token.glued for token in tokens[1:]):
            continue
        joined = "".join(token.text for token in tokens)
        for said in (joined, joined.removesuffix(".")):
            code = unit_of_sign(said)
            # Letters that stand apart are words of their own.
            if code is not None and (
                size == 1 or not all(t.kind == "word" and len(t.text) > 2 for t in tokens)
            ):
                cursor.at += size
                return _with_power(cursor, code)
    return None


def _with_power(cursor: Cursor, code: str) -> str:
    token = cursor.peek()
    if token is not None and token.glued and token.text in ("2", "3", "²", "³"):
        power = {"²": "2", "³": "3"}.get(token.text, token.text)
        if f"{code}{power}" in UNITS:
            cursor.at += 1
            return f"{code}{power}"
    return code


def _counted(cursor: Cursor) -> str | None:
    """Things that are counted, all that is left: a unit of their own, in the singular."""
    begin = cursor.at
    cursor.take("of")
    names = []
    # Crates of glass are an amount of something else.
    while (token := cursor.peek()) is not None and token.kind == "word" and token.fold != "of":
        names.append(token.fold)
        cursor.at += 1
    if not names or not cursor.done or len(names) > 3:
        cursor.at = begin
        return None
    names[-1] = _singular(names[-1], cursor.words)
    return "{" + " ".join(names) + "}"


def _singular(name: str, words: ValueWords) -> str:
    for ending, instead in words.plural:
        if name.endswith(ending) and len(name) > len(ending) + 1 and not name.endswith("ss"):
            return name[: -len(ending)] + instead
    return name


def _more(cursor: Cursor, amount: Amount, unit: str, notes: list[Note]) -> tuple[Amount, str]:
    """Parts after the first: 5 ft 6 in, 3 metres and 20, 40 cm to 1 m."""
    words = cursor.words
    while not cursor.done and amount.low is not None and amount.high is not None:
        so_far = amount.low
        begin = cursor.at
        dash = cursor.peek()
        ranged = dash is not None and (dash.text in ("-", "–") or dash.fold in words.ranges - words.joins)
        if ranged:
            cursor.at += 1
            added = False
        else:
            added = cursor.take(*words.joins)
            cursor.take(",")
        part = read_amount(cursor, suffixes=False)
        if part is None or part.low is None or part.low != part.high:
            cursor.at = begin
            break
        own, _ = _unit(cursor)
        if ranged and own is not None and amount.low == amount.high:
            try:
                high = convert(part.low, own, unit)
            except BadInput:
                cursor.at = begin
                break
            amount = Amount(amount.low, high, True, amount.about, (*amount.notes, Note("range")))
            continue
        if added and own is None and part.low < 1 and amount.low == amount.high:
            total = so_far + part.low
            amount = Amount(total, total, True, amount.about, amount.notes)
            continue
        below = own if own is not None else _BELOW.get(unit)
        # A metre and five may be; a metre, 5 of something else.
        stray = own is None and not added and unit == "m" and part.low < 10
        if ranged or stray or below is None or amount.low != amount.high:
            cursor.at = begin
            break
        try:
            small = convert(part.low, below, unit)
        except BadInput:
            cursor.at = begin
            break
        size = convert(Fraction(1), unit, below)
        if part.low >= size:
            cursor.at = begin
            break
        total = so_far + small
        notes.append(Note("parts added"))
        amount = Amount(total, total, True, amount.about, amount.notes)
    return amount, unit
