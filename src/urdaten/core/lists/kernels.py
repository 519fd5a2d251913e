"""The kernels of lists: walking an automaton along tokens, looking for words with a slip, and keeping the longest hits."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.jit import kernel

Bytes = NDArray[np.uint8]
Longs = NDArray[np.int64]
Sums = NDArray[np.uint64]


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


@kernel
def sums_of_runs(values: Sums, first: Longs, last: Longs, factor: np.uint64, out: Sums) -> Any:
    """Of each run [first, last) of values: Σ value · factor^(places behind it), modulo 2^64."""
    for k in range(len(first)):
        total = np.uint64(0)
        for i in range(first[k], last[k]):
            total = total * factor + values[i]
        out[k] = total
    return 0


@kernel
def _look_up(total: np.uint64, sums: Sums, held: Bytes, shift: np.uint64) -> Any:
    """The place of a sum among those, ascending, the first of several; -1 for none. `held` has a bit for each sum's high bits."""
    bit = total >> shift
    if not held[bit >> np.uint64(3)] >> np.uint8(bit & np.uint64(7)) & 1:
        return -1
    low = 0
    high = len(sums)
    while low < high:
        middle = (low + high) // 2
        if sums[middle] < total:
            low = middle + 1
        else:
            high = middle
    return low if low < len(sums) and sums[low] == total else -1


@kernel
def _keep(
    row: int, total: np.uint64, sums: Sums, held: Bytes, shift: np.uint64, count: int, out: Ints
) -> Any:
    place = _look_up(total, sums, held, shift)
    if place >= 0:
        # Words may share a sum.
        while place < len(sums) and sums[place] == total:
            if count < len(out):
                out[count, 0] = row
                out[count, 1] = place
            count += 1
            place += 1
    return count


@kernel
def near_words(
    values: Sums, first: Longs, letters: Sums, sums: Sums, held: Bytes, factor: np.uint64, out: Ints
) -> Any:
    """Which of the sums, ascending, belong to words that a word becomes by one slip: rows (word, place of the sum) of `out`,
    some of them more than once. Sums are those of spelling.word_sums, whose `values` word k has at first[k] .. first[k + 1];
    letters are values that may come in. Gives the number of rows, of which no more are written than there is room for.
    """
    bits = np.uint64(3)
    size = len(held)
    while size > 1:
        size >>= 1
        bits += np.uint64(1)
    shift = np.uint64(64) - bits
    longest = 0
    for row in range(len(first) - 1):
        longest = max(longest, first[row + 1] - first[row])
    before = np.zeros(longest + 1, dtype=np.uint64)
    behind = np.zeros(longest + 1, dtype=np.uint64)
    power = np.ones(longest + 2, dtype=np.uint64)
    for i in range(longest + 1):
        power[i + 1] = power[i] * factor
    count = 0
    for row in range(len(first) - 1):
        word = values[first[row] : first[row + 1]]
        n = len(word)
        before[0] = np.uint64(0)
        for i in range(n):
            before[i + 1] = before[i] * factor + word[i]
        behind[n] = np.uint64(0)
        for i in range(n - 1, -1, -1):
            behind[i] = word[i] * power[n - 1 - i] + behind[i + 1]
        for i in range(n + 1):
            # One more letter before place i.
            base = before[i] * power[n - i + 1] + behind[i]
            for letter in letters:
                count = _keep(row, base + letter * power[n - i], sums, held, shift, count, out)
            if i == n:
                break
            count = _keep(row, before[i] * power[n - i - 1] + behind[i + 1], sums, held, shift, count, out)
            base = before[i] * power[n - i] + behind[i + 1]
            for letter in letters:
                if letter != word[i]:
                    count = _keep(row, base + letter * power[n - i - 1], sums, held, shift, count, out)
            if i + 1 < n and word[i] != word[i + 1]:
                base = before[i] * power[n - i] + behind[i + 2]
                total = base + word[i + 1] * power[n - i - 1] + word[i] * power[n - i - 2]
                count = _keep(row, total, sums, held, shift, count, out)
    return count


@kernel
def walk_near(
    root: Ints,
    begin: Ints,
    symbol: Ints,
    follow: Ints,
    leaves: Ints,
    form: Ints,
    token: Ints,
    near_first: Ints,
    near: Ints,
    sentence: Ints,
    depth: int,
    out: Ints,
) -> Any:
    """As `walk`, where the token i, of form f = form[i], is token[f] or, with a slip, one of near[near_first[f] : near_first[f +
    1]]: rows (first, last, state, slips) of `out`, in no order. No name has more than `depth` symbols."""
    most = 1
    for f in range(len(token)):
        most = max(most, 1 + near_first[f + 1] - near_first[f])
    held = np.empty((depth * most + 1, 3), dtype=np.int32)
    count = 0
    n = len(form)
    for i in range(n):
        size = 0
        own = near_first[form[i]]
        for read in range(own - 1, near_first[form[i] + 1]):
            slip = read >= own
            at = near[read] if slip else token[form[i]]
            if at >= 0 and root[at] >= 0:
                held[size, 0] = root[at]
                held[size, 1] = i + 1
                held[size, 2] = slip
                size += 1
        while size:
            size -= 1
            state, j, slips = held[size]
            if leaves[state] < leaves[state + 1]:
                if count < len(out):
                    out[count, 0] = i
                    out[count, 1] = j
                    out[count, 2] = state
                    out[count, 3] = slips
                count += 1
            if j == n or sentence[j] != sentence[i]:
                continue
            own = near_first[form[j]]
            for read in range(own - 1, near_first[form[j] + 1]):
                slip = read >= own
                at = near[read] if slip else token[form[j]]
                low = begin[state]
                end = begin[state + 1]
                high = end
                while low < high:
                    middle = (low + high) // 2
                    if symbol[middle] < at:
                        low = middle + 1
                    else:
                        high = middle
                if at >= 0 and low < end and symbol[low] == at:
                    held[size, 0] = follow[low]
                    held[size, 1] = j + 1
                    held[size, 2] = slips + slip
                    size += 1
    return count


@kernel
def leftmost(layer: Ints, first: Ints, last: Ints, kept: Bytes) -> Any:
    """Flags, written to `kept`, of hits that begin where the one kept before in their layer has ended; hits are in order of
    layer, first token, the best of one place first. Gives the number of those kept."""
    count = 0
    end = 0
    for k in range(len(layer)):
        if k == 0 or layer[k] != layer[k - 1]:
            end = 0
        if first[k] >= end:
            kept[k] = 1
            end = last[k]
            count += 1
    return count
