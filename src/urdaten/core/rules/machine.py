"""The machine that holds the parts of rules against rows of tokens, counting its steps.

Tokens stand in units (sentences, or texts), one behind the other, with an empty one after each unit, so that place i is
before token i and a unit [a, b) has the places a .. b. `word` int32 of shape (n_tokens,) is the number of each token's form.
Which tests a token passes: `bits` uint64 of shape (n_forms, n_words) by its form, or `more` of shape (n_tokens, n_words) by
itself, (0, n_words) where there is no such test. A test may have guards besides, those from guard_at[t] to guard_at[t + 1]:
rows of `guard` (n_guards, 3), a row of `flags`, uint8 of shape (n_sources, n_tokens), a mask, and whether any of its bits has to
be set there or must not. `kind` uint8 of shape (n_tokens + 1,): which edges a place
is; `unit` int64 of shape (n_units, 3): a, b, and the number of its text. Steps are counted by text in `used`, and a text that
took more than `limit` says is left alone from then on.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.jit import kernel

Bytes = NDArray[np.uint8]
Words = NDArray[np.uint64]


@kernel
def passes(
    t: int, token: int, word: Ints, bits: Words, more: Words, guard_at: Ints, guard: Ints, flags: Bytes
) -> Any:
    """Does a token pass test t?"""
    held = bits[word[token], t >> 6]
    if len(more):
        held |= more[token, t >> 6]
    if not (held >> np.uint64(t & 63)) & np.uint64(1):
        return False
    for g in range(guard_at[t], guard_at[t + 1]):
        if ((flags[guard[g, 0], token] & guard[g, 1]) != 0) != (guard[g, 2] != 0):
            return False
    return True


@kernel
def sweep(
    test: Ints, follow_at: Ints, follow: Ints, ends: Bytes, back: bool,
    word: Ints, bits: Words, more: Words, guard_at: Ints, guard: Ints, flags: Bytes,
    kind: Bytes, unit: Ints, begin: Bytes, anywhere: bool, used: Ints, limit: Ints, holds: Bytes,
) -> Any:  # fmt: skip
    """Where a match ends that begins at one of the places in `begin`, or `anywhere`; with `back` tokens are taken from the last
    to the first. Written to `holds`, uint8 of shape (n_tokens + 1,), zero before."""
    m = len(test)
    now = np.empty(m + 1, np.int32)
    then = np.empty(m + 1, np.int32)
    seen = np.full(m + 1, -1, np.int64)
    stamp = 0
    # Which tests can be the first, by what the place is: most tokens pass none of them.
    width = bits.shape[1]
    starting = np.zeros((follow_at.shape[0], width), np.uint64)
    for edge in range(follow_at.shape[0]):
        for f in range(follow_at[edge, m], follow_at[edge, m + 1]):
            t = test[follow[f]]
            starting[edge, t >> 6] |= np.uint64(1) << np.uint64(t & 63)
    for u in range(len(unit)):
        a, b, text = unit[u, 0], unit[u, 1], unit[u, 2]
        if used[text] > limit[text]:
            continue
        steps = 0
        count = 0
        for offset in range(b - a + 1):
            place = b - offset if back else a + offset
            edge = kind[place]
            token = place - 1 if back else place
            if anywhere or begin[place] != 0:
                if count == 0 and not ends[edge, m]:
                    may = False
                    if offset < b - a:
                        for w in range(width):
                            held_bits = bits[word[token], w]
                            if len(more):
                                held_bits |= more[token, w]
                            if held_bits & starting[edge, w]:
                                may = True
                    if not may:
                        steps += 1
                        continue
                now[count] = m
                count += 1
            held = np.uint8(0)
            for s in range(count):
                if ends[edge, now[s]]:
                    held = np.uint8(1)
                    break
            holds[place] = held
            steps += 1
            if count == 0:
                continue
            if offset == b - a:
                break
            kept = 0
            stamp += 1
            for s in range(count):
                for f in range(follow_at[edge, now[s]], follow_at[edge, now[s] + 1]):
                    q = follow[f]
                    steps += 1
                    if seen[q] == stamp:
                        continue
                    seen[q] = stamp
                    t = test[q]
                    if passes(t, token, word, bits, more, guard_at, guard, flags):
                        then[kept] = q
                        kept += 1
            now, then = then, now
            count = kept
        used[text] += steps


@kernel
def one_end(
    test: Ints, follow_at: Ints, follow: Ints, ends: Bytes,
    word: Ints, bits: Words, more: Words, guard_at: Ints, guard: Ints, flags: Bytes,
    kind: Bytes, place: int, b: int, good: Bytes, nearest: bool, most: int, state: Ints,
) -> Any:  # fmt: skip
    """From one place: the nearest or the farthest place up to b where a match ends and that is `good`, -1 for none, and the
    steps taken, up to `most`. state: int32 of shape (3, m + 1), the last row a stamp of its own for each call and place."""
    m = len(test)
    state[0, 0] = m
    count = 1
    now, then = 0, 1
    found = -1
    steps = 0
    for at in range(place, b + 1):
        edge = kind[at]
        if good[at]:
            for s in range(count):
                if ends[edge, state[now, s]]:
                    found = at
                    break
            if found == at and nearest:
                break
        if at == b or count == 0 or steps > most:
            break
        kept = 0
        for s in range(count):
            for f in range(follow_at[edge, state[now, s]], follow_at[edge, state[now, s] + 1]):
                q = follow[f]
                steps += 1
                if state[2, q] == at + 1:
                    continue
                state[2, q] = at + 1
                t = test[q]
                if passes(t, at, word, bits, more, guard_at, guard, flags):
                    state[then, kept] = q
                    kept += 1
        now, then = then, now
        count = kept
    # The stamps of this call mean nothing to the next.
    for q in range(m + 1):
        state[2, q] = 0
    return found, steps + 1


@kernel
def collect(
    test: Ints, follow_at: Ints, follow: Ints, ends: Bytes, shape: Ints,
    word: Ints, bits: Words, more: Words, guard_at: Ints, guard: Ints, flags: Bytes,
    kind: Bytes, unit: Ints, first: Bytes, good: Bytes, used: Ints, limit: Ints, out: Ints, begin_unit: int, begin_place: int,
) -> Any:  # fmt: skip
    """Every match of a line, from left to right: the bounds of its marks, written to `out` (room, 2 · marks).

    shape (parts, 4): of the marks and of what stands between them, by turns, where their arrays begin and end in `test` and in
    the rows of `follow_at`; `first` where the first mark may begin; `good` (parts, n + 1) where each part may end. A mark is as
    long as it can be, what is between as short. Ends when `out` is full; returns how many were found, and the unit and the place
    to go on from.
    """
    parts = len(shape)
    widest = 0
    for k in range(parts):
        widest = max(widest, shape[k, 1] - shape[k, 0])
    state = np.zeros((3, widest + 1), np.int32)
    count = 0
    for u in range(begin_unit, len(unit)):
        a, b, text = unit[u, 0], unit[u, 1], unit[u, 2]
        place = max(a, begin_place) if u == begin_unit else a
        while place < b:
            if used[text] > limit[text]:
                break
            if not first[place]:
                place += 1
                continue
            if count == len(out):
                return count, u, place
            at = place
            whole = True
            for k in range(parts):
                x, y, p, q = shape[k, 0], shape[k, 1], shape[k, 2], shape[k, 3]
                end, steps = one_end(
                    test[x:y], follow_at[:, p:q], follow, ends[:, p:q],
                    word, bits, more, guard_at, guard, flags, kind, at, b, good[k], k % 2 == 1, limit[text] - used[text], state,
                )  # fmt: skip
                used[text] += steps
                if end < 0:
                    whole = False
                    break
                if k % 2 == 0:
                    out[count, k] = at
                    out[count, k + 1] = end
                at = end
            if whole:
                count += 1
                place = max(at, place + 1)
            else:
                place += 1
    return count, len(unit), 0


@kernel
def keep_longest(first: Ints, last: Ints, order: Ints, size: int) -> Any:
    """Which ranges of tokens [first, last) stand, taken in this order, where none may overlap one that stands already."""
    taken = np.zeros(size, np.uint8)
    kept = np.zeros(len(first), np.bool_)
    for k in order:
        free = True
        for t in range(first[k], last[k]):
            if taken[t]:
                free = False
                break
        if free:
            kept[k] = True
            for t in range(first[k], last[k]):
                taken[t] = 1
    return kept
