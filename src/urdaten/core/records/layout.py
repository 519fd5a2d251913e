"""How the weights of linking are laid out: which of them speaks for what, and what each says before anything was learnt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from urdaten.core.arrays import Bools, Floats
from urdaten.core.records.kernels import NONE_SIZES, PLACE_SIZES
from urdaten.core.records.template import Template

# Words before a value that are seen one by one whatever their place, and words behind it.
BAG_BEFORE, BAG_AFTER = 8, 6
COARSE = 5
CUES = 8
CELLS = 8
RELATIONS = (
    "right before it",
    "up to 3 words before it",
    "up to 6 words before it",
    "up to 10 words before it",
    "far before it in its sentence",
    "right after it",
    "up to 3 words after it",
    "up to 6 words after it",
    "far after it in its sentence",
    "in the sentence before",
    "two sentences before",
    "further up",
    "in the sentence after",
    "further down",
)
_SIDES = ("before it", "after it", "in another sentence")
_MANY = ("one", "two", "three", "four or five", "more")
_PLACES = ("in its sentence", "further up", "further down")


def _place_words() -> list[tuple[str, list[str]]]:
    """Of each slot of a candidate what its codes say, about the anchor."""
    ranks = [f"the {n} {side}" for n in ("nearest", "2nd", "3rd", "4th", "5th", "6th") for side in _SIDES]
    between = [
        f"{n} between, {where}"
        for where in ("in its sentence", "over sentences")
        for n in ("none", "one", "more")
    ]
    breaks = [
        "nothing between",
        "a comma between",
        "a stop between",
        "a table's bar between",
        "another sentence",
    ]
    many = [f"{n} in the text, this one {p}" for n in _MANY for p in _PLACES]
    pronoun = ["", "spoken of by a pronoun", "no pronoun for it"]
    alike = [
        f"{n} of the value's kind {s}"
        for s in ("after it", "before it")
        for n in ("no other", "one other", "others")
    ]
    opens = [
        f"{o}, {p}"
        for p in ("in another sentence", "in its sentence")
        for o in ("within a sentence", "begins a sentence")
    ]
    first = [
        f"{o}, {p}"
        for p in ("in another sentence", "in its sentence")
        for o in ("not the text's first", "the text's first")
    ]
    times = ["named once", "named twice", "named often"]
    return list(
        zip(
            (
                "place",
                "rank",
                "between",
                "break",
                "how many",
                "pronoun",
                "alike",
                "beginning",
                "first",
                "named",
            ),
            (list(RELATIONS), ranks, between, breaks, many, pronoun, alike, opens, first, times),
            strict=True,
        )
    )


_NONE_WORDS: tuple[tuple[str, list[str]], ...] = (
    ("nearest", [*RELATIONS, "no anchor in reach"]),
    (
        "how many",
        ["no anchor", "one anchor", "two anchors", "three anchors", "four or five anchors", "more anchors"],
    ),
    ("sentence", ["no anchor in the sentence", "an anchor in the sentence"]),
)
_CUE_WORDS = (
    "no cue for another field",
    "a cue for another field",
    "right behind its cue",
    "behind its cue",
    "behind another field's cue",
    "no cue",
    "behind a cue",
    "no cue near",
)
_LOG_WORDS = ("", "opens a line of a log", "in a line of a log")
_ROW_WORDS = ("the only one of its type", "the first of its type", "a later one of its type")
_CELL_WORDS = ("", *(f"cell {k}" for k in range(1, CELLS)))


@dataclass(frozen=True)
class Layout:
    """Where the weights of a template are: words that were seen while learning, and what else there is to see.

    One vector, in segments: the place of a candidate (shared by all fields), the place of no candidate, cues (shared), place by
    field, and what is seen around a value, by field, the last "field" being none of them. Behind them stands one weight that is
    always nought, for what is not there.
    """

    fields: tuple[str, ...]
    types: tuple[str, ...]
    words: tuple[str, ...]

    @classmethod
    def of(cls, template: Template, types: Sequence[str], words: Sequence[str] = ()) -> Layout:
        return cls(tuple(f.name for f in template.filled), tuple(types), tuple(words))

    @cached_property
    def place(self) -> list[int]:
        """Where each slot of a candidate begins."""
        return [sum(PLACE_SIZES[:k]) for k in range(len(PLACE_SIZES))]

    @cached_property
    def none(self) -> list[int]:
        return [sum(PLACE_SIZES) + sum(NONE_SIZES[:k]) for k in range(len(NONE_SIZES))]

    @property
    def cue(self) -> int:
        return sum(PLACE_SIZES) + sum(NONE_SIZES)

    @property
    def crossed(self) -> int:
        """Coarse place by field."""
        return self.cue + CUES

    @cached_property
    def around(self) -> dict[str, tuple[int, int]]:
        """Of each slot around a value its beginning and its size, before it is told apart by field."""
        words, types = len(self.words), len(self.types)
        sizes = {
            "field": 1,
            "before": words,
            "second before": words,
            "after": words,
            "heading": words,
            "begins": words,
            "cell": CELLS,
            "log": len(_LOG_WORDS),
            "type before": types + 1,
            "type after": types + 1,
            "type": 2 * types,
            "with": types,
            "row": len(_ROW_WORDS),
            "own word": words,
            "words before": words,
            "words after": words,
        }
        at = self.crossed + COARSE * len(self.fields)
        found = {}
        for name, size in sizes.items():
            found[name] = (at, size)
            at += size * (len(self.fields) + 1)
        return found

    @cached_property
    def size(self) -> int:
        """How many weights there are, without the one for nothing."""
        begin, size = self.around["words after"]
        return begin + size * (len(self.fields) + 1)

    @cached_property
    def lexical(self) -> Bools:
        """Flags of the weights of words (shape (size,))."""
        found = np.zeros(self.size, dtype=bool)
        for name in (
            "before",
            "second before",
            "after",
            "heading",
            "begins",
            "own word",
            "words before",
            "words after",
        ):
            begin, size = self.around[name]
            found[begin : begin + size * (len(self.fields) + 1)] = True
        return found

    @cached_property
    def first(self) -> Floats:
        """The weights before anything is learnt (shape (size + 1,)): near is better than far, before better than behind, its
        own cue better than none, another's worse."""
        w = np.zeros(self.size + 1)
        begin = self.place
        w[begin[0] : begin[0] + 14] = [3, 2.8, 2.5, 2, 1.5, 1.5, 1.2, 0.9, 0.5, 0.3, -0.7, -1.2, -1.5, -2.5]
        for rank in range(6):
            w[begin[1] + 3 * rank : begin[1] + 3 * rank + 3] = 0.5 - 1.2 * min(rank, 3)
        w[begin[2] : begin[2] + 6] = [0, -0.7, -1.4, 0, -0.3, -0.6]
        w[begin[3] : begin[3] + 5] = [0, 0, -1, 0.3, 0]
        w[self.cue : self.cue + CUES] = [1, -1, 3, 2, -2, -1, 0, 0.3]
        return w

    def describe(self, weight: int) -> tuple[str, str, str]:
        """What a weight is of: what is seen, its value in words, and the field, "" for all."""
        slots = [*zip(_place_words(), self.place, PLACE_SIZES, strict=True)]
        slots += zip(_NONE_WORDS, self.none, NONE_SIZES, strict=True)
        for (name, words), begin, size in slots:
            if begin <= weight < begin + size:
                return name, words[weight - begin], ""
        if self.cue <= weight < self.crossed:
            return "cue", _CUE_WORDS[weight - self.cue], ""
        fields = len(self.fields)
        if self.crossed <= weight < self.crossed + COARSE * fields:
            coarse, field = divmod(weight - self.crossed, fields)
            said = ("close before it", "before it", "close after it", "after it", "in another sentence")[
                coarse
            ]
            return "place", said, self.fields[field]
        for name, (begin, size) in self.around.items():
            if begin <= weight < begin + size * (fields + 1):
                code, field = divmod(weight - begin, fields + 1)
                return name, self._said(name, code), self.fields[field] if field < fields else "none"
        return "", "", ""

    def _said(self, name: str, code: int) -> str:
        if name == "field":
            return ""
        if name == "cell":
            return _CELL_WORDS[code]
        if name == "log":
            return _LOG_WORDS[code]
        if name == "row":
            return _ROW_WORDS[code]
        if name == "with":
            return self.types[code]
        if name in ("type before", "type after"):
            return self.types[code - 1] if code else "none"
        if name == "type":
            return self.types[code // 2] + (" and another" if code % 2 else "")
        return f"“{self.words[code]}”"
