"""The automaton of the names of lists, over the folded forms of their tokens."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from urdaten.core.lists.kernels import walk
from urdaten.core.text import Batch, CutTexts, FormColumn, Vocabulary, fold, token_forms

Ints = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Hits:
    """Tokens [first, last) of a batch in which names end in a state: int32 columns, by first token and length."""

    first: Ints
    last: Ints
    state: Ints


class Automaton:
    """Names by their tokens. State s has the names leaves[s] .. leaves[s + 1] of `name`, in the order of the names."""

    def __init__(self, names: CutTexts) -> None:
        """Names without any token are in no state."""
        self.symbols = Vocabulary()
        self.column = FormColumn(self._symbols_of)
        numbers = np.fromiter(map(self.symbols.add, map(fold, names.forms)), dtype=np.int32)
        symbols = numbers[names.form].tolist() if len(names.form) else []
        # What leads to a state: the state before, -1 for none, and the symbol.
        follow: dict[tuple[int, int], int] = {}
        ends: list[tuple[int, int]] = []
        for number, (a, b) in enumerate(pairwise(names.first.tolist())):
            state = -1
            for symbol in symbols[a:b]:
                state = follow.setdefault((state, symbol), len(follow))
            if state >= 0:
                ends.append((state, number))
        states = len(follow)
        edges = np.array([(*at, to) for at, to in follow.items()], dtype=np.int32).reshape(-1, 3)
        self.root = np.full(len(self.symbols), -1, dtype=np.int32)
        at_root = edges[:, 0] < 0
        self.root[edges[at_root, 1]] = edges[at_root, 2]
        edges = edges[~at_root]
        edges = edges[np.lexsort((edges[:, 1], edges[:, 0]))]
        self.begin = np.searchsorted(edges[:, 0], np.arange(states + 1)).astype(np.int32)
        self.symbol = np.ascontiguousarray(edges[:, 1])
        self.follow = np.ascontiguousarray(edges[:, 2])
        held = np.array(ends, dtype=np.int32).reshape(-1, 2)
        held = held[np.argsort(held[:, 0], kind="stable")]
        self.leaves = np.searchsorted(held[:, 0], np.arange(states + 1)).astype(np.int32)
        self.name = np.ascontiguousarray(held[:, 1])

    def _symbols_of(self, folds: Sequence[str]) -> Ints:
        return np.fromiter(map(self.symbols.get, folds), dtype=np.int32, count=len(folds))

    def hits(self, batch: Batch) -> Hits:
        """Every place where a name stands, within a sentence."""
        folds, folded = batch.vocabulary.image(fold)
        token = folds.column(self.column)[folded[batch.word]]
        out = np.empty((len(token) // 4 + 64, 3), dtype=np.int32)
        while True:
            count = walk(
                self.root, self.begin, self.symbol, self.follow, self.leaves, token, batch.sentence, out
            )
            if count <= len(out):
                break
            out = np.empty((count, 3), dtype=np.int32)
        first, last, state = out[:count].T
        return Hits(first, last, state)

    def names_of(self, words: str) -> list[int]:
        """The names that are written like these words."""
        state = -1
        for k, symbol in enumerate(map(self.symbols.get, map(fold, token_forms(words)))):
            if symbol < 0:
                return []
            if k == 0:
                state = int(self.root[symbol])
            else:
                low, high = self.begin[state], self.begin[state + 1]
                at = low + int(np.searchsorted(self.symbol[low:high], symbol))
                state = int(self.follow[at]) if at < high and self.symbol[at] == symbol else -1
            if state < 0:
                return []
        return [] if state < 0 else self.name[self.leaves[state] : self.leaves[state + 1]].tolist()
