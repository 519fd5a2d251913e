"""Resolution: one answer from lanes of equal standing, and what became of every span that is not in it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from urdaten.core.pipeline.stage import Changes, fingerprint
from urdaten.core.spans import Overlap, Reason, Span, SpanTable, add_fitting, forbidden_pairs
from urdaten.core.text import Batch

# The tagger has seen what lists and rules say, so its word stands where it speaks.
# What was signed elsewhere and never otherwise adds to all of them.
ORDER = ("tagger", "rules", "lists", "learned")
# The tagger has seen their spans: what it leaves out of them is left out.
_SEEN_BY_TAGGER = "lists"
# What a rule may say of its finds where they meet those of other rules; by each its rank.
PRIORITIES = {"low": -1, "usual": 0, "high": 1}
# By the name of each rule that has another than the usual one.
Ranks = Mapping[str, int]
_NO_RANKS: Ranks = {}
_RANKED = "rules"


@dataclass(frozen=True)
class Beaten:
    """A span gave way to one that may not stand with it."""

    by: Span
    source: str

    @property
    def words(self) -> str:
        return f"gave way to {self.by.type} of the {self.source}, from {self.by.start} to {self.by.end}"


@dataclass(frozen=True)
class SaidAlready:
    """The same span was there, from a source that goes before."""

    source: str

    @property
    def words(self) -> str:
        return f"the same as a span of the {self.source}"


@dataclass(frozen=True)
class LeftOut:
    """The tagger has seen a list's span and not set it."""

    @property
    def words(self) -> str:
        return "the tagger has seen it and left it out"


def resolve(
    lanes: Mapping[str, Sequence[Span]],
    order: Sequence[str] = ORDER,
    overlap: Overlap = "apart",
    ranks: Ranks = _NO_RANKS,
) -> list[Span]:
    """Spans that stand to each other as the scheme's overlap lets them: sources in the given order; within each those of
    rules of a higher rank first, and of one rank the longest.

    A span is kept where it may stand with all that were kept before it; of spans with the same bounds and type the first
    is kept. When the tagger has a lane, lists add nothing to it: a list hit that the tagger has seen and left out is left
    out.
    """
    kept: list[Span] = []
    for lane in _in_order(lanes, order, ranks):
        kept = add_fitting(kept, lane, overlap)
    return kept


def _in_order(
    lanes: Mapping[str, Sequence[Span]], order: Sequence[str], ranks: Ranks
) -> Iterator[list[Span]]:
    def key(span: Span) -> tuple[int, int, int, str]:
        rank = ranks.get(span.maker, 0) if span.source == _RANKED else 0
        return -rank, span.start - span.end, span.start, span.type

    for name in order:
        if name in lanes and not (name == _SEEN_BY_TAGGER and "tagger" in lanes and "tagger" in order):
            yield sorted(lanes[name], key=key)


@dataclass(frozen=True)
class PolicyStage:
    """`resolve` as a stage: it removes what is not in the answer and says of each span why.

    `with_tagger` says whether a tagger has spoken: one that found nothing in a text has left everything out there.
    """

    with_tagger: bool
    order: tuple[str, ...] = ORDER
    overlap: Overlap = "apart"
    # Name and rank of rules that have another than the usual one, by name.
    ranks: tuple[tuple[str, int], ...] = ()
    name = "policy"

    @property
    def reads(self) -> tuple[str, ...]:
        return self.order

    @property
    def fingerprint(self) -> str:
        return fingerprint(self.name, [self.with_tagger, self.order, self.overlap, self.ranks])

    def apply(self, batch: Batch, spans: SpanTable, /) -> Changes:
        order = np.argsort(spans.text, kind="stable")
        bounds = np.searchsorted(spans.text[order], np.arange(len(batch) + 1)).tolist()
        removed: list[int] = []
        why: list[Reason] = []
        for k, own in enumerate(spans.spans(len(batch))):
            if not own:
                continue
            lanes: dict[str, list[Span]] = {"tagger": []} if self.with_tagger else {}
            for span in own:
                lanes.setdefault(span.source, []).append(span)
            kept = {span: span for span in resolve(lanes, self.order, self.overlap, dict(self.ranks))}
            for row, span in zip(order[bounds[k] : bounds[k + 1]].tolist(), own, strict=True):
                if kept.get(span) is not span:
                    removed.append(row)
                    why.append(self._why(span, kept))
        rows = np.argsort(removed, kind="stable")
        return Changes(
            SpanTable.empty(),
            np.array(removed, dtype=np.int64)[rows],
            tuple(why[row] for row in rows.tolist()),
        )

    def _why(self, span: Span, kept: Mapping[Span, Span]) -> Reason:
        if same := kept.get(span):
            return SaidAlready(same.source)
        for other in kept:
            if other.overlaps(span) and forbidden_pairs([span, other], self.overlap):
                return Beaten(other, other.source)
        return LeftOut()
