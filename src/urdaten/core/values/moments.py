"""Moments: a day and a time of day, written together or found apart."""

from __future__ import annotations

from datetime import date, timedelta

import regex

from urdaten.core.values.clock import minutes_of, read_clock
from urdaten.core.values.days import Direction, day_of, read_day
from urdaten.core.values.value import Note, Value, unread
from urdaten.core.values.words import ValueWords

_ISO = regex.compile(
    r"(\d{4}-\d{2}-\d{2})[T ](\d{2}:?\d{2}(?::?\d{2})?)(?:\.\d+)?(Z|[+-]\d{2}:?\d{2})?", regex.IGNORECASE
)
_DATE = regex.compile(r"\d{4}-\d{2}(?:-\d{2})?")
_JOINTS = frozenset(("at", "on", "um", "am", ",", "of", "the", "about"))


def read_moment(
    written: str, words: ValueWords, base: date | None = None, direction: Direction = "near"
) -> Value:
    """A value of kind "moment": a day with its time, a day, or a time on the day of the text."""
    said = " ".join(written.split())
    if (match := _ISO.fullmatch(said)) is not None:
        day, clock = read_day(match[1], words), read_clock(match[2] + (match[3] or ""), words)
        if day.known and clock.known:
            return joined(day, clock, base)
        return unread("moment", written, day.fault or clock.fault)
    clock = read_clock(said, words) if not _DATE.fullmatch(said) else unread("time", said, "no time of day")
    if clock.known:
        return joined(None, clock, base)
    day = read_day(said, words, base, direction)
    if day.known:
        return joined(day, None, base)
    pieces = said.replace(",", " , ").split(" ")
    for cut in range(1, len(pieces)):
        left, right = _trimmed(pieces[:cut]), _trimmed(pieces[cut:])
        for one, other in ((left, right), (right, left)):
            day, clock = read_day(one, words, base, direction), read_clock(other, words)
            if day.known and clock.known:
                return joined(day, clock, base)
    return unread("moment", written, "no moment")


def _trimmed(pieces: list[str]) -> str:
    while pieces and pieces[0].casefold() in _JOINTS:
        pieces = pieces[1:]
    while pieces and pieces[-1].casefold() in _JOINTS:
        pieces = pieces[:-1]
    return " ".join(pieces)


def joined(day: Value | None, clock: Value | None, base: date | None = None, later: int = 0) -> Value:
    """A day and a time that were found apart; a time alone is on the day of the text, or so many days later.

    What cannot be read stays as it is written: the other part counts then.
    """
    if clock is None or not clock.known:
        if day is None:
            return unread(
                "moment", clock.text if clock is not None else "", clock.fault if clock else "no moment"
            )
        return Value(kind="moment", text=day.text, about=day.about, notes=day.notes, fault=day.fault)
    notes = clock.notes
    if day is None or not day.known:
        if base is None:
            return Value(kind="moment", text=clock.text, about=clock.about, notes=notes)
        on = base + timedelta(days=later)
        notes = (*notes, Note("day of the text", (base.isoformat(),)))
        if later:
            notes = (*notes, Note("after midnight", (on.isoformat(),)))
    else:
        notes = (*day.notes, *notes)
        exact = day_of(day)
        if exact is None:
            # A time on a day that is not one day: the day is what can be told.
            return Value(kind="moment", text=day.text, about=day.about, notes=day.notes)
        on = exact
    about = clock.about or (day is not None and day.known and day.about)
    first, stroke, last = clock.text.partition("/")
    text = _at(on, first)
    if stroke:
        beyond = 1 if minutes_of(last) < minutes_of(first) else 0
        text += f"/{_at(on + timedelta(days=beyond), last)}"
    return Value(kind="moment", text=text, about=about, notes=notes)


def _at(day: date, clock: str) -> str:
    if clock.startswith("24:00"):
        return f"{(day + timedelta(days=1)).isoformat()}T00:00{clock[5:]}"
    return f"{day.isoformat()}T{clock}"


def later_days(times: list[str]) -> list[int]:
    """Of the times of a log in its order, each HH:MM: how many midnights lie between the first and each.

    A time is of the next day when it is more than half a day before the one above it: entries may be a little out of order.
    """
    found: list[int] = []
    days, latest = 0, -1
    for time in times:
        minutes = minutes_of(time)
        if latest >= 0 and latest - minutes > 12 * 60:
            days += 1
            latest = minutes
        elif latest >= 0 and minutes - latest > 12 * 60 and days > 0 and latest < 6 * 60:
            # Told late: of the evening before.
            found.append(days - 1)
            continue
        else:
            latest = max(latest, minutes)
        found.append(days)
    return found
