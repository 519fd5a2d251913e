"""The words of each language."""

from __future__ import annotations

from urdaten.core.values.english import ENGLISH
from urdaten.core.values.german import GERMAN
from urdaten.core.values.words import NEUTRAL, ValueWords

_PACKS = {pack.code: pack for pack in (ENGLISH, GERMAN, NEUTRAL)}


def value_words(language: str) -> ValueWords:
    """The words of a language; those without any share one that reads figures only."""
    return _PACKS.get(language, NEUTRAL)
