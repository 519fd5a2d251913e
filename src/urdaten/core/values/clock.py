"""Times of day, in figures and in the words of a clock: HH:MM, or two of them with a stroke between."""

from __future__ import annotations

from dataclasses import dataclass

import regex

from urdaten.core.values.cutting import Cursor, cut
from urdaten.core.values.value import Note, Value, unread
from urdaten.core.values.words import NIGHT, ValueWords

_WITH_MINUTES = regex.compile(r"(\d{1,2})[:.h](\d{2})(?::(\d{2}))?")
_TOGETHER = regex.compile(r"(\d{1,2})(\d{2})")
_HOUR = regex.compile(r"\d{1,2}")
_ZONE = regex.compile(r"(?:\s*(?:utc|gmt)|z|(?<=:\d{2})[+-]\d{2}:?\d{2})$", regex.IGNORECASE)
_DASHES = ("-", "–", "—", "−")
DAY = 24 * 60


@dataclass(frozen=True)
class _Time:
    """Minutes since midnight, 0 to 1440; and seconds where they were told."""

    minutes: int
    seconds: str = ""
    notes: tuple[Note, ...] = ()

    def said(self) -> str:
        hours, minutes = divmod(self.minutes, 60)
        return f"{hours:02}:{minutes:02}" + (f":{self.seconds}" if self.seconds else "")


def read_clock(written: str, words: ValueWords) -> Value:
    """A value of kind "time". The end of a day is 24:00; a time zone that is told stays behind the time."""
    said = " ".join(written.split())
    zone = ""
    if (match := _ZONE.search(said)) and any(sign.isdigit() for sign in said[: match.start()]):
        zone = _zone(match.group().strip())
        said = said[: match.start()].strip()
    cursor = Cursor(cut(said), words)
    about = False
    while cursor.take("~") or cursor.take_phrase(words.about) is not None:
        about = True
    cursor.take_phrase(words.range_openers)
    cursor.take("at", "um")
    first = _time(cursor)
    if first is None:
        return unread("time", written, "no time of day")
    last: _Time | None = None
    begin = cursor.at
    token = cursor.peek()
    if token is not None and (token.text in _DASHES or token.fold in words.ranges):
        cursor.at += 1
        last = _time(cursor)
        if last is None:
            cursor.at = begin
    if cursor.take_phrase(words.about_after) is not None:
        about = True
    if not cursor.done:
        return unread("time", written, "more than a time")
    text = first.said() + zone
    notes = list(first.notes)
    if last is not None:
        text += f"/{last.said()}{zone}"
        notes += last.notes
    if about:
        notes.append(Note("about"))
    return Value(kind="time", text=text, about=about, notes=tuple(notes))


def minutes_of(time: str) -> int:
    """Minutes since midnight of an HH:MM."""
    hours, minutes = time.split(":")[:2]
    return int(hours) * 60 + int(minutes[:2])


def _zone(said: str) -> str:
    if said.casefold() in ("utc", "gmt", "z"):
        return "Z"
    return said if ":" in said else f"{said[:3]}:{said[3:]}"


def _time(cursor: Cursor) -> _Time | None:
    begin = cursor.at
    for read in (_figures, _named, _face, _hour_in_words):
        found = read(cursor)
        if found is not None:
            return found
        cursor.at = begin
    return None


def _figures(cursor: Cursor) -> _Time | None:
    """0540, 05:40, 5.40 p.m., 6 o'clock."""
    words = cursor.words
    token = cursor.peek()
    if token is None or token.kind != "figure":
        return None
    said, used = token.text, 1
    after, next_one = cursor.peek(1), cursor.peek(2)
    seconds = ""
    if after is not None and after.text in (":", "h", "H") and after.glued and next_one is not None:
        if next_one.kind != "figure" or not next_one.glued or len(next_one.text) != 2:
            return None
        said, used = f"{said}:{next_one.text}", 3
        colon, third = cursor.peek(3), cursor.peek(4)
        if colon is not None and colon.text == ":" and third is not None and len(third.text) == 2:
            seconds, used = third.text, 5
    hour_only = False
    if match := _WITH_MINUTES.fullmatch(said):
        hours, minutes = int(match[1]), int(match[2])
    elif _HOUR.fullmatch(said):
        hours, minutes, hour_only = int(said), 0, True
    elif (match := _TOGETHER.fullmatch(said)) and len(said) in (3, 4):
        hours, minutes = int(match[1]), int(match[2])
    else:
        return None
    cursor.at += used
    if hour_only and (clocked := _minutes_past(cursor, hours)) is not None:
        return clocked
    marked = cursor.take_phrase(words.o_clock) is not None
    part = cursor.value_of(words.parts)
    notes: tuple[Note, ...] = ()
    if hour_only and part is None and not marked:
        notes = (Note("hour only"),)
    return _checked(hours, minutes, part, notes, seconds)


def _checked(
    hours: int, minutes: int, part: int | None, notes: tuple[Note, ...] = (), seconds: str = ""
) -> _Time | None:
    if part is not None:
        if not 1 <= hours <= 12:
            # "1900 in the evening" says the same twice.
            if hours > 24:
                return None
        else:
            hours = _of_day(hours, part)
    total = hours * 60 + minutes
    if minutes > 59 or total > DAY or (seconds and int(seconds) > 60):
        return None
    return _Time(total, seconds, notes)


def _of_day(hour: int, part: int) -> int:
    """An hour from 1 to 12 in its part of the day."""
    if part == NIGHT:
        return {12: 24}.get(hour, hour) if hour == 12 or hour < 6 else hour + 12
    return hour % 12 + part


def _named(cursor: Cursor) -> _Time | None:
    """Noon, midnight."""
    minutes = cursor.value_of(cursor.words.clock)
    return None if minutes is None else _Time(minutes)


def _minutes_past(cursor: Cursor, count: int) -> _Time | None:
    """10 past 8, 5 minutes to noon: the figure has been read."""
    cursor.take(*cursor.words.minutes)
    words = cursor.words
    token = cursor.peek()
    if token is None or count > 59 or token.fold not in words.past | words.to:
        return None
    cursor.at += 1
    return _from_hour(cursor, count if token.fold in words.past else -count)


def _face(cursor: Cursor) -> _Time | None:
    """Half past eight, quarter to six, ten past eight, one minute past midnight, half eight."""
    words = cursor.words
    if cursor.take_phrase(words.half) is not None:
        if cursor.take(*words.past):
            return _from_hour(cursor, 30)
        return _from_hour(cursor, 30 if words.half_past else -30)
    begin = cursor.at
    cursor.take(*words.articles)
    if cursor.take_phrase(words.quarter) is not None:
        token = cursor.peek()
        if token is None or token.fold not in words.past | words.to:
            return None
        cursor.at += 1
        return _from_hour(cursor, 15 if token.fold in words.past else -15)
    cursor.at = begin
    count = _small(cursor)
    if count is None:
        return None
    at = cursor.at
    found = _minutes_past(cursor, count)
    if found is None:
        cursor.at = at
    return found


def _from_hour(cursor: Cursor, minutes: int) -> _Time | None:
    named = cursor.value_of(cursor.words.clock)
    if named is not None:
        return _Time((named + minutes) % DAY)
    hour = _small(cursor)
    if hour is None:
        token = cursor.peek()
        if token is None or not _HOUR.fullmatch(token.text):
            return None
        hour = int(token.text)
        cursor.at += 1
    cursor.take_phrase(cursor.words.o_clock)
    if not 0 <= hour <= 24:
        return None
    part = cursor.value_of(cursor.words.parts)
    notes = () if part is not None or hour > 12 else (Note("half of the day not said"),)
    if part is not None and 1 <= hour <= 12:
        hour = _of_day(hour, part)
    return _Time((hour * 60 + minutes) % DAY, "", notes)


def _hour_in_words(cursor: Cursor) -> _Time | None:
    """Six, six o'clock, eight thirty, eight in the evening."""
    words = cursor.words
    hour = _small(cursor)
    if hour is None or hour > 24:
        return None
    minutes = _small(cursor)
    if minutes is not None and not 10 <= minutes <= 59:
        return None
    hundred = minutes is None and cursor.take("hundred")
    cursor.take_phrase(words.o_clock)
    part = cursor.value_of(words.parts)
    said = part is not None or hour > 12 or hundred
    return _checked(hour, minutes or 0, part, () if said else (Note("half of the day not said"),))


def _small(cursor: Cursor) -> int | None:
    """A number below a hundred in words."""
    ten = cursor.value_of(cursor.words.tens)
    if ten is not None:
        at = cursor.at
        unit = cursor.value_of(cursor.words.units)
        if unit is not None and 0 < unit < 10:
            return int(ten + unit)
        cursor.at = at
        return int(ten)
    unit = cursor.value_of(cursor.words.units)
    return None if unit is None else int(unit)
