"""The automaton of names, over the keys of their tokens: what tokens are compared by."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Generic, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.lists.kernels import apart, walk, walk_near
from urdaten.core.text import CutTexts, FormColumn, fold


@dataclass(frozen=True, eq=False)
class Hits:
    """Tokens [first, last) in which names end in a state: int32 columns, by first token and length."""

    first: Ints
    last: Ints
    state: Ints


class SymbolTable(Protocol):
    """Distinct words, numbered."""

    def find(self, words: Sequence[str], /) -> Ints:
        """The number of each word, -1 for one that is not there; int32."""


T = TypeVar("T", bound=SymbolTable)


@dataclass(frozen=True, eq=False)
class Automaton(Generic[T]):
    """Names by their tokens, as the kernel `walk` takes them; symbols are numbers of the tokens' keys.

    State s has the names leaves[s] .. leaves[s + 1] of `name`, in the order of the names.
    """

    symbols: T
    root: Ints
    begin: Ints
    symbol: Ints
    follow: Ints
    leaves: Ints
    name: Ints

    @classmethod
    def of(
        cls, names: CutTexts, table: Callable[[list[str]], T], key: Callable[[str], str] = fold
    ) -> Automaton[T]:
        """Compiled, tokens alike by their keys. Names without any token are in no state."""
        keys: dict[str, int] = {}
        numbers = np.array([keys.setdefault(key(form), len(keys)) for form in names.forms], dtype=np.int32)
        of_name, parent, symbol, end = _states(numbers[names.form], names.first)
        states = len(parent)
        root = np.full(len(keys), -1, dtype=np.int32)
        at_root = np.flatnonzero(parent < 0)
        root[symbol[at_root]] = at_root
        edges = np.flatnonzero(parent >= 0)
        edges = edges[np.lexsort((symbol[edges], parent[edges]))]
        order = np.argsort(end, kind="stable")
        return cls(
            table(list(keys)),
            root,
            np.searchsorted(parent[edges], np.arange(states + 1)).astype(np.int32),
            symbol[edges].astype(np.int32),
            edges.astype(np.int32),
            np.searchsorted(end[order], np.arange(states + 1)).astype(np.int32),
            of_name[order].astype(np.int32),
        )

    @cached_property
    def column(self) -> FormColumn:
        """Of keys: the symbol, -1 for a key that no name has."""
        return FormColumn(self.symbols.find)

    def walk(self, token: Ints, sentence: Ints) -> Hits:
        """Every place where a name stands within a sentence, of tokens by symbol, -1 for one that no name has, and the sentence of
        each."""
        out = np.empty((len(token) // 4 + 64, 3), dtype=np.int32)
        while True:
            count = walk(self.root, self.begin, self.symbol, self.follow, self.leaves, token, sentence, out)
            if count <= len(out):
                break
            out = np.empty((count, 3), dtype=np.int32)
        first, last, state = out[:count].T
        return Hits(first, last, state)

    def walk_near(
        self, form: Ints, token: Ints, near: Sequence[Ints | None], sentence: Ints, depth: int
    ) -> tuple[Hits, Ints]:
        """As walk, of tokens by their form, which has the symbol `token` or, with a slip, one of `near`; and how many slips each
        hit has. No name has more than `depth` symbols."""
        none = np.zeros(0, dtype=np.int32)
        counts = np.fromiter(
            (0 if own is None else len(own) for own in near), dtype=np.int64, count=len(near)
        )
        near_first = np.append(0, np.cumsum(counts)).astype(np.int32)
        every = np.concatenate([none, *(own for own in near if own is not None)])
        out = np.empty((len(form) // 4 + 64, 4), dtype=np.int32)
        arrays = (self.root, self.begin, self.symbol, self.follow, self.leaves)
        while True:
            count = walk_near(*arrays, form, token, near_first, every, sentence, depth, out)
            if count <= len(out):
                break
            out = np.empty((count, 4), dtype=np.int32)
        first, last, state, slips = out[:count].T
        return Hits(first, last, state), slips

    def names_at(self, hits: Hits) -> tuple[NDArray[np.int64], Ints]:
        """Every name of every hit: the hit's place, and the name."""
        count = (self.leaves[hits.state + 1] - self.leaves[hits.state]).astype(np.int64)
        hit = np.repeat(np.arange(len(count)), count)
        before = np.cumsum(count) - count
        return hit, self.name[np.arange(len(hit)) + (self.leaves[hits.state] - before)[hit]]

    @staticmethod
    def longest(hits: Hits, tokens: int) -> NDArray[np.int64]:
        """Those of the hits that are left when longer ones, and earlier ones of one length, go first."""
        order = np.lexsort((hits.first, hits.first - hits.last)).astype(np.int32)
        kept = np.zeros(len(order), dtype=np.uint8)
        layer = np.zeros(len(order), dtype=np.int32)
        first, last = np.ascontiguousarray(hits.first), np.ascontiguousarray(hits.last)
        apart(order, layer, first, last, np.zeros(tokens, dtype=np.uint8), kept)
        return np.flatnonzero(kept)

    def names_of(self, keys: Sequence[str]) -> list[int]:
        """The names whose tokens have these keys."""
        state = -1
        for k, symbol in enumerate(self.symbols.find(keys).tolist()):
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


def _states(symbol: Ints, first: Ints) -> tuple[Ints, Ints, Ints, Ints]:
    """Of names with symbols at first[k] .. first[k + 1]: those that have any, and the state in which each of them ends; of each
    state the one before it, -1 for none, and the symbol that leads to it. States are in the order in which names, one after the
    other, first come to them."""
    names = np.flatnonzero(np.diff(first) > 0)
    start, length = first[:-1][names].astype(np.int64), np.diff(first)[names]
    state = np.full(len(names), -1, dtype=np.int64)
    parents, symbols, met = [], [], []
    active = np.arange(len(names))
    count = depth = 0
    while len(active):
        read = symbol[start[active] + depth].astype(np.int64)
        both, at, back = np.unique((state[active] + 1) << 32 | read, return_index=True, return_inverse=True)
        parents.append((both >> 32) - 1)
        symbols.append(both & (2**32 - 1))
        met.append(active[at] * (1 << 32) + depth)
        state[active] = count + back
        count += len(both)
        depth += 1
        active = active[length[active] > depth]
    none = np.zeros(0, dtype=np.int64)
    parent, by, when = (np.concatenate([none, *parts]) for parts in (parents, symbols, met))
    order = np.argsort(when)
    rank = np.empty(count + 1, dtype=np.int64)
    rank[order] = np.arange(count)
    # The root stays what it is.
    rank[-1] = -1
    return names, rank[parent[order]], by[order], rank[state]
