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

from urdaten.core.tagger.kernels.jit import kernel
from urdaten.core.tagger.kernels.kinds import Floats, Ints

SINGLE_FLOOR = 30.0
DOUBLE_FLOOR = 300.0
# More mass than this on floored labels would be seen in the figures.
_FELT = 1e-6
_LOG2_E = 1.4426950408889634
# ln 2 in two parts, the first short enough that its products with small whole numbers are exact.
_LN2_HIGH = 0.693359375
_LN2_LOW = -2.12194440e-4
# 2⁻ⁿ for every n that a score above a floor can need.
_SINGLE_HALVES, _DOUBLE_HALVES = 64, 448
# Numbers of a matrix from which the library multiplies quicker than a loop, and multiplications up to which it does so on
# one thread.
_LARGE, _ONE_THREAD = 512, 250_000


@kernel
def exp_row(values: Floats, peak: float, out: Floats, halves: Floats) -> None:
    """out = exp(values − peak), not below the floor of its precision, for values ≤ peak; within 1e-12 of exact
    in double precision."""
    one = out.dtype.type
    low = one(-SINGLE_FLOOR if out.itemsize == 4 else -DOUBLE_FLOOR)
    log2_e, high, rest = one(_LOG2_E), one(_LN2_HIGH), one(_LN2_LOW)
    half = one(0.5)
    for j in range(len(values)):
        x = max(one(values[j]) - one(peak), low)
        n = np.floor(x * log2_e + half)
        r = x - n * high - n * rest
        y = one(1 / 3628800)
        y = y * r + one(1 / 362880)
        y = y * r + one(1 / 40320)
        y = y * r + one(1 / 5040)
        y = y * r + one(1 / 720)
        y = y * r + one(1 / 120)
        y = y * r + one(1 / 24)
        y = y * r + one(1 / 6)
        y = y * r + half
        y = y * r + one(1)
        y = y * r + one(1)
        out[j] = y * halves[int(-n)]


@kernel
def halves_like(values: Floats) -> Floats:
    """The table of powers that exp_row needs, in the precision of `values`."""
    size = _SINGLE_HALVES if values.itemsize == 4 else _DOUBLE_HALVES
    table = np.empty(size, dtype=values.dtype)
    power = 1.0
    for n in range(size):
        table[n] = power
        power *= 0.5
    return table


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
def potentials(
    scores: Floats, first: Ints, length: Ints, offset: Ints, out: Floats, peaks: Floats, halves: Floats
) -> None:
    """Exponentials of scores, time-major, each against the best of its token, which goes to `peaks`.

    Sentence s has its scores at rows first[s] … first[s] + length[s].
    """
    for s in range(len(length)):
        for t in range(length[s]):
            row = scores[first[s] + t]
            peak = row[0]
            for j in range(1, len(row)):
                peak = max(peak, row[j])
            exp_row(row, peak, out[offset[t] + s], halves)
            peaks[offset[t] + s] = peak


@kernel
def add_product(row: Floats, matrix: Floats, out: Floats) -> None:
    """out += row @ matrix."""
    width = len(out)
    i = 0
    while i + 4 <= len(row):
        a, b, c, d = row[i], row[i + 1], row[i + 2], row[i + 3]
        w, x, y, z = matrix[i], matrix[i + 1], matrix[i + 2], matrix[i + 3]
        for j in range(width):
            out[j] += a * w[j] + b * x[j] + c * y[j] + d * z[j]
        i += 4
    while i < len(row):
        a = row[i]
        w = matrix[i]
        for j in range(width):
            out[j] += a * w[j]
        i += 1


@kernel
def portion(matrix: Floats) -> int:
    """Rows to multiply with a matrix of this size at a time; 0 where a plain loop is quicker.

    The library's product is several times as quick where a matrix is large. So many rows at a time stay below
    the size from which it would use threads of its own.
    """
    return 0 if matrix.size < _LARGE else max(4, _ONE_THREAD // matrix.size)


@kernel
def add_products(rows: Floats, matrix: Floats, out: Floats) -> None:
    """out += rows @ matrix, for parts of wider arrays."""
    most = portion(matrix)
    if most == 0 or len(rows) < 4:
        for r in range(len(rows)):
            add_product(rows[r], matrix, out[r])
        return
    for at in range(0, len(rows), most):
        made = np.dot(np.ascontiguousarray(rows[at : at + most]), matrix)
        for r in range(len(made)):
            target, source = out[at + r], made[r]
            for j in range(len(source)):
                target[j] += source[j]


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
    d0, d1, s0, s1 = runs[0], runs[1], runs[2], runs[3]
    for t in range(len(offset) - 1):
        if t > 0:
            low, size = offset[t - 1], offset[t + 1] - offset[t]
            alpha[offset[t] : offset[t + 1]] = 0
            add_products(alpha[low : low + size, s0:s1], dense, alpha[offset[t] : offset[t + 1], d0:d1])
        for r in range(offset[t], offset[t + 1]):
            now = alpha[r]
            if t == 0:
                for j in range(labels):
                    now[j] = start[j]
            else:
                before = alpha[r - offset[t] + offset[t - 1]]
                for m in range(len(step)):
                    now[moves[m, 1]] += before[moves[m, 0]] * step[m]
            here = potential[r]
            mass = here[0] * now[0]
            now[0] = mass
            for j in range(1, labels):
                now[j] *= here[j]
                mass += now[j]
            scale[r] = mass
            inverse = potential.dtype.type(1) / mass
            for j in range(labels):
                now[j] *= inverse


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
    d0, d1, s0, s1 = runs[0], runs[1], runs[2], runs[3]
    for t in range(len(offset) - 2, -1, -1):
        going = offset[t + 2] - offset[t + 1] if t + 2 < len(offset) else 0
        if going > 0:
            low, here_low = offset[t + 1], offset[t]
            beta[here_low : here_low + going] = 0
            add_products(
                ahead[low : low + going, d0:d1], dense_back, beta[here_low : here_low + going, s0:s1]
            )
        for r in range(offset[t], offset[t + 1]):
            now = beta[r]
            if r - offset[t] >= going:
                for j in range(labels):
                    now[j] = closing[j]
            else:
                after = ahead[r - offset[t] + offset[t + 1]]
                for m in range(len(step)):
                    now[moves[m, 0]] += step[m] * after[moves[m, 1]]
            here, worth = potential[r], ahead[r]
            inverse = potential.dtype.type(1) / scale[r]
            for j in range(labels):
                worth[j] = now[j] * here[j] * inverse


@kernel
def expected_moves(
    alpha: Floats, ahead: Floats, offset: Ints, runs: Ints, moves: Ints, dense: Floats, step: Floats
) -> None:
    """Add to `dense` and `step` the products alpha · ahead of all moves, not yet times the moves' own
    exponentials."""
    d0, d1, s0, s1 = runs[0], runs[1], runs[2], runs[3]
    count = offset[-1] - offset[1]
    before = np.empty((count, s1 - s0), dtype=alpha.dtype)
    for t in range(1, len(offset) - 1):
        for r in range(offset[t], offset[t + 1]):
            now = alpha[r - offset[t] + offset[t - 1]]
            before[r - offset[1]] = now[s0:s1]
            for m in range(len(step)):
                step[m] += now[moves[m, 0]] * ahead[r, moves[m, 1]]
    after = ahead[offset[1] :, d0:d1]
    most = portion(dense)
    if most > 0:
        for at in range(0, count, most):
            dense += np.dot(before[at : at + most].T, np.ascontiguousarray(after[at : at + most]))
        return
    r = 0
    while r + 4 <= count:
        w, x, y, z = after[r], after[r + 1], after[r + 2], after[r + 3]
        p, q, u, v = before[r], before[r + 1], before[r + 2], before[r + 3]
        for i in range(s1 - s0):
            a, b, c, d = p[i], q[i], u[i], v[i]
            out = dense[i]
            for j in range(len(w)):
                out[j] += a * w[j] + b * x[j] + c * y[j] + d * z[j]
        r += 4
    while r < count:
        for i in range(s1 - s0):
            a = before[r, i]
            out = dense[i]
            for j in range(d1 - d0):
                out[j] += a * after[r, j]
        r += 1


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
