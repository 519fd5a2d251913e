"""Sentences that stand word for word in several texts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from urdaten.core.text.batch import batch_of
from urdaten.core.text.fold import fold

# In tokens: shorter ones recur in any texts of one kind.
LEAST_WORDS = 6


@dataclass(frozen=True)
class Recurring:
    """A sentence by where it stands first, in half-open code points, and every text that has it, each once, ascending."""

    text: int
    start: int
    end: int
    texts: tuple[int, ...]


def recurring_sentences(
    bodies: Sequence[str],
    language: str = "en",
    abbreviations: frozenset[str] = frozenset(),
    *,
    least: int = LEAST_WORDS,
) -> list[Recurring]:
    """Sentences of so many words at least that stand in two texts or more, in the order of where they stand first.

    Words count as `fold` has them. Sentences are known by hashes of 64 bits: among a million, two that differ are taken for one
    with a chance of one in thirty million.
    """
    batch = batch_of(bodies, language, abbreviations=abbreviations)
    if not len(batch.sentence):
        return []
    _, image = batch.vocabulary.image(fold)
    begins = np.flatnonzero(np.diff(batch.sentence, prepend=batch.sentence[0] - 1))
    sizes = np.diff(np.append(begins, len(batch.sentence)))
    place = np.arange(len(batch.sentence)) - np.repeat(begins, sizes)
    word = image[batch.word].astype(np.uint64)
    # Each word at its place, mixed (Steele, Lea and Flood 2014, "Fast splittable pseudorandom number generators"), and summed up.
    mixed = (word << np.uint64(32)) + place.astype(np.uint64) + np.uint64(0x9E3779B97F4A7C15)
    for shift, factor in ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB)):
        mixed = (mixed ^ (mixed >> np.uint64(shift))) * np.uint64(factor)
    sums = np.add.reduceat(mixed ^ (mixed >> np.uint64(31)), begins)
    long = np.flatnonzero(sizes >= least)
    text = batch.text[begins]
    order = long[np.lexsort((text[long], sums[long]))]
    if not len(order):
        return []
    edges = np.flatnonzero(np.append(True, np.diff(sums[order]) != 0))
    found = []
    for first, last in zip(edges.tolist(), [*edges[1:].tolist(), len(order)], strict=True):
        if last - first > 1:
            same = order[first:last]
            texts = np.unique(text[same])
            if len(texts) > 1:
                one = int(same.min())
                end = int(begins[one] + sizes[one] - 1)
                found.append(
                    Recurring(
                        int(text[one]),
                        int(batch.start[begins[one]]),
                        int(batch.end[end]),
                        tuple(texts.tolist()),
                    )
                )
    return sorted(found, key=lambda one: (one.text, one.start))
