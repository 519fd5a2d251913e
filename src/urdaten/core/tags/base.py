"""What is known of the words of a language: parts of speech and lemmas, and what kinds of things they stand for."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from urdaten.core.arrays import Bools, Ints
from urdaten.core.lexicon import COMMON, GeneralLexicon
from urdaten.core.tags.parts import Parts
from urdaten.core.text import KINDS, Batch, FormColumn, Vocabulary, fold

_BIT = {kind: 1 << place for place, kind in enumerate(KINDS)}
# Bits of names stand above those of kinds.
_NAMES_AT = COMMON.bit_length()


@dataclass(frozen=True, eq=False)
class Words:
    """Parts of speech with a general lexicon, where there is one."""

    parts: Parts
    general: GeneralLexicon | None = None

    @cached_property
    def fingerprint(self) -> str:
        told = (self.parts.fingerprint, None if self.general is None else self.general.digest)
        return hashlib.sha256(repr(told).encode()).hexdigest()

    @property
    def has_kinds(self) -> bool:
        return self.general is not None

    def kinds(self, form: str) -> list[str]:
        """The KINDS that a form can stand for, or, written with a capital, name."""
        if self.general is None:
            return []
        told = {
            name.removeprefix("lexicon ").removeprefix("name of ") for name in self.general.attributes(form)
        }
        return [kind for kind in KINDS if kind in told]

    def tags(self, batch: Batch, /) -> Ints:
        """As those of parts."""
        return self.parts.tags(batch)

    def of_lemmas(self, words: Sequence[str], vocabulary: Vocabulary, /) -> Bools:
        """As that of parts."""
        return self.parts.of_lemmas(words, vocabulary)

    def of_kinds(self, kinds: Sequence[str], vocabulary: Vocabulary, /) -> Bools:
        """Forms that can stand for one of these KINDS, or, written with a capital, name one: shape (n_forms,)."""
        if self.general is None:
            return np.zeros(len(vocabulary), dtype=bool)
        folds, folded = vocabulary.image(fold)
        meant = folds.column(self.general.meanings)[folded]
        wanted = sum(_BIT[kind] for kind in set(kinds))
        names = (meant >> _NAMES_AT & wanted > 0) & (vocabulary.column(_CAPITAL) > 0)
        return np.asarray((meant & wanted > 0) | names)


_CAPITAL = FormColumn(
    lambda forms: np.fromiter((form[:1].isupper() for form in forms), bool, count=len(forms))
)
