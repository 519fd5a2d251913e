"""Units of a corpus and how they are shared out."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.scoring import joined, shared_out, split_texts
from urdaten.errors import BadInput


def joined_slowly(count: int, groups: list[str], pairs: list[tuple[int, int]]) -> list[int]:
    links = pairs + [
        (i, k) for i in range(count) for k in range(count) if groups[i] and groups[i] == groups[k]
    ]
    unit = list(range(count))
    for _ in range(count):
        for i, k in links:
            unit[i] = unit[k] = min(unit[i], unit[k])
    return unit


@given(st.data())
def test_units_are_what_groups_and_pairs_hold_together(data: st.DataObject) -> None:
    count = data.draw(st.integers(0, 9))
    groups = data.draw(st.lists(st.sampled_from(["", "a", "b", "c"]), min_size=count, max_size=count))
    numbers = st.integers(0, max(0, count - 1))
    pairs = data.draw(st.lists(st.tuples(numbers, numbers), max_size=6 if count else 0))
    assert joined(count, groups, pairs).tolist() == joined_slowly(count, groups, pairs)


@given(
    st.lists(st.tuples(st.integers(1, 9), st.integers(0, 5), st.integers(0, 2)), max_size=40),
    st.integers(0, 3),
)
def test_every_unit_goes_to_a_part_that_has_a_share(units: list[tuple[int, int, int]], seed: int) -> None:
    amounts = np.array(units, dtype=float).reshape(-1, 3)
    parts = shared_out(amounts, [0.7, 0, 0.3], seed)
    assert len(parts) == len(units)
    assert set(parts.tolist()) <= {0, 2}
    assert parts.tolist() == shared_out(amounts, [0.7, 0, 0.3], seed).tolist()


def test_rare_labels_come_out_as_the_whole_does() -> None:
    drawn = np.random.default_rng(3)
    amounts = np.ones((1000, 4))
    amounts[:, 0] = drawn.integers(3, 9, 1000)
    amounts[:, 1] = drawn.random(1000) < 0.4
    amounts[:, 2] = drawn.random(1000) < 0.03
    amounts[:, 3] = (drawn.random(1000) < 0.01) * drawn.integers(1, 4, 1000)
    shares = np.array([0.8, 0.1, 0.1])
    parts = shared_out(amounts, shares.tolist(), 1)
    held = np.stack([amounts[parts == part].sum(axis=0) for part in range(3)])
    # No part is farther from its share of a label than the largest unit of it.
    assert (np.abs(held - shares[:, None] * amounts.sum(axis=0)) <= amounts.max(axis=0)).all()
    by_chance = np.stack([amounts[drawn.choice(3, 1000, p=shares) == part].sum(axis=0) for part in range(3)])
    off = np.abs(held - shares[:, None] * amounts.sum(axis=0)).sum()
    assert off < np.abs(by_chance - shares[:, None] * amounts.sum(axis=0)).sum() / 5


def test_a_seed_decides_what_is_even() -> None:
    amounts = np.ones((30, 1))
    drawn = {tuple(shared_out(amounts, [0.5, 0.5], seed).tolist()) for seed in range(5)}
    assert len(drawn) == 5
    assert all(sum(parts) == 15 for parts in drawn)


@pytest.mark.parametrize("shares", [[], [0.5, 0.4], [1.2, -0.2]])
def test_shares_come_to_a_whole(shares: list[float]) -> None:
    with pytest.raises(BadInput, match="whole"):
        shared_out(np.ones((2, 1)), shares, 1)


@given(st.data())
def test_texts_that_belong_together_are_never_parted(data: st.DataObject) -> None:
    count = data.draw(st.integers(0, 12))
    groups = data.draw(st.lists(st.sampled_from(["", "a", "b"]), min_size=count, max_size=count))
    numbers = st.integers(0, max(0, count - 1))
    pairs = data.draw(st.lists(st.tuples(numbers, numbers), max_size=4 if count else 0))
    held = data.draw(st.dictionaries(numbers, st.integers(0, 2), max_size=3 if count else 0))
    amounts = [[1.0, float(k % 3 == 0)] for k in range(count)]
    parts = split_texts(groups, pairs, amounts, [0.5, 0.25, 0.25], 1, held)
    units = joined_slowly(count, groups, pairs)
    for k in range(count):
        if k in held:
            assert parts[k] == held[k]
            continue
        kept = [held[i] for i in sorted(held) if units[i] == units[k]]
        if kept:
            assert parts[k] == kept[0]
        assert len({parts[i] for i in range(count) if units[i] == units[k] and i not in held}) == 1
