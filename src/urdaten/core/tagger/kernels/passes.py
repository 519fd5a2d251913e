"""Forward and backward passes of a linear chain over a block of sentences (Lafferty, McCallum and Pereira 2001).

A block is packed time-major: its sentences are sorted by falling length, and step t has one row for each
sentence that is still running, so nothing is padded. Row r of step t is sentence r − offset[t]. Passes run
in probability space, scaled at each step (Rabiner 1989). A score further below the best one of its token
than a floor, or a move as far below the best move, counts as being at the floor, so that no step underflows
to nothing. Floored labels weigh less than single precision holds, unless what stands around a token rules its
better labels out; `floor_felt` tells, and passes in double precision have a floor that is out of reach.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from urdaten.core.arrays import Bools, Floats, Ints
from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.kinds import Chain
from urdaten.core.tagger.kernels.powers import DOUBLE_FLOOR, SINGLE_FLOOR, exp_row

# More mass than this on floored labels would be seen in the figures.
_FELT = 1e-6
# Numbers of a matrix from which the library multiplies quicker than a loop, and multiplications up to which it does so on
# one thread.
_LARGE, _ONE_THREAD = 512, 250_000


class Exponentials(NamedTuple):
    """Exponentials of moves, each against the best, whose logarithms are start_peak and peak.

    start (L,) is nothing but for opening labels; dense (closing, opening), back the same transposed, step (n_moves,).
    `floored` says whether any of them stands at the floor.
    """

    start: Floats
    dense: Floats
    back: Floats
    step: Floats
    start_peak: float
    peak: float
    floored: bool


class Passes(NamedTuple):
    """What both passes over a block leave, by row: potentials and the best scores that they stand against, forward and backward
    variables, what is ahead, and scales; `offset` is the first row of each step."""

    offset: Ints
    potential: Floats
    peaks: Floats
    alpha: Floats
    beta: Floats
    ahead: Floats
    scale: Floats


@kernel
def _floor(values: Floats) -> float:
    """What lies below stands at the floor."""
    return float(np.exp(-SINGLE_FLOOR if values.itemsize == 4 else -DOUBLE_FLOOR) * 1.001)


@kernel
def _exp_moves(values: Floats, peak: float, out: Floats) -> None:
    low = -SINGLE_FLOOR if out.itemsize == 4 else -DOUBLE_FLOOR
    for i in range(len(values)):
        out[i] = np.exp(max(np.float64(values[i]) - peak, low))


@kernel
def exponentials(chain: Chain, precision: Floats) -> Exponentials:
    """Exponentials of moves, floored as scores are, in the precision of `precision`."""
    kind = precision.dtype
    tall, wide = chain.dense.shape
    start_peak = np.float64(chain.start.max())
    start = np.zeros(len(chain.closing), dtype=kind)
    _exp_moves(chain.start, start_peak, start[chain.runs[0] : chain.runs[1]])
    peak = np.float64(chain.dense.max())
    for m in range(len(chain.step)):
        peak = max(peak, np.float64(chain.step[m]))
    dense = np.empty((tall, wide), dtype=kind)
    back = np.empty((wide, tall), dtype=kind)
    for i in range(tall):
        _exp_moves(chain.dense[i], peak, dense[i])
        for j in range(wide):
            back[j, i] = dense[i, j]
    step = np.empty(len(chain.step), dtype=kind)
    _exp_moves(chain.step, peak, step)
    low = start.dtype.type(_floor(start))
    floored = start[chain.runs[0] : chain.runs[1]].min() < low or dense.min() < low
    for value in step:
        floored = floored or value < low
    return Exponentials(start, dense, back, step, start_peak, peak, floored)


@kernel
def room_for(offset: Ints, labels: int, precision: Floats) -> Passes:
    """Rows to be filled, in the precision of `precision`."""
    kind, rows = precision.dtype, offset[-1]
    return Passes(
        offset,
        np.empty((rows, labels), dtype=kind),
        np.empty(rows, dtype=kind),
        np.empty((rows, labels), dtype=kind),
        np.empty((rows, labels), dtype=kind),
        np.empty((rows, labels), dtype=kind),
        np.empty(rows, dtype=kind),
    )


@kernel
def both_passes(made: Passes, exponential: Exponentials, chain: Chain) -> None:
    """From potentials to all that follows from them."""
    forward(made, exponential, chain)
    close(made.offset, chain.closing, made.alpha, made.scale)
    backward(made, exponential, chain)


@kernel
def block_passes(
    scores: Floats, first: Ints, length: Ints, exponential: Exponentials, chain: Chain, precision: Floats
) -> Passes:
    """Passes over sentences by falling length; sentence s has its scores at rows first[s] … first[s] + length[s]."""
    made = room_for(row_offsets(length), scores.shape[1], precision)
    potentials(scores, first, length, made.offset, made.potential, made.peaks)
    both_passes(made, exponential, chain)
    return made


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
def forward(made: Passes, exponential: Exponentials, chain: Chain) -> None:
    """Scaled forward variables and their scales; the logarithms of the scales sum to that of the partition."""
    offset, potential, alpha, scale = made.offset, made.potential, made.alpha, made.scale
    start, dense, step = exponential.start, exponential.dense, exponential.step
    runs, moves = chain.runs, chain.moves
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
def backward(made: Passes, exponential: Exponentials, chain: Chain) -> None:
    """Scaled backward variables, so that alpha · beta are label marginals; `ahead` receives beta · potential / scale of each
    row: what a label is worth to the one before it."""
    offset, potential, scale, beta, ahead = made.offset, made.potential, made.scale, made.beta, made.ahead
    dense_back, step = exponential.back, exponential.step
    runs, moves, closing = chain.runs, chain.moves, chain.closing
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
def floor_felt(made: Passes) -> bool:
    """Does any token have mass on labels whose scores lie at the floor of single precision?"""
    potential, alpha, beta = made.potential, made.alpha, made.beta
    low = _floor(potential)
    for r in range(len(potential)):
        mass = 0.0
        for j in range(potential.shape[1]):
            if potential[r, j] < low:
                mass += alpha[r, j] * beta[r, j]
        if mass > _FELT:
            return True
    return False


@kernel
def marginals(
    made: Passes, exponential: Exponentials, chain: Chain, first: Ints, length: Ints, out: Floats
) -> tuple[Floats, Bools]:
    """Label marginals of each sentence into its rows of `out`, from first[s] on; of each the sum of the logarithms of its
    scales and of the scores that its potentials stand against, and whether all that is exact.

    It is not where mass stands at a floor, which is more than it should be, nor where paths may have been lost that would
    count later: those that fell behind by more than the precision holds.
    """
    single = made.scale.itemsize == 4
    low = made.scale.dtype.type(_floor(made.potential))
    labels = out.shape[1]
    logs = np.empty(len(length), dtype=np.float64)
    exact = np.empty(len(length), dtype=np.bool_)
    for s in range(len(length)):
        total, fallen, lowest = 0.0, 1.0, 1.0
        mass = made.scale.dtype.type(0)
        for t in range(length[s]):
            r = made.offset[t] + s
            target = out[first[s] + t]
            scale = np.float64(made.scale[r])
            total += np.log(scale) + made.peaks[r]
            fallen = min(1.0, fallen * scale)
            # What is no number is not above zero either.
            lowest = min(lowest, fallen) if scale > 0 else 0.0
            for j in range(labels):
                share = made.alpha[r, j] * made.beta[r, j]
                target[j] = share
                mass += share if made.potential[r, j] < low else 0
        sure = lowest > 0 and not mass > _FELT
        if sure and exponential.floored:
            sure = _mass_of_floored_moves(made, exponential, chain, s, length[s], low) <= _FELT
        # Moves that are seldom the best make every step fall a little; what scores take tells.
        if sure and lowest < (1e-26 if single else 1e-240):
            sure = _taken_by_scores(made, s, length[s]) < (25 if single else 250)
        logs[s], exact[s] = total, sure
    return logs, exact


@kernel
def _mass_of_floored_moves(
    made: Passes, exponential: Exponentials, chain: Chain, sentence: int, length: int, low: float
) -> float:
    d0, s0 = chain.runs[0], chain.runs[2]
    mass = 0.0
    for j in range(chain.runs[1] - d0):
        if exponential.start[d0 + j] < low:
            mass += made.alpha[sentence, d0 + j] * made.beta[sentence, d0 + j]
    for t in range(1, length):
        before, here = made.offset[t - 1] + sentence, made.offset[t] + sentence
        for i in range(exponential.dense.shape[0]):
            for j in range(exponential.dense.shape[1]):
                if exponential.dense[i, j] < low:
                    mass += made.alpha[before, s0 + i] * exponential.dense[i, j] * made.ahead[here, d0 + j]
        for m in range(len(exponential.step)):
            if exponential.step[m] < low:
                share = made.alpha[before, chain.moves[m, 0]] * exponential.step[m]
                mass += share * made.ahead[here, chain.moves[m, 1]]
    return float(mass)


@kernel
def _taken_by_scores(made: Passes, sentence: int, length: int) -> float:
    """By how much the paths that count fall behind one that has the best score everywhere."""
    taken = 0.0
    for t in range(length):
        r = made.offset[t] + sentence
        for j in range(made.potential.shape[1]):
            share = made.alpha[r, j] * made.beta[r, j]
            if share > 0:
                taken -= share * np.log(np.float64(made.potential[r, j]))
    return float(taken)
