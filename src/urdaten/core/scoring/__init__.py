"""Span scores and their intervals."""

from urdaten.core.scoring.spans import Figures, SpanScores, count_matches, outcomes, score_spans

__all__ = ["Figures", "SpanScores", "count_matches", "outcomes", "score_spans"]
