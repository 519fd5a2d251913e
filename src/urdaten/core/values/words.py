"""What a language brings to the reading of values: its words for numbers, days and times, and how it writes figures."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal

# The part of the day that begins in the evening and ends in the morning.
NIGHT = 24


@dataclass(frozen=True, kw_only=True, eq=False)
class ValueWords:
    """Words of one language, all folded. Every member may be empty: figures are read all the same."""

    code: str
    decimal: str = "."
    groups: str = ","
    # In 3/4/2026 the day stands before the month.
    day_first: bool = True
    # Numbers below a hundred, and tens that others are added to.
    units: Mapping[str, Decimal] = field(default_factory=dict)
    tens: Mapping[str, Decimal] = field(default_factory=dict)
    # What a number before it is multiplied by; without one it stands for itself.
    scales: Mapping[str, Decimal] = field(default_factory=dict)
    fractions: Mapping[str, Decimal] = field(default_factory=dict)
    ordinals: Mapping[str, int] = field(default_factory=dict)
    # A number of their own: "a couple".
    fixed: Mapping[str, Decimal] = field(default_factory=dict)
    joins: frozenset[str] = frozenset()
    articles: frozenset[str] = frozenset()
    minus: frozenset[str] = frozenset()
    # May numbers be written as one word, the ones before the tens?
    compounds: bool = False
    # In front of a number or a day, or behind it.
    about: frozenset[str] = frozenset()
    about_after: frozenset[str] = frozenset()
    # Bounds: whether the number itself is within.
    above: Mapping[str, bool] = field(default_factory=dict)
    below: Mapping[str, bool] = field(default_factory=dict)
    ranges: frozenset[str] = frozenset()
    range_openers: frozenset[str] = frozenset()
    # Names of units beside those that everybody writes, by UCUM code; of currencies by ISO 4217 code.
    unit_names: Mapping[str, str] = field(default_factory=dict)
    currency_names: Mapping[str, str] = field(default_factory=dict)
    months: Mapping[str, int] = field(default_factory=dict)
    # Monday is 0.
    weekdays: Mapping[str, int] = field(default_factory=dict)
    # Days from the day of the text.
    days: Mapping[str, int] = field(default_factory=dict)
    # By EDTF's numbers: 21 is spring.
    seasons: Mapping[str, int] = field(default_factory=dict)
    # A feast on a day of a month, or so many days from Easter Sunday.
    feasts: Mapping[str, tuple[int, int] | int] = field(default_factory=dict)
    next: frozenset[str] = frozenset()
    last: frozenset[str] = frozenset()
    this: frozenset[str] = frozenset()
    ago: frozenset[str] = frozenset()
    ahead: frozenset[str] = frozenset()
    later: frozenset[str] = frozenset()
    earlier: frozenset[str] = frozenset()
    since: frozenset[str] = frozenset()
    until: frozenset[str] = frozenset()
    early: frozenset[str] = frozenset()
    end: frozenset[str] = frozenset()
    # Words of the sentence that put its days ahead of the text, or behind it.
    coming: frozenset[str] = frozenset()
    gone: frozenset[str] = frozenset()
    # Words within a date that say nothing.
    fillers: frozenset[str] = frozenset()
    # Spans of days and months: (days, months) each.
    spans: Mapping[str, tuple[int, int]] = field(default_factory=dict)
    # Minutes that a clock word stands for, and words of its face.
    clock: Mapping[str, int] = field(default_factory=dict)
    past: frozenset[str] = frozenset()
    to: frozenset[str] = frozenset()
    half_past: bool = True
    quarter: frozenset[str] = frozenset()
    half: frozenset[str] = frozenset()
    minutes: frozenset[str] = frozenset()
    o_clock: frozenset[str] = frozenset()
    # Hours that are added below twelve; "in the morning" is 0.
    parts: Mapping[str, int] = field(default_factory=dict)
    # Comparisons with another value.
    times: Mapping[str, Decimal] = field(default_factory=dict)
    more: frozenset[str] = frozenset()
    less: frozenset[str] = frozenset()
    same: frozenset[str] = frozenset()
    that: frozenset[str] = frozenset()
    plural: tuple[tuple[str, str], ...] = ()


def numbered(words: str, first: int = 0, step: int = 1) -> dict[str, Decimal]:
    """Names by rank; those with a bar between them mean the same."""
    return {
        name: Decimal(first + k * step) for k, names in enumerate(words.split()) for name in names.split("|")
    }


def ranks(words: str, first: int = 1) -> dict[str, int]:
    return {name: int(value) for name, value in numbered(words, first).items()}


def words(text: str) -> frozenset[str]:
    return frozenset(text.split())


def phrases(text: str) -> frozenset[str]:
    return frozenset(part.strip() for part in text.split(","))


# In an unknown language a comma may stand before thousands as well as before tenths.
NEUTRAL = ValueWords(code="neutral", groups="")
