"""Attributes that follow from a word form alone: found once per distinct form, however often it occurs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.lexicon import WordLexicon
from urdaten.core.tagger.features.lookup import Lookup
from urdaten.core.tagger.features.pieces import PIECE_KINDS, affixes_of, grams_of
from urdaten.core.tagger.features.writing import (
    Writing,
    class_key,
    drawn_together,
    is_all_capitals,
    is_capital,
    shape,
)
from urdaten.core.text import fold

BEYOND = "beyond the sentence"
# Attributes of these kinds count only where two forms share them: one form's own is its word already.
_SHARED = PIECE_KINDS
# What is left of a word whose letters are hidden. What a lexicon tells of a word it tells of words that were never learnt
# from.
_LETTERLESS = ("shape=", "outline=", "all capitals", "capital", "figure", "lexicon ")


def form_attributes(
    form: str,
    groups: Sequence[str],
    classes: Mapping[str, Sequence[int]] | None = None,
    general: WordLexicon | None = None,
) -> list[str]:
    """Names of the attributes that a form has under the given feature groups.

    `classes` are word classes by class key, from coarse to fine.
    """
    folded = fold(form)
    found = []
    if "words" in groups:
        found.append("word=" + folded)
        if form != folded:
            found.append("form=" + form)
    if "shapes" in groups:
        drawn = shape(form)
        found.append("shape=" + drawn)
        found.append("outline=" + drawn_together(drawn))
        if is_all_capitals(form):
            found.append("all capitals")
        elif is_capital(form):
            found.append("capital")
        if "9" in drawn:
            found.append("figure")
    if "affixes" in groups:
        found += affixes_of(folded)
    if "grams" in groups:
        found += grams_of(folded)
    if "classes" in groups and classes:
        # Taggers of before have words with figures as they are written.
        for level, number in enumerate(classes.get(folded) or classes.get(class_key(form), ())):
            found.append(f"class {level}={number}")
    if "lexicon" in groups and general is not None:
        found += general.attributes(form)
    return found


class AttributeTable:
    """Numbered attributes. Row 0 of what is made by it stands for what lies beyond a sentence, row w + 1
    for form number w."""

    def __init__(
        self,
        groups: Sequence[str],
        names: Sequence[str],
        classes: Mapping[str, Sequence[int]] | None = None,
        general: WordLexicon | None = None,
    ) -> None:
        self.general = general
        self.groups = tuple(groups)
        self.names = list(names)
        self.classes = classes or {}

    @classmethod
    def learn(
        cls,
        forms: Iterable[str],
        groups: Sequence[str],
        classes: Mapping[str, Sequence[int]] | None = None,
        general: WordLexicon | None = None,
    ) -> AttributeTable:
        """The attributes of the given forms; parts of words count only when two forms share them, and forms only
        when their words have others."""
        counts: Counter[str] = Counter()
        for form in forms:
            counts.update(form_attributes(form, groups, classes, general))

        def tells(name: str) -> bool:
            if name.startswith("form="):
                return counts["word=" + fold(name.removeprefix("form="))] > 1
            return counts[name] > 1 or not name.startswith(_SHARED)

        kept = [name for name in counts if tells(name)]
        return cls(groups, [BEYOND, *kept], classes, general)

    def __len__(self) -> int:
        return len(self.names)

    @property
    def letterless(self) -> NDArray[np.bool_]:
        """Flags: does the attribute tell nothing of a word's letters but capitals and figures?"""
        return np.array([name.startswith(_LETTERLESS) for name in self.names], dtype=bool)

    def only(self, rows: Ints) -> AttributeTable:
        """A table of some of the attributes, in this order."""
        return AttributeTable(self.groups, [self.names[k] for k in rows.tolist()], self.classes, self.general)

    def rows(self, writing: Writing, since: int = 0) -> tuple[Ints, Ints]:
        """Attribute numbers of the forms from number `since` on, end to end, and where each form's end: those that
        form_attributes names and the table has, in no particular order."""
        return self._lookup.rows(writing, since)

    @cached_property
    def _lookup(self) -> Lookup:
        return Lookup(self.groups, self.names, self.classes, self.general)
