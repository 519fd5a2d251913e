"""A value: what words in a text stand for, in a form that machines can compare, and how it was read from them."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from decimal import Decimal

# What a field may hold. "moment" is a day, a time of day, or both; "none" stays as it is written.
KINDS = ("none", "name", "date", "time", "moment", "number", "quantity", "money", "code")


@dataclass(frozen=True)
class Note:
    """One step on the way from the words to the value: what was done (a name from `telling`), and what it was done with."""

    what: str
    about: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Value:
    """A value that was read, or words that nobody could read.

    `text` is the value in its open form: a day or moment as EDTF (ISO 8601 where that is enough), a time of day as HH:MM, a
    number in plain figures, a quantity as figure, space and UCUM code, money as figure, space and ISO 4217 code, a name as its
    list has it. Where the words could not be read it is the words, and `fault` (a name from `telling`) says why.
    """

    kind: str
    text: str
    # Of numbers, quantities and money: both are the same unless a range or a bound is told; None where it has no end.
    low: Decimal | None = None
    high: Decimal | None = None
    # UCUM code, or ISO 4217 code.
    unit: str = ""
    # "about", "some", "perhaps".
    about: bool = False
    # It follows from another value of the text.
    derived: bool = False
    # Of a name: the stable identifier of its entry.
    identifier: str = ""
    notes: tuple[Note, ...] = field(default=())
    fault: str = ""

    @property
    def known(self) -> bool:
        """Could the words be read?"""
        return not self.fault

    def noted(self, *notes: Note) -> Value:
        """The same with more steps after those that are told."""
        return replace(self, notes=(*self.notes, *notes)) if notes else self


def unread(kind: str, written: str, fault: str) -> Value:
    """Words that stay as they are."""
    return Value(kind=kind, text=" ".join(written.split()), fault=fault)


def plain_figure(number: Decimal) -> str:
    """A number in figures: no exponent, no zeros that say nothing, no minus before nought."""
    if number == 0:
        return "0"
    said = format(number, "f")
    return said.rstrip("0").rstrip(".") if "." in said else said
