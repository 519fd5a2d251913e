"""Spans of many texts as columns; a reason is a record of its own, put into words where people read it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats, Ints
from urdaten.core.spans.span import Span
from urdaten.core.text import Batch


class Reason(Protocol):
    """Why a source set a span: hashable, and equal where it says the same."""

    @property
    def words(self) -> str:
        """For people to read."""


@dataclass(frozen=True, eq=False)
class SpanTable:
    """Spans of the texts of a batch, in any order. Columns have the shape (n_spans,), all but probability int32.

    text numbers the batch's texts; start and end are code points in its body, half-open; type, source, maker and reason
    number the names beside them, reason -1 for none; probability is float32, NaN for none.
    """

    text: Ints
    start: Ints
    end: Ints
    type: Ints
    source: Ints
    maker: Ints
    reason: Ints
    probability: Floats
    types: tuple[str, ...]
    sources: tuple[str, ...]
    makers: tuple[str, ...]
    reasons: tuple[Reason, ...]

    def __len__(self) -> int:
        """Number of spans."""
        return len(self.text)

    @classmethod
    def of_tokens(
        cls,
        batch: Batch,
        first: NDArray[np.integer],
        last: NDArray[np.integer],
        type: NDArray[np.integer],
        types: Sequence[str],
        *,
        source: str,
        maker: NDArray[np.integer] | None = None,
        makers: Sequence[str] = ("",),
        reason: NDArray[np.integer] | None = None,
        reasons: Sequence[Reason] = (),
        probability: NDArray[np.floating] | None = None,
    ) -> SpanTable:
        """Spans of one source over the tokens [first, last) of a batch."""
        count = len(first)
        nothing = np.zeros(count, dtype=np.int32)
        return cls(
            text=batch.text[first],
            start=batch.start[first],
            end=batch.end[last - 1],
            type=type.astype(np.int32),
            source=nothing,
            maker=nothing if maker is None else maker.astype(np.int32),
            reason=nothing - 1 if reason is None else reason.astype(np.int32),
            probability=np.full(count, np.nan, np.float32)
            if probability is None
            else probability.astype(np.float32),
            types=tuple(types),
            sources=(source,),
            makers=tuple(makers),
            reasons=tuple(reasons),
        )

    @classmethod
    def empty(cls) -> SpanTable:
        """No spans of any texts."""
        return cls.of_spans([])

    @classmethod
    def of_spans(
        cls, by_text: Sequence[Sequence[Span]], why: Callable[[Span], Reason | None] = lambda _: None
    ) -> SpanTable:
        """The spans of each text, in their order; `why` says what a span is there for."""
        every = [span for own in by_text for span in own]
        names: dict[str, dict[Any, int]] = {own: {} for own in _NAMED.values()}

        def numbered(own: str, values: Iterable[Any]) -> Ints:
            number = names[own]
            found = (-1 if value is None else number.setdefault(value, len(number)) for value in values)
            return np.fromiter(found, dtype=np.int32, count=len(every))

        counts = [len(own) for own in by_text]
        columns: dict[str, Any] = {
            "text": np.repeat(np.arange(len(counts), dtype=np.int32), counts),
            "start": np.fromiter((s.start for s in every), np.int32, len(every)),
            "end": np.fromiter((s.end for s in every), np.int32, len(every)),
            "type": numbered("types", (s.type for s in every)),
            "source": numbered("sources", (s.source for s in every)),
            "maker": numbered("makers", (s.maker for s in every)),
            "reason": numbered("reasons", map(why, every)),
            "probability": np.array([s.probability for s in every], dtype=np.float32),
        }
        columns |= {own: tuple(number) for own, number in names.items()}
        return cls(**columns)

    def of_sources(self, names: Collection[str]) -> SpanTable:
        """The spans of these sources."""
        held = np.array([name in names for name in self.sources], dtype=bool)
        return self.at(held[self.source] if len(self) else np.zeros(0, dtype=bool))

    def at(self, rows: NDArray[Any]) -> SpanTable:
        """The spans that numbers or flags choose, in their order."""
        return replace(self, **{name: getattr(self, name)[rows] for name in _COLUMNS})

    def row_of(self, text: int, span: Span) -> int | None:
        """The first row with these bounds and this type in a text; None where there is none."""
        if span.type not in self.types:
            return None
        kind = self.types.index(span.type)
        same = (self.start == span.start) & (self.end == span.end) & (self.type == kind)
        rows = np.flatnonzero(same & (self.text == text))
        return int(rows[0]) if len(rows) else None

    def in_order(self) -> SpanTable:
        """By text, start, end and type, as `Span`s compare; otherwise in the order in which they were."""
        by_code = np.argsort(np.argsort(np.array(self.types, dtype=np.str_), kind="stable"))
        kind = by_code[self.type] if len(self) else self.type
        return self.at(np.lexsort((kind, self.end, self.start, self.text)))

    @classmethod
    def joined(cls, tables: Sequence[SpanTable]) -> SpanTable:
        """Of the same batch, one after the other; one at least. Names that are alike are one."""
        columns: dict[str, Any] = {
            name: np.concatenate([getattr(table, name) for table in tables])
            for name in ("text", "start", "end", "probability")
        }
        for column, own in _NAMED.items():
            number: dict[Any, int] = {}
            parts: list[Ints] = []
            for table in tables:
                # Of the names only those in use: lists have hundreds of thousands of reasons.
                used, place = np.unique(getattr(table, column), return_inverse=True)
                held = getattr(table, own)
                ours = [-1 if k < 0 else number.setdefault(held[k], len(number)) for k in used.tolist()]
                parts.append(np.array(ours, dtype=np.int32)[place])
            columns[column] = np.concatenate(parts)
            columns[own] = tuple(number)
        return cls(**columns)

    def spans(self, texts: int) -> list[list[Span]]:
        """Of each of so many texts its spans, in the table's order, as they are shown and written."""
        found: list[list[Span]] = [[] for _ in range(texts)]
        for text, span in zip(self.text.tolist(), self.spans_in_order(), strict=True):
            found[text].append(span)
        return found

    def spans_in_order(self) -> list[Span]:
        """As `spans`, of all texts after each other in the table's order."""
        why = {k: self.reasons[k].words if k >= 0 else "" for k in np.unique(self.reason).tolist()}
        columns = (getattr(self, name).tolist() for name in _COLUMNS[1:])
        return [
            Span(
                start,
                end,
                self.types[type_],
                self.sources[source],
                None if p != p else p,
                why[reason],
                self.makers[maker],
            )
            for start, end, type_, source, maker, reason, p in zip(*columns, strict=True)
        ]


_COLUMNS = tuple(field.name for field in fields(SpanTable))[:8]
_NAMED = {"type": "types", "source": "sources", "maker": "makers", "reason": "reasons"}
