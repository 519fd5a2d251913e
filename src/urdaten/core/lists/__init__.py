"""Lists: compile entries to a token automaton and match them."""

from urdaten.core.lists import listfile
from urdaten.core.lists.arrivals import FATES, Arrival, Arrivals, Fate
from urdaten.core.lists.automaton import Automaton
from urdaten.core.lists.compiled import CompiledLists
from urdaten.core.lists.entries import Entry, EntryReason, NameList
from urdaten.core.lists.gazetteer import Gazetteer, ListHead, Part, Reading
from urdaten.core.lists.kinship import Kin, Kindred, kinship
from urdaten.core.lists.marks import spelling_key, touch_marks
from urdaten.core.lists.options import CASES, Case, ListOptions

__all__ = [
    "CASES",
    "FATES",
    "Arrival",
    "Arrivals",
    "Automaton",
    "Case",
    "CompiledLists",
    "Entry",
    "EntryReason",
    "Fate",
    "Gazetteer",
    "Kin",
    "Kindred",
    "ListHead",
    "ListOptions",
    "NameList",
    "Part",
    "Reading",
    "kinship",
    "listfile",
    "spelling_key",
    "touch_marks",
]
