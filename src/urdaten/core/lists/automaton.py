"""The automaton of names, over the folded forms of their tokens."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.lists.kernels import apart, walk
from urdaten.core.text import Batch, CutTexts, FormColumn, Vocabulary, fold, token_forms


@dataclass(frozen=True, eq=False)
class Hits:
    """Tokens [first, last) in which names end in a state: int32 columns, by first token and length."""

    first: Ints
    last: Ints
    state: Ints


@dataclass(frozen=True, eq=False)
class Automaton:
    """Names by their tokens, as the kernel `walk` takes them; symbols are numbers of folded forms.

    State s has the names leaves[s] .. leaves[s + 1] of `name`, in the order of the names.
    """

    symbols: Vocabulary
    root: Ints
    begin: Ints
    symbol: Ints
    follow: Ints
    leaves: Ints
    name: Ints

    @classmethod
    def of(cls, names: CutTexts) -> Automaton:
        """Compiled. Names without any token are in no state."""
        symbols = Vocabulary()
        numbers = np.array(symbols.add_all(map(fold, names.forms)), dtype=np.int32)
        tokens = numbers[names.form].tolist() if len(names.form) else []
        # What leads to a state: the state before, -1 for none, and the symbol.
        follow: dict[tuple[int, int], int] = {}
        ends: list[tuple[int, int]] = []
        for number, (a, b) in enumerate(pairwise(names.first.tolist())):
            state = -1
            for symbol in tokens[a:b]:
                state = follow.setdefault((state, symbol), len(follow))
            if state >= 0:
                ends.append((state, number))
        states = len(follow)
        edges = np.array([(*at, to) for at, to in follow.items()], dtype=np.int32).reshape(-1, 3)
        root = np.full(len(symbols), -1, dtype=np.int32)
        at_root = edges[:, 0] < 0
        root[edges[at_root, 1]] = edges[at_root, 2]
        edges = edges[~at_root]
        edges = edges[np.lexsort((edges[:, 1], edges[:, 0]))]
        held = np.array(ends, dtype=np.int32).reshape(-1, 2)
        held = held[np.argsort(held[:, 0], kind="stable")]
        return cls(
            symbols,
            root,
            np.searchsorted(edges[:, 0], np.arange(states + 1)).astype(np.int32),
            np.ascontiguousarray(edges[:, 1]),
            np.ascontiguousarray(edges[:, 2]),
            np.searchsorted(held[:, 0], np.arange(states + 1)).astype(np.int32),
            np.ascontiguousarray(held[:, 1]),
        )

    @cached_property
    def column(self) -> FormColumn:
        """Of folded forms: the symbol, -1 for a form that no name has."""
        return FormColumn(self._symbols_of)

    def _symbols_of(self, folds: Sequence[str]) -> Ints:
        return np.fromiter(map(self.symbols.get, folds), dtype=np.int32, count=len(folds))

    def hits(self, batch: Batch) -> Hits:
        """Every place where a name stands, within a sentence."""
        folds, folded = batch.vocabulary.image(fold)
        return self.walk(folds.column(self.column)[folded[batch.word]], batch.sentence)

    def walk(self, token: Ints, sentence: Ints) -> Hits:
        """As hits, of tokens by symbol, -1 for one that no name has, and the sentence of each."""
        out = np.empty((len(token) // 4 + 64, 3), dtype=np.int32)
        while True:
            count = walk(self.root, self.begin, self.symbol, self.follow, self.leaves, token, sentence, out)
            if count <= len(out):
                break
            out = np.empty((count, 3), dtype=np.int32)
        first, last, state = out[:count].T
        return Hits(first, last, state)

    @staticmethod
    def longest(hits: Hits, tokens: int) -> NDArray[np.int64]:
        """Those of the hits that are left when longer ones, and earlier ones of one length, go first."""
        order = np.lexsort((hits.first, hits.first - hits.last)).astype(np.int32)
        kept = np.zeros(len(order), dtype=np.uint8)
        layer = np.zeros(len(order), dtype=np.int32)
        first, last = np.ascontiguousarray(hits.first), np.ascontiguousarray(hits.last)
        apart(order, layer, first, last, np.zeros(tokens, dtype=np.uint8), kept)
        return np.flatnonzero(kept)

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
