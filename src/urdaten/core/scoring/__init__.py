"""Span scores and their intervals, and the splits that they are measured on."""

from urdaten.core.scoring.against import Difference, compare
from urdaten.core.scoring.ledger import f1_of, resampled
from urdaten.core.scoring.spans import INTERVAL, Figures, SpanScores, count_matches, outcomes, score_spans
from urdaten.core.scoring.splits import joined, shared_out, split_texts

__all__ = [
    "INTERVAL",
    "Difference",
    "Figures",
    "SpanScores",
    "compare",
    "count_matches",
    "f1_of",
    "joined",
    "outcomes",
    "resampled",
    "score_spans",
    "shared_out",
    "split_texts",
]
