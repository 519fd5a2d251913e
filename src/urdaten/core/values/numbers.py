"""Numbers in figures and words: "3,200", "two hundred and five", "half a dozen", "40 or 50", "more than 1.2k"."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from functools import lru_cache

import regex

from urdaten.core.values.cutting import Cursor
from urdaten.core.values.value import Note, Value, plain_figure, unread
from urdaten.core.values.words import ValueWords

_SIGNS = {"½": Fraction(1, 2), "¼": Fraction(1, 4), "¾": Fraction(3, 4), "⅓": Fraction(1, 3)}
_SIGNS |= {"⅔": Fraction(2, 3), "⅛": Fraction(1, 8)}
_SUFFIXES = {"k": 1000, "K": 1000, "mn": 10**6, "mio": 10**6, "bn": 10**9, "M": 10**6, "m": 10**6}
_MINUS = ("-", "−", "–")
_DASHES = ("-", "–", "—", "−")
# A fraction that does not end is kept to so many places.
_PLACES = Decimal("0.000001")


@dataclass(frozen=True)
class Amount:
    """A number, a range of them, or a bound. Ends are None where there is none."""

    low: Fraction | None
    high: Fraction | None
    # Is the end itself within?
    closed: bool = True
    about: bool = False
    notes: tuple[Note, ...] = ()

    def scaled(self, factor: Fraction) -> Amount:
        """Both ends times a factor above nought."""
        low, high = (None if end is None else end * factor for end in (self.low, self.high))
        return Amount(low, high, self.closed, self.about, self.notes)

    def said(self) -> str:
        """In figures: "40", "40–50", "> 400"."""
        if self.low is None:
            assert self.high is not None
            return f"{'≤' if self.closed else '<'} {_figure(self.high)}"
        if self.high is None:
            return f"{'≥' if self.closed else '>'} {_figure(self.low)}"
        if self.low == self.high:
            return _figure(self.low)
        return f"{_figure(self.low)}–{_figure(self.high)}"

    @property
    def ends(self) -> tuple[Decimal | None, Decimal | None]:
        return (None if self.low is None else decimal_of(self.low)), (
            None if self.high is None else decimal_of(self.high)
        )


def decimal_of(number: Fraction) -> Decimal:
    """As a decimal, rounded where it would not end."""
    bottom = number.denominator
    for prime in (2, 5):
        while bottom % prime == 0:
            bottom //= prime
    exact = Decimal(number.numerator) / Decimal(number.denominator)
    return exact if bottom == 1 else exact.quantize(_PLACES)


def _figure(number: Fraction) -> str:
    return plain_figure(decimal_of(number))


@lru_cache(maxsize=4096)
def _grouped(decimal: str, groups: str) -> regex.Pattern[str]:
    between = rf"[{regex.escape(groups)}'’   ]" if groups else r"['’   ]"
    point = regex.escape(decimal)
    return regex.compile(rf"(?:\d+|\d{{1,3}}({between})\d{{3}}(?:\1\d{{3}})*)(?:{point}\d+)?")


def figure_of(text: str, words: ValueWords) -> Fraction | None:
    """A number in figures as this language writes them, or as all do; None where it could be read in two ways."""
    if not _grouped(words.decimal, words.groups).fullmatch(text):
        return None
    plain = "".join(sign for sign in text if sign.isdigit() or sign == words.decimal)
    return Fraction(plain.replace(words.decimal, "."))


class _Words:
    """Reads one number in words, or in figures with words."""

    def __init__(self, cursor: Cursor, suffixes: bool) -> None:
        self._cursor, self._words, self._suffixes = cursor, cursor.words, suffixes

    def read(self) -> Fraction | None:
        """The number that begins here; the cursor stands behind it, or where it stood when there is none."""
        begin = self._cursor.at
        found = self._figures()
        if found is None:
            self._cursor.at = begin
            found = self._in_words()
        if found is None:
            self._cursor.at = begin
        return found

    def _figures(self) -> Fraction | None:
        cursor = self._cursor
        token = cursor.peek()
        if token is not None and token.text == ".":
            digits = cursor.peek(1)
            if digits is None or digits.kind != "figure" or not digits.glued or not digits.text.isdigit():
                return None
            cursor.at += 2
            return Fraction(f"0.{digits.text}")
        if token is not None and token.fold in _SIGNS:
            cursor.at += 1
            return _SIGNS[token.fold]
        if token is None or token.kind != "figure":
            return None
        found = figure_of(token.text, self._words)
        if found is None:
            return None
        cursor.at += 1
        found = self._fraction(found)
        after = cursor.peek()
        if after is not None and self._suffixes and after.glued and after.text in _SUFFIXES:
            cursor.at += 1
            return found * _SUFFIXES[after.text]
        scale = cursor.value_of(self._words.scales)
        return found if scale is None else found * Fraction(scale)

    def _fraction(self, whole: Fraction) -> Fraction:
        """3/4 and 3 1/2, 2½, and 2 and a half."""
        cursor = self._cursor
        token = cursor.peek()
        if token is not None and token.text == "/" and (below := self._digits(1)):
            cursor.at += 2
            return whole / below
        if token is not None and token.fold in _SIGNS:
            cursor.at += 1
            return whole + _SIGNS[token.fold]
        above, slash, below = self._digits(0), cursor.peek(1), self._digits(2)
        if above and below and slash is not None and slash.text == "/" and above < below:
            cursor.at += 3
            return whole + Fraction(above, below)
        return whole + self._and_part()

    def _digits(self, ahead: int) -> int:
        token = self._cursor.peek(ahead)
        return int(token.text) if token is not None and token.kind == "figure" and token.text.isdigit() else 0

    def _and_part(self) -> Fraction:
        """… and a half, and three quarters."""
        cursor, words = self._cursor, self._words
        begin = cursor.at
        if cursor.take(*words.joins):
            article = cursor.take(*words.articles)
            count = None if article else cursor.value_of(words.units)
            part = cursor.value_of(words.fractions)
            if part is not None and (article or count is not None or not words.articles):
                return Fraction(count if count is not None else 1) * _third(part)
        cursor.at = begin
        return Fraction(0)

    def _in_words(self) -> Fraction | None:
        cursor, words = self._cursor, self._words
        if (alone := self._part_of_scale()) is not None:
            return alone
        total, current, begun = Fraction(0), Fraction(0), False
        last = Fraction(10**12)
        while True:
            at = cursor.at
            if begun:
                if cursor.take(*words.joins) and last < 20:
                    cursor.at = at
                    break
            elif self._article_before_number():
                cursor.at += 1
                current, begun, last = Fraction(1), True, Fraction(1)
            small = self._below_hundred()
            if small is not None and not (begun and (last < 20 or small >= last)):
                current += small
                last, begun = (Fraction(1) if small < 100 else Fraction(100)), True
                continue
            if small is not None:
                cursor.at = at
                break
            scale = cursor.value_of(words.scales)
            if scale is None:
                cursor.at = at
                break
            factor = Fraction(scale)
            if factor >= 1000:
                total, current = total + (current if begun and current else Fraction(1)) * factor, Fraction(0)
            else:
                current = (current if current else Fraction(1)) * factor
            last, begun = factor, True
        if not begun:
            return self._fixed()
        found = total + current
        part = cursor.value_of(words.fractions)
        if part is not None:
            return found * _third(part)
        return found + self._and_part()

    def _below_hundred(self) -> Fraction | None:
        cursor, words = self._cursor, self._words
        token = cursor.peek()
        if token is None or token.kind != "word":
            return None
        ten = cursor.value_of(words.tens)
        if ten is not None:
            found = Fraction(ten)
            at = cursor.at
            unit = cursor.value_of(words.units)
            if unit is not None and 0 < unit < 10:
                return found + Fraction(unit)
            cursor.at = at
            return found
        unit = cursor.value_of(words.units)
        if unit is not None:
            return Fraction(unit)
        if words.compounds and (found_one := _compound(token.fold, words)) is not None:
            cursor.at += 1
            return found_one
        return None

    def _article_before_number(self) -> bool:
        token, after = self._cursor.peek(), self._cursor.peek(1)
        if token is None or token.fold not in self._words.articles or after is None:
            return False
        return after.fold in self._words.scales or after.fold in self._words.fractions

    def _part_of_scale(self) -> Fraction | None:
        """Half a dozen, a quarter of a million, a half, half."""
        cursor, words = self._cursor, self._words
        begin = cursor.at
        cursor.take(*words.articles)
        part = cursor.value_of(words.fractions)
        if part is None:
            cursor.at = begin
            return None
        at = cursor.at
        cursor.take("of")
        cursor.take(*words.articles)
        scale = cursor.value_of(words.scales)
        if scale is None:
            cursor.at = at
            return _third(part)
        return _third(part) * Fraction(scale)

    def _fixed(self) -> Fraction | None:
        cursor, words = self._cursor, self._words
        begin = cursor.at
        cursor.take(*words.articles)
        found = cursor.value_of(words.fixed)
        if found is None:
            cursor.at = begin
            return None
        cursor.take("of")
        return Fraction(found)


def _third(part: Decimal) -> Fraction:
    """The fraction that a word of a language stands for, a third being held as a decimal."""
    return Fraction(part).limit_denominator(100)


@lru_cache(maxsize=4096)
def _compound(word: str, words: ValueWords) -> Fraction | None:
    """Numbers that a language writes as one word."""
    if not word:
        return None
    for table in (words.units, words.tens):
        if word in table:
            return Fraction(table[word])
    for scale in sorted(words.scales, key=lambda name: -words.scales[name]):
        before, found, after = word.partition(scale)
        if found and word != scale:
            factor = _compound(before, words) if before else Fraction(1)
            rest = Fraction(0)
            for join in sorted(words.joins):
                after = after.removeprefix(join)
            if after:
                tail = _compound(after, words)
                if tail is None:
                    return None
                rest = tail
            return None if factor is None else factor * Fraction(words.scales[scale]) + rest
    for join in words.joins:
        unit, found, ten = word.partition(join)
        if found and unit in words.units and ten in words.tens:
            return Fraction(words.units[unit]) + Fraction(words.tens[ten])
    return None


def read_amount(cursor: Cursor, *, suffixes: bool = True) -> Amount | None:
    """The amount that begins at the cursor, which stands behind it then; None, and the cursor where it stood, for none."""
    words = cursor.words
    begin = cursor.at
    notes: list[Note] = []
    about = False
    while cursor.take("~") or (cursor.peek() is not None and _takes(cursor, words.about)):
        about = True
    above = cursor.value_of(words.above)
    below = None if above is not None else cursor.value_of(words.below)
    opened = above is None and below is None and cursor.take_phrase(words.range_openers) is not None
    first = _number(cursor, suffixes)
    if first is None:
        cursor.at = begin
        return None
    last = first
    after = cursor.at
    ranged = False
    dash = cursor.peek()
    between = dash is not None and (
        dash.text in _DASHES or (dash.fold in words.ranges and (opened or dash.fold not in words.joins))
    )
    if above is None and below is None and between:
        cursor.at += 1
        second = _number(cursor, suffixes)
        if second is not None and second > first:
            last, ranged = second, True
            notes.append(Note("range"))
        else:
            cursor.at = after
    if opened and not ranged:
        cursor.at = begin
        return None
    if cursor.take_phrase(words.about_after):
        about = True
    if about:
        notes.append(Note("about"))
    if above is not None:
        return Amount(first, None, above, about, (*notes, Note("bound")))
    if below is not None:
        return Amount(None, first, below, about, (*notes, Note("bound")))
    return Amount(first, last, True, about, tuple(notes))


def _takes(cursor: Cursor, names: frozenset[str]) -> bool:
    return cursor.take_phrase(names) is not None


def _number(cursor: Cursor, suffixes: bool) -> Fraction | None:
    begin = cursor.at
    token = cursor.peek()
    minus = token is not None and (token.text in _MINUS or token.fold in cursor.words.minus)
    if minus or (token is not None and token.text == "+"):
        cursor.at += 1
    found = _Words(cursor, suffixes).read()
    if found is None:
        cursor.at = begin
        return None
    return -found if minus else found


def read_number(written: str, words: ValueWords) -> Value:
    """A number, a range of numbers or a bound, as a value of kind "number"."""
    cursor = Cursor.on(written, words)
    ordinal = _ordinal(cursor)
    if ordinal is not None:
        number = Decimal(ordinal)
        return Value(
            kind="number", text=str(ordinal), low=number, high=number, notes=(Note("place in a row"),)
        )
    amount = read_amount(cursor)
    if amount is None:
        return unread("number", written, "no number" if _has_no_figure(written) else "unclear figure")
    if not cursor.done:
        return unread("number", written, "more than a number")
    low, high = amount.ends
    notes = amount.notes if _has_figure(written) else (Note("in words"), *amount.notes)
    return Value(
        kind="number", text=amount.said(), low=low, high=high, about=amount.about, notes=tuple(notes)
    )


def _ordinal(cursor: Cursor) -> int | None:
    """The 3rd, the third: alone."""
    begin = cursor.at
    cursor.take("the", "der", "die", "das")
    found: int | None = cursor.value_of(cursor.words.ordinals)
    if found is None:
        token, after = cursor.peek(), cursor.peek(1)
        if (
            token is not None
            and after is not None
            and token.text.isdigit()
            and after.glued
            and after.fold in ("st", "nd", "rd", "th")
        ):
            cursor.at += 2
            found = int(token.text)
    if found is not None and cursor.done and found != 0:
        return found
    cursor.at = begin
    return None


def _has_figure(written: str) -> bool:
    return any(sign.isdigit() for sign in written)


def _has_no_figure(written: str) -> bool:
    return not _has_figure(written)
