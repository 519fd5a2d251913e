"""Sentences that stand in several texts: as a slow look at each of them finds."""

from __future__ import annotations

from collections import defaultdict

from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.text import batch_of, fold, recurring_sentences

SENTENCES = st.sampled_from(
    [
        "Ketta sails at noon from Tarn.",
        "KETTA sails  at noon from Tarn.",
        "Ketta sails.",
        "From Tarn at noon sails Ketta.",
        "All well.",
    ]
)


def slowly(bodies: list[str], least: int) -> list[tuple[str, list[int]]]:
    where: dict[tuple[str, ...], list[tuple[int, int, int]]] = defaultdict(list)
    for number, body in enumerate(bodies):
        batch = batch_of([body])
        for start, end in batch.sentence_bounds()[0]:
            words = [fold(body[a:b]) for a, b in zip(batch.start, batch.end, strict=True) if start <= a < end]
            if len(words) >= least:
                where[tuple(words)].append((number, start, end))
    found = []
    for places in where.values():
        texts = sorted({number for number, *_ in places})
        if len(texts) > 1:
            number, start, end = places[0]
            found.append((places[0], bodies[number][start:end], texts))
    return [(words, texts) for _, words, texts in sorted(found)]


@given(st.lists(st.lists(SENTENCES, max_size=5).map(" ".join), max_size=6), st.integers(1, 8))
def test_every_sentence_that_recurs_is_found(bodies: list[str], least: int) -> None:
    found = recurring_sentences(bodies, least=least)
    told = [(bodies[one.text][one.start : one.end], list(one.texts)) for one in found]
    assert told == slowly(bodies, least)


def test_other_orders_and_a_second_time_in_one_text_are_not_the_same() -> None:
    bodies = ["Ketta sails at noon from Tarn. " * 2, "From Tarn at noon sails Ketta.", ""]
    assert recurring_sentences(bodies) == []
    assert recurring_sentences([]) == []
