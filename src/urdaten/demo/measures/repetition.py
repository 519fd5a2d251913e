"""Sentences that say nearly the same, and sentences that open alike."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import regex

SHINGLE = 3
# Shorter sentences ("To: harbour office", "Nothing further") say too little to be copies.
LEAST_WORDS = 5
SIMILAR = 0.6
OPENING = 4
MOST_OPENINGS = 0.01
_WORD = regex.compile(r"\w+")


def words_of(sentence: str) -> list[str]:
    return [match[0] for match in _WORD.finditer(sentence.casefold())]


def near_duplicates(sentences: Sequence[str]) -> list[tuple[int, int]]:
    """Pairs (i, j), i < j, whose sets of 3-word shingles have a Jaccard index of 0.6 or more.

    Sentences of fewer than five words are left out. Resemblance by shingles is Broder's (1997).
    """
    shingles = []
    at: dict[tuple[str, ...], list[int]] = {}
    for i, sentence in enumerate(sentences):
        words = words_of(sentence)
        last = len(words) - SHINGLE + 1 if len(words) >= LEAST_WORDS else 0
        own = {tuple(words[k : k + SHINGLE]) for k in range(last)}
        shingles.append(own)
        for shingle in own:
            at.setdefault(shingle, []).append(i)
    shared = Counter((a, b) for places in at.values() for k, b in enumerate(places) for a in places[:k])
    return sorted(
        (i, j)
        for (i, j), both in shared.items()
        if both >= SIMILAR * (len(shingles[i]) + len(shingles[j]) - both)
    )


def common_openings(sentences: Sequence[str]) -> list[tuple[str, int]]:
    """First four words, and how often, where more than one sentence in a hundred begins with them."""
    openings = Counter(
        " ".join(words[:OPENING]) for words in map(words_of, sentences) if len(words) >= OPENING
    )
    most = MOST_OPENINGS * len(sentences)
    return [(opening, count) for opening, count in openings.most_common() if count > most]
