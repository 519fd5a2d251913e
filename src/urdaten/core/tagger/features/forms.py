"""Attributes that follow from a word form alone: found once per distinct form, however often it occurs."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache

import numpy as np
import regex
from numpy.typing import NDArray

from urdaten.core.lexicon import GeneralLexicon

Ints = NDArray[np.int64]
LONGEST_AFFIX = 4
GRAM = 3
# Longer words are code, addresses or noise; their middle tells nothing.
LONGEST_GRAMMED = 24
BEYOND = "beyond the sentence"
_RUNS = regex.compile(r"(.)\1+")
# Attributes of these kinds count only where two forms share them: one form's own is its word already.
_SHARED = ("begins=", "ends=", "holds=")
# What is left of a word whose letters are hidden.
# What a lexicon tells of a word it tells of words that were never learnt from.
_LETTERLESS = ("shape=", "outline=", "all capitals", "capital", "figure", "lexicon ")


class _Signs(dict[int, str]):
    """Code point → A, a, 9 or itself, found when first asked for."""

    def __missing__(self, code: int) -> str:
        category = unicodedata.category(chr(code))
        sign = {"Lu": "A", "Lt": "A", "Ll": "a", "Nd": "9"}.get(category, chr(code))
        self[code] = sign
        return sign


_SIGNS = _Signs()


def shape(form: str) -> str:
    """The form with capitals, small letters and figures each written as one sign: B12 → A99."""
    return form.translate(_SIGNS)


@lru_cache(maxsize=50_000)
def _drawn_together(drawn: str) -> str:
    return str(_RUNS.sub(r"\1+", drawn))


def outline(form: str) -> str:
    """The shape with every run of one sign drawn together: Lindmoor → Aa+."""
    return _drawn_together(shape(form))


def class_key(form: str) -> str:
    """What forms are of one class as: the folded form; of words with figures their outline."""
    return outline(form).casefold() if any(sign.isdigit() for sign in form) else form.casefold()


def form_attributes(
    form: str,
    groups: Sequence[str],
    classes: Mapping[str, Sequence[int]] | None = None,
    general: GeneralLexicon | None = None,
) -> list[str]:
    """Names of the attributes that a form has under the given feature groups.

    `classes` are word classes by class key, from coarse to fine.
    """
    folded = form.casefold()
    found = []
    if "words" in groups:
        found.append("word=" + folded)
        if form != folded:
            found.append("form=" + form)
    if "shapes" in groups:
        drawn = shape(form)
        found.append("shape=" + drawn)
        found.append("outline=" + _drawn_together(drawn))
        if form.isupper() and len(form) > 1:
            found.append("all capitals")
        elif form[:1].isupper():
            found.append("capital")
        if "9" in drawn:
            found.append("figure")
    if "affixes" in groups:
        for size in range(1, min(LONGEST_AFFIX, len(folded) - 1) + 1):
            found.append("begins=" + folded[:size])
            found.append("ends=" + folded[-size:])
    if "grams" in groups and len(folded) <= LONGEST_GRAMMED:
        found += dict.fromkeys("holds=" + folded[at : at + GRAM] for at in range(1, len(folded) - GRAM))
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
        general: GeneralLexicon | None = None,
    ) -> None:
        self.general = general
        self.groups = tuple(groups)
        self.names = list(names)
        self.classes = classes or {}
        self._number = {name: i for i, name in enumerate(self.names)}
        # Rows of the forms that the table was learnt from.
        self._rows: dict[str, list[int]] = {}

    @classmethod
    def learn(
        cls,
        forms: Iterable[str],
        groups: Sequence[str],
        classes: Mapping[str, Sequence[int]] | None = None,
        general: GeneralLexicon | None = None,
    ) -> AttributeTable:
        """The attributes of the given forms; parts of words count only when two forms share them, and forms only
        when their words have others."""
        number: dict[str, int] = {}
        rows: dict[str, list[int]] = {}
        for form in forms:
            names = form_attributes(form, groups, classes, general)
            rows[form] = [number.setdefault(name, len(number)) for name in names]
        counts = np.bincount([k for row in rows.values() for k in row], minlength=len(number)).tolist()

        def tells(name: str, forms: int) -> bool:
            if name.startswith("form="):
                return bool(counts[number["word=" + name.removeprefix("form=").casefold()]] > 1)
            return forms > 1 or not name.startswith(_SHARED)

        kept = [name for name, count in zip(number, counts, strict=True) if tells(name, count)]
        table = cls(groups, [BEYOND, *kept], classes, general)
        new = [0] * len(number)
        for name, k in number.items():
            new[k] = table._number.get(name, 0)
        table._rows = {form: [new[k] for k in row if new[k]] for form, row in rows.items()}
        return table

    def __len__(self) -> int:
        return len(self.names)

    @property
    def letterless(self) -> NDArray[np.bool_]:
        """Flags: does the attribute tell nothing of a word's letters but capitals and figures?"""
        return np.array([name.startswith(_LETTERLESS) for name in self.names], dtype=bool)

    def only(self, rows: Ints) -> AttributeTable:
        """A table of some of the attributes, in this order."""
        return AttributeTable(self.groups, [self.names[k] for k in rows.tolist()], self.classes, self.general)

    def rows(self, forms: Iterable[str]) -> tuple[list[int], list[int]]:
        """Attribute numbers of the forms, end to end, and where each form's end."""
        columns: list[int] = []
        ends: list[int] = []
        known = self._number
        for form in forms:
            row = self._rows.get(form)
            if row is None:
                names = form_attributes(form, self.groups, self.classes, self.general)
                row = [known[name] for name in names if name in known]
            columns += row
            ends.append(len(columns))
        return columns, ends
