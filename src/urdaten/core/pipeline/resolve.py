"""Resolution: one answer from lanes of equal standing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from urdaten.core.spans.span import Span, add_apart, without_overlaps

# The tagger has seen what lists and rules say, so its word stands where it speaks.
# What was signed elsewhere and never otherwise adds to all of them.
ORDER = ("tagger", "rules", "lists", "learned")


def resolve(lanes: Mapping[str, Sequence[Span]], order: Sequence[str] = ORDER) -> list[Span]:
    """Spans without overlap: sources in the given order, the longest first within each.

    A span of a later source is kept where no span of an earlier one overlaps it. When the tagger has
    a lane, lists add nothing to it: a list hit that the tagger has seen and left out is left out.
    """
    kept: list[Span] = []
    sources = [name for name in order if name in lanes]
    if "tagger" in sources:
        sources = [name for name in sources if name != "lists"]
    for name in sources:
        kept = add_apart(kept, without_overlaps(lanes[name]))
    return kept
