"""Lists: compile entries to a token automaton and match them."""

from urdaten.core.lists.automaton import Automaton
from urdaten.core.lists.entries import Entry, EntryReason, NameList
from urdaten.core.lists.gazetteer import Gazetteer

__all__ = ["Automaton", "Entry", "EntryReason", "Gazetteer", "NameList"]
