"""What rules ask of the words of a language."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from urdaten.core.arrays import Bools, Ints
from urdaten.core.text import Batch, Vocabulary


class WordBase(Protocol):
    """Parts of speech, lemmas, and kinds of things that words stand for."""

    def __hash__(self) -> int:
        """Of which one it is."""

    @property
    def fingerprint(self) -> str:
        """Equal for those that say the same."""

    @property
    def has_kinds(self) -> bool:
        """Is there a lexicon that tells what words stand for?"""

    def tags(self, batch: Batch, /) -> Ints:
        """The tag of each token of a batch: numbers of TAGS."""

    def of_lemmas(self, words: Sequence[str], vocabulary: Vocabulary, /) -> Bools:
        """For each tag and form whether it is a form of one of these words: shape (n_tags, n_forms)."""

    def of_kinds(self, kinds: Sequence[str], vocabulary: Vocabulary, /) -> Bools:
        """Forms that can stand for one of these KINDS, or, written with a capital, name one: shape (n_forms,)."""
