"""The kernels of lists: walking an automaton along tokens, and keeping the longest hits."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.jit import kernel

Bytes = NDArray[np.uint8]


@kernel
def walk(
    root: Ints, begin: Ints, symbol: Ints, follow: Ints, leaves: Ints, token: Ints, sentence: Ints, out: Ints
) -> Any:
    """Where names stand: rows (first token, one past the last, state) of `out`, by first token and length.

    `token` holds the symbol of each token, -1 for one that no name has. `root` gives the state after a name's first symbol,
    -1 for none; state s goes on by symbol[begin[s] : begin[s + 1]], ascending, to `follow`; names end in states with
    leaves[s] < leaves[s + 1]. Gives the number of rows that there are, of which no more are written than there is room for.
    """
    count = 0
    n = len(token)
    for i in range(n):
        if token[i] < 0:
            continue
        state = root[token[i]]
        j = i + 1
        while state >= 0:
            if leaves[state] < leaves[state + 1]:
                if count < len(out):
                    out[count, 0] = i
                    out[count, 1] = j
                    out[count, 2] = state
                count += 1
            if j == n or sentence[j] != sentence[i]:
                break
            low = begin[state]
            end = begin[state + 1]
            high = end
            while low < high:
                middle = (low + high) // 2
                if symbol[middle] < token[j]:
                    low = middle + 1
                else:
                    high = middle
            state = follow[low] if low < end and symbol[low] == token[j] else -1
            j += 1
    return count


@kernel
def apart(order: Ints, layer: Ints, first: Ints, last: Ints, taken: Bytes, kept: Bytes) -> Any:
    """Flags, written to `kept`, of the hits that overlap none of their layer that was kept before.

    `order` lists all hits in the order in which they are looked at, layer after layer; `taken` has a byte for each token
    and is all zero before and after. Gives the number of those kept.
    """
    count = 0
    began = 0
    for at in range(len(order)):
        hit = order[at]
        if layer[hit] != layer[order[began]]:
            for past in range(began, at):
                if kept[order[past]]:
                    taken[first[order[past]] : last[order[past]]] = 0
            began = at
        if not taken[first[hit] : last[hit]].any():
            taken[first[hit] : last[hit]] = 1
            kept[hit] = 1
            count += 1
    for past in range(began, len(order)):
        if kept[order[past]]:
            taken[first[order[past]] : last[order[past]]] = 0
    return count
