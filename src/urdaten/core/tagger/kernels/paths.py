"""Best paths (Viterbi 1967), and probabilities of spans."""

from __future__ import annotations

import numpy as np

from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Floats, Ints

NEVER = -1e30


@kernel
def best_path(
    scores: Floats,
    start: Floats,
    dense: Floats,
    step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    out: Ints,
) -> float:
    """The best label sequence of one sentence into `out`, and its score.

    scores (length, L); start, dense and step are log scores; closing is 0 for labels that may not end.
    A label from which nothing can be best is passed over: its best onward score lies below what the best
    label reaches everywhere. That never changes the result.
    """
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
def span_probability(
    potential: Floats,
    alpha: Floats,
    beta: Floats,
    ahead: Floats,
    scale: Floats,
    offset: Ints,
    dense_row: Floats,
    step: Floats,
    runs: Ints,
    moves: Ints,
    sentence: int,
    length: int,
    first: int,
    last: int,
    path: Ints,
) -> float:
    """Exact probability that exactly tokens [first, last) are a span, whose labels are `path`.

    What follows the span is any label but one that would carry it on.
    """
    r = offset[first] + sentence
    value = np.float64(alpha[r, path[0]])
    for t in range(first + 1, last):
        r = offset[t] + sentence
        before, label = path[t - 1 - first], path[t - first]
        move = 0.0
        for m in range(len(step)):
            if moves[m, 0] == before and moves[m, 1] == label:
                move = step[m]
        value *= move * potential[r, label] / scale[r]
    label = path[last - 1 - first]
    if last == length:
        return float(value * beta[offset[last - 1] + sentence, label])
    after = ahead[offset[last] + sentence]
    onward = 0.0
    for j in range(runs[1] - runs[0]):
        onward += dense_row[j] * after[runs[0] + j]
    return float(value * onward)
