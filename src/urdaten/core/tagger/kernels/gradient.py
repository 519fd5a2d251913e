"""Loss and gradient of a block of sentences by its emission scores and moves."""

from __future__ import annotations

import numpy as np

from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Bools, Floats, Ints
from urdaten.core.tagger.kernels.passes import (
    backward,
    close,
    expected_moves,
    forward,
    potentials,
    row_offsets,
)
from urdaten.core.tagger.kernels.powers import DOUBLE_FLOOR, SINGLE_FLOOR


@kernel
def exp_moves(values: Floats, peak: float, out: Floats) -> None:
    """Exponentials of moves against the best move, floored as scores are."""
    low = -SINGLE_FLOOR if out.itemsize == 4 else -DOUBLE_FLOOR
    for i in range(len(values)):
        out[i] = np.exp(max(np.float64(values[i]) - peak, low))


@kernel
def block_gradient(
    scores: Floats,
    first: Ints,
    length: Ints,
    gold: Ints,
    weight: Floats,
    masks: Bools,
    start: Floats,
    dense: Floats,
    step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    error: Floats,
    d_start: Floats,
    d_dense: Floats,
    d_step: Floats,
) -> float:
    """The weighted negative log-likelihood of a block; its derivatives by scores go to `error`, those by
    moves are added to d_start, d_dense and d_step.

    scores, error and gold go by row; sentence s has the rows first[s] … first[s] + length[s]. gold is a
    label, or −1 − m where only the labels of mask m are possible. start (opening,), dense (closing,
    opening) and step (n_moves,) are log scores. Rows of `error` outside sentences are left alone.
    """
    kind = scores.dtype
    labels = scores.shape[1]
    d0 = runs[0]
    wide, tall = dense.shape[1], dense.shape[0]
    offset = row_offsets(length)
    rows = offset[-1]

    peak = start[0]
    for j in range(len(start)):
        peak = max(peak, start[j])
    start_peak = peak
    e_start = np.zeros(labels, dtype=kind)
    exp_moves(start, start_peak, e_start[d0 : d0 + wide])
    peak = dense[0, 0]
    for i in range(tall):
        for j in range(wide):
            peak = max(peak, dense[i, j])
    for m in range(len(step)):
        peak = max(peak, step[m])
    e_dense = np.empty((tall, wide), dtype=kind)
    for i in range(tall):
        exp_moves(dense[i], peak, e_dense[i])
    e_back = np.empty((wide, tall), dtype=kind)
    for i in range(tall):
        for j in range(wide):
            e_back[j, i] = e_dense[i, j]
    e_step = np.empty(len(step), dtype=kind)
    exp_moves(step, peak, e_step)

    potential = np.empty((rows, labels), dtype=kind)
    alpha = np.empty((rows, labels), dtype=kind)
    beta = np.empty((rows, labels), dtype=kind)
    ahead = np.empty((rows, labels), dtype=kind)
    scale = np.empty(rows, dtype=kind)
    peaks = np.empty(rows, dtype=kind)
    potentials(scores, first, length, offset, potential, peaks)
    forward(potential, offset, e_start, e_dense, runs, moves, e_step, alpha, scale)
    close(offset, closing, alpha, scale)
    backward(potential, offset, e_back, runs, moves, e_step, closing, scale, beta, ahead)

    loss = 0.0
    plain = True
    for s in range(len(length)):
        w = weight[s]
        plain = plain and w == 1
        known = True
        for t in range(length[s]):
            known = known and gold[first[s] + t] >= 0
        total = start_peak + (length[s] - 1) * peak
        for t in range(length[s]):
            r, row = offset[t] + s, first[s] + t
            total += np.log(np.float64(scale[r])) + peaks[r]
            target = error[row]
            for j in range(labels):
                target[j] = w * alpha[r, j] * beta[r, j]
        for j in range(wide):
            d_start[j] += error[first[s], d0 + j]
        loss += w * total
        if known:
            loss -= w * _known_path(
                scores,
                first[s],
                length[s],
                gold,
                start,
                dense,
                step,
                runs,
                moves,
                w,
                error,
                d_start,
                d_dense,
                d_step,
            )
        else:
            loss -= w * (start_peak + (length[s] - 1) * peak)
            loss -= w * _possible_paths(
                potential,
                peaks,
                offset,
                s,
                first[s],
                length[s],
                gold,
                masks,
                e_start,
                e_dense,
                e_back,
                e_step,
                closing,
                runs,
                moves,
                w,
                error,
                d_start,
                d_dense,
                d_step,
            )
    m_dense = np.zeros((tall, wide), dtype=kind)
    m_step = np.zeros(len(step), dtype=kind)
    if not plain:
        # A sentence's weight rides on its forward rows.
        for t in range(len(offset) - 1):
            for r in range(offset[t], offset[t + 1]):
                for j in range(labels):
                    alpha[r, j] *= weight[r - offset[t]]
    expected_moves(alpha, ahead, offset, runs, moves, m_dense, m_step)
    for i in range(tall):
        for j in range(wide):
            d_dense[i, j] += m_dense[i, j] * e_dense[i, j]
    for m in range(len(step)):
        d_step[m] += m_step[m] * e_step[m]
    return loss


@kernel
def _move_number(before: int, after: int, moves: Ints) -> int:
    """Number of a move within spans, or -1 for one between them."""
    for m in range(len(moves)):
        if moves[m, 0] == before and moves[m, 1] == after:
            return m
    return -1


@kernel
def _known_path(
    scores: Floats,
    first: int,
    length: int,
    gold: Ints,
    start: Floats,
    dense: Floats,
    step: Floats,
    runs: Ints,
    moves: Ints,
    weight: float,
    error: Floats,
    d_start: Floats,
    d_dense: Floats,
    d_step: Floats,
) -> float:
    """The score of the one right path; its counts are taken from the gradient."""
    d0, d1, s0 = runs[0], runs[1], runs[2]
    total = np.float64(0)
    for t in range(length):
        row = first + t
        label = gold[row]
        total += scores[row, label]
        error[row, label] -= weight
        if t == 0:
            total += start[label - d0]
            d_start[label - d0] -= weight
        elif d0 <= label < d1:
            total += dense[gold[row - 1] - s0, label - d0]
            d_dense[gold[row - 1] - s0, label - d0] -= weight
        else:
            m = _move_number(gold[row - 1], label, moves)
            total += step[m]
            d_step[m] -= weight
    return total


@kernel
def _possible_paths(
    potential: Floats,
    peaks: Floats,
    offset: Ints,
    sentence: int,
    first: int,
    length: int,
    gold: Ints,
    masks: Bools,
    e_start: Floats,
    e_dense: Floats,
    e_back: Floats,
    e_step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    weight: float,
    error: Floats,
    d_start: Floats,
    d_dense: Floats,
    d_step: Floats,
) -> float:
    """The log sum over all paths that what is signed leaves possible; their counts are taken from the gradient."""
    kind = potential.dtype
    labels = potential.shape[1]
    d0 = runs[0]
    own = np.empty((length, labels), dtype=kind)
    total = 0.0
    for t in range(length):
        label = gold[first + t]
        r = offset[t] + sentence
        total += peaks[r]
        for j in range(labels):
            possible = j == label if label >= 0 else masks[-1 - label, j]
            own[t, j] = potential[r, j] if possible else 0
    steps = np.arange(length + 1)
    alpha = np.empty((length, labels), dtype=kind)
    beta = np.empty((length, labels), dtype=kind)
    ahead = np.empty((length, labels), dtype=kind)
    scale = np.empty(length, dtype=kind)
    forward(own, steps, e_start, e_dense, runs, moves, e_step, alpha, scale)
    close(steps, closing, alpha, scale)
    backward(own, steps, e_back, runs, moves, e_step, closing, scale, beta, ahead)
    for t in range(length):
        total += np.log(np.float64(scale[t]))
        for j in range(labels):
            error[first + t, j] -= weight * alpha[t, j] * beta[t, j]
    for j in range(e_dense.shape[1]):
        d_start[j] -= weight * alpha[0, d0 + j] * beta[0, d0 + j]
    m_dense = np.zeros(e_dense.shape, dtype=kind)
    m_step = np.zeros(len(e_step), dtype=kind)
    expected_moves(alpha, ahead, steps, runs, moves, m_dense, m_step)
    for i in range(e_dense.shape[0]):
        for j in range(e_dense.shape[1]):
            d_dense[i, j] -= weight * m_dense[i, j] * e_dense[i, j]
    for m in range(len(e_step)):
        d_step[m] -= weight * m_step[m] * e_step[m]
    return total
