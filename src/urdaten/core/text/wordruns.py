"""Runs of words by number: where the same words stand again."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints

_MIX = np.uint64(0x9E3779B97F4A7C15)


def run_keys(word: Ints, group: Ints, length: int) -> NDArray[np.uint64]:
    """By token: a number for its group and the words of so many tokens from it on, the same for the same ones; of the last
    tokens, from which on there are not as many, it means nothing. All of shape (n_tokens,)."""
    words = word.astype(np.uint64)
    key = _mixed(group.astype(np.uint64))
    end = max(0, len(words) - length + 1)
    for step in range(length):
        key[:end] = _mixed(key[:end] + words[step : step + end])
    return key


def _mixed(value: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """Numbers so scattered that two different runs of words share one by no chance that matters."""
    value = (value ^ (value >> np.uint64(31))) * _MIX
    return np.asarray(value ^ (value >> np.uint64(29)))
