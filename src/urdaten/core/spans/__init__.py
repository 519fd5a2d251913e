"""Spans, what sets of them can do, and their coding as one label per token."""

from urdaten.core.spans.coding import CODINGS, Coding, CodingKind, span_ranges
from urdaten.core.spans.span import (
    OVERLAPS,
    Overlap,
    Span,
    add_apart,
    check_span,
    forbidden_pairs,
    overlapping_pairs,
    without_overlaps,
)

__all__ = [
    "CODINGS",
    "OVERLAPS",
    "Coding",
    "CodingKind",
    "Overlap",
    "Span",
    "add_apart",
    "check_span",
    "forbidden_pairs",
    "overlapping_pairs",
    "span_ranges",
    "without_overlaps",
]
