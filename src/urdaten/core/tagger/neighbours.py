"""Which words stand right before and right after which, counted over running text however much there is."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.tagger.features import class_key
from urdaten.core.text import Analysis, Batch, Vocabulary

if TYPE_CHECKING:
    from scipy import sparse

# A pair is one number: the word, and its neighbour's number and one, 0 for the edge of a sentence.
_WIDTH = 2**31
# Beyond so many distinct pairs those that were met least are let go, down to half as many.
MOST_PAIRS = 20_000_000
SIDES = ("before", "after")


class Neighbours:
    """Counts of pairs of neighbours, of words under their class keys. What is kept grows with the distinct pairs."""

    def __init__(self) -> None:
        self.keys = Vocabulary()
        self.texts = self.tokens = 0
        none = np.zeros(0, dtype=np.int64)
        self._pairs: dict[str, tuple[Ints, Ints]] = dict.fromkeys(SIDES, (none, none))

    def add(self, analyses: Sequence[Analysis]) -> None:
        """Count texts that share one vocabulary."""
        if analyses:
            self.add_batch(Batch.joined(analyses))

    def add_batch(self, batch: Batch) -> None:
        """Count the texts of a batch."""
        self.texts += len(batch)
        self.tokens += len(batch.word)
        names, column = batch.vocabulary.image(class_key)
        own = np.array(self.keys.add_all(names.forms), dtype=np.int64)
        key = own[column[batch.word]]
        new = np.diff(batch.sentence) > 0
        edge = np.zeros(min(1, len(key)), dtype=np.int64)
        before = np.append(edge, np.where(new, 0, key[:-1] + 1))
        after = np.append(np.where(new, 0, key[1:] + 1), edge)
        for side, other in zip(SIDES, (before, after), strict=True):
            pairs, counts = np.unique(key * _WIDTH + other, return_counts=True)
            self._pairs[side] = _merged(*self._pairs[side], pairs, counts)

    def with_texts(self, analyses: Sequence[Analysis]) -> Neighbours:
        """These counts and those of more texts; what is here stays as it is."""
        made = Neighbours()
        made.keys = Vocabulary(self.keys.forms)
        made.texts, made.tokens = self.texts, self.tokens
        made._pairs = dict(self._pairs)
        made.add(analyses)
        return made

    def tables(self) -> tuple[sparse.csr_array, sparse.csr_array]:
        """Counts of shape (n_keys, n_keys + 1): which key stood before and after each; the last column is the edge."""
        from scipy import sparse

        edge = len(self.keys)
        tables = []
        for side in SIDES:
            pairs, counts = self._pairs[side]
            row, other = np.divmod(pairs, _WIDTH)
            column = np.where(other > 0, other - 1, edge)
            tables.append(
                sparse.csr_array((counts.astype(np.float64), (row, column)), shape=(edge, edge + 1))
            )
        return tables[0], tables[1]


def _merged(pairs: Ints, counts: Ints, more: Ints, more_counts: Ints) -> tuple[Ints, Ints]:
    """Sorted pairs of both, and their sums."""
    every, place = np.unique(np.append(pairs, more), return_inverse=True)
    total = np.bincount(place, weights=np.append(counts, more_counts), minlength=len(every)).astype(np.int64)
    least = 1
    while len(every) > MOST_PAIRS // (1 if least == 1 else 2):
        held = total > least
        every, total = every[held], total[held]
        least += 1
    return every, total
