"""Loss and gradient of a block of sentences by its emission scores and moves."""

from __future__ import annotations

import numpy as np

from urdaten.core.arrays import Bools, Floats, Ints
from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Chain, Slopes
from urdaten.core.tagger.kernels.logarithms import add_log_paths
from urdaten.core.tagger.kernels.passes import (
    Exponentials,
    Passes,
    block_passes,
    both_passes,
    expected_moves,
    exponentials,
    marginals,
    room_for,
)


@kernel
def block_gradient(
    scores: Floats,
    first: Ints,
    length: Ints,
    gold: Ints,
    weight: Floats,
    masks: Bools,
    chain: Chain,
    error: Floats,
    slopes: Slopes,
) -> float:
    """The weighted negative log-likelihood of a block; its derivatives by scores go to `error`, those by
    moves are added to slopes.

    scores, error and gold go by row; sentence s has the rows first[s] … first[s] + length[s], and sentences go by falling
    length. gold is a label, or −1 − m where only the labels of mask m are possible. Rows of `error` outside sentences are
    left alone.
    """
    exponential = exponentials(chain, scores)
    made = block_passes(scores, first, length, exponential, chain, scores)
    logs, exact = marginals(made, exponential, chain, first, length, error)
    loss = 0.0
    plain = True
    for s in range(len(length)):
        rows = slice(first[s], first[s] + length[s])
        plain = plain and weight[s] == 1
        if exact[s]:
            if weight[s] != 1:
                error[rows] *= weight[s]
            for j in range(len(slopes.start)):
                slopes.start[j] += error[first[s], chain.runs[0] + j]
            total = exponential.start_peak + (length[s] - 1) * exponential.peak + logs[s]
        else:
            _empty(made, s, length[s])
            error[rows] = 0
            total = add_log_paths(
                scores[rows], gold[rows], masks, False, chain, weight[s], error[rows], slopes
            )
        loss += weight[s] * total
    loss -= _known_paths(scores, first, length, gold, weight, chain, error, slopes)
    for s in range(len(length)):
        rows = slice(first[s], first[s] + length[s])
        if gold[rows].min() < 0:
            loss -= weight[s] * _possible_paths(
                made, exponential, s, scores[rows], gold[rows], masks, chain, weight[s], error[rows], slopes
            )
    if not plain:
        # A sentence's weight rides on its forward rows.
        offset, alpha = made.offset, made.alpha
        for t in range(len(offset) - 1):
            for r in range(offset[t], offset[t + 1]):
                for j in range(alpha.shape[1]):
                    alpha[r, j] *= weight[r - offset[t]]
    _add_moves(made, exponential, chain, 1.0, slopes)
    return loss


@kernel
def _empty(made: Passes, sentence: int, length: int) -> None:
    """Take a sentence out of what moves are expected by."""
    for t in range(length):
        r = made.offset[t] + sentence
        made.alpha[r] = 0
        made.ahead[r] = 0


@kernel
def _add_moves(made: Passes, exponential: Exponentials, chain: Chain, weight: float, slopes: Slopes) -> None:
    """Add the expected moves of all rows, times a weight."""
    dense = np.zeros(exponential.dense.shape, dtype=made.alpha.dtype)
    step = np.zeros(len(exponential.step), dtype=made.alpha.dtype)
    expected_moves(made.alpha, made.ahead, made.offset, chain.runs, chain.moves, dense, step)
    tall, wide = exponential.dense.shape
    for i in range(tall):
        for j in range(wide):
            slopes.dense[i, j] += weight * dense[i, j] * exponential.dense[i, j]
    for m in range(len(step)):
        slopes.step[m] += weight * step[m] * exponential.step[m]


@kernel
def _move_number(before: int, after: int, moves: Ints) -> int:
    """Number of a move within spans, or -1 for one between them."""
    for m in range(len(moves)):
        if moves[m, 0] == before and moves[m, 1] == after:
            return m
    return -1


@kernel
def _known_paths(
    scores: Floats,
    first: Ints,
    length: Ints,
    gold: Ints,
    weight: Floats,
    chain: Chain,
    error: Floats,
    slopes: Slopes,
) -> float:
    """The weighted scores of the right paths of sentences that have but one; their counts are taken from the gradient."""
    d0, d1, s0 = chain.runs[0], chain.runs[1], chain.runs[2]
    all_total = 0.0
    for s in range(len(length)):
        w = weight[s]
        if gold[first[s] : first[s] + length[s]].min() < 0:
            continue
        total = np.float64(0)
        for t in range(length[s]):
            row = first[s] + t
            label = gold[row]
            total += scores[row, label]
            error[row, label] -= w
            if t == 0:
                total += chain.start[label - d0]
                slopes.start[label - d0] -= w
            elif d0 <= label < d1:
                total += chain.dense[gold[row - 1] - s0, label - d0]
                slopes.dense[gold[row - 1] - s0, label - d0] -= w
            else:
                m = _move_number(gold[row - 1], label, chain.moves)
                total += chain.step[m]
                slopes.step[m] -= w
        all_total += w * total
    return all_total


@kernel
def _possible_paths(
    made: Passes,
    exponential: Exponentials,
    sentence: int,
    scores: Floats,
    gold: Ints,
    masks: Bools,
    chain: Chain,
    weight: float,
    error: Floats,
    slopes: Slopes,
) -> float:
    """The log sum over all paths that what is signed leaves possible; their counts are taken from the gradient."""
    length, labels = scores.shape
    own = room_for(np.arange(length + 1), labels, scores)
    for t in range(length):
        r = made.offset[t] + sentence
        own.peaks[t] = made.peaks[r]
        for j in range(labels):
            possible = j == gold[t] if gold[t] >= 0 else masks[-1 - gold[t], j]
            own.potential[t, j] = made.potential[r, j] if possible else 0
    both_passes(own, exponential, chain)
    share = np.empty(scores.shape, dtype=scores.dtype)
    logs, exact = marginals(own, exponential, chain, np.zeros(1, np.int64), np.full(1, length), share)
    if not exact[0]:
        return add_log_paths(scores, gold, masks, True, chain, -weight, error, slopes)
    for t in range(length):
        for j in range(labels):
            error[t, j] -= weight * share[t, j]
    for j in range(len(slopes.start)):
        slopes.start[j] -= weight * share[0, chain.runs[0] + j]
    _add_moves(own, exponential, chain, -weight, slopes)
    return float(exponential.start_peak + (length - 1) * exponential.peak + logs[0])
