"""Compile the kernels ahead of their first use: `python -m urdaten.core.warm`, run when installing."""

from __future__ import annotations

from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.rules import LineRule
from urdaten.core.tagger import compile_ahead
from urdaten.core.text import analyse


def warm() -> None:
    """Matching, training and tagging once on a few words: what they need lies in the cache then."""
    LineRule(name="warm", type="VES", pattern="(?<=The )Pellin").match(analyse("The Pellin sails."))
    names = NameList(name="warm", type="VES", entries=(Entry(preferred="Amber Quay"),))
    Gazetteer([names]).match(analyse("The Amber Quay sails."))
    compile_ahead()


if __name__ == "__main__":
    warm()
