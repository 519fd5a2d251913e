"""Fitting over the whole of the data at once: L-BFGS (Liu and Nocedal 1989) on the exact objective.

With an L1 penalty the weights are split: w = p − n with p, n ≥ 0, for which the penalty is linear and bounds
suffice (L-BFGS-B: Byrd, Lu, Nocedal and Zhu 1995).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats
from urdaten.core.tagger.kernels.decode import BLOCK, evaluate
from urdaten.core.tagger.kernels.kinds import Slopes, Tokens
from urdaten.core.tagger.kernels.scores import REACH, spread_rows, sum_rows
from urdaten.core.tagger.learner import LayerData, scaled_l2
from urdaten.core.tagger.settings import TrainingSettings
from urdaten.core.tagger.weights import Moves, Weights, chain_of

# Steps of the optimiser from one look at the weights to the next; as many tell it how the objective bends, at most CURVATURE.
STEPS, CURVATURE = 5, 8
# What a weight takes: in double precision two vectors for each of those steps and some for the optimiser's own use; in single
# precision weights and gradients, those of the best epoch among them. Measured: 139, and 2 times 171 with l1.
WHOLE_BYTES = 8 * (2 * STEPS + 8) + 4 * 7


class Stop(Exception):
    """Carries no message: it leaves the optimiser when training is to end."""


class Objective:
    """The penalised negative log-likelihood of a layer, and its gradient, over flat vectors."""

    def __init__(self, data: LayerData, settings: TrainingSettings) -> None:
        self._data = data
        self._l2 = scaled_l2(settings.l2, len(data.layout))
        self._shapes = [
            array.shape for array in Weights.zeros(data.attributes, data.features, data.coding).arrays
        ]
        self.size = sum(int(np.prod(shape)) for shape in self._shapes)
        self._order = data.layout.falling(BLOCK)
        self._rows = np.arange(len(data.lexicon))
        width = REACH * data.coding.count
        self._form_scores = np.empty((len(data.lexicon), width), dtype=np.float32)
        self._form_error = np.empty_like(self._form_scores)

    def split(self, flat: Floats) -> Weights:
        """Views of a flat vector as weights."""
        parts: list[Floats] = []
        at = 0
        for shape in self._shapes:
            size = int(np.prod(shape))
            parts.append(flat[at : at + size].reshape(shape))
            at += size
        return Weights(parts[0], parts[1], Moves(*parts[2:5]))

    def __call__(self, flat: NDArray[np.float32]) -> tuple[float, NDArray[np.float32]]:
        """Loss and gradient at the given weights, in single precision."""
        data = self._data
        weights = self.split(flat)
        gradient = np.zeros_like(flat)
        slope = self.split(gradient)
        lexicon, layout, labels = data.lexicon, data.layout, data.labels
        sum_rows(lexicon.pointer, lexicon.column, weights.forms, self._rows, self._form_scores)
        self._form_error[:] = 0
        tokens = Tokens(layout.word, layout.first, layout.length, *data.own)
        loss = evaluate(
            self._order,
            tokens,
            labels.gold,
            labels.weight,
            labels.masks,
            self._form_scores,
            weights.tokens,
            chain_of(weights.moves, data.coding),
            self._form_error,
            slope.tokens,
            Slopes(*slope.moves.arrays),
        )
        spread_rows(lexicon.pointer, lexicon.column, self._rows, self._form_error, slope.forms)
        gradient += np.float32(self._l2) * flat
        return loss + 0.5 * self._l2 * float(flat @ flat), gradient


def evaluations(
    data: LayerData, settings: TrainingSettings, should_stop: Callable[[], bool]
) -> Iterator[tuple[float, Weights]]:
    """Objective per sentence and weights after every iteration, until it converges or is to stop."""
    # Tagging needs none of this, and should not wait for it to be loaded.
    from scipy import optimize

    objective = Objective(data, settings)
    sentences = len(data.layout)
    split = settings.l1 > 0
    loss_now = 0.0

    def both(x: NDArray[np.float64]) -> tuple[float, NDArray[np.float64]]:
        nonlocal loss_now
        if should_stop():
            raise Stop
        flat = x.astype(np.float32)
        if not split:
            loss_now, gradient = objective(flat)
            return loss_now, gradient.astype(np.float64)
        half = objective.size
        loss, gradient = objective(flat[:half] - flat[half:])
        loss_now = loss + settings.l1 * float(x.sum())
        wide = gradient.astype(np.float64)
        return loss_now, np.concatenate([wide + settings.l1, settings.l1 - wide])

    x = np.zeros(objective.size * (2 if split else 1))
    bounds = [(0, None)] * len(x) if split else None
    done = 0
    while done < settings.epochs:
        # A few iterations at a time, so that each can be looked at; the memory of curvature is kept short.
        result = optimize.minimize(
            both,
            x,
            jac=True,
            method="L-BFGS-B",
            bounds=bounds,
            options={"maxiter": STEPS, "maxcor": CURVATURE},
        )
        x = result.x
        done += max(1, int(result.nit))
        flat = x.astype(np.float32)
        flat = flat[: objective.size] - flat[objective.size :] if split else flat
        yield loss_now / sentences, objective.split(flat)
        if result.success:
            return
