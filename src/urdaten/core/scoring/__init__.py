"""Span scores and their intervals, and the splits that they are measured on."""

from urdaten.core.scoring.against import Difference, compare
from urdaten.core.scoring.spans import Figures, SpanScores, count_matches, outcomes, score_spans
from urdaten.core.scoring.splits import joined, shared_out, split_texts

__all__ = [
    "Difference",
    "Figures",
    "SpanScores",
    "compare",
    "count_matches",
    "joined",
    "outcomes",
    "score_spans",
    "shared_out",
    "split_texts",
]
