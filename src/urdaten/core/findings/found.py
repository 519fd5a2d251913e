"""Spans of many texts as columns: each with its text, its sentence, its type and its value."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

from urdaten.core.arrays import Ints
from urdaten.core.text import fold

Scope = Literal["sentence", "text"]


@dataclass(frozen=True, eq=False)
class Found:
    """Columns are int32 of shape (n_spans,): text and sentence by any numbers, type by its place in `types`, value by its
    place in `values`.

    Two spans have the same value where their folded words are the same; it goes by how it is written most often.
    """

    text: Ints
    sentence: Ints
    type: Ints
    value: Ints
    types: tuple[str, ...]
    values: tuple[str, ...]

    def __len__(self) -> int:
        """Number of spans."""
        return len(self.text)

    def of(self, type: str, value: str | None = None) -> NDArray[np.bool_]:
        """Which spans are of a type, and of a value, however that is written; of shape (n_spans,)."""
        if type not in self.types:
            return np.zeros(len(self), dtype=bool)
        which: NDArray[np.bool_] = self.type == self.types.index(type)
        if value is not None:
            wanted = folded_value(value)
            numbers = [number for number, name in enumerate(self.values) if folded_value(name) == wanted]
            which &= np.isin(self.value, numbers)
        return which


@dataclass(frozen=True, kw_only=True)
class ValueCount:
    """A value, and in how many spans, sentences and texts it stands."""

    value: str
    spans: int
    sentences: int
    texts: int


@dataclass(frozen=True, kw_only=True)
class Together:
    """In how many sentences or texts values of two types stand together, of shape (n_rows, n_columns)."""

    rows: Sequence[str]
    columns: Sequence[str]
    counts: Sequence[Sequence[int]]


def folded_value(words: str) -> str:
    """Words as values are compared: folded, with one space for any run of white space."""
    return " ".join(fold(words).split())


def found_of(rows: Iterable[tuple[int, int, str, str]]) -> Found:
    """From text, sentence, type and words of each span."""
    text: list[int] = []
    sentence: list[int] = []
    kind: list[int] = []
    written: list[int] = []
    types: dict[str, int] = {}
    forms: dict[str, int] = {}
    for text_number, sentence_number, code, words in rows:
        text.append(text_number)
        sentence.append(sentence_number)
        kind.append(types.setdefault(code, len(types)))
        written.append(forms.setdefault(words, len(forms)))
    names: dict[str, int] = {}
    value_of = np.array([names.setdefault(folded_value(form), len(names)) for form in forms], dtype=np.int32)
    uses = np.bincount(np.array(written, dtype=np.int64), minlength=len(forms))
    # The most frequent writing of each value; of two as frequent the first.
    shown = [""] * len(names)
    best = [-1] * len(names)
    for form, count, number in zip(forms, uses.tolist(), value_of.tolist(), strict=True):
        if count > best[number]:
            best[number], shown[number] = count, " ".join(form.split())
    return Found(
        np.array(text, dtype=np.int32),
        np.array(sentence, dtype=np.int32),
        np.array(kind, dtype=np.int32),
        value_of[np.array(written, dtype=np.int64)] if written else np.zeros(0, dtype=np.int32),
        tuple(types),
        tuple(shown),
    )


def value_counts(found: Found, type: str) -> list[ValueCount]:
    """Every value of a type, those in most spans first, then by name."""
    which = found.of(type)
    value = found.value[which]
    size = len(found.values)
    spans = np.bincount(value, minlength=size)
    sentences = _distinct(value, found.sentence[which], size)
    texts = _distinct(value, found.text[which], size)
    counted = [
        ValueCount(
            value=found.values[k], spans=int(spans[k]), sentences=int(sentences[k]), texts=int(texts[k])
        )
        for k in np.flatnonzero(spans).tolist()
    ]
    return sorted(counted, key=lambda one: (-one.spans, one.value))


def over_bins(found: Found, which: NDArray[np.bool_], bin_of: dict[int, int], bins: int) -> list[int]:
    """How many of these spans fall into each bin by their text; texts without a bin are left out."""
    texts, counts = np.unique(found.text[which], return_counts=True)
    made = [0] * bins
    for text, count in zip(texts.tolist(), counts.tolist(), strict=True):
        if text in bin_of:
            made[bin_of[text]] += count
    return made


def stand_together(found: Found, one: str, other: str, scope: Scope, most: int) -> Together:
    """The values of two types that stand together in most sentences or texts, at most so many of each.

    Of one and the same type a value does not stand together with itself.
    """
    places = found.sentence if scope == "sentence" else found.text
    _, place = np.unique(places, return_inverse=True)
    held = [_incidence(found, found.of(code), place) for code in (one, other)]
    counts = (held[0].T @ held[1]).tocsr()
    if one == other:
        counts.setdiag(0)
    rows = _largest(np.asarray(counts.sum(axis=1)).ravel(), found.values, most)
    columns = _largest(np.asarray(counts.sum(axis=0)).ravel(), found.values, most)
    table = counts[rows][:, columns].toarray() if rows and columns else np.zeros((0, 0))
    return Together(
        rows=[found.values[k] for k in rows],
        columns=[found.values[k] for k in columns],
        counts=table.astype(int).tolist(),
    )


def _incidence(found: Found, which: NDArray[np.bool_], place: NDArray[np.int64]) -> csr_array:
    """Whether a value stands in a place, of shape (n_places, n_values)."""
    size = len(found.values)
    pairs = np.unique(place[which].astype(np.int64) * max(1, size) + found.value[which])
    shape = (int(place.max(initial=-1)) + 1, size)
    at = (pairs // max(1, size), pairs % max(1, size))
    return csr_array((np.ones(len(pairs), dtype=np.int64), at), shape=shape)


def _distinct(value: Ints, place: Ints, size: int) -> NDArray[np.int64]:
    """In how many different places each value stands."""
    pairs = np.unique(np.stack([value, place], axis=1), axis=0) if len(value) else np.zeros((0, 2), dtype=int)
    return np.bincount(pairs[:, 0], minlength=size)


def _largest(sums: NDArray[np.int64], names: Sequence[str], most: int) -> list[int]:
    there = np.flatnonzero(sums).tolist()
    return sorted(there, key=lambda k: (-int(sums[k]), names[k]))[:most]
