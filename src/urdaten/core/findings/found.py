"""Spans of many texts as columns: each with its text, its sentence, its type and its value."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

from urdaten.core.arrays import Ints
from urdaten.core.text import fold

Scope = Literal["sentence", "text"]


@dataclass(frozen=True, kw_only=True)
class FoundSpan:
    """A span, and in which text and sentence it stands; half-open code points of its text, and who set it."""

    text: int
    sentence: int
    type: str
    start: int
    end: int
    words: str
    maker: str = ""


@dataclass(frozen=True, eq=False)
class Found:
    """Columns are int32 of shape (n_spans,): text and sentence by any numbers, type by its place in `types`, value by its
    place in `values`, maker by its place in `makers`; start and end as of the span.

    Two spans have the same value where their folded words are the same; it goes by how it is written most often.
    """

    text: Ints
    sentence: Ints
    type: Ints
    value: Ints
    start: Ints
    end: Ints
    maker: Ints
    types: tuple[str, ...]
    values: tuple[str, ...]
    makers: tuple[str, ...]

    def __len__(self) -> int:
        """Number of spans."""
        return len(self.text)

    def of(self, type: str, value: str | None = None) -> Found:
        """The spans of a type, and of a value, however that is written."""
        if type not in self.types:
            return self._where(np.zeros(len(self), dtype=bool))
        which = self.type == self.types.index(type)
        if value is not None:
            wanted = folded_value(value)
            numbers = [number for number, name in enumerate(self.values) if folded_value(name) == wanted]
            which &= np.isin(self.value, numbers)
        return self._where(which)

    def by(self, maker: str) -> Found:
        """The spans that somebody set."""
        numbers = [number for number, name in enumerate(self.makers) if name == maker]
        return self._where(np.isin(self.maker, numbers))

    def within(self, texts: Collection[int]) -> Found:
        """The spans of these texts."""
        return self._where(np.isin(self.text, list(texts)))

    def inside(self, sentences: Collection[int]) -> Found:
        """The spans of these sentences."""
        return self._where(np.isin(self.sentence, list(sentences)))

    def beside(self, others: Found, scope: Scope) -> Found:
        """The spans that stand in a sentence or text with one of the others."""
        if scope == "sentence":
            return self._where(np.isin(self.sentence, others.sentence))
        return self._where(np.isin(self.text, others.text))

    def sentences(self) -> list[int]:
        """The numbers of their sentences, each once, ascending."""
        numbers: list[int] = np.unique(self.sentence).tolist()
        return numbers

    def texts(self) -> list[int]:
        """The numbers of their texts, each once, ascending."""
        numbers: list[int] = np.unique(self.text).tolist()
        return numbers

    def spans(self, most: int | None = None) -> list[FoundSpan]:
        """The spans by text and start, each under the common writing of its value; at most so many."""
        order = np.lexsort((self.end, self.start, self.text))[:most]
        columns = (self.text, self.sentence, self.type, self.start, self.end, self.value, self.maker)
        return [
            FoundSpan(
                text=text,
                sentence=sentence,
                type=self.types[kind],
                start=start,
                end=end,
                words=self.values[value],
                maker=self.makers[maker],
            )
            for text, sentence, kind, start, end, value, maker in zip(
                *(column[order].tolist() for column in columns), strict=True
            )
        ]

    def _where(self, which: NDArray[np.bool_]) -> Found:
        return replace(
            self,
            **{
                name: getattr(self, name)[which]
                for name in ("text", "sentence", "type", "value", "start", "end", "maker")
            },
        )


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


def found_of(spans: Iterable[FoundSpan]) -> Found:
    """Spans as columns."""
    rows: list[tuple[int, ...]] = []
    types: dict[str, int] = {}
    forms: dict[str, int] = {}
    makers: dict[str, int] = {}
    for span in spans:
        kind = types.setdefault(span.type, len(types))
        form = forms.setdefault(span.words, len(forms))
        maker = makers.setdefault(span.maker, len(makers))
        rows.append((span.text, span.sentence, kind, form, span.start, span.end, maker))
    text, sentence, type_, form_of, start, end, maker_of = np.array(rows, dtype=np.int32).reshape(-1, 7).T
    names: dict[str, int] = {}
    value_of = np.array(
        [names.setdefault(folded_value(words), len(names)) for words in forms], dtype=np.int32
    )
    uses = np.bincount(form_of, minlength=len(forms))
    # The most frequent writing of each value; of two as frequent the first.
    shown = [""] * len(names)
    best = [-1] * len(names)
    for words, count, number in zip(forms, uses.tolist(), value_of.tolist(), strict=True):
        if count > best[number]:
            best[number], shown[number] = count, " ".join(words.split())
    return Found(
        text=text,
        sentence=sentence,
        type=type_,
        value=value_of[form_of],
        start=start,
        end=end,
        maker=maker_of,
        types=tuple(types),
        values=tuple(shown),
        makers=tuple(makers),
    )


def value_counts(found: Found) -> list[ValueCount]:
    """Every value, those in most spans first, then by name."""
    size = len(found.values)
    spans = np.bincount(found.value, minlength=size)
    sentences = _distinct(found.value, found.sentence, size)
    texts = _distinct(found.value, found.text, size)
    counted = [
        ValueCount(
            value=found.values[k], spans=int(spans[k]), sentences=int(sentences[k]), texts=int(texts[k])
        )
        for k in np.flatnonzero(spans).tolist()
    ]
    return sorted(counted, key=lambda one: (-one.spans, one.value))


def over_bins(found: Found, bin_of: Mapping[int, int], bins: int) -> list[int]:
    """How many spans fall into each bin by their text; texts without a bin are left out."""
    texts, counts = np.unique(found.text, return_counts=True)
    made = [0] * bins
    for text, count in zip(texts.tolist(), counts.tolist(), strict=True):
        if text in bin_of:
            made[bin_of[text]] += count
    return made


def stand_together(found: Found, one: str, other: str, scope: Scope, most: int) -> Together:
    """The values of two types that stand together in most sentences or texts, at most so many of each.

    Of one and the same type a value does not stand together with itself.
    """
    sides = [found.of(code) for code in (one, other)]
    places = [side.sentence if scope == "sentence" else side.text for side in sides]
    every = np.unique(np.concatenate(places))
    held = [
        _incidence(side.value, np.searchsorted(every, place), (len(every), len(found.values)))
        for side, place in zip(sides, places, strict=True)
    ]
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


def _incidence(value: Ints, place: NDArray[np.int64], shape: tuple[int, int]) -> csr_array:
    """Whether a value stands in a place, of this shape (n_places, n_values)."""
    size = max(1, shape[1])
    pairs = np.unique(place.astype(np.int64) * size + value)
    return csr_array((np.ones(len(pairs), dtype=np.int64), (pairs // size, pairs % size)), shape=shape)


def _distinct(value: Ints, place: Ints, size: int) -> NDArray[np.int64]:
    """In how many different places each value stands."""
    pairs = np.unique(np.stack([value, place], axis=1), axis=0) if len(value) else np.zeros((0, 2), dtype=int)
    return np.bincount(pairs[:, 0], minlength=size)


def _largest(sums: NDArray[np.int64], names: Sequence[str], most: int) -> list[int]:
    there = np.flatnonzero(sums).tolist()
    return sorted(there, key=lambda k: (-int(sums[k]), names[k]))[:most]
