"""Features: attributes of a word form, gathered over a window; evidence as thin columns per token.

All that depends on the form alone is computed once per distinct form. A token's emission scores are
the sum over window offsets of rows of A·W, where A (forms x attributes) is sparse and W holds one
weight per attribute, offset and label.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import regex
from numpy.typing import NDArray
from scipy import sparse

from urdaten.core.spans.span import Span
from urdaten.core.text.analysis import Analysis

WINDOW = 2
OFFSETS = 2 * WINDOW + 1
EVIDENCE_SOURCES = ("lists", "rules")

_SHAPES = ((regex.compile(r"\p{Lu}"), "A"), (regex.compile(r"\p{Ll}"), "a"), (regex.compile(r"\p{Nd}"), "9"))
_RUNS = regex.compile(r"(.)\1+")


def shape(form: str) -> str:
    """The form with capitals, small letters and figures each written as one sign: B12 → A99."""
    for pattern, sign in _SHAPES:
        form = pattern.sub(sign, form)
    return form


def form_attributes(form: str, groups: Sequence[str]) -> list[str]:
    """Names of the attributes that a form has under the given feature groups."""
    folded = form.casefold()
    found = []
    if "words" in groups:
        found.append("word=" + folded)
        if form != folded:
            found.append("form=" + form)
    if "shapes" in groups:
        outline = shape(form)
        found.append("shape=" + outline)
        found.append("outline=" + _RUNS.sub(r"\1+", outline))
        if form.isupper() and len(form) > 1:
            found.append("all capitals")
        elif form[:1].isupper():
            found.append("capital")
        if any(sign.isdigit() for sign in form):
            found.append("figure")
    if "affixes" in groups:
        for size in range(1, min(4, len(folded) - 1) + 1):
            found.append("begins=" + folded[:size])
            found.append("ends=" + folded[-size:])
    return found


class AttributeTable:
    """Numbered attributes. The last row of a matrix made by it stands for what lies beyond a sentence."""

    BEYOND = "beyond the sentence"

    def __init__(self, groups: Sequence[str], names: Sequence[str]) -> None:
        self.groups = tuple(groups)
        self.names = list(names)
        self._number = {name: i for i, name in enumerate(self.names)}

    @classmethod
    def learn(cls, forms: Iterable[str], groups: Sequence[str]) -> AttributeTable:
        """The attributes of the given forms; affixes count only when two forms share them."""
        held: dict[str, int] = {}
        for form in forms:
            for name in form_attributes(form, groups):
                held[name] = held.get(name, 0) + 1
        shared = (n for n, k in held.items() if k > 1 or not n.startswith(("begins=", "ends=")))
        return cls(groups, [cls.BEYOND, *shared])

    def __len__(self) -> int:
        return len(self.names)

    def matrix(self, forms: Sequence[str]) -> sparse.csr_array:
        """0/1 matrix of shape (n_forms + 1, n_attributes)."""
        columns: list[int] = []
        ends = [0]
        for form in forms:
            numbers = (self._number.get(name) for name in form_attributes(form, self.groups))
            columns.extend(number for number in numbers if number is not None)
            ends.append(len(columns))
        columns.append(self._number[self.BEYOND])
        ends.append(len(columns))
        data = np.ones(len(columns), dtype=np.float32)
        return sparse.csr_array((data, columns, ends), shape=(len(forms) + 1, len(self)))


def evidence_names(types: Sequence[str], sources: Sequence[str]) -> list[str]:
    """Names of the evidence columns, in order."""
    return [
        f"{source} {code} {part}" for source in sources for code in types for part in ("begins", "inside")
    ]


@dataclass(frozen=True)
class Sentences:
    """Sentences laid end to end, each with WINDOW positions of padding before it and after it.

    word and evidence cover padded positions; position lists the real ones in order; first and length
    are per sentence, counted in real tokens.
    """

    word: NDArray[np.int32]
    evidence: NDArray[np.float32]
    position: NDArray[np.int64]
    first: NDArray[np.int64]
    length: NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.length)


@dataclass(frozen=True)
class TaggerInput:
    """One analysed text with the evidence that lists and rules give, and the sentences to use."""

    analysis: Analysis
    evidence: Sequence[Span]
    # Numbers of the sentences to use, ascending; None means all.
    sentences: Sequence[int] | None = None

    def token_ranges(self) -> list[tuple[int, int]]:
        """First token and one past the last for each sentence in use."""
        column = self.analysis.sentence
        numbers = (
            range(int(column[-1]) + 1 if len(column) else 0) if self.sentences is None else self.sentences
        )
        left = np.searchsorted(column, list(numbers), side="left")
        right = np.searchsorted(column, list(numbers), side="right")
        return [(int(a), int(b)) for a, b in zip(left, right, strict=True) if b > a]


def lay_out(
    inputs: Sequence[TaggerInput], types: Sequence[str], sources: Sequence[str], beyond: int
) -> Sentences:
    """Columns over all sentences of the inputs, which share a vocabulary of `beyond` forms."""
    words: list[NDArray[np.int32]] = []
    columns: list[NDArray[np.float32]] = []
    lengths: list[int] = []
    names = len(types) * 2 * len(sources)
    pad_word = np.full(WINDOW, beyond, dtype=np.int32)
    pad_evidence = np.zeros((WINDOW, names), dtype=np.float32)
    for item in inputs:
        evidence = evidence_columns(item.analysis, item.evidence, types, sources)
        for a, b in item.token_ranges():
            words += [pad_word, item.analysis.word[a:b]]
            columns += [pad_evidence, evidence[a:b]]
            lengths.append(b - a)
    words.append(pad_word)
    columns.append(pad_evidence)
    length = np.array(lengths, dtype=np.int64)
    first = np.cumsum(length) - length
    position = np.arange(int(length.sum())) + np.repeat((np.arange(len(length)) + 1) * WINDOW, length)
    return Sentences(np.concatenate(words), np.concatenate(columns), position, first, length)


def evidence_columns(
    analysis: Analysis, evidence: Sequence[Span], types: Sequence[str], sources: Sequence[str]
) -> NDArray[np.float32]:
    """0/1 columns of shape (n_tokens, 2 · n_types · n_sources): where evidence begins and goes on."""
    out = np.zeros((len(analysis), 2 * len(types) * len(sources)), dtype=np.float32)
    type_number = {code: k for k, code in enumerate(types)}
    source_number = {name: k for k, name in enumerate(sources)}
    for span in evidence:
        if span.type in type_number and span.source in source_number:
            column = 2 * (source_number[span.source] * len(types) + type_number[span.type])
            first, last = analysis.token_range(span.start, span.end)
            out[first : first + 1, column] = 1
            out[first + 1 : last, column + 1] = 1
    return out
