"""The machine that runs programs: all ways at once, sign by sign, counting its steps.

Texts are columns: `sign` int32 of shape (n,), numbers of the distinct signs; `member` uint8 of shape
(n_sets, n_distinct), which sets a sign is of; `holds` uint8 of shape (n_places, n + 1), where places hold.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.jit import kernel
from urdaten.core.rules.pattern.program import FOUND, HOLDS, JUMP, MARK, SPLIT, TAKE

Bytes = NDArray[np.uint8]


@kernel
def sweep(
    op: Ints, x: Ints, y: Ints, first: Bytes, empty: bool, back: bool,
    sign: Ints, member: Bytes, holds: Bytes, row: int, limit: int,
) -> Any:  # fmt: skip
    """Where a look holds, written to `holds[row]`; the steps taken, or -1 when they would be more than `limit`."""
    n = len(sign)
    m = len(op)
    now = np.empty(m, np.int32)
    then = np.empty(m, np.int32)
    stack = np.empty(3 * m + 4, np.int32)
    seen = np.full(m, -1, np.int64)
    count = 0
    steps = 0
    for i in range(n + 1):
        pos = n - i if back else i
        # The sign that is taken next.
        at = pos - 1 if back else pos
        more = 0 <= at < n
        steps += 1
        if count == 0 and not empty and not (more and first[sign[at]]):
            holds[row, pos] = 0
            continue
        held = np.uint8(0)
        kept = 0
        top = 0
        for t in range(count):
            stack[top] = now[t]
            top += 1
        stack[top] = 0
        top += 1
        while top > 0:
            top -= 1
            pc = stack[top]
            if seen[pc] == i:
                continue
            seen[pc] = i
            steps += 1
            kind = op[pc]
            if kind == TAKE:
                if more and member[x[pc], sign[at]]:
                    then[kept] = pc + 1
                    kept += 1
            elif kind == SPLIT:
                stack[top] = y[pc]
                stack[top + 1] = x[pc]
                top += 2
            elif kind == JUMP:
                stack[top] = x[pc]
                top += 1
            elif kind == HOLDS:
                if holds[x[pc], pos] != y[pc]:
                    stack[top] = pc + 1
                    top += 1
            elif kind == MARK:
                stack[top] = pc + 1
                top += 1
            elif kind == FOUND:
                held = np.uint8(1)
        holds[row, pos] = held
        now, then = then, now
        count = kept
        if steps > limit:
            return -1
    return steps


@kernel
def search(
    op: Ints, x: Ints, y: Ints, first: Bytes,
    sign: Ints, member: Bytes, holds: Bytes, begin: int, limit: int, out: Ints,
) -> Any:  # fmt: skip
    """Matches from `begin` on, each as (start, end, start of the mark, its end), the mark -1 where it is not met.

    Gives how many there are, where to go on (past the text when all are found), and the steps taken; -1 in place of
    the number when those would be more than `limit`. Each takes at least one sign; the first is the leftmost, of
    those that begin there the one that the pattern prefers, and the next begins where it ends.
    """
    n = len(sign)
    m = len(op)
    now = np.empty((m, 4), np.int32)
    then = np.empty((m, 4), np.int32)
    stack = np.empty((2 * m + 4, 4), np.int32)
    seen = np.full(m, -1, np.int64)
    stamp = 0
    count = 0
    steps = 0
    found = 0
    matched = False
    pos = begin
    while True:
        if count == 0:
            if matched:
                matched = False
                pos = out[found, 1]
                found += 1
                if found == len(out):
                    return found, pos, steps
            while pos < n and not first[sign[pos]]:
                pos += 1
                steps += 1
            if pos >= n:
                return found, n + 1, steps
        if steps > limit:
            return -1, pos, steps
        stamp += 1
        kept = 0
        more = pos < n
        # Ways that began earlier come first; nothing new begins once something is found.
        for t in range(count if matched else count + 1):
            if t < count:
                stack[0] = now[t]
            else:
                stack[0, 0] = 0
                stack[0, 1] = pos
                stack[0, 2] = -1
                stack[0, 3] = -1
            top = 1
            cut = False
            while top > 0:
                top -= 1
                pc = stack[top, 0]
                if seen[pc] == stamp:
                    continue
                seen[pc] = stamp
                steps += 1
                kind = op[pc]
                if kind == TAKE:
                    if more and member[x[pc], sign[pos]]:
                        then[kept] = stack[top]
                        then[kept, 0] = pc + 1
                        kept += 1
                elif kind == SPLIT:
                    # The way that is preferred is followed first.
                    stack[top + 1] = stack[top]
                    stack[top, 0] = y[pc]
                    stack[top + 1, 0] = x[pc]
                    top += 2
                elif kind == JUMP:
                    stack[top, 0] = x[pc]
                    top += 1
                elif kind == HOLDS:
                    if holds[x[pc], pos] != y[pc]:
                        stack[top, 0] = pc + 1
                        top += 1
                elif kind == MARK:
                    stack[top, 0] = pc + 1
                    stack[top, 2 + x[pc]] = pos
                    top += 1
                elif kind == FOUND and pos > stack[top, 1]:
                    out[found, 0] = stack[top, 1]
                    out[found, 1] = pos
                    out[found, 2] = stack[top, 2]
                    out[found, 3] = stack[top, 3]
                    matched = True
                    # Whatever is less preferred no longer matters.
                    cut = True
                    break
            if cut:
                break
        now, then = then, now
        count = kept
        pos += 1
