"""Words around a name on which it depends whether a list finds it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Ints
from urdaten.core.lists.automaton import Automaton
from urdaten.core.lists.options import ListOptions
from urdaten.core.text import Batch, Vocabulary, cut_texts, fold

_ROLES = ("near", "not_after", "not_before")


class Context:
    """The words and phrases on which lists depend, all in one automaton."""

    def __init__(self, options: Mapping[int, ListOptions]) -> None:
        """options: of those lists that depend on some, by any number."""
        self._options = options
        told = [
            (number, role, phrase)
            for number, own in options.items()
            for role in _ROLES
            for phrase in getattr(own, role)
        ]
        self._automaton = Automaton.of(cut_texts([phrase for *_, phrase in told]), Vocabulary)
        self._list = np.array([number for number, *_ in told], dtype=np.int64)
        self._role = np.array([_ROLES.index(role) for _, role, _ in told], dtype=np.int32)

    def allows(self, batch: Batch, number: Ints, first: Ints, last: Ints) -> Bools:
        """Of finds, by the number of their list and their tokens [first, last): may they stand there?"""
        allowed = np.ones(len(number), dtype=bool)
        rows = np.flatnonzero(np.isin(number, list(self._options)))
        if not len(rows):
            return allowed
        role, of_list, begins, ends = self._found(batch)
        for k, options in self._options.items():
            own = rows[number[rows] == k]
            a, b = first[own].astype(np.int64), last[own].astype(np.int64)
            # The tokens of the sentence.
            low = np.searchsorted(batch.sentence, batch.sentence[a])
            high = np.searchsorted(batch.sentence, batch.sentence[a], side="right")

            def places(name: str, k: int = k) -> tuple[Ints, Ints]:
                at = (role == _ROLES.index(name)) & (of_list == k)
                return begins[at], ends[at]

            held = ~(np.isin(a, places("not_after")[1]) & (a > low))
            held &= ~(np.isin(b, places("not_before")[0]) & (b < high))
            if options.near:
                p, q = places("near")
                held &= _is_near(
                    p, q, a, b, np.maximum(low, a - options.within), np.minimum(high, b + options.within)
                )
            allowed[own] = held
        return allowed

    def _found(self, batch: Batch) -> Sequence[NDArray[np.int64]]:
        """Where phrases stand: the role and list of each, and its tokens."""
        folds, folded = batch.vocabulary.image(fold)
        hits = self._automaton.walk(folds.column(self._automaton.column)[folded[batch.word]], batch.sentence)
        hit, name = self._automaton.names_at(hits)
        return (
            self._role[name].astype(np.int64),
            self._list[name],
            hits.first[hit].astype(np.int64),
            hits.last[hit].astype(np.int64),
        )


def _is_near(p: Ints, q: Ints, a: Ints, b: Ints, low: Ints, high: Ints) -> Bools:
    """Does one of the phrases [p, q) lie between low and a, or between b and high?"""
    if not len(p):
        return np.zeros(len(a), dtype=bool)
    # Of those that end before a, the one that begins last; of those that begin after b, the one that ends first.
    by_end = np.argsort(q, kind="stable")
    latest = np.maximum.accumulate(p[by_end])
    k = np.searchsorted(q[by_end], a, side="right")
    before = (k > 0) & (latest[np.maximum(k - 1, 0)] >= low)
    by_begin = np.argsort(p, kind="stable")
    soonest = np.minimum.accumulate(q[by_begin][::-1])[::-1]
    k = np.searchsorted(p[by_begin], b)
    after = (k < len(p)) & (soonest[np.minimum(k, len(p) - 1)] <= high)
    return before | after
