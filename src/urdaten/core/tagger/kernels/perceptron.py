"""Passes of the averaged structured perceptron (Collins 2002)."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from urdaten.core.arrays import Floats, Ints
from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Chain, Codes, Columns
from urdaten.core.tagger.kernels.paths import best_path
from urdaten.core.tagger.kernels.scores import REACH, WINDOW


class WeightArrays(NamedTuple):
    """Dense weights: forms (n_attributes, REACH · L), tokens (n_features, L), and those of moves as in Chain."""

    forms: Floats
    tokens: Floats
    start: Floats
    dense: Floats
    step: Floats


@kernel
def perceptron_pass(
    sentences: Ints,
    done: int,
    columns: Columns,
    weights: WeightArrays,
    sums: WeightArrays,
    codes: Codes,
) -> int:
    """Go through the sentences, moving weights from wrong paths to right ones; the number of wrong labels.

    `done` sentences were seen before. The sums hold every change times the number of sentences seen when
    it was made: the average of the weights over n sentences is weights − sums / n.
    """
    chain = Chain(weights.start, weights.dense, weights.step, codes.closing, codes.runs, codes.moves)
    labels = len(codes.closing)
    width = weights.forms.shape[1]
    d0 = codes.runs[0]
    wrong = 0
    for i in range(len(sentences)):
        s = sentences[i]
        low, count = columns.first[s] - WINDOW, columns.length[s]
        scores = np.zeros((count + 4 * WINDOW, labels), dtype=weights.forms.dtype)
        flat = scores.reshape(-1)
        for p in range(count + 2 * WINDOW):
            form = columns.word[low + p]
            target = flat[p * labels : p * labels + width]
            for n in range(columns.form_pointer[form], columns.form_pointer[form + 1]):
                source = weights.forms[columns.form_column[n]]
                for j in range(width):
                    target[j] += source[j]
        for t in range(count):
            target = scores[t + 2 * WINDOW]
            for n in range(
                columns.token_pointer[columns.first[s] + t], columns.token_pointer[columns.first[s] + t + 1]
            ):
                source = weights.tokens[columns.token_column[n]]
                for j in range(labels):
                    target[j] += source[j]
        path = np.empty(count, dtype=np.int64)
        best_path(scores[2 * WINDOW : 2 * WINDOW + count], chain, path)
        now = done + i
        for t in range(count):
            right, found = columns.gold[columns.first[s] + t], path[t]
            if right != found:
                wrong += 1
                for k in range(REACH):
                    # The word k − WINDOW places after this one speaks for it in part REACH − 1 − k.
                    form = columns.word[columns.first[s] + t + k - WINDOW]
                    a = (REACH - 1 - k) * labels + right
                    b = (REACH - 1 - k) * labels + found
                    for n in range(columns.form_pointer[form], columns.form_pointer[form + 1]):
                        row = columns.form_column[n]
                        weights.forms[row, a] += 1
                        weights.forms[row, b] -= 1
                        sums.forms[row, a] += now
                        sums.forms[row, b] -= now
                for n in range(
                    columns.token_pointer[columns.first[s] + t],
                    columns.token_pointer[columns.first[s] + t + 1],
                ):
                    row = columns.token_column[n]
                    weights.tokens[row, right] += 1
                    weights.tokens[row, found] -= 1
                    sums.tokens[row, right] += now
                    sums.tokens[row, found] -= now
            if t == 0:
                if right != found:
                    weights.start[right - d0] += 1
                    weights.start[found - d0] -= 1
                    sums.start[right - d0] += now
                    sums.start[found - d0] -= now
            elif right != found or columns.gold[columns.first[s] + t - 1] != path[t - 1]:
                before = columns.gold[columns.first[s] + t - 1]
                _move(before, right, 1, now, weights, sums, codes)
                _move(path[t - 1], found, -1, now, weights, sums, codes)
    return wrong


@kernel
def _move(
    before: int, after: int, sign: int, now: int, weights: WeightArrays, sums: WeightArrays, codes: Codes
) -> None:
    d0, d1, s0 = codes.runs[0], codes.runs[1], codes.runs[2]
    if d0 <= after < d1:
        weights.dense[before - s0, after - d0] += sign
        sums.dense[before - s0, after - d0] += sign * now
    else:
        for m in range(len(codes.moves)):
            if codes.moves[m, 0] == before and codes.moves[m, 1] == after:
                weights.step[m] += sign
                sums.step[m] += sign * now
