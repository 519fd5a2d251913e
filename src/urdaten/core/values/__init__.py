"""Values: words of a text read as days, times, numbers, quantities, money and codes, each telling how it was read."""

from urdaten.core.values.codes import check_pattern
from urdaten.core.values.comparing import Comparison, compared, read_comparison
from urdaten.core.values.days import Direction, day_of
from urdaten.core.values.english import ENGLISH
from urdaten.core.values.german import GERMAN
from urdaten.core.values.languages import value_words
from urdaten.core.values.moments import joined, later_days
from urdaten.core.values.money import CURRENCIES
from urdaten.core.values.quantities import in_unit
from urdaten.core.values.reading import Reading, read_value, same_value
from urdaten.core.values.telling import fault_words, note_words, value_words_of
from urdaten.core.values.units import UNITS, convert
from urdaten.core.values.value import KINDS, Note, Value, plain_figure, unread
from urdaten.core.values.words import NEUTRAL, ValueWords

__all__ = [
    "CURRENCIES",
    "ENGLISH",
    "GERMAN",
    "KINDS",
    "NEUTRAL",
    "UNITS",
    "Comparison",
    "Direction",
    "Note",
    "Reading",
    "Value",
    "ValueWords",
    "check_pattern",
    "compared",
    "convert",
    "day_of",
    "fault_words",
    "in_unit",
    "joined",
    "later_days",
    "note_words",
    "plain_figure",
    "read_comparison",
    "read_value",
    "same_value",
    "unread",
    "value_words",
    "value_words_of",
]
