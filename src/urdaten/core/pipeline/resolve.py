"""Resolution of lanes: one answer from sources of equal standing."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from urdaten.core.spans import Overlap, Span, add_fitting

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
