"""Days: written in figures or words, whole or in part, or reckoned from the day of the text; told as EDTF (ISO 8601-2)."""

from __future__ import annotations

import calendar
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

import regex
from dateutil.easter import easter

from urdaten.core.values.cutting import Cursor, cut
from urdaten.core.values.numbers import read_amount
from urdaten.core.values.value import Note, Value, unread
from urdaten.core.values.words import ValueWords

# Where a day is looked for that could be several: the nearest, the last one that was, the next one to come.
Direction = Literal["near", "past", "future"]

_ISO = regex.compile(r"(\d{4})[-/](\d{1,2})[-/](\d{1,2})")
_FIGURES = regex.compile(r"(\d{1,2})([./-])(\d{1,2})\2'?(\d{4}|\d{2})")
_TWO_FIGURES = regex.compile(r"(\d{1,2})([./])(\d{1,2})\2?")
_COMPACT = regex.compile(r"((?:19|20)\d{2})(\d{2})(\d{2})")
_ISO_MONTH = regex.compile(r"(\d{4})-(\d{2})")
_ISO_WEEK = regex.compile(r"(\d{4})-?w(\d{2})", regex.IGNORECASE)
_YEAR = regex.compile(r"(1\d|20)\d{2}")
_DECADE = regex.compile(r"((?:1\d|20)\d)0'?s", regex.IGNORECASE)
_ENDINGS = ("st", "nd", "rd", "th")
_DASHES = ("-", "–", "—", "−")
_EARLIEST, _LATEST = 1000, 2999


@dataclass(frozen=True)
class _Point:
    """A day, or a time of more days than one, from the first to the last."""

    edtf: str
    first: date | None
    last: date | None
    notes: tuple[Note, ...] = ()
    # Was the year told, or was it found?
    year: bool = True


class _Fault(Exception):
    """The words are a day, but there is none such."""


def read_day(
    written: str, words: ValueWords, base: date | None = None, direction: Direction = "near"
) -> Value:
    """A value of kind "date". `base` is the day of the text; without one, only what needs none is read."""
    try:
        return _Reader(written, words, base, direction).read()
    except _Fault as fault:
        return unread("date", written, str(fault))


def day_of(value: Value) -> date | None:
    """The one day that a value stands for, or None."""
    try:
        return date.fromisoformat(value.text.rstrip("~?%"))
    except ValueError:
        return None


class _Reader:
    def __init__(self, written: str, words: ValueWords, base: date | None, direction: Direction) -> None:
        self._written = " ".join(written.split())
        self._words, self._base, self._direction = words, base, direction
        self._cursor = Cursor(cut(self._written), words)

    def read(self) -> Value:
        cursor, words = self._cursor, self._words
        if (found := self._in_figures()) is not None:
            return self._value(found.edtf, found.notes)
        about = False
        while cursor.take("~") or cursor.take_phrase(words.about) is not None:
            about = True
        opened = cursor.take_phrase(words.range_openers)
        first = self._days_of_month() or self._point()
        if first is not None and (last := self._second(first, opened)) is not None:
            first = self._before(first, last) if last.year and not first.year else first
            return self._ended(f"{_mark(first.edtf, about)}/{last.edtf}", (*first.notes, *last.notes), about)
        if first is None or opened:
            cursor.at = 0
            about = False
            since = cursor.take_phrase(words.since)
            until = None if since else cursor.take_phrase(words.until)
            first = self._point() if since or until else None
            if first is None:
                raise _Fault("no day to reckon from" if self._base is None else "no day")
            told = f"{first.edtf}/.." if since else f"../{first.edtf}"
            return self._ended(told, first.notes, about)
        about = about or cursor.take_phrase(words.about_after) is not None
        return self._ended(_mark(first.edtf, about), first.notes, about)

    def _ended(self, edtf: str, notes: tuple[Note, ...], about: bool) -> Value:
        if self._cursor.take("?"):
            edtf = f"{edtf[:-1]}%" if edtf.endswith("~") else f"{edtf}?"
        if not self._cursor.done:
            raise _Fault("more than a day")
        about = about or "~" in edtf
        return replace(self._value(edtf, notes), about=about)

    def _value(self, edtf: str, notes: Iterable[Note]) -> Value:
        return Value(kind="date", text=edtf, notes=tuple(notes))

    # Figures

    def _in_figures(self) -> _Point | None:
        said = self._written.strip()
        if match := _ISO.fullmatch(said):
            return self._exact(*map(int, match.groups()))
        if match := _COMPACT.fullmatch(said):
            return self._exact(*map(int, match.groups()))
        if match := _ISO_WEEK.fullmatch(said):
            return self._week(int(match[2]), int(match[1]))
        if match := _ISO_MONTH.fullmatch(said):
            return self._month(int(match[2]), int(match[1]))
        if match := _FIGURES.fullmatch(said):
            one, other, year = int(match[1]), int(match[3]), self._century(match[4])
            return self._ordered(one, other, lambda month, day: self._exact(year, month, day), match[2])
        if (match := _TWO_FIGURES.fullmatch(said)) and self._base is not None:
            one, other = int(match[1]), int(match[3])
            return self._ordered(one, other, self._of_month, match[2])
        return None

    def _ordered(self, one: int, other: int, made: Callable[[int, int], _Point], sign: str) -> _Point:
        """Which of two figures is the month."""
        if sign == "." or (one > 12 >= other):
            return made(other, one)
        if other > 12 >= one:
            return made(one, other)
        day, month = (one, other) if self._words.day_first else (other, one)
        found = made(month, day)
        if day == month:
            return found
        return replace(found, notes=(*found.notes, Note("day before month")))

    def _century(self, year: str) -> int:
        if len(year) == 4:
            return int(year)
        near = self._base.year if self._base else 2026
        return min((century + int(year) for century in range(1800, 2200, 100)), key=lambda y: abs(y - near))

    # Points

    def _point(self) -> _Point | None:
        begin = self._cursor.at
        for read in (
            self._named_day,
            self._reckoned,
            self._quarter_or_week,
            self._end_of,
            self._vague,
            self._feast,
            self._weekday,
            self._date,
            self._turn,
            self._season,
            self._years,
            self._day_alone,
        ):
            found = read()
            if found is not None:
                return found
            self._cursor.at = begin
        return None

    def _need(self) -> date:
        if self._base is None:
            raise _Fault("no day to reckon from")
        return self._base

    def _named_day(self) -> _Point | None:
        self._fill()
        shift = self._cursor.value_of(self._words.days)
        return None if shift is None else self._reckoned_day(self._need() + timedelta(days=shift))

    def _reckoned_day(self, day: date) -> _Point:
        base = self._need()
        return _Point(day.isoformat(), day, day, (Note("reckoned from", (base.isoformat(),)),))

    def _reckoned(self) -> _Point | None:
        """In three days, a fortnight ago, two weeks earlier."""
        cursor, words = self._cursor, self._words
        ahead = cursor.take_phrase(words.ahead)
        # Where "vor" stands in front.
        ago = None if ahead else (cursor.take_phrase(words.ago) if words.code == "de" else None)
        count, span = self._length()
        if span is None:
            return None
        if ahead is None and ago is None:
            ago = cursor.take_phrase(words.ago)
            ahead = None if ago else cursor.take_phrase(words.ahead)
        if ahead is None and ago is None:
            return None
        sign = -1 if ago else 1
        day = _shifted(self._need(), sign * count * span[0], sign * count * span[1])
        if day is None:
            raise _Fault("no such day")
        return self._reckoned_day(day)

    def _length(self) -> tuple[int, tuple[int, int] | None]:
        cursor, words = self._cursor, self._words
        begin = cursor.at
        if cursor.take(*words.articles):
            span = cursor.value_of(words.spans)
            if span is not None:
                return 1, span
            cursor.at = begin
        amount = read_amount(cursor, suffixes=False)
        if amount is None or amount.low is None or amount.low != amount.high or amount.low.denominator != 1:
            return 0, None
        span = cursor.value_of(words.spans)
        return int(amount.low), span

    def _weekday(self) -> _Point | None:
        cursor, words = self._cursor, self._words
        self._fill()
        turn = self._turned()
        weekday = cursor.value_of(words.weekdays)
        if weekday is None:
            return None
        at = cursor.at
        cursor.take(",")
        told = None if turn is not None else self._date_or_day()
        if told is not None and told.first is not None:
            if told.first.weekday() == weekday or told.first != told.last:
                return told
            if not told.year and (better := self._same_weekday(told.first, weekday)) is not None:
                return better
            return replace(told, notes=(*told.notes, Note("weekday differs", (_weekday_name(weekday),))))
        cursor.at = at
        base = self._need()
        if turn is None and cursor.take("week"):
            return self._reckoned_day(_next_weekday(base + timedelta(days=1), weekday) + timedelta(days=7))
        monday = base - timedelta(days=base.weekday())
        if turn == 0:
            return self._reckoned_day(monday + timedelta(days=weekday))
        if turn == 1:
            return self._reckoned_day(monday + timedelta(days=7 + weekday))
        if turn == -1:
            return self._reckoned_day(_last_weekday(base - timedelta(days=1), weekday))
        if self._direction == "future":
            return self._reckoned_day(_next_weekday(base, weekday))
        if self._direction == "past":
            return self._reckoned_day(_last_weekday(base, weekday))
        return self._reckoned_day(_next_weekday(base - timedelta(days=3), weekday))

    def _date_or_day(self) -> _Point | None:
        begin = self._cursor.at
        found = self._date()
        if found is None:
            self._cursor.at = begin
            found = self._day_alone()
        return found

    def _same_weekday(self, day: date, weekday: int) -> _Point | None:
        """The nearest year in which this day of the month is that weekday."""
        base = self._need()
        for year in sorted(range(base.year - 3, base.year + 4), key=lambda y: abs(y - base.year)):
            made = _made(year, day.month, day.day)
            if made is not None and made.weekday() == weekday:
                return _Point(made.isoformat(), made, made, (Note("year by weekday"),), False)
        return None

    def _turned(self) -> int | None:
        cursor, words = self._cursor, self._words
        for shift, names in ((1, words.next), (-1, words.last), (0, words.this)):
            if cursor.take_phrase(names) is not None:
                return shift
        return None

    def _turn(self) -> _Point | None:
        """Next week, last month, this year."""
        cursor, words = self._cursor, self._words
        self._fill()
        turn = self._turned()
        if turn is None:
            return None
        base = self._need()
        month = cursor.value_of(words.months)
        if month is not None:
            year = base.year + (turn if turn == 0 or (month - base.month) * turn <= 0 else 0)
            return self._month(month, year)
        season = cursor.value_of(words.seasons)
        if season is not None:
            return self._season_of(season, base.year + turn)
        span = cursor.value_of(words.spans)
        if span is None:
            return None
        notes = (Note("reckoned from", (base.isoformat(),)),)
        if span == (7, 0):
            monday = base - timedelta(days=base.weekday()) + timedelta(days=7 * turn)
            last = monday + timedelta(days=6)
            return _Point(f"{monday.isoformat()}/{last.isoformat()}", monday, last, notes)
        if span == (0, 1):
            moved = _shifted(base.replace(day=1), 0, turn)
            assert moved is not None
            return replace(self._month(moved.month, moved.year), notes=notes)
        if span == (0, 12):
            return replace(self._year(base.year + turn), notes=notes)
        return None

    def _date(self) -> _Point | None:
        """9 July, the 9th of July 2026, July 9, 2026, July 2026, July."""
        cursor, words = self._cursor, self._words
        self._fill()
        day = self._day_number()
        if day is not None:
            cursor.take("of")
            cursor.take(*words.articles)
            if (shift := self._turned()) is not None and cursor.value_of(words.spans) == (0, 1):
                moved = _shifted(self._need().replace(day=1), 0, shift)
                assert moved is not None
                return self._exact(moved.year, moved.month, day)
            month = cursor.value_of(words.months)
            if month is None:
                if cursor.take("month") and day is not None:
                    base = self._need()
                    return self._exact(base.year, base.month, day)
                return None
            year = self._year_after()
            return self._of_month(month, day) if year is None else self._exact(year, month, day)
        month = cursor.value_of(words.months)
        if month is None:
            return None
        at = cursor.at
        cursor.take(*words.articles)
        day = self._day_number()
        if day is not None and not (self._cursor.peek() is not None and self._next_is_month()):
            year = self._year_after()
            return self._of_month(month, day) if year is None else self._exact(year, month, day)
        cursor.at = at
        cursor.take("of")
        year = self._year_after()
        if year is not None:
            return self._month(month, year)
        return self._month_alone(month)

    def _next_is_month(self) -> bool:
        token = self._cursor.peek()
        return token is not None and token.fold.removesuffix(".") in self._words.months

    def _month_alone(self, month: int) -> _Point:
        if self._base is None:
            return _Point(f"XXXX-{month:02}", None, None, (Note("year not said"),), False)
        base = self._base
        years = [y for y in (base.year - 1, base.year, base.year + 1)]
        if self._direction == "past":
            year = max(y for y in years if (y, month) <= (base.year, base.month))
        elif self._direction == "future":
            year = min(y for y in years if (y, month) >= (base.year, base.month))
        else:
            year = min(years, key=lambda y: abs((y - base.year) * 12 + month - base.month))
        return replace(self._month(month, year), notes=(Note("year found"),), year=False)

    def _day_number(self) -> int | None:
        """The day of a month in figures or as a rank, the cursor behind it."""
        cursor = self._cursor
        token = cursor.peek()
        if token is None:
            return None
        rank = cursor.value_of(self._words.ordinals)
        if rank is not None:
            return int(rank)
        text = token.text.removesuffix(".")
        if token.kind != "figure" or not text.isdigit() or len(text) > 2 or not 1 <= int(text) <= 31:
            return None
        cursor.at += 1
        after = cursor.peek()
        if after is not None and after.glued and (after.fold in _ENDINGS or after.text == "."):
            cursor.at += 1
        return int(text)

    def _year_after(self) -> int | None:
        cursor = self._cursor
        begin = cursor.at
        cursor.take(",")
        short = cursor.take("'")
        token = cursor.peek()
        if token is not None and token.kind == "figure":
            if _YEAR.fullmatch(token.text):
                cursor.at += 1
                return int(token.text)
            if short and len(token.text) == 2 and token.text.isdigit():
                cursor.at += 1
                return self._century(token.text)
        cursor.at = begin
        return None

    def _day_alone(self) -> _Point | None:
        """The 9th."""
        cursor = self._cursor
        self._fill()
        begin = cursor.at
        token, after = cursor.peek(), cursor.peek(1)
        ranked = token is not None and (
            token.fold in self._words.ordinals
            or (after is not None and after.glued and (after.fold in _ENDINGS or after.text == "."))
        )
        day = self._day_number() if ranked else None
        if day is None:
            cursor.at = begin
            return None
        base = self._need()
        months = [moved for k in range(-3, 4) if (moved := _shifted(base.replace(day=1), 0, k)) is not None]
        days = [made for m in months if (made := _made(m.year, m.month, day)) is not None]
        return self._chosen(days, Note("month found"))

    def _chosen(self, days: list[date], note: Note) -> _Point:
        base = self._need()
        if self._direction == "past":
            days = [day for day in days if day <= base] or days
        elif self._direction == "future":
            days = [day for day in days if day >= base] or days
        if not days:
            raise _Fault("no such day")
        day = min(days, key=lambda one: (abs((one - base).days), one < base))
        return _Point(day.isoformat(), day, day, (note,), False)

    def _of_month(self, month: int, day: int) -> _Point:
        """A day of a month whose year is not said."""
        if not 1 <= month <= 12 or not 1 <= day <= calendar.monthrange(2024, month)[1]:
            raise _Fault("no such day")
        if self._base is None:
            return _Point(f"XXXX-{month:02}-{day:02}", None, None, (Note("year not said"),), False)
        around = range(self._base.year - 8, self._base.year + 9)
        return self._chosen(
            [made for year in around if (made := _made(year, month, day)) is not None], Note("year found")
        )

    def _exact(self, year: int, month: int, day: int) -> _Point:
        made = _made(year, month, day)
        if made is None:
            raise _Fault("no such day")
        return _Point(made.isoformat(), made, made)

    def _month(self, month: int, year: int) -> _Point:
        if not 1 <= month <= 12 or not _EARLIEST <= year <= _LATEST:
            raise _Fault("no such day")
        last = calendar.monthrange(year, month)[1]
        return _Point(f"{year:04}-{month:02}", date(year, month, 1), date(year, month, last))

    def _year(self, year: int) -> _Point:
        return _Point(f"{year:04}", date(year, 1, 1), date(year, 12, 31))

    def _years(self) -> _Point | None:
        """2026, the 1990s, the 19th century."""
        cursor = self._cursor
        self._fill()
        token, after = cursor.peek(), cursor.peek(1)
        if token is None:
            return None
        if token.kind == "figure" and after is not None and after.glued and after.fold in ("s", "'s"):
            decade = _DECADE.fullmatch(f"{token.text}s")
            if decade:
                cursor.at += 2
                return _Point(f"{decade[1]}X", None, None)
        if token.kind == "figure" and _YEAR.fullmatch(token.text):
            cursor.at += 1
            return self._year(int(token.text))
        begin = cursor.at
        rank = self._day_number()
        if rank is not None and cursor.take("century"):
            return _Point(f"{rank - 1:02}XX", None, None)
        cursor.at = begin
        return None

    def _quarter_or_week(self) -> _Point | None:
        """Q3 2026, week 31."""
        cursor = self._cursor
        token, after = cursor.peek(), cursor.peek(1)
        if token is None or after is None or after.kind != "figure" or not after.text.isdigit():
            return None
        number = int(after.text)
        if token.fold == "q" and after.glued and 1 <= number <= 4:
            cursor.at += 2
            year = self._year_after()
            year = self._need().year if year is None else year
            months = (3 * number - 2, 3 * number)
            return _Point(
                f"{year:04}-{32 + number}",
                date(year, months[0], 1),
                date(year, months[1], calendar.monthrange(year, months[1])[1]),
            )
        if token.fold in ("week", "woche", "kw") and 1 <= number <= 53:
            cursor.at += 2
            cursor.take("of")
            year = self._year_after()
            return self._week(number, self._need().year if year is None else year)
        return None

    def _week(self, number: int, year: int) -> _Point:
        try:
            monday = date.fromisocalendar(year if year >= _EARLIEST else 0, number, 1)
        except ValueError:
            raise _Fault("no such day") from None
        last = monday + timedelta(days=6)
        return _Point(f"{monday.isoformat()}/{last.isoformat()}", monday, last, (Note("calendar week"),))

    def _end_of(self) -> _Point | None:
        """The end of the month, the last day of February."""
        cursor, words = self._cursor, self._words
        self._fill()
        exact = False
        if cursor.take(*words.last):
            if not cursor.take("day"):
                return None
            cursor.take("of")
            exact = True
        elif cursor.take_phrase(words.end) is None:
            return None
        cursor.take(*words.articles)
        month = cursor.value_of(words.months)
        base = self._base
        if month is not None:
            year = self._year_after()
            whole = self._month(month, year) if year is not None else self._month_alone(month)
        else:
            turn = self._turned() or 0
            cursor.take(*words.this)
            span = cursor.value_of(words.spans)
            if base is None or span not in ((0, 1), (0, 12), (7, 0)):
                return None
            if span == (7, 0):
                sunday = base + timedelta(days=6 - base.weekday() + 7 * turn)
                return _Point(sunday.isoformat(), sunday, sunday, (Note("last day of it"),))
            moved = _shifted(base.replace(day=1), 0, turn * span[1])
            assert moved is not None
            whole = self._month(moved.month, moved.year) if span == (0, 1) else self._year(moved.year)
        if whole.last is None:
            return None
        notes = () if exact else (Note("last day of it"),)
        return _Point(whole.last.isoformat(), whole.last, whole.last, notes, whole.year)

    def _vague(self) -> _Point | None:
        """Early July, the middle of 2026."""
        cursor, words = self._cursor, self._words
        self._fill()
        if cursor.take_phrase(words.early) is None:
            return None
        found = self._date() or self._years() or self._season()
        if found is None:
            return None
        return replace(found, edtf=_mark(found.edtf, True), notes=(*found.notes, Note("part of it")))

    def _feast(self) -> _Point | None:
        cursor, words = self._cursor, self._words
        self._fill()
        rule = cursor.value_of(words.feasts)
        if rule is None:
            return None
        year = self._year_after()
        if year is not None:
            day = _feast_day(rule, year)
            return _Point(day.isoformat(), day, day, (Note("feast"),))
        base = self._need()
        return self._chosen([_feast_day(rule, y) for y in range(base.year - 2, base.year + 3)], Note("feast"))

    def _season(self) -> _Point | None:
        cursor = self._cursor
        self._fill()
        season = cursor.value_of(self._words.seasons)
        if season is None:
            return None
        cursor.take("of")
        year = self._year_after()
        if year is not None:
            return self._season_of(season, year)
        return replace(self._season_of(season, self._need().year), notes=(Note("year found"),), year=False)

    def _season_of(self, season: int, year: int) -> _Point:
        return _Point(f"{year:04}-{season}", None, None)

    # Ranges

    def _days_of_month(self) -> _Point | None:
        """6–8 July: the first of two days of one month; the cursor stands before the dash."""
        cursor, words = self._cursor, self._words
        begin = cursor.at
        self._fill()
        day = self._day_number()
        dash = cursor.at
        if day is None or not self._range_sign():
            cursor.at = begin
            return None
        self._fill()
        second = self._day_number()
        cursor.take("of")
        month = cursor.value_of(words.months)
        year = None if month is None else self._year_after()
        cursor.at = dash
        if second is None or month is None or second <= day:
            cursor.at = begin
            return None
        return self._of_month(month, day) if year is None else self._exact(year, month, day)

    def _range_sign(self) -> bool:
        token = self._cursor.peek()
        if token is None or (token.text not in _DASHES and token.fold not in self._words.ranges):
            return False
        self._cursor.at += 1
        return True

    def _second(self, first: _Point, opened: str | None) -> _Point | None:
        cursor = self._cursor
        begin = cursor.at
        token = cursor.peek()
        joined = token is not None and token.fold in self._words.joins | {"or", "oder"}
        if (joined and not opened) or not self._range_sign():
            return None
        base, direction = self._base, self._direction
        if first.last is not None:
            self._base, self._direction = first.last, "future"
        try:
            found = self._point()
        finally:
            self._base, self._direction = base, direction
        if found is None:
            cursor.at = begin
            return None
        if found.last is not None and first.first is not None and first.year and found.last < first.first:
            raise _Fault("ends before it begins")
        return replace(found, edtf=found.edtf.split("/")[-1])

    def _before(self, first: _Point, last: _Point) -> _Point:
        """The first day of a range whose last one tells the year."""
        if first.first is None or last.first is None:
            return first
        if first.first != first.last:
            year = last.first.year - (first.first.month > last.first.month)
            return self._month(first.first.month, year) if len(first.edtf) == 7 else first
        for year in (last.first.year, last.first.year - 1):
            made = _made(year, first.first.month, first.first.day)
            if made is not None and made <= last.first:
                return _Point(made.isoformat(), made, made, first.notes)
        return first

    def _fill(self) -> None:
        while self._cursor.take(*self._words.fillers):
            pass


def _mark(edtf: str, about: bool) -> str:
    return f"{edtf}~" if about and not edtf.endswith("~") else edtf


def _made(year: int, month: int, day: int) -> date | None:
    if not _EARLIEST <= year <= _LATEST:
        return None
    try:
        return date(year, month, day)
    except ValueError:
        return None


def _shifted(day: date, days: int, months: int) -> date | None:
    """So many days and months on; the last day of a month where there is no such day."""
    number = day.year * 12 + day.month - 1 + months
    year, month = divmod(number, 12)
    if not _EARLIEST <= year <= _LATEST or abs(days) > 400_000:
        return None
    return date(year, month + 1, min(day.day, calendar.monthrange(year, month + 1)[1])) + timedelta(days=days)


def _next_weekday(day: date, weekday: int) -> date:
    return day + timedelta(days=(weekday - day.weekday()) % 7)


def _last_weekday(day: date, weekday: int) -> date:
    return day - timedelta(days=(day.weekday() - weekday) % 7)


def _weekday_name(weekday: int) -> str:
    return calendar.day_name[weekday]


def _feast_day(rule: tuple[int, int] | int, year: int) -> date:
    if isinstance(rule, int):
        found: date = easter(year)
        return found + timedelta(days=rule)
    return date(year, *rule)
