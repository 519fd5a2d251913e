"""How far people agree: the three annotators with the settled result, and two passes over test sentences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import combinations
from pathlib import Path

from urdaten.core.scoring import SpanScores, score_spans
from urdaten.core.spans import Span
from urdaten.demo.annotators import ANNOTATORS, chosen
from urdaten.demo.files import FOLDER, Demo, read_bulletins

By = Mapping[str, Sequence[Span]]


def agreement(first: By, second: By, types: Sequence[str]) -> SpanScores:
    """Strict span scores of the second against the first; F1 is the same both ways."""
    return score_spans([(first[title], second[title]) for title in first], types, rounds=10)


def pass_agreement(demo: Demo, folder: Path = FOLDER) -> tuple[int, float]:
    """How many test sentences were annotated twice, and the F1 between the two passes."""
    first, second = (
        {b.title: b.gold for b in read_bulletins(folder / "passes" / f"{name}.txt")}
        for name in ("first", "second")
    )
    scores = agreement(first, second, [t.code for t in demo.types])
    return len(first), scores.overall.f1 or 0.0


def annotator_agreement(demo: Demo, marked: Mapping[str, By]) -> dict[str, float]:
    """F1 of each annotator with gold and of each pair, overall; and of all with gold by type."""
    types = [t.code for t in demo.types]
    gold: By = {b.title: b.gold for b in chosen(demo)}
    each = {who.name: agreement(gold, marked[who.name], types) for who in ANNOTATORS}
    figures = {f"annotators, F1 of {name} with gold": s.overall.f1 or 0.0 for name, s in each.items()}
    for one, other in combinations([who.name for who in ANNOTATORS], 2):
        pair = agreement(marked[one], marked[other], types).overall.f1 or 0.0
        figures[f"annotators, F1 of {one} with {other}"] = pair
    for code in types:
        parts = [scores.types[code].f1 or 0.0 for scores in each.values()]
        figures[f"annotators, mean F1 with gold, {code}"] = sum(parts) / len(parts)
    return figures
