"""Splits of a corpus: units that belong together are never parted, and each label is shared out as the whole is."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.errors import BadInput

# Of two needs that differ by less than this the other one decides.
_EVEN = 1e-9


def joined(count: int, groups: Sequence[str], pairs: Iterable[tuple[int, int]] = ()) -> Ints:
    """The unit that each of `count` things belongs to, by the number of its first one, of shape (count,).

    Things of the same group are one unit, and so are two that are a pair; "" is no group.
    """
    parent = list(range(count))

    def root(i: int) -> int:
        while parent[i] != i:
            parent[i] = parent[parent[i]]
            i = parent[i]
        return i

    def join(i: int, k: int) -> None:
        i, k = sorted((root(i), root(k)))
        parent[k] = i

    first: dict[Hashable, int] = {}
    for i, group in enumerate(groups):
        if group:
            join(i, first.setdefault(group, i))
    for i, k in pairs:
        join(i, k)
    return np.array([root(i) for i in range(count)], dtype=np.int64)


def shared_out(amounts: NDArray[np.float64], shares: Sequence[float], seed: int) -> Ints:
    """The part that each unit goes to, of shape (n_units,).

    amounts: of each unit, how much it has of each label, of shape (n_units, n_labels), not negative; the first label is what
    every unit has some of, its size. shares: what each part gets of each label, summing to 1.

    Labels are gone through from the rarest, and each unit that has it, in an order that the seed draws, goes to the part that is
    farthest from its share of it (after Sechidis, Tsoumakas and Vlahavas 2011, "On the stratification of multi-label data", for amounts in
    place of labels that are there or not). Where two parts are even, the one with less in it gets it. What has no label comes
    last, larger units first.

    Raises BadInput for shares that are no shares of a whole.
    """
    wanted = np.array(shares, dtype=np.float64)
    if not len(wanted) or (wanted < 0).any() or abs(wanted.sum() - 1) > 1e-6:
        raise BadInput("Shares are not negative and come to a whole.", field="shares")
    units, labels = amounts.shape
    parts = np.full(units, -1, dtype=np.int64)
    if not units:
        return parts
    drawn = np.random.default_rng(seed).permutation(units)
    totals = amounts.sum(axis=0)
    left = totals[:, None] * wanted[None, :]
    # Of a label that few units have there is least to choose from.
    having = (amounts > 0).sum(axis=0)
    order = sorted(range(1, labels), key=lambda label: (having[label], label))
    scale = np.where(totals > 0, totals, 1.0)
    open_ = wanted > 0
    for label in [*order, 0]:
        waiting = drawn[(parts[drawn] < 0) & ((amounts[drawn, label] > 0) | (label == 0))]
        if label == 0:
            waiting = waiting[np.argsort(-amounts[waiting, 0], kind="stable")]
        for unit in waiting.tolist():
            best = _neediest(left[label] / scale[label], left[0] / scale[0], open_)
            parts[unit] = best
            left[:, best] -= amounts[unit]
    return parts


def split_texts(
    groups: Sequence[str],
    pairs: Iterable[tuple[int, int]],
    amounts: Sequence[Sequence[float]],
    shares: Sequence[float],
    seed: int,
    held: Mapping[int, int],
) -> list[int]:
    """The part of each text, by `shared_out` over units of texts that a group or a pair holds together.

    amounts: of each text, its size and how much it has of each label. held: parts of texts that keep theirs; a unit with such
    texts goes with its first one. Raises BadInput for shares that are no shares of a whole.
    """
    unit_of = joined(len(groups), groups, pairs).tolist()
    with_part: dict[int, int] = {}
    for text in sorted(held):
        with_part.setdefault(unit_of[text], held[text])
    free = sorted(set(unit_of) - with_part.keys())
    place = {unit: at for at, unit in enumerate(free)}
    summed = np.zeros((len(free), len(amounts[0]) if amounts else 1))
    for unit, amount in zip(unit_of, amounts, strict=True):
        if unit in place:
            summed[place[unit]] += amount
    parts = shared_out(summed, shares, seed).tolist()
    return [
        held.get(text, with_part[unit] if unit in with_part else parts[place[unit]] if unit in place else 0)
        for text, unit in enumerate(unit_of)
    ]


def _neediest(need: NDArray[np.float64], size: NDArray[np.float64], open_: NDArray[np.bool_]) -> int:
    best = -1
    for part in np.flatnonzero(open_).tolist():
        if (
            best < 0
            or need[part] > need[best] + _EVEN
            or (abs(need[part] - need[best]) <= _EVEN and size[part] > size[best] + _EVEN)
        ):
            best = part
    return best
