"""Tagging runs of sentences: best paths and, where wanted, probabilities of the spans found.

Scores of a run are found once, by run_scores, and serve both. Positions count from the first of the run, whose row is
WINDOW.
"""

from __future__ import annotations

import numpy as np

from urdaten.core.arrays import Bools, Floats, Ints
from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.gradient import block_gradient
from urdaten.core.tagger.kernels.kinds import Chain, Slopes, Tokens
from urdaten.core.tagger.kernels.passes import Exponentials, block_passes, floor_felt
from urdaten.core.tagger.kernels.paths import best_path, onward, span_probability
from urdaten.core.tagger.kernels.scores import WINDOW, run_bounds, run_scores, take_windows

BLOCK = 128


@kernel
def best_paths(scores: Floats, tokens: Tokens, chain: Chain, out: Ints) -> None:
    """Best labels of all sentences into `out`, by position."""
    for s in range(len(tokens.first)):
        at, count = tokens.first[s], tokens.length[s]
        best_path(scores[at + WINDOW : at + WINDOW + count], chain, out[at : at + count])


@kernel
def probabilities(
    chosen: Ints,
    scores: Floats,
    tokens: Tokens,
    exponential: Exponentials,
    chain: Chain,
    labels: Ints,
    pointer: Ints,
    first: Ints,
    last: Ints,
    out: Floats,
    precision: Floats,
) -> bool:
    """Probabilities of spans of one block, whose labels stand in `labels`, by position; was a floor felt?

    `chosen` are sentences by falling length. Sentence s has the spans pointer[s] … pointer[s + 1]; first and last count from
    its first token. The precision is that of `precision`, as of the exponentials; where a floor was felt in single precision,
    double is called for.
    """
    made = block_passes(
        scores, tokens.first[chosen] + WINDOW, tokens.length[chosen], exponential, chain, precision
    )
    for i in range(len(chosen)):
        s = chosen[i]
        for n in range(pointer[s], pointer[s + 1]):
            path = labels[tokens.first[s] + first[n] : tokens.first[s] + last[n]]
            out[n] = span_probability(made, exponential, chain, i, tokens.length[s], first[n], path)
    return precision.itemsize == 4 and (exponential.floored or floor_felt(made))


@kernel
def likely_spans(
    chosen: Ints,
    scores: Floats,
    tokens: Tokens,
    exponential: Exponentials,
    chain: Chain,
    roles: Ints,
    steps: Ints,
    least: float,
    out: Ints,
    probability: Floats,
    precision: Floats,
) -> int:
    """Every span of at least this probability in one block, by falling length of sentences; how many they are,
    or -1 when a floor was felt in single precision and double is called for.

    roles (n_types, 4): labels begin, inside, last, only; steps (n_types, 4): numbers of the moves begin → inside,
    begin → last, inside → inside, inside → last. out (room, 4) receives sentence, first, last, type. Spans that begin
    at one token exclude each other, so there are at most 1 / least of them and rows / least is room enough.
    """
    made = block_passes(
        scores, tokens.first[chosen] + WINDOW, tokens.length[chosen], exponential, chain, precision
    )
    if precision.itemsize == 4 and (exponential.floored or floor_felt(made)):
        return -1
    offset, dense, runs = made.offset, exponential.dense, chain.runs
    found = 0
    for i in range(len(chosen)):
        count = tokens.length[chosen[i]]
        for t in range(count):
            for kind in range(len(roles)):
                row, below = offset[t] + i, offset[t + 1] + i
                begin, inside, last, only = roles[kind, 0], roles[kind, 1], roles[kind, 2], roles[kind, 3]
                value = np.float64(made.alpha[row, only])
                value *= onward(row, only, t == count - 1, below, made, dense, runs)
                if value >= least:
                    out[found, 0], out[found, 1], out[found, 2], out[found, 3] = chosen[i], t, t + 1, kind
                    probability[found] = value
                    found += 1
                label, mass = begin, np.float64(made.alpha[row, begin])
                for u in range(t + 1, count):
                    if mass * made.beta[offset[u - 1] + i, label] < least:
                        break
                    row, below = offset[u] + i, offset[u + 1] + i
                    step = 0 if label == begin else 2
                    value = mass * exponential.step[steps[kind, step + 1]] * made.potential[row, last]
                    value *= onward(row, last, u == count - 1, below, made, dense, runs) / made.scale[row]
                    if value >= least:
                        out[found, 0], out[found, 1], out[found, 2], out[found, 3] = chosen[i], t, u + 1, kind
                        probability[found] = value
                        found += 1
                    mass *= (
                        exponential.step[steps[kind, step]] * made.potential[row, inside] / made.scale[row]
                    )
                    label = inside
    return found


@kernel
def evaluate(
    sentences: Ints,
    tokens: Tokens,
    gold: Ints,
    weight: Floats,
    masks: Bools,
    form_scores: Floats,
    token_weights: Floats,
    chain: Chain,
    form_error: Floats,
    token_error: Floats,
    slopes: Slopes,
) -> float:
    """Loss of all sentences, and its derivatives added to those of forms, tokens' own features and moves.

    `sentences` go by falling length within blocks of BLOCK neighbours.
    """
    labels = len(chain.closing)
    loss = 0.0
    for at in range(0, len(sentences), BLOCK):
        chosen = sentences[at : at + BLOCK]
        low, high = run_bounds(tokens, chosen)
        shape = (high - low + 2 * WINDOW, labels)
        scores = np.empty(shape, dtype=form_scores.dtype)
        error = np.zeros(shape, dtype=form_scores.dtype)
        own_gold = np.zeros(shape[0], dtype=gold.dtype)
        own_gold[WINDOW : WINDOW + high - low] = gold[low:high]
        run_scores(tokens, low, high, form_scores, token_weights, scores)
        first = tokens.first[chosen] - low + WINDOW
        loss += block_gradient(
            scores, first, tokens.length[chosen], own_gold, weight[chosen], masks, chain, error, slopes
        )
        take_windows(error, tokens.word[low:high], form_error)
        for p in range(low, high):
            source = error[p - low + WINDOW]
            for n in range(tokens.pointer[p], tokens.pointer[p + 1]):
                target = token_error[tokens.column[n]]
                for j in range(labels):
                    target[j] += source[j]
    return loss
