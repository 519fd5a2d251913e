"""How much a look at a sentence would teach: where sources disagree, and where the tagger is unsure."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from math import log2

from urdaten.core.spans import Span


def disputes(spans: Iterable[Span]) -> int:
    """Places where sources disagree: runs of overlapping spans that are not all one and the same."""
    count = 0
    run: set[tuple[int, int, str]] = set()
    end = -1
    for span in sorted(spans):
        if span.start >= end:
            count += len(run) > 1
            run = set()
        run.add((span.start, span.end, span.type))
        end = max(end, span.end)
    return count + (len(run) > 1)


def doubt(spans: Sequence[Span], tokens: int) -> float:
    """Bits per token that the probabilities of a tagger's spans leave open; 0 for no tokens."""
    if not tokens:
        return 0.0
    bits = 0.0
    for span in spans:
        p = span.probability
        if p is not None and 0 < p < 1:
            bits -= p * log2(p) + (1 - p) * log2(1 - p)
    return bits / tokens
