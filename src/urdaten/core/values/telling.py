"""Notes and faults of values, put into words."""

from __future__ import annotations

from urdaten.core.values.value import Note, Value

_NOTES = {
    "about": "about",
    "after midnight": "after midnight, so on {0}",
    "bound": "a bound",
    "calendar week": "calendar week, from Monday to Sunday",
    "converted": "converted from {0}",
    "currency by default": "{0}, as the field says",
    "day before month": "read with the day before the month",
    "day of the text": "on the text's own day, {0}",
    "default": "the field's default",
    "derived from": "derived from {0}",
    "entry": "list {0}",
    "feast": "feast",
    "fits the pattern": "fits the pattern",
    "half of the day not said": "morning or evening is not said; as the clock shows it",
    "hour only": "an hour without minutes",
    "in words": "from words",
    "last day of it": "its last day",
    "month found": "the month is not said: the fitting one",
    "part of it": "a part of it",
    "parts added": "parts added",
    "place in a row": "a place in a row",
    "range": "a range",
    "reckoned from": "reckoned from the text's day, {0}",
    "shortened": "short for “{0}” in this text",
    "unit by default": "in {0}, as the field says",
    "weekday differs": "that day is no {0}",
    "year by weekday": "the year in which that weekday falls on it",
    "year found": "the year is not said: the fitting one",
    "year not said": "the year is not said",
}
_FAULTS = {
    "ends before it begins": "it ends before it begins",
    "more than a day": "there is more in it than a day",
    "more than a number": "there is more in it than a number",
    "more than a quantity": "there is more in it than a quantity",
    "more than a time": "there is more in it than a time of day",
    "more than an amount": "there is more in it than an amount of money",
    "no code": "there is no code in it",
    "no currency": "no currency is told",
    "no day": "no day is told",
    "no day to reckon from": "the text has no day of its own to reckon from",
    "no moment": "neither a day nor a time is told",
    "no number": "no number is told",
    "no such day": "there is no such day",
    "no time of day": "no time of day is told",
    "no unit": "no unit is told",
    "not allowed": "not among the allowed values",
    "not as the pattern has it": "it does not fit the pattern",
    "nothing to compare with": "it refers to another value, and there is none",
    "out of range": "out of range",
    "too long": "it is too long for one value",
    "unclear figure": "the figure can be read in two ways",
    "unknown unit": "the unit is not known",
}


def note_words(note: Note) -> str:
    """One step in words."""
    return _NOTES[note.what].format(*note.about)


def fault_words(fault: str) -> str:
    """Why words stay as they are written."""
    return _FAULTS[fault]


def value_words_of(value: Value) -> str:
    """How a value was read, or why it was not; "" where there is nothing to say."""
    said = [note_words(note) for note in value.notes]
    if value.fault:
        said.append(fault_words(value.fault))
    return "; ".join(dict.fromkeys(said))
