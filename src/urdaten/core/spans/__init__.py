"""Spans, what sets of them can do, and their coding as one label per token."""

from urdaten.core.spans.coding import allowed_transitions, decode, encode, label_count
from urdaten.core.spans.span import Span, check_span, overlapping_pairs, without_overlaps

__all__ = [
    "Span",
    "allowed_transitions",
    "check_span",
    "decode",
    "encode",
    "label_count",
    "overlapping_pairs",
    "without_overlaps",
]
