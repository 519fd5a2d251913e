"""Best paths (Viterbi 1967), and probabilities of spans."""

from __future__ import annotations

import numpy as np

from urdaten.core.arrays import Floats, Ints
from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Chain
from urdaten.core.tagger.kernels.passes import Exponentials, Passes

NEVER = -1e30


@kernel
def best_path(scores: Floats, chain: Chain, out: Ints) -> float:
    """The best label sequence of one sentence into `out`, and its score.

    scores (length, L). A label from which nothing can be best is passed over: its best onward score lies below what the best
    label reaches everywhere. That never changes the result.
    """
    start, dense, step, closing, runs, moves = chain
    count, labels = scores.shape
    d0, d1, s0, s1 = runs[0], runs[1], runs[2], runs[3]
    wide = d1 - d0
    kind = scores.dtype
    most = np.empty(s1 - s0, dtype=kind)
    least = np.empty(s1 - s0, dtype=kind)
    for i in range(s1 - s0):
        most[i] = dense[i].max()
        least[i] = dense[i].min()
    back = np.zeros((count, labels), dtype=np.int32)
    now = np.full(labels, NEVER, dtype=kind)
    new = np.empty(labels, dtype=kind)
    for j in range(wide):
        now[d0 + j] = start[j] + scores[0, d0 + j]
    for t in range(1, count):
        floor = kind.type(NEVER)
        for i in range(s1 - s0):
            floor = max(floor, now[s0 + i] + least[i])
        for j in range(labels):
            new[j] = NEVER
        here, origin = new[d0:d1], back[t, d0:d1]
        for i in range(s1 - s0):
            value = now[s0 + i]
            if value + most[i] < floor:
                continue
            row = dense[i]
            number = s0 + i
            for j in range(wide):
                reached = value + row[j]
                better = reached > here[j]
                here[j] = reached if better else here[j]
                origin[j] = number if better else origin[j]
        for m in range(len(step)):
            reached = now[moves[m, 0]] + step[m]
            if reached > new[moves[m, 1]]:
                new[moves[m, 1]] = reached
                back[t, moves[m, 1]] = moves[m, 0]
        for j in range(labels):
            now[j] = new[j] + scores[t, j]
    best = -1
    for j in range(labels):
        if closing[j] != 0 and (best < 0 or now[j] > now[best]):
            best = j
    out[count - 1] = best
    for t in range(count - 1, 0, -1):
        out[t - 1] = back[t, out[t]]
    return float(now[best])


@kernel
def onward(row: int, label: int, ends: bool, below: int, made: Passes, dense: Floats, runs: Ints) -> float:
    """The share of what is ahead of a label that does not carry its span on; `below` is the row of the next step, dense are
    exponentials."""
    if ends:
        return float(made.beta[row, label])
    total = 0.0
    for j in range(runs[1] - runs[0]):
        total += dense[label - runs[2], j] * made.ahead[below, runs[0] + j]
    return total


@kernel
def span_probability(
    made: Passes, exponential: Exponentials, chain: Chain, sentence: int, length: int, first: int, path: Ints
) -> float:
    """Exact probability that exactly the tokens from `first` on whose labels are `path` are a span.

    What follows the span is any label but one that would carry it on.
    """
    offset, last = made.offset, first + len(path)
    value = np.float64(made.alpha[offset[first] + sentence, path[0]])
    for t in range(first + 1, last):
        r = offset[t] + sentence
        before, label = path[t - 1 - first], path[t - first]
        move = 0.0
        for m in range(len(exponential.step)):
            if chain.moves[m, 0] == before and chain.moves[m, 1] == label:
                move = exponential.step[m]
        value *= move * made.potential[r, label] / made.scale[r]
    ends = last == length
    below = offset[last - 1 if ends else last] + sentence
    row = offset[last - 1] + sentence
    return value * onward(row, path[-1], ends, below, made, exponential.dense, chain.runs)
