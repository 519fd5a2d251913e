"""Resolution: one answer from lanes of equal standing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from urdaten.core.spans import Overlap, Span, add_fitting

# The tagger has seen what lists and rules say, so its word stands where it speaks.
# What was signed elsewhere and never otherwise adds to all of them.
ORDER = ("tagger", "rules", "lists", "learned")


def resolve(
    lanes: Mapping[str, Sequence[Span]], order: Sequence[str] = ORDER, overlap: Overlap = "apart"
) -> list[Span]:
    """Spans that stand to each other as the scheme's overlap lets them: sources in the given order, the longest first
    within each.

    A span is kept where it may stand with all that were kept before it; of spans with the same bounds and type the first
    is kept. When the tagger has a lane, lists add nothing to it: a list hit that the tagger has seen and left out is left
    out.
    """
    kept: list[Span] = []
    sources = [name for name in order if name in lanes]
    if "tagger" in sources:
        sources = [name for name in sources if name != "lists"]
    for name in sources:
        longest_first = sorted(lanes[name], key=lambda s: (s.start - s.end, s.start, s.type))
        kept = add_fitting(kept, longest_first, overlap)
    return kept
