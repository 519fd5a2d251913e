"""Scores: frozen scorecards and the sentences behind each of their figures."""
