"""Days as people and programs write them."""

from __future__ import annotations

import re
from datetime import date, datetime
from email.utils import parsedate_to_datetime

from dateutil.parser import ParserError, parse

_ISO = re.compile(r"(\d{4})-?(\d\d)-?(\d\d)(?!\d)")
_FIGURES = re.compile(r"(\d{1,2})\s*([./-])\s*(\d{1,2})\s*\2\s*(\d{4}|\d\d)(?!\d)")
_YEAR = re.compile(r"(?<!\d)\d{4}(?!\d)")
_LONGEST = 60


def day_of(words: str, *, day_first: bool = True) -> date | None:
    """The day that words name: 2026-03-01, 1.3.2026, 1/3/26, 1 March 2026, or a moment of that day; None for what names none."""
    words = words.strip()
    if not words or len(words) > _LONGEST:
        return None
    try:
        if found := _ISO.match(words):
            return date(int(found[1]), int(found[2]), int(found[3]))
        if found := _FIGURES.match(words):
            first, second, year = int(found[1]), int(found[3]), int(found[4])
            year += 0 if year > 99 else 2000 if year < 70 else 1900
            day, month = (first, second) if day_first or found[2] == "." else (second, first)
            # What can be read one way only is read that way.
            return date(year, day, month) if month > 12 else date(year, month, day)
        if not _YEAR.search(words):
            return None
        moment: datetime = parse(words, dayfirst=day_first, default=datetime(2000, 1, 1))  # noqa: DTZ001 - days have no zone
        return moment.date()
    except (ValueError, OverflowError, ParserError, TypeError):
        return None


def day_of_mail(header: str) -> date | None:
    """The day of a mail's Date, where its sender is."""
    try:
        return parsedate_to_datetime(header).date()
    except (ValueError, TypeError, IndexError, OverflowError):
        return day_of(header)
