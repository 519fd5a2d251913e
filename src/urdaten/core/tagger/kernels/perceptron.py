"""Passes of the averaged structured perceptron (Collins 2002)."""

from __future__ import annotations

import numpy as np

from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Floats, Ints
from urdaten.core.tagger.kernels.paths import best_path
from urdaten.core.tagger.kernels.scores import REACH, WINDOW


@kernel
def perceptron_pass(
    sentences: Ints,
    done: int,
    word: Ints,
    first: Ints,
    length: Ints,
    gold: Ints,
    form_pointer: Ints,
    form_column: Ints,
    token_pointer: Ints,
    token_column: Ints,
    forms: Floats,
    tokens: Floats,
    start: Floats,
    dense: Floats,
    step: Floats,
    sum_forms: Floats,
    sum_tokens: Floats,
    sum_start: Floats,
    sum_dense: Floats,
    sum_step: Floats,
    closing: Floats,
    runs: Ints,
    moves: Ints,
) -> int:
    """Go through the sentences, moving weights from wrong paths to right ones; the number of wrong labels.

    `done` sentences were seen before. The sums hold every change times the number of sentences seen when
    it was made: the average of the weights over n sentences is weights − sums / n.
    """
    labels = len(closing)
    width = forms.shape[1]
    d0, d1, s0 = runs[0], runs[1], runs[2]
    wrong = 0
    for i in range(len(sentences)):
        s = sentences[i]
        low, count = first[s] - WINDOW, length[s]
        scores = np.zeros((count + 4 * WINDOW, labels), dtype=forms.dtype)
        flat = scores.reshape(-1)
        for p in range(count + 2 * WINDOW):
            form = word[low + p]
            target = flat[p * labels : p * labels + width]
            for n in range(form_pointer[form], form_pointer[form + 1]):
                source = forms[form_column[n]]
                for j in range(width):
                    target[j] += source[j]
        for t in range(count):
            target = scores[t + 2 * WINDOW]
            for n in range(token_pointer[first[s] + t], token_pointer[first[s] + t + 1]):
                source = tokens[token_column[n]]
                for j in range(labels):
                    target[j] += source[j]
        path = np.empty(count, dtype=np.int64)
        best_path(
            scores[2 * WINDOW : 2 * WINDOW + count], start, dense, step, closing, runs, moves, path
        )  # fmt: skip
        now = done + i
        for t in range(count):
            right, found = gold[first[s] + t], path[t]
            if right != found:
                wrong += 1
                for k in range(REACH):
                    # The word k − WINDOW places after this one speaks for it in part REACH − 1 − k.
                    form = word[first[s] + t + k - WINDOW]
                    a = (REACH - 1 - k) * labels + right
                    b = (REACH - 1 - k) * labels + found
                    for n in range(form_pointer[form], form_pointer[form + 1]):
                        row = form_column[n]
                        forms[row, a] += 1
                        forms[row, b] -= 1
                        sum_forms[row, a] += now
                        sum_forms[row, b] -= now
                for n in range(token_pointer[first[s] + t], token_pointer[first[s] + t + 1]):
                    row = token_column[n]
                    tokens[row, right] += 1
                    tokens[row, found] -= 1
                    sum_tokens[row, right] += now
                    sum_tokens[row, found] -= now
            if t == 0:
                if right != found:
                    start[right - d0] += 1
                    start[found - d0] -= 1
                    sum_start[right - d0] += now
                    sum_start[found - d0] -= now
            elif right != found or gold[first[s] + t - 1] != path[t - 1]:
                _move(
                    gold[first[s] + t - 1], right, 1, now, dense, step, sum_dense, sum_step, d0, d1, s0, moves
                )
                _move(path[t - 1], found, -1, now, dense, step, sum_dense, sum_step, d0, d1, s0, moves)
    return wrong


@kernel
def _move(
    before: int,
    after: int,
    sign: int,
    now: int,
    dense: Floats,
    step: Floats,
    sum_dense: Floats,
    sum_step: Floats,
    d0: int,
    d1: int,
    s0: int,
    moves: Ints,
) -> None:
    if d0 <= after < d1:
        dense[before - s0, after - d0] += sign
        sum_dense[before - s0, after - d0] += sign * now
    else:
        for m in range(len(moves)):
            if moves[m, 0] == before and moves[m, 1] == after:
                step[m] += sign
                sum_step[m] += sign * now
