"""Inference in a linear chain: likelihood, marginals, best path (Lafferty, McCallum and Pereira 2001).

Forward and backward passes run in probability space, scaled at each position (Rabiner 1989), over a
block of sentences at once: sentences are sorted by falling length, so that at each time step the
active ones stand first and no padding is computed.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
FORBIDDEN = -1e30


@dataclass(frozen=True)
class Block:
    """Emission scores of a block in time-major order, shape (time, sentence, label)."""

    emission: Floats
    # How many sentences are still running at each time step; falls with time.
    active: NDArray[np.int64]
    length: NDArray[np.int64]


def make_block(scores: Floats, first: NDArray[np.int64], length: NDArray[np.int64]) -> Block:
    """A block from scores of shape (n_tokens, n_labels); `length` must fall or stay equal."""
    longest = int(length[0])
    steps = np.arange(longest)
    index = np.minimum(first[None, :] + steps[:, None], len(scores) - 1)
    return Block(scores[index], (length[None, :] > steps[:, None]).sum(axis=1), length)


@dataclass(frozen=True)
class Passes:
    """Scaled forward and backward variables, shape (time, sentence, label), and scales (time, sentence)."""

    forward: Floats
    backward: Floats
    scale: Floats
    potential: Floats
    log_partition: Floats

    def node(self) -> Floats:
        """Label marginals of shape (time, sentence, label); zero beyond a sentence's end."""
        return self.forward * self.backward


def forward_backward(block: Block, start: Floats, transition: Floats) -> Passes:
    """Exact passes. `start` (n_labels,) and `transition` (n_labels, n_labels) are log scores in which
    forbidden moves are at or below FORBIDDEN."""
    time, count, labels = block.emission.shape
    step = np.exp(transition)
    peak = block.emission.max(axis=2, keepdims=True)
    potential = np.exp(block.emission - peak)
    forward = np.zeros((time, count, labels))
    backward = np.zeros((time, count, labels))
    scale = np.ones((time, count))
    alpha = np.exp(start) * potential[0]
    for t in range(time):
        n = block.active[t]
        if t:
            alpha = (forward[t - 1, :n] @ step) * potential[t, :n]
        scale[t, :n] = alpha.sum(axis=1)
        forward[t, :n] = alpha / scale[t, :n, None]
    for t in range(time - 1, -1, -1):
        n = block.active[t]
        going = int(block.active[t + 1]) if t + 1 < time else 0
        backward[t, going:n] = 1.0
        if going:
            ahead = backward[t + 1, :going] * potential[t + 1, :going] / scale[t + 1, :going, None]
            backward[t, :going] = ahead @ step.T
    inside = np.arange(time)[:, None] < block.length[None, :]
    log_partition = np.where(inside, np.log(scale) + peak[:, :, 0], 0.0).sum(axis=0)
    return Passes(forward, backward, scale, potential, log_partition)


def expected_transitions(block: Block, passes: Passes, transition: Floats) -> Floats:
    """Expected number of each move, summed over the block, shape (n_labels, n_labels)."""
    total = np.zeros_like(transition)
    for t in range(1, len(block.active)):
        n = block.active[t]
        ahead = passes.backward[t, :n] * passes.potential[t, :n] / passes.scale[t, :n, None]
        total += passes.forward[t - 1, :n].T @ ahead
    return total * np.exp(transition)


def best_paths(block: Block, start: Floats, transition: Floats) -> list[NDArray[np.int16]]:
    """The highest-scoring label sequence of each sentence (Viterbi 1967)."""
    time, count, labels = block.emission.shape
    back = np.zeros((time, count, labels), dtype=np.int16)
    best = np.zeros((time, count, labels))
    best[0] = start + block.emission[0]
    for t in range(1, time):
        n = block.active[t]
        moves = best[t - 1, :n, :, None] + transition[None]
        back[t, :n] = moves.argmax(axis=1)
        best[t, :n] = np.take_along_axis(moves, back[t, :n][:, None, :].astype(np.int64), axis=1)[:, 0]
        best[t, :n] += block.emission[t, :n]
    paths = []
    for s in range(count):
        last = int(block.length[s]) - 1
        path = np.zeros(last + 1, dtype=np.int16)
        path[last] = best[last, s].argmax()
        for t in range(last, 0, -1):
            path[t - 1] = back[t, s, path[t]]
        paths.append(path)
    return paths


def span_probability(
    passes: Passes, transition: Floats, sentence: int, length: int, first: int, last: int, begin: int
) -> float:
    """Exact probability that exactly tokens [first, last) form a span whose labels are begin, begin + 1, …"""
    inside = begin + 1
    step = np.exp(transition)
    value = float(passes.forward[first, sentence, begin])
    label = begin
    for t in range(first + 1, last):
        value *= step[label, inside] * passes.potential[t, sentence, inside] / passes.scale[t, sentence]
        label = inside
    if last == length:
        return min(1.0, float(value * passes.backward[last - 1, sentence, label]))
    ahead = step[label] * passes.potential[last, sentence] * passes.backward[last, sentence]
    ahead = ahead / passes.scale[last, sentence]
    return min(1.0, float(value * (ahead.sum() - ahead[inside])))
