"""Tagging runs of sentences: scores, best paths and, where wanted, probabilities of the spans found."""

from __future__ import annotations

import numpy as np

from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.gradient import block_gradient, exp_moves
from urdaten.core.tagger.kernels.kinds import Bools, Floats, Ints
from urdaten.core.tagger.kernels.passes import (
    backward,
    close,
    floor_felt,
    forward,
    potentials,
    row_offsets,
)
from urdaten.core.tagger.kernels.paths import best_path, span_probability
from urdaten.core.tagger.kernels.scores import WINDOW, add_windows, take_windows

BLOCK = 128


@kernel
def _run_scores(
    form_scores: Floats,
    word: Ints,
    low: int,
    high: int,
    token_pointer: Ints,
    token_column: Ints,
    token_weights: Floats,
    scores: Floats,
) -> None:
    """Scores of positions low … high, laid out with the padding around them; row = position − low + WINDOW."""
    labels = scores.shape[1]
    scores[:] = 0
    add_windows(form_scores, word[low:high], scores)
    for p in range(low, high):
        target = scores[p - low + WINDOW]
        for n in range(token_pointer[p], token_pointer[p + 1]):
            source = token_weights[token_column[n]]
            for j in range(labels):
                target[j] += source[j]


@kernel
def decode(
    begin: int,
    end: int,
    form_scores: Floats,
    word: Ints,
    first: Ints,
    length: Ints,
    token_pointer: Ints,
    token_column: Ints,
    token_weights: Floats,
    start: Floats,
    dense: Floats,
    step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    out: Ints,
) -> None:
    """Best labels of sentences begin … end into `out`, by position."""
    labels = len(closing)
    at = begin
    while at < end:
        to = min(at + BLOCK, end)
        low, high = first[at] - WINDOW, first[to - 1] + length[to - 1] + WINDOW
        scores = np.empty((high - low + 2 * WINDOW, labels), dtype=form_scores.dtype)
        _run_scores(form_scores, word, low, high, token_pointer, token_column, token_weights, scores)
        for s in range(at, to):
            row = first[s] - low + WINDOW
            best_path(
                scores[row : row + length[s]], start, dense, step, closing, runs, moves,
                out[first[s] : first[s] + length[s]],
            )  # fmt: skip
        at = to


@kernel
def _move_exponentials(
    start: Floats, dense: Floats, step: Floats, runs: Ints, labels: int, like: Floats
) -> tuple[Floats, Floats, Floats, Floats]:
    """Exponentials of starts (L,), dense moves, the same transposed, and moves within spans, in the precision
    of `like`."""
    kind = like.dtype
    tall, wide = dense.shape
    e_start = np.zeros(labels, dtype=kind)
    exp_moves(start, start.max(), e_start[runs[0] : runs[1]])
    peak = dense.max()
    for m in range(len(step)):
        peak = max(peak, step[m])
    e_dense = np.empty((tall, wide), dtype=kind)
    e_back = np.empty((wide, tall), dtype=kind)
    for i in range(tall):
        exp_moves(dense[i], peak, e_dense[i])
        for j in range(wide):
            e_back[j, i] = e_dense[i, j]
    e_step = np.empty(len(step), dtype=kind)
    exp_moves(step, peak, e_step)
    return e_start, e_dense, e_back, e_step


@kernel
def _block_passes(
    chosen: Ints,
    form_scores: Floats,
    word: Ints,
    first: Ints,
    length: Ints,
    token_pointer: Ints,
    token_column: Ints,
    token_weights: Floats,
    e_start: Floats,
    e_dense: Floats,
    e_back: Floats,
    e_step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    like: Floats,
) -> tuple[Ints, Floats, Floats, Floats, Floats, Floats]:
    """Row offsets, potentials, forward and backward variables, what is ahead, and scales of a block."""
    labels = len(closing)
    kind = like.dtype
    own_length = length[chosen]
    offset = row_offsets(own_length)
    low, high = first[chosen].min() - WINDOW, (first[chosen] + own_length).max() + WINDOW
    scores = np.empty((high - low + 2 * WINDOW, labels), dtype=form_scores.dtype)
    _run_scores(form_scores, word, low, high, token_pointer, token_column, token_weights, scores)
    rows = offset[-1]
    potential = np.empty((rows, labels), dtype=kind)
    alpha = np.empty((rows, labels), dtype=kind)
    beta = np.empty((rows, labels), dtype=kind)
    ahead = np.empty((rows, labels), dtype=kind)
    scale = np.empty(rows, dtype=kind)
    peaks = np.empty(rows, dtype=kind)
    potentials(scores, first[chosen] - low + WINDOW, own_length, offset, potential, peaks)
    forward(potential, offset, e_start, e_dense, runs, moves, e_step, alpha, scale)
    close(offset, closing, alpha, scale)
    backward(potential, offset, e_back, runs, moves, e_step, closing, scale, beta, ahead)
    return offset, potential, alpha, beta, ahead, scale


@kernel
def probabilities(
    chosen: Ints,
    form_scores: Floats,
    word: Ints,
    first: Ints,
    length: Ints,
    token_pointer: Ints,
    token_column: Ints,
    token_weights: Floats,
    start: Floats,
    dense: Floats,
    step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    labels_of: Ints,
    span_pointer: Ints,
    span_first: Ints,
    span_last: Ints,
    out: Floats,
    like: Floats,
) -> bool:
    """Probabilities of spans of one block, whose labels stand in `labels_of`, by position; was a floor felt?

    `chosen` are sentences by falling length. Sentence s has the spans span_pointer[s] … span_pointer[s + 1];
    span_first and span_last count from its first token. The precision is that of `like`; where a floor was felt
    in single precision, double is called for.
    """
    e_start, e_dense, e_back, e_step = _move_exponentials(start, dense, step, runs, len(closing), like)
    own_length = length[chosen]
    offset, potential, alpha, beta, ahead, scale = _block_passes(
        chosen, form_scores, word, first, length, token_pointer, token_column, token_weights,
        e_start, e_dense, e_back, e_step, closing, runs, moves, like,
    )  # fmt: skip
    for i in range(len(chosen)):
        s = chosen[i]
        for n in range(span_pointer[s], span_pointer[s + 1]):
            path = labels_of[first[s] + span_first[n] : first[s] + span_last[n]]
            after = path[-1] - runs[2]
            out[n] = span_probability(
                potential, alpha, beta, ahead, scale, offset, e_dense[after], e_step, runs, moves,
                i, own_length[i], span_first[n], span_last[n], path,
            )  # fmt: skip
    return like.itemsize == 4 and floor_felt(potential, alpha, beta)


@kernel
def _onward(
    row: int, label: int, ends: bool, below: int, beta: Floats, ahead: Floats, dense: Floats, runs: Ints
) -> float:
    """The share of what is ahead of a label that does not carry its span on; `below` is the row of the next step."""
    if ends:
        return float(beta[row, label])
    total = 0.0
    for j in range(runs[1] - runs[0]):
        total += dense[label - runs[2], j] * ahead[below, runs[0] + j]
    return total


@kernel
def likely_spans(
    chosen: Ints,
    form_scores: Floats,
    word: Ints,
    first: Ints,
    length: Ints,
    token_pointer: Ints,
    token_column: Ints,
    token_weights: Floats,
    start: Floats,
    dense: Floats,
    step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    roles: Ints,
    ways: Ints,
    least: float,
    out: Ints,
    probability: Floats,
    like: Floats,
) -> int:
    """Every span of at least this probability in one block, by falling length of sentences; how many they are,
    or -1 when a floor was felt in single precision and double is called for.

    roles (n_types, 4): labels begin, inside, last, only; ways (n_types, 4): numbers of the moves begin → inside,
    begin → last, inside → inside, inside → last. out (room, 4) receives sentence, first, last, type. Spans that begin
    at one token exclude each other, so there are at most 1 / least of them and rows / least is room enough.
    """
    e_start, e_dense, e_back, e_step = _move_exponentials(start, dense, step, runs, len(closing), like)
    offset, potential, alpha, beta, ahead, scale = _block_passes(
        chosen, form_scores, word, first, length, token_pointer, token_column, token_weights,
        e_start, e_dense, e_back, e_step, closing, runs, moves, like,
    )  # fmt: skip
    if like.itemsize == 4 and floor_felt(potential, alpha, beta):
        return -1
    found = 0
    for i in range(len(chosen)):
        count = length[chosen[i]]
        for t in range(count):
            for kind in range(len(roles)):
                row, below = offset[t] + i, offset[t + 1] + i
                begin, inside, last, only = roles[kind, 0], roles[kind, 1], roles[kind, 2], roles[kind, 3]
                value = np.float64(alpha[row, only])
                value *= _onward(row, only, t == count - 1, below, beta, ahead, e_dense, runs)
                if value >= least:
                    out[found, 0], out[found, 1], out[found, 2], out[found, 3] = chosen[i], t, t + 1, kind
                    probability[found] = value
                    found += 1
                label, mass = begin, np.float64(alpha[row, begin])
                for u in range(t + 1, count):
                    if mass * beta[offset[u - 1] + i, label] < least:
                        break
                    row, below = offset[u] + i, offset[u + 1] + i
                    way = 0 if label == begin else 2
                    value = mass * e_step[ways[kind, way + 1]] * potential[row, last] / scale[row]
                    value *= _onward(row, last, u == count - 1, below, beta, ahead, e_dense, runs)
                    if value >= least:
                        out[found, 0], out[found, 1], out[found, 2], out[found, 3] = chosen[i], t, u + 1, kind
                        probability[found] = value
                        found += 1
                    mass *= e_step[ways[kind, way]] * potential[row, inside] / scale[row]
                    label = inside
    return found


@kernel
def evaluate(
    sentences: Ints,
    form_scores: Floats,
    word: Ints,
    first: Ints,
    length: Ints,
    gold: Ints,
    weight: Floats,
    masks: Bools,
    token_pointer: Ints,
    token_column: Ints,
    token_weights: Floats,
    start: Floats,
    dense: Floats,
    step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    form_error: Floats,
    token_error: Floats,
    d_start: Floats,
    d_dense: Floats,
    d_step: Floats,
) -> float:
    """Loss of all sentences, and its derivatives added to those of forms, tokens' own features and moves.

    `sentences` go by falling length within blocks of BLOCK neighbours.
    """
    labels = len(closing)
    loss = 0.0
    for at in range(0, len(sentences), BLOCK):
        chosen = sentences[at : at + BLOCK]
        low = first[chosen].min() - WINDOW
        high = (first[chosen] + length[chosen]).max() + WINDOW
        shape = (high - low + 2 * WINDOW, labels)
        scores = np.empty(shape, dtype=form_scores.dtype)
        error = np.zeros(shape, dtype=form_scores.dtype)
        own_gold = np.zeros(shape[0], dtype=gold.dtype)
        own_gold[WINDOW : WINDOW + high - low] = gold[low:high]
        _run_scores(form_scores, word, low, high, token_pointer, token_column, token_weights, scores)
        loss += block_gradient(
            scores, first[chosen] - low + WINDOW, length[chosen], own_gold, weight[chosen], masks, start,
            dense, step, closing, runs, moves, error, d_start, d_dense, d_step,
        )  # fmt: skip
        take_windows(error, word[low:high], form_error)
        for p in range(low, high):
            source = error[p - low + WINDOW]
            for n in range(token_pointer[p], token_pointer[p + 1]):
                target = token_error[token_column[n]]
                for j in range(labels):
                    target[j] += source[j]
    return loss
