"""Emission scores: rows of forms added into the windows of tokens, and gradients taken back the same way.

The row of a form is (REACH · L) wide. A word at position p speaks for the tokens p − WINDOW … p + WINDOW,
so its row is added to that many rows of scores at once, which lie next to each other.
"""

from __future__ import annotations

from urdaten.core.arrays import Floats, Ints
from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Tokens

WINDOW = 2
REACH = 2 * WINDOW + 1


@kernel
def sum_rows(pointer: Ints, column: Ints, weights: Floats, rows: Ints, out: Floats) -> None:
    """out[i] = the sum of the weight rows of the attributes of form rows[i]."""
    width = out.shape[1]
    for i in range(len(rows)):
        target = out[i]
        for j in range(width):
            target[j] = 0
        for n in range(pointer[rows[i]], pointer[rows[i] + 1]):
            source = weights[column[n]]
            for j in range(width):
                target[j] += source[j]


@kernel
def sum_sparse_rows(
    pointer: Ints,
    column: Ints,
    row_pointer: Ints,
    row_column: Ints,
    row_value: Floats,
    rows: Ints,
    out: Floats,
) -> None:
    """As sum_rows, with weights held as sparse rows."""
    for i in range(len(rows)):
        target = out[i]
        for j in range(out.shape[1]):
            target[j] = 0
        for n in range(pointer[rows[i]], pointer[rows[i] + 1]):
            for m in range(row_pointer[column[n]], row_pointer[column[n] + 1]):
                target[row_column[m]] += row_value[m]


@kernel
def spread_rows(pointer: Ints, column: Ints, rows: Ints, error: Floats, out: Floats) -> None:
    """The way back of sum_rows: error[i] is added to the row of every attribute of form rows[i]."""
    width = out.shape[1]
    for i in range(len(rows)):
        source = error[i]
        for n in range(pointer[rows[i]], pointer[rows[i] + 1]):
            target = out[column[n]]
            for j in range(width):
                target[j] += source[j]


@kernel
def add_windows(form_scores: Floats, word: Ints, scores: Floats) -> None:
    """Add each word's row into its window. `scores` has len(word) + 2 · WINDOW rows of L; the row of
    position p is p + WINDOW."""
    width = form_scores.shape[1]
    labels = scores.shape[1]
    flat = scores.reshape(-1)
    for p in range(len(word)):
        source = form_scores[word[p]]
        target = flat[p * labels : p * labels + width]
        for j in range(width):
            target[j] += source[j]


@kernel
def take_windows(error: Floats, word: Ints, out: Floats) -> None:
    """The way back of add_windows: each word's window of errors is added to its row of `out`."""
    width = out.shape[1]
    labels = error.shape[1]
    flat = error.reshape(-1)
    for p in range(len(word)):
        source = flat[p * labels : p * labels + width]
        target = out[word[p]]
        for j in range(width):
            target[j] += source[j]


@kernel
def run_scores(
    tokens: Tokens, low: int, high: int, form_scores: Floats, token_weights: Floats, scores: Floats
) -> None:
    """Scores of the positions low … high with the padding around them; the row of position p is p − low + WINDOW, and there
    are 2 · WINDOW rows more than positions."""
    labels = scores.shape[1]
    scores[:] = 0
    add_windows(form_scores, tokens.word[low:high], scores)
    for p in range(low, high):
        target = scores[p - low + WINDOW]
        for n in range(tokens.pointer[p], tokens.pointer[p + 1]):
            source = token_weights[tokens.column[n]]
            for j in range(labels):
                target[j] += source[j]


@kernel
def run_bounds(tokens: Tokens, sentences: Ints) -> tuple[int, int]:
    """First position of the padding around the sentences, and one past the last."""
    first, length = tokens.first[sentences], tokens.length[sentences]
    return first.min() - WINDOW, (first + length).max() + WINDOW
