"""Calibration of span probabilities."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as examples
from hypothesis import strategies as st

from urdaten.core.tagger.calibration import Calibration


@given(st.integers(0, 1000))
@examples(max_examples=20, deadline=None)
def test_calibration_makes_probabilities_true(seed: int) -> None:
    """Overconfident spans: what is said to be p is right with a lower chance, which calibration finds."""
    random = np.random.default_rng(seed)
    raw = random.uniform(0.05, 0.999, 20_000)
    odds = np.log(raw / (1 - raw))
    true = 1 / (1 + np.exp(-(0.5 * odds - 0.4)))
    made = Calibration.fit(raw, random.random(20_000) < true)
    assert made.slope == pytest.approx(0.5, abs=0.06)
    assert np.abs(made.apply(raw) - true).mean() < 0.02
    assert (np.diff(made.apply(np.sort(raw))) >= 0).all()


def test_calibration_leaves_alone_what_it_cannot_judge() -> None:
    raw = np.array([0.2, 0.9])
    for made in (
        Calibration.fit(raw, np.array([True, False])),
        Calibration.fit(np.full(80, 0.9), np.ones(80, bool)),
    ):
        np.testing.assert_array_equal(made.apply(raw), raw)
