"""Forward and backward passes in log space: slow, and exact however far scores lie apart."""

from __future__ import annotations

import numpy as np

from urdaten.core.arrays import Bools, Floats, Ints
from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Chain, Slopes

_NEVER = -np.inf


@kernel
def _log_sum(values: Floats) -> float:
    peak = values.max()
    if peak == _NEVER:
        return float(peak)
    total = 0.0
    for value in values:
        total += np.exp(value - peak)
    return float(peak + np.log(total))


@kernel
def _all_moves(chain: Chain) -> Floats:
    """Log scores of all moves, (L, L)."""
    labels = len(chain.closing)
    d0, s0 = chain.runs[0], chain.runs[2]
    between = np.full((labels, labels), _NEVER)
    for i in range(chain.dense.shape[0]):
        for j in range(chain.dense.shape[1]):
            between[s0 + i, d0 + j] = chain.dense[i, j]
    for m in range(len(chain.step)):
        between[chain.moves[m, 0], chain.moves[m, 1]] = chain.step[m]
    return between


@kernel
def add_log_paths(
    scores: Floats,
    gold: Ints,
    masks: Bools,
    signed: bool,
    chain: Chain,
    weight: float,
    error: Floats,
    slopes: Slopes,
) -> float:
    """The log sum over all paths of a sentence or, where `signed`, over those that gold leaves possible; its derivatives, times
    the weight, are added to error and slopes. Arguments are as those of block_gradient, of one sentence."""
    length, labels = scores.shape
    d0, d1, s0 = chain.runs[0], chain.runs[1], chain.runs[2]
    between = _all_moves(chain)
    emitted = np.full((length, labels), _NEVER)
    for t in range(length):
        for j in range(labels):
            known = gold[t] >= 0
            if not signed or (known and j == gold[t]) or (not known and masks[-1 - gold[t], j]):
                emitted[t, j] = scores[t, j]
    alpha = np.full((length, labels), _NEVER)
    beta = np.full((length, labels), _NEVER)
    for j in range(d0, d1):
        alpha[0, j] = emitted[0, j] + chain.start[j - d0]
    for t in range(1, length):
        for j in range(labels):
            alpha[t, j] = emitted[t, j] + _log_sum(alpha[t - 1] + between[:, j])
    for j in range(labels):
        if chain.closing[j] > 0:
            beta[length - 1, j] = 0
    for t in range(length - 2, -1, -1):
        for i in range(labels):
            beta[t, i] = _log_sum(between[i] + emitted[t + 1] + beta[t + 1])
    total = _log_sum(alpha[length - 1] + beta[length - 1])
    for t in range(length):
        for j in range(labels):
            share = weight * np.exp(alpha[t, j] + beta[t, j] - total)
            error[t, j] += share
            if t == 0 and d0 <= j < d1:
                slopes.start[j - d0] += share
    for t in range(1, length):
        ahead = emitted[t] + beta[t] - total
        for i in range(chain.dense.shape[0]):
            for j in range(chain.dense.shape[1]):
                slopes.dense[i, j] += weight * np.exp(
                    alpha[t - 1, s0 + i] + chain.dense[i, j] + ahead[d0 + j]
                )
        for m in range(len(chain.step)):
            before, after = chain.moves[m, 0], chain.moves[m, 1]
            slopes.step[m] += weight * np.exp(alpha[t - 1, before] + chain.step[m] + ahead[after])
    return total
