"""What a tagger asks of a lexicon, whatever it tells of words."""

from __future__ import annotations

from typing import Protocol

from urdaten.core.arrays import Bools, Ints
from urdaten.core.text import FormColumn, Vocabulary


class WordLexicon(Protocol):
    """Tells attributes of single words by their forms, and of phrases by where they stand."""

    @property
    def digest(self) -> str:
        """Of what it tells."""

    @property
    def meanings(self) -> FormColumn:
        """Over folded forms: bits of what is told of each; int64. Those above COMMON count for words with a capital."""

    def attributes(self, form: str, /) -> tuple[str, ...]:
        """Names of what is told of a form."""

    def told(self, meant: int, /) -> tuple[str, ...]:
        """Names of what some bits of `meanings` say."""

    def phrases(self, vocabulary: Vocabulary, word: Ints, is_capital: Bools, /) -> tuple[Ints, Ints]:
        """Where phrases stand in a row of words and what they tell there: positions, and numbers of PHRASE_KINDS."""
