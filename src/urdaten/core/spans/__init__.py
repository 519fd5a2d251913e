"""Spans, what sets of them can do, and their coding as one label per token."""

from urdaten.core.spans.carrying import Carried, Left, Stood, carry
from urdaten.core.spans.clear import clear_spans
from urdaten.core.spans.coding import CODINGS, Coding, CodingKind, span_ranges
from urdaten.core.spans.span import (
    OVERLAPS,
    TYPE_CODE,
    Overlap,
    Span,
    add_apart,
    add_fitting,
    check_span,
    forbidden_pairs,
    overlapping_pairs,
    without_overlaps,
)
from urdaten.core.spans.table import Reason, SpanTable

__all__ = [
    "CODINGS",
    "OVERLAPS",
    "TYPE_CODE",
    "Carried",
    "Coding",
    "CodingKind",
    "Left",
    "Overlap",
    "Reason",
    "Span",
    "SpanTable",
    "Stood",
    "add_apart",
    "add_fitting",
    "carry",
    "check_span",
    "clear_spans",
    "forbidden_pairs",
    "overlapping_pairs",
    "span_ranges",
    "without_overlaps",
]
