"""Forward and backward passes of a linear chain over a block of sentences (Lafferty, McCallum and Pereira 2001).

A block is packed time-major: its sentences are sorted by falling length, and step t has one row for each
sentence that is still running, so nothing is padded. Row r of step t is sentence r − offset[t]. Passes run
in probability space, scaled at each step (Rabiner 1989). A score further below the best one of its token
than a floor, or a move as far below the best move, counts as being at the floor, so that no step underflows
to nothing. Floored labels weigh less than single precision holds, unless what stands around a token rules its
better labels out; `floor_felt` tells, and passes in double precision have a floor that is out of reach.
"""

from __future__ import annotations

import numpy as np

from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Floats, Ints
from urdaten.core.tagger.kernels.powers import SINGLE_FLOOR, exp_row

# More mass than this on floored labels would be seen in the figures.
_FELT = 1e-6
# Numbers of a matrix from which the library multiplies quicker than a loop, and multiplications up to which it does so on
# one thread.
_LARGE, _ONE_THREAD = 512, 250_000


@kernel
def row_offsets(length: Ints) -> Ints:
    """First row of each step, and the number of rows at the end; `length` must not rise."""
    offset = np.zeros(length[0] + 1, dtype=np.int64)
    running = len(length)
    for t in range(length[0]):
        while length[running - 1] <= t:
            running -= 1
        offset[t + 1] = offset[t] + running
    return offset


@kernel
def potentials(scores: Floats, first: Ints, length: Ints, offset: Ints, out: Floats, peaks: Floats) -> None:
    """Exponentials of scores, time-major, each against the best of its token, which goes to `peaks`.

    Sentence s has its scores at rows first[s] … first[s] + length[s].
    """
    for s in range(len(length)):
        for t in range(length[s]):
            row = scores[first[s] + t]
            peak = row[0]
            for j in range(1, len(row)):
                peak = max(peak, row[j])
            exp_row(row, peak, out[offset[t] + s])
            peaks[offset[t] + s] = peak


@kernel
def portion(matrix: Floats) -> int:
    """Rows to multiply with a matrix of this size at a time; 0 where a plain loop is quicker.

    The library's product is several times as quick where a matrix is large. So many rows at a time stay below
    the size from which it would use threads of its own.
    """
    return 0 if matrix.size < _LARGE else max(4, _ONE_THREAD // matrix.size)


@kernel
def add_products(
    source: Floats, low: int, left: int, matrix: Floats, target: Floats, to: int, right: int, count: int
) -> None:
    """target[to:to + count, right:] += source[low:low + count, left:] @ matrix, as wide as the matrix is."""
    tall, wide = matrix.shape
    most = portion(matrix)
    if most == 0 or count < 4:
        # Without slices: each would cost more than its few products.
        for r in range(count):
            for i in range(tall):
                a = source[low + r, left + i]
                for j in range(wide):
                    target[to + r, right + j] += a * matrix[i, j]
        return
    for at in range(0, count, most):
        size = min(most, count - at)
        part = source[low + at : low + at + size, left : left + tall]
        made = np.dot(np.ascontiguousarray(part), matrix)
        for r in range(size):
            for j in range(wide):
                target[to + at + r, right + j] += made[r, j]


@kernel
def forward(
    potential: Floats,
    offset: Ints,
    start: Floats,
    dense: Floats,
    runs: Ints,
    moves: Ints,
    step: Floats,
    alpha: Floats,
    scale: Floats,
) -> None:
    """Scaled forward variables and their scales; the logarithms of the scales sum to that of the partition.

    `start` (L,), `dense` (closing, opening) and `step` (n_moves,) are exponentials; runs = (first opening,
    one past, first closing, one past).
    """
    labels = potential.shape[1]
    d0, s0 = runs[0], runs[2]
    for t in range(len(offset) - 1):
        if t > 0:
            low, size = offset[t - 1], offset[t + 1] - offset[t]
            alpha[offset[t] : offset[t + 1]] = 0
            add_products(alpha, low, s0, dense, alpha, offset[t], d0, size)
        for r in range(offset[t], offset[t + 1]):
            if t == 0:
                for j in range(labels):
                    alpha[r, j] = start[j]
            else:
                before = r - offset[t] + offset[t - 1]
                for m in range(len(step)):
                    alpha[r, moves[m, 1]] += alpha[before, moves[m, 0]] * step[m]
            mass = potential[r, 0] * alpha[r, 0]
            alpha[r, 0] = mass
            for j in range(1, labels):
                value = alpha[r, j] * potential[r, j]
                alpha[r, j] = value
                mass += value
            scale[r] = mass
            inverse = potential.dtype.type(1) / mass
            for j in range(labels):
                alpha[r, j] *= inverse


@kernel
def close(offset: Ints, closing: Floats, alpha: Floats, scale: Floats) -> None:
    """Take the paths that end inside a span out of the last step of each sentence.

    Afterwards the last forward row of a sentence sums to 1 over the labels that may end it.
    """
    for t in range(len(offset) - 1):
        going = offset[t + 2] - offset[t + 1] if t + 2 < len(offset) else 0
        for r in range(offset[t] + going, offset[t + 1]):
            row = alpha[r]
            mass = row[0] * closing[0]
            row[0] = mass
            for j in range(1, len(row)):
                row[j] *= closing[j]
                mass += row[j]
            inverse = alpha.dtype.type(1) / mass
            for j in range(len(row)):
                row[j] *= inverse
            scale[r] *= mass


@kernel
def backward(
    potential: Floats,
    offset: Ints,
    dense_back: Floats,
    runs: Ints,
    moves: Ints,
    step: Floats,
    closing: Floats,
    scale: Floats,
    beta: Floats,
    ahead: Floats,
) -> None:
    """Scaled backward variables, so that alpha · beta are label marginals; `dense_back` is dense transposed.

    `ahead` receives beta · potential / scale of each row: what a label is worth to the one before it.
    """
    labels = potential.shape[1]
    d0, s0 = runs[0], runs[2]
    for t in range(len(offset) - 2, -1, -1):
        going = offset[t + 2] - offset[t + 1] if t + 2 < len(offset) else 0
        if going > 0:
            low, here_low = offset[t + 1], offset[t]
            beta[here_low : here_low + going] = 0
            add_products(ahead, low, d0, dense_back, beta, here_low, s0, going)
        for r in range(offset[t], offset[t + 1]):
            if r - offset[t] >= going:
                for j in range(labels):
                    beta[r, j] = closing[j]
            else:
                after = r - offset[t] + offset[t + 1]
                for m in range(len(step)):
                    beta[r, moves[m, 0]] += step[m] * ahead[after, moves[m, 1]]
            inverse = potential.dtype.type(1) / scale[r]
            for j in range(labels):
                ahead[r, j] = beta[r, j] * potential[r, j] * inverse


@kernel
def expected_moves(
    alpha: Floats, ahead: Floats, offset: Ints, runs: Ints, moves: Ints, dense: Floats, step: Floats
) -> None:
    """Add to `dense` and `step` the products alpha · ahead of all moves, not yet times the moves' own
    exponentials."""
    d0, d1, s0, s1 = runs[0], runs[1], runs[2], runs[3]
    tall, wide = s1 - s0, d1 - d0
    most = portion(dense)
    count = offset[-1] - offset[1]
    before = np.empty((count if most > 0 else 0, tall), dtype=alpha.dtype)
    for t in range(1, len(offset) - 1):
        for r in range(offset[t], offset[t + 1]):
            b = r - offset[t] + offset[t - 1]
            for m in range(len(step)):
                step[m] += alpha[b, moves[m, 0]] * ahead[r, moves[m, 1]]
            if most > 0:
                for i in range(tall):
                    before[r - offset[1], i] = alpha[b, s0 + i]
                continue
            for i in range(tall):
                a = alpha[b, s0 + i]
                for j in range(wide):
                    dense[i, j] += a * ahead[r, d0 + j]
    if most > 0:
        for at in range(0, count, most):
            end = min(at + most, count)
            after = np.ascontiguousarray(ahead[offset[1] + at : offset[1] + end, d0:d1])
            dense += np.dot(before[at:end].T, after)


@kernel
def floor_felt(potential: Floats, alpha: Floats, beta: Floats) -> bool:
    """Does any token have mass on labels whose scores lie at the floor of single precision?"""
    low = np.exp(-SINGLE_FLOOR) * 1.001
    for r in range(len(potential)):
        mass = 0.0
        for j in range(potential.shape[1]):
            if potential[r, j] < low:
                mass += alpha[r, j] * beta[r, j]
        if mass > _FELT:
            return True
    return False
