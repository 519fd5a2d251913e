"""Policies: which spans stand where the scheme lets only one of several, and what became of every span that does not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, Protocol, get_args

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Floats, Ints
from urdaten.core.pipeline.kernels import standing
from urdaten.core.pipeline.reasons import Beaten, LeftOut, SaidAlready, Unlikely
from urdaten.core.pipeline.resolve import ORDER
from urdaten.core.pipeline.stage import ALONE, Beside, Changes, Reasons, fingerprint
from urdaten.core.spans import OVERLAPS, Overlap, Reason, Span, SpanTable
from urdaten.core.text import Batch

PolicyKind = Literal["order", "longest", "likeliest", "by type", "weighed"]
POLICIES: tuple[PolicyKind, ...] = get_args(PolicyKind)
# What decided, as it is said of a span that gave way.
_HOW: dict[PolicyKind, str] = {
    "order": "",
    "longest": "the longest stands",
    "likeliest": "the likeliest stands",
    "by type": "so it is chosen for its type",
    "weighed": "it is the likelier one",
}
# How likely a span is taken to be whose source says nothing of that.
HALF = 0.5
_MODES = {overlap: number for number, overlap in enumerate(OVERLAPS)}


class Weighs(Protocol):
    """What gives each span a probability by all that is said around it."""

    @property
    def fingerprint(self) -> str:
        """Equal for those that say the same."""

    def probabilities(self, batch: Batch, spans: SpanTable, beside: Beside, /) -> Floats:
        """Of each row, 0 to 1; the same for rows that say the same. Shape (n_spans,)."""


@dataclass(frozen=True)
class PolicyStage:
    """A policy as a stage: it removes what is not in the answer and says of each span why."""

    kind: PolicyKind = "order"
    # Sources, the one first that goes first; those that are not named come last.
    order: tuple[str, ...] = ORDER
    # Of a type the order of its own.
    by_type: tuple[tuple[str, tuple[str, ...]], ...] = ()
    # Sources that say nothing themselves, because a later one has seen them: (which, by whom).
    left_out: tuple[tuple[str, str], ...] = ()
    overlap: Overlap = "apart"
    # Name and rank of rules that have another than the usual one, by name; and the sources that rules stand in.
    ranks: tuple[tuple[str, int], ...] = ()
    ranked: tuple[str, ...] = ("rules",)
    # What is less likely than this is left out by those that go by probability.
    least: float = 0.0
    # How likely spans of a source are that have no probability of their own.
    worth: tuple[tuple[str, float], ...] = ()
    # Of the policy "weighed".
    weigher: Weighs | None = None
    name = "policy"

    @property
    def reads(self) -> tuple[str, ...]:
        return self.order

    @property
    def fingerprint(self) -> str:
        parts = (self.kind, self.order, self.by_type, self.left_out, self.overlap, self.ranks, self.ranked)
        weigher = None if self.weigher is None else self.weigher.fingerprint
        return fingerprint(self.name, [*parts, self.least, self.worth, weigher])

    def apply(self, batch: Batch, spans: SpanTable, beside: Beside = ALONE, /) -> Changes:
        if not len(spans):
            return Changes(SpanTable.empty())
        likely = self._likely(batch, spans, beside)
        silent = self._silent(spans)
        unlikely = ~silent & (likely < self.least)
        rows = np.flatnonzero(~silent & ~unlikely)
        order = rows[np.lexsort([key[rows] for key in self._keys(spans, likely)])]
        kept, by = _stand(spans, order, np.zeros(len(spans), dtype=np.uint8), self.overlap)
        removed = np.flatnonzero(kept == 0)
        weighed = self.kind == "weighed"
        return Changes(
            SpanTable.empty(),
            removed,
            lambda: self._why(spans, removed, kept, by, likely, silent, unlikely),
            probability=likely.astype(np.float32) if weighed else None,
        )

    def _likely(self, batch: Batch, spans: SpanTable, beside: Beside) -> Floats:
        if self.kind == "weighed" and self.weigher is not None:
            return self.weigher.probabilities(batch, spans, beside)
        if self.kind not in ("likeliest", "weighed"):
            return np.ones(len(spans))
        known = dict(self.worth)
        worth = np.array([known.get(name, HALF) for name in spans.sources] or [HALF])[spans.source]
        return np.where(np.isnan(spans.probability), worth, spans.probability)

    def _silent(self, spans: SpanTable) -> Bools:
        # What is weighed is heard from everybody.
        names = () if self.kind == "weighed" else dict(self.left_out)
        return np.array([name in names for name in spans.sources] or [False])[spans.source]

    def _keys(self, spans: SpanTable, likely: Floats) -> list[NDArray[np.generic]]:
        """For lexsort, the last one the first to decide: text, then whatever makes a span strong, the strongest lowest."""
        by_code = np.argsort(np.argsort(np.array(spans.types, dtype=np.str_), kind="stable"))
        length = spans.start - spans.end
        first: list[NDArray[np.generic]] = [self._ranks(spans), self._places(spans)]
        if self.kind == "longest":
            first.append(length)
        elif self.kind in ("likeliest", "weighed"):
            first.append(-likely)
        return [by_code[spans.type], spans.start, length, *first, spans.text]

    def _places(self, spans: SpanTable) -> Ints:
        """Of each span the place of its source in the order, by its type where that has one of its own."""

        def places(order: Sequence[str]) -> list[int]:
            number = {name: k for k, name in enumerate(order)}
            return [number.get(name, len(number)) for name in spans.sources]

        own = dict(self.by_type) if self.kind == "by type" else {}
        table = np.array([places(own.get(code, self.order)) for code in spans.types], dtype=np.int32)
        return table[spans.type, spans.source]

    def _ranks(self, spans: SpanTable) -> Ints:
        rank = dict(self.ranks)
        of_maker = np.array([-rank.get(name, 0) for name in spans.makers], dtype=np.int32)
        is_rule = np.array([name in self.ranked for name in spans.sources])
        return np.where(is_rule[spans.source], of_maker[spans.maker], 0)

    def _why(
        self,
        spans: SpanTable,
        removed: NDArray[np.int64],
        kept: NDArray[np.uint8],
        by: Ints,
        likely: Floats,
        silent: Bools,
        unlikely: Bools,
    ) -> Reasons:
        stands = _Standing(spans, kept)
        seen_by = dict(self.left_out)
        found: list[Reason] = []
        for row in removed.tolist():
            source = spans.sources[spans.source[row]]
            if unlikely[row]:
                found.append(Unlikely(round(float(likely[row]), 4), self.least))
            elif not silent[row]:
                found.append(stands.beaten(row, int(by[row]), _HOW[self.kind]))
            elif (same := stands.same(row)) is not None:
                found.append(SaidAlready(spans.sources[spans.source[same]]))
            elif (other := stands.against(row, self.overlap)) is not None:
                found.append(stands.beaten(row, other, _HOW[self.kind]))
            else:
                found.append(LeftOut(seen_by[source]))
        return tuple(found)


class _Standing:
    """The spans of an answer, for telling others why they are not in it."""

    def __init__(self, spans: SpanTable, kept: NDArray[np.uint8]) -> None:
        self._spans = spans
        self._of_text: dict[int, list[int]] = {}
        for row in np.flatnonzero(kept).tolist():
            self._of_text.setdefault(int(spans.text[row]), []).append(row)

    def span(self, row: int) -> Span:
        spans = self._spans
        return Span(int(spans.start[row]), int(spans.end[row]), spans.types[spans.type[row]])

    def same(self, row: int) -> int | None:
        """The row of the same span."""
        mine = self.span(row)
        own = self._of_text.get(int(self._spans.text[row]), ())
        return next((other for other in own if self.span(other) == mine), None)

    def against(self, row: int, overlap: Overlap) -> int | None:
        """A row beside which it may not stand."""
        if overlap == "free":
            return None
        mine = self.span(row)
        for other in self._of_text.get(int(self._spans.text[row]), ()):
            span = self.span(other)
            left, right = sorted((mine, span))
            if mine.overlaps(span) and (
                overlap == "apart" or left.start < right.start < left.end < right.end
            ):
                return other
        return None

    def beaten(self, row: int, by: int, how: str) -> Reason:
        source = self._spans.sources[self._spans.source[by]]
        other = self.span(by)
        return SaidAlready(source) if other == self.span(row) else Beaten(other, source, how)


def bound(spans: SpanTable, own: SpanTable, overlap: Overlap) -> tuple[Bools, NDArray[np.int64]]:
    """Which spans may stand with all of some others, and of those that may not the row of one among the others: shapes
    (n_own,). Among each other they are not judged."""
    count = len(spans)
    both = SpanTable.joined([spans, own])
    fixed = np.zeros(len(both), dtype=np.uint8)
    fixed[:count] = 1
    order = np.argsort(both.text, kind="stable")
    kept, by = _stand(both, order, fixed, overlap, lenient=True)
    return kept[count:] > 0, by[count:]


def _stand(
    spans: SpanTable,
    order: NDArray[np.int64],
    fixed: NDArray[np.uint8],
    overlap: Overlap,
    *,
    lenient: bool = False,
) -> tuple[NDArray[np.uint8], NDArray[np.int64]]:
    """As the kernel tells it."""
    kept = np.zeros(len(spans), dtype=np.uint8)
    by = np.full(len(spans), -1, dtype=np.int64)
    columns = (spans.text, spans.start, spans.end, spans.type)
    standing(order, *columns, fixed, lenient, _MODES[overlap], kept, by)
    return kept, by
