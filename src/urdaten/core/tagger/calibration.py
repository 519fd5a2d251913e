"""Calibration: what the tagger's span probabilities are worth, learnt on texts it was not trained on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats

# Fewer spans than this say little of how sure one may be.
LEAST_SPANS = 50
_EDGE = 1e-6


@dataclass(frozen=True)
class Calibration:
    """logit(calibrated) = slope · logit(raw) + shift (Platt 1999, on the model's own log odds)."""

    slope: float = 1.0
    shift: float = 0.0

    def apply(self, probability: Floats) -> Floats:
        """Calibrated probabilities; order is kept."""
        if (self.slope, self.shift) == (1.0, 0.0):
            return probability
        return np.asarray(1 / (1 + np.exp(-(self.slope * _log_odds(probability) + self.shift))))

    def raw(self, probability: float) -> float:
        """The raw probability that is calibrated to this one, above 0 and below 1."""
        odds = (float(_log_odds(np.array(probability))) - self.shift) / self.slope
        return float(1 / (1 + np.exp(-odds))) if self != Calibration() else probability

    @classmethod
    def fit(cls, probability: Floats, right: NDArray[np.bool_]) -> Calibration:
        """The calibration of highest likelihood for spans found and whether each was right.

        Newton's method with Platt's smoothed targets; a slope below 0.05, which would turn or flatten the
        order, or too few spans, leave the probabilities as they are.
        """
        yes, no = int(right.sum()), int((~right).sum())
        if yes + no < LEAST_SPANS or not yes or not no:
            return cls()
        target = np.where(right, (yes + 1) / (yes + 2), 1 / (no + 2))
        columns = np.stack([_log_odds(probability), np.ones(len(right))], axis=1)
        theta = np.array([1.0, 0.0])
        for _ in range(50):
            guess = 1 / (1 + np.exp(-columns @ theta))
            slope = columns.T @ (guess - target)
            bend = (columns * (guess * (1 - guess))[:, None]).T @ columns + 1e-6 * np.eye(2)
            step = np.linalg.solve(bend, slope)
            theta -= np.clip(step, -1, 1)
            if np.abs(step).max() < 1e-8:
                break
        return cls(float(theta[0]), float(theta[1])) if theta[0] >= 0.05 else cls()


def _log_odds(probability: Floats) -> Floats:
    p = np.clip(probability, _EDGE, 1 - _EDGE)
    return np.asarray(np.log(p / (1 - p)))
