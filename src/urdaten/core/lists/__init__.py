"""Lists: compile entries to a token automaton and match them."""

from urdaten.core.lists.gazetteer import Entry, Gazetteer, NameList

__all__ = ["Entry", "Gazetteer", "NameList"]
