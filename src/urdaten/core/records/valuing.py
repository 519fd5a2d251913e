"""Reading the values of a batch's spans: with the day of their text, the way their sentence looks, and their field's settings."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.records.material import About, Material
from urdaten.core.records.naming import Named, Names
from urdaten.core.records.template import Field
from urdaten.core.values import (
    Comparison,
    Direction,
    Note,
    Reading,
    Value,
    ValueWords,
    compared,
    joined,
    later_days,
    read_comparison,
    read_value,
)

# A word that puts a day ahead or behind stands so many words before it at most.
_REACH = 14
_DIRECTIONS: tuple[Direction, ...] = ("near", "future", "past")
MOST_KEPT = 200_000


class Values:
    """Reads values; what was read once is kept."""

    def __init__(self, words: ValueWords, names: Names) -> None:
        self._words, self._names = words, names
        self._kept: dict[tuple[object, ...], Value] = {}
        self._compared: dict[str, Comparison | None] = {}

    def of(
        self, written: str, kind: str, base: date | None, direction: Direction, unit: str, pattern: str
    ) -> Value:
        """A value that is read by itself."""
        key = (written, kind, base, direction, unit, pattern)
        found = self._kept.get(key)
        if found is None:
            if len(self._kept) > MOST_KEPT:
                self._kept.clear()
            how = Reading(words=self._words, base=base, direction=direction, unit=unit, pattern=pattern)
            found = self._kept[key] = read_value(written, kind, how)
        return found

    def comparison(self, written: str) -> Comparison | None:
        """What words say in relation to another value."""
        if written not in self._compared:
            self._compared[written] = read_comparison(written, self._words)
        return self._compared[written]

    def name(self, named: Named, written: str) -> Value:
        """A name's value."""
        plain = " ".join(written.split())
        notes = {
            "list": () if named.name == plain else (Note("entry", (f"“{named.name}”",)),),
            "short": (Note("entry", (f"“{named.name}”",)),),
            "text": (Note("shortened", (named.name,)),),
        }.get(named.how, ())
        return Value(kind="name", text=named.name, notes=notes)


class TextValues:
    """The values of one text's spans."""

    def __init__(
        self,
        values: Values,
        material: Material,
        about: About,
        text: int,
        rows: Sequence[int],
        names: Names,
        ways: Ints,
    ) -> None:
        self._values, self._material, self._text = values, material, text
        self.base = about.day(text)
        self._ways = ways
        self._words = values._words
        self._names: dict[int, Named] = {}
        self._find_names(rows, names)
        self._later = self._midnights(rows)

    def _find_names(self, rows: Sequence[int], names: Names) -> None:
        m = self._material
        named = {code for f in m.template.fields if f.kind == "name" for code in f.types}
        by_kind: dict[int, list[int]] = {}
        for row in rows:
            kind = int(m.kind[row])
            if m.types[kind] in named:
                by_kind.setdefault(kind, []).append(row)
        for kind, own in by_kind.items():
            found = names.in_text([m.words_of(row) for row in own], m.types[kind])
            self._names.update(zip(own, found, strict=True))

    def _midnights(self, rows: Sequence[int]) -> dict[int, int]:
        """Of each line of a log that a time opens: how many midnights lie before it in the text."""
        m = self._material
        clocks: list[tuple[int, str]] = []
        for row in rows:
            if m.line_first[m.first[row]] == m.first[row]:
                clock = self._values.of(m.words_of(row), "time", None, "near", "", "")
                if clock.known and "/" not in clock.text:
                    clocks.append((int(m.line[m.first[row]]), clock.text))
        if len(clocks) < 2:
            return {}
        return dict(zip((line for line, _ in clocks), later_days([time for _, time in clocks]), strict=True))

    def single(self, row: int, f: Field) -> Value:
        """What one span is worth in a field, by itself; of a moment its day or its time."""
        m = self._material
        written = m.words_of(row)
        if f.kind == "name":
            return self._values.name(self._names.get(row, Named(" ".join(written.split()))), written)
        if f.kind == "none":
            return Value(kind="none", text=" ".join(written.split()))
        direction = _DIRECTIONS[int(self._ways[row])]
        kind = f.kind
        if kind == "moment":
            day = self._values.of(written, "date", self.base, direction, "", "")
            clock = self._values.of(written, "time", None, "near", "", "")
            # What is a time of day is no year.
            if clock.known:
                return clock
            return day if day.known else self._values.of(written, "moment", self.base, direction, "", "")
        return self._values.of(written, kind, self.base, direction, f.unit, f.pattern)

    def together(self, rows: Sequence[int], f: Field) -> Value:
        """The value of a field from all of its spans."""
        singles = [(row, self.single(row, f)) for row in rows]
        if f.kind != "moment":
            return self._allowed(singles[0][1], f)
        day = next((v for _, v in singles if v.kind == "date" and v.known), None)
        whole = next((v for _, v in singles if v.kind == "moment"), None)
        clock = next(((row, v) for row, v in singles if v.kind == "time" and v.known), None)
        if whole is not None and clock is None:
            return self._allowed(whole, f)
        if day is None and clock is None:
            return singles[0][1]
        later = 0 if clock is None else self._nights(clock[0])
        return self._allowed(joined(day, None if clock is None else clock[1], self.base, later), f)

    def _nights(self, row: int) -> int:
        """Midnights between the beginning of the text's day and a time that it tells."""
        m = self._material
        line = int(m.line[m.first[row]])
        if line not in self._later:
            return 0
        return self._later[line]

    def _allowed(self, value: Value, f: Field) -> Value:
        """With a fault where the field does not take it; the value stays, to be looked at."""
        if not value.known:
            return value
        if f.allowed and value.text not in f.allowed:
            return _faulty(value, "not allowed")
        if (f.least or f.most) and not _within(value, f):
            return _faulty(value, "out of range")
        return value

    def compare(self, row: int, earlier: Callable[[], Sequence[Value]]) -> Value | None:
        """The value of words that refer to another one: the last one of the field's kind that the text told before."""
        comparison = self._values.comparison(self._material.words_of(row))
        if comparison is None:
            return None
        for other in reversed(earlier()):
            made = compared(comparison, other)
            if made is not None:
                return made
        return None


def _faulty(value: Value, fault: str) -> Value:
    """The value as it was read, with what is wrong with it."""
    return replace(value, fault=fault)


def _within(value: Value, f: Field) -> bool:
    if f.kind in ("number", "quantity", "money"):
        low, high = value.low, value.high
        if f.unit and value.unit and value.unit != f.unit:
            return True
        if f.least and low is not None and low < Decimal(f.least):
            return False
        return not (f.most and high is not None and high > Decimal(f.most))
    text = value.text.split("/")[0].rstrip("~?%")
    return not ((f.least and text < f.least) or (f.most and text[: len(f.most)] > f.most))


def same_for(one: Value, other: Value) -> bool:
    """Do two spans of a field say the same? A day says nothing against a moment on it."""
    if one.kind == other.kind == "moment":
        (day, _, time), (other_day, _, other_time) = one.text.partition("T"), other.text.partition("T")
        return day == other_day and (time == other_time or not time or not other_time)
    return one.text == other.text and one.unit == other.unit


def ways_of(material: Material, words: ValueWords) -> Ints:
    """Of each span which way its sentence looks: 1 ahead, 2 back, 0 neither; by the nearest word that says so before it, or
    else the first one behind it."""
    m = material
    forms, number = m.folded
    kinds = np.array(
        [1 if f in words.coming else 2 if f in words.gone else 0 for f in forms] or [0], dtype=np.int32
    )
    count = len(number)
    found = np.zeros(len(m.span), dtype=np.int32)
    if not count:
        return found
    way = kinds[number]
    first = m.first.astype(np.int64)
    sentence = m.batch.sentence
    own = sentence[first]
    for sign in (-1, 1):
        for step in range(1, _REACH + 1):
            at = first + sign * step
            held = np.clip(at, 0, count - 1)
            hit = (found == 0) & (at >= 0) & (at < count) & (sentence[held] == own)
            found = np.where(hit, way[held], found)
    return found
