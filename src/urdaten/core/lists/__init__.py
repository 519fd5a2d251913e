"""Lists: compile entries to a token automaton and match them."""

from urdaten.core.lists.entries import Entry, EntryReason, NameList
from urdaten.core.lists.gazetteer import Gazetteer

__all__ = ["Entry", "EntryReason", "Gazetteer", "NameList"]
