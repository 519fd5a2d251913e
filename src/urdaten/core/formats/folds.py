"""Folds of a corpus: texts that belong together are never parted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np


def folds_of(groups: Sequence[str], sizes: Sequence[int], count: int, seed: int) -> list[int]:
    """The fold of each text, from 1 to `count`: groups go whole, in an order that the seed draws, to the fold that holds least.

    A text without a group stands for itself. sizes: of each text, its sentences, say. The larger ones go first, so that folds
    come out alike.
    """
    members: dict[tuple[str, int], list[int]] = {}
    for i, group in enumerate(groups):
        members.setdefault((group, -1) if group else ("", i), []).append(i)
    together = list(members.values())
    drawn = np.random.default_rng(seed).permutation(len(together))
    weight = [sum(sizes[i] for i in numbers) for numbers in together]
    held = [0] * count
    folds = [0] * len(groups)
    for k in sorted(drawn.tolist(), key=lambda k: -weight[k]):
        least = held.index(min(held))
        held[least] += weight[k]
        for i in together[k]:
            folds[i] = least + 1
    return folds
