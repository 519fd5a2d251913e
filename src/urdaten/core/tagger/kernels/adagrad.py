"""Minibatch steps of AdaGrad (Duchi, Hazan and Singer 2011) with proximal L1 and L2, over sparse rows.

A batch is cut into shards of sentences whose gradients are found side by side; then rows of weights,
dealt out to parts by their number, are changed side by side. Shards are a property of the method and parts
only say who works on a row, so the number of threads never changes a result.

Weights are used as their average over the steps since `begun` (Polyak and Juditsky 1992): `moved` holds every
change times the steps that were done before it, so the average after n steps is weights − moved / n.
"""

from __future__ import annotations

import numpy as np

from urdaten.core.tagger.kernels.gradient import block_gradient
from urdaten.core.tagger.kernels.jit import kernel
from urdaten.core.tagger.kernels.kinds import Bools, Floats, Ints
from urdaten.core.tagger.kernels.scores import WINDOW, add_windows, take_windows

_LEAST = 1e-6


@kernel
def shard_gradient(
    sentences: Ints,
    word: Ints,
    first: Ints,
    length: Ints,
    gold: Ints,
    weight: Floats,
    masks: Bools,
    form_pointer: Ints,
    form_column: Ints,
    token_pointer: Ints,
    token_column: Ints,
    form_weights: Floats,
    token_weights: Floats,
    start: Floats,
    dense: Floats,
    step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
    mark: Ints,
    forms: Ints,
    form_scores: Floats,
    form_error: Floats,
    error: Floats,
    d_start: Floats,
    d_dense: Floats,
    d_step: Floats,
) -> tuple[float, int]:
    """Loss of the sentences, by falling length, and the number of distinct forms around them.

    `forms` lists those forms and `form_error` holds their derivatives; `error` those of the tokens' scores,
    one sentence after another with WINDOW rows before the first, between two and after the last. `mark` is
    -1 everywhere before and after.
    """
    count = len(sentences)
    labels = error.shape[1]
    width = form_scores.shape[1]
    own_length = np.empty(count, dtype=np.int64)
    own_first = np.empty(count, dtype=np.int64)
    own_weight = np.empty(count, dtype=weight.dtype)
    size = WINDOW
    for i in range(count):
        s = sentences[i]
        own_first[i] = size + WINDOW
        own_length[i] = length[s]
        own_weight[i] = weight[s]
        size += length[s] + WINDOW
    own_word = np.empty(size, dtype=np.int64)
    own_gold = np.zeros(size + 2 * WINDOW, dtype=gold.dtype)
    scores = np.zeros((size + 2 * WINDOW, labels), dtype=form_scores.dtype)
    distinct = 0
    at = 0
    for i in range(count):
        s = sentences[i]
        low = first[s] - WINDOW
        high = first[s] + length[s] + (WINDOW if i == count - 1 else 0)
        for p in range(low, high):
            form = word[p]
            if mark[form] < 0:
                mark[form] = distinct
                forms[distinct] = form
                target = form_scores[distinct]
                for j in range(width):
                    target[j] = 0
                for n in range(form_pointer[form], form_pointer[form + 1]):
                    source = form_weights[form_column[n]]
                    for j in range(width):
                        target[j] += source[j]
                distinct += 1
            own_word[at] = mark[form]
            if p >= first[s] and p < first[s] + length[s]:
                own_gold[at + WINDOW] = gold[p]
                target = scores[at + WINDOW]
                for n in range(token_pointer[p], token_pointer[p + 1]):
                    source = token_weights[token_column[n]]
                    for j in range(labels):
                        target[j] += source[j]
            at += 1
    add_windows(form_scores, own_word, scores)
    own_error = error[: size + 2 * WINDOW]
    own_error[:] = 0
    d_start[:] = 0
    d_dense[:] = 0
    d_step[:] = 0
    loss = block_gradient(
        scores, own_first, own_length, own_gold, own_weight, masks, start, dense, step, closing, runs, moves,
        own_error, d_start, d_dense, d_step,
    )  # fmt: skip
    own_form_error = form_error[:distinct]
    own_form_error[:] = 0
    take_windows(own_error, own_word, own_form_error)
    for i in range(distinct):
        mark[forms[i]] = -1
    return loss, distinct


@kernel
def _shrink(
    row: Floats, square: Floats, moved: Floats, when: float, steps: float, rate: float, l1: float, l2: float
) -> None:
    """What the penalties take from a row over some steps in which nothing else changed it."""
    one = row.dtype.type
    pull, cut, least, pace, at = one(l2 * steps), one(l1 * steps), one(_LEAST), one(rate), one(when)
    for j in range(len(row)):
        eta = pace / (np.sqrt(square[j]) + least)
        value = row[j] / (one(1) + eta * pull)
        size = max(abs(value) - eta * cut, one(0))
        shrunk = size if value > 0 else -size
        moved[j] += (shrunk - row[j]) * at
        row[j] = shrunk


@kernel
def shrink_all(
    weights: Floats,
    square: Floats,
    moved: Floats,
    last: Ints,
    now: int,
    begun: int,
    rate: float,
    l1: float,
    l2: float,
) -> None:
    """Bring every row up to step `now`."""
    for a in range(len(weights)):
        if last[a] < now:
            _shrink(weights[a], square[a], moved[a], now - begun, now - last[a], rate, l1, l2)
            last[a] = now


@kernel
def touch(
    members: Ints,
    pointer: Ints,
    column: Ints,
    weights: Floats,
    square: Floats,
    moved: Floats,
    last: Ints,
    stamp: Ints,
    slot: Ints,
    touched: Ints,
    part: int,
    parts: int,
    now: int,
    begun: int,
    rate: float,
    l1: float,
    l2: float,
) -> int:
    """Number the rows of this part that step `now` will read, and bring them up to it; how many they are.

    `members` are forms, or tokens, whose rows are meant; they may repeat.
    """
    found = 0
    for i in range(len(members)):
        for n in range(pointer[members[i]], pointer[members[i] + 1]):
            a = column[n]
            if a % parts == part and stamp[a] != now:
                stamp[a] = now
                slot[a] = found
                touched[found] = a
                found += 1
                if last[a] < now:
                    _shrink(weights[a], square[a], moved[a], now - 1 - begun, now - last[a], rate, l1, l2)
                    last[a] = now
    return found


@kernel
def gather(
    members: Ints,
    pointer: Ints,
    column: Ints,
    error: Floats,
    slot: Ints,
    part: int,
    parts: int,
    out: Floats,
) -> None:
    """Add the error of each member, row by row, to the slots of its rows in this part."""
    width = out.shape[1]
    for i in range(len(members)):
        source = error[i]
        for n in range(pointer[members[i]], pointer[members[i] + 1]):
            a = column[n]
            if a % parts == part:
                target = out[slot[a]]
                for j in range(width):
                    target[j] += source[j]


@kernel
def descend(
    touched: Ints,
    count: int,
    gradient: Floats,
    weights: Floats,
    square: Floats,
    moved: Floats,
    when: int,
    rate: float,
) -> None:
    """One AdaGrad step of the touched rows; their gradients are cleared."""
    one = weights.dtype.type
    least, pace, at = one(_LEAST), one(rate), one(when)
    for i in range(count):
        row, total, slope = weights[touched[i]], square[touched[i]], gradient[i]
        travel = moved[touched[i]]
        for j in range(len(row)):
            g = slope[j]
            total[j] += g * g
            change = pace * g / (np.sqrt(total[j]) + least)
            row[j] -= change
            travel[j] -= change * at
            slope[j] = 0
