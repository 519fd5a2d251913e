"""What is learnt from, made ready: columns and labels of one layer, and how weights are changed on them."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from urdaten.core.spans.coding import Coding
from urdaten.core.tagger.corpus import Labels
from urdaten.core.tagger.features import Lexicon
from urdaten.core.tagger.kernels.adagrad import descend, gather, shard_gradient, shrink_all, touch
from urdaten.core.tagger.kernels.perceptron import perceptron_pass
from urdaten.core.tagger.kernels.scores import REACH, WINDOW
from urdaten.core.tagger.layout import Layout
from urdaten.core.tagger.settings import TrainingSettings
from urdaten.core.tagger.weights import CodingArrays, Weights, coding_arrays

Ints = NDArray[np.int64]
Floats = NDArray[np.floating[Any]]
SHARDS = 2
WORTH_TWO_THREADS = 40


@dataclass(frozen=True)
class Matter:
    """Everything that one layer is learnt from."""

    lexicon: Lexicon
    layout: Layout
    # (pointer, column) of the tokens' own features, by position.
    own: tuple[Ints, Ints]
    labels: Labels
    coding: Coding
    attributes: int
    features: int


class Learner(Protocol):
    """Changes weights, one pass over the sentences at a time."""

    def epoch(self, order: Ints, should_stop: Callable[[], bool]) -> float | None:
        """One pass; the objective per sentence, or None when it was stopped before its end."""

    def weights(self) -> Weights:
        """Weights as they would be used now; they are the caller's to keep."""


class AdaGrad:
    """A conditional random field by minibatches; see kernels.adagrad."""

    def __init__(self, matter: Matter, settings: TrainingSettings, threads: int) -> None:
        self._m = matter
        self._s = settings
        self._now = Weights.zeros(matter.attributes, matter.features, matter.coding)
        self._square = self._now.copy()
        self._moved = self._now.copy()
        self._step = 0
        self._begun = 0
        self._batch_size = batch_size(settings.batch, len(matter.layout))
        self._batches = -(-len(matter.layout) // self._batch_size)
        # With few labels a step is done before two threads have agreed on who does what.
        two = threads > 1 and matter.coding.count >= WORTH_TWO_THREADS
        self._pool = ThreadPoolExecutor(1) if two else None
        self._parts = 2 if two else 1
        self._form_rows = _Rows(self._now.forms, self._square.forms, self._moved.forms)
        self._token_rows = _Rows(self._now.tokens, self._square.tokens, self._moved.tokens)
        longest = np.sort(matter.layout.length)[::-1][: -(-self._batch_size // SHARDS)]
        size = int((longest + WINDOW).sum()) + 3 * WINDOW
        labels = matter.coding.count
        width = REACH * labels
        self._chain = coding_arrays(matter.coding)
        self._shards = [
            _Shard(
                np.full(len(matter.lexicon), -1, dtype=np.int64),
                np.empty(size, dtype=np.int64),
                np.empty((size, width), dtype=np.float32),
                np.empty((size, width), dtype=np.float32),
                np.empty((size + 2 * WINDOW, labels), dtype=np.float32),
                self._now.moves.copy().arrays,
            )
            for _ in range(SHARDS)
        ]

    def _both(self, work: Callable[[int], None], count: int) -> None:
        if self._pool is None:
            for k in range(count):
                work(k)
            return
        other = self._pool.submit(work, 1)
        work(0)
        other.result()

    def epoch(self, order: Ints, should_stop: Callable[[], bool]) -> float | None:
        loss = 0.0
        self._begun = self._step
        for moved in self._moved.arrays:
            moved[:] = 0
        for at in range(0, len(order), self._batch_size):
            if should_stop():
                return None
            loss += self._batch(order[at : at + self._batch_size])
        return loss / len(order)

    def _batch(self, chosen: Ints) -> float:
        layout, settings = self._m.layout, self._s
        # Dealt by length, so that both shards have as much to do.
        chosen = chosen[np.argsort(-layout.length[chosen], kind="stable")]
        shares = [chosen[k::SHARDS] for k in range(SHARDS)]
        tokens = [_positions(layout, share) for share in shares]
        around = np.concatenate([*tokens, *(_padding(layout, share) for share in shares)])
        forms = np.unique(layout.word[around])
        penalty = (settings.rate, settings.l1 / self._batches, settings.l2 / self._batches)
        step, parts = self._step + 1, self._parts
        lexicon, own = self._m.lexicon, self._m.own
        every = np.concatenate(tokens)

        def prepare(part: int) -> None:
            self._form_rows.touch(
                forms, lexicon.pointer, lexicon.column, part, parts, (step, self._begun), penalty
            )
            self._token_rows.touch(every, *own, part, parts, (step, self._begun), penalty)

        def differentiate(k: int) -> None:
            self._shards[k].differentiate(self._m, shares[k], self._now, self._chain)

        def change(part: int) -> None:
            for shard, share, here in zip(self._shards, shares, tokens, strict=True):
                if len(here):
                    self._form_rows.gather(
                        shard.forms[: shard.distinct],
                        lexicon.pointer,
                        lexicon.column,
                        shard.form_error,
                        part,
                        parts,
                    )
                    rows = _rows_of(layout.length[share])
                    self._token_rows.gather(here, *own, shard.error[rows], part, parts)
            self._form_rows.descend(part, self._step - self._begun, settings.rate)
            self._token_rows.descend(part, self._step - self._begun, settings.rate)

        self._both(prepare, parts)
        self._both(differentiate, SHARDS)
        self._both(change, parts)
        self._change_moves(penalty)
        self._step = step
        return sum(shard.loss for shard in self._shards)

    def _change_moves(self, penalty: tuple[float, float, float]) -> None:
        rate, l1, l2 = penalty
        columns = (self._now.moves.arrays, self._square.moves.arrays, self._moved.moves.arrays)
        for k, (value, square, moved) in enumerate(zip(*columns, strict=True)):
            before = value.copy()
            slope = self._shards[0].moves[k] + self._shards[1].moves[k]
            square += slope * slope
            eta = rate / (np.sqrt(square) + 1e-6)
            value -= eta * slope
            value /= 1 + eta * l2
            np.copyto(value, np.sign(value) * np.maximum(np.abs(value) - eta * l1, 0))
            moved += (value - before) * (self._step - self._begun)

    def weights(self) -> Weights:
        penalty = (self._s.rate, self._s.l1 / self._batches, self._s.l2 / self._batches)
        for rows in (self._form_rows, self._token_rows):
            shrink_all(rows.weights, rows.square, rows.moved, rows.last, self._step, self._begun, *penalty)
        average = self._moved.copy()
        steps = max(1, self._step - self._begun)
        for value, now in zip(average.arrays, self._now.arrays, strict=True):
            # now − moved / steps, without another array of that size.
            value *= np.float32(-1 / steps)
            value += now
        return average


def batch_size(most: int, sentences: int) -> int:
    """Sentences per step: at most as many as wished, and at least some forty steps an epoch where it can be."""
    return min(most, max(4, sentences // 40))


@dataclass
class _Shard:
    """Room for the gradient of one part of a batch."""

    mark: Ints
    forms: Ints
    form_scores: Floats
    form_error: Floats
    error: Floats
    moves: tuple[Floats, Floats, Floats]
    loss: float = 0.0
    distinct: int = 0

    def differentiate(self, matter: Matter, share: Ints, now: Weights, chain: CodingArrays) -> None:
        if not len(share):
            self.loss, self.distinct = 0.0, 0
            for slope in self.moves:
                slope[:] = 0
            return
        layout, labels, lexicon = matter.layout, matter.labels, matter.lexicon
        self.loss, self.distinct = shard_gradient(
            share,
            layout.word,
            layout.first,
            layout.length,
            labels.gold,
            labels.weight,
            labels.masks,
            lexicon.pointer,
            lexicon.column,
            *matter.own,
            now.forms,
            now.tokens,
            *now.moves.arrays,
            *chain,
            self.mark,
            self.forms,
            self.form_scores,
            self.form_error,
            self.error,
            *self.moves,
        )


class _Rows:
    """Rows of weights of which a step touches few: their gradients, and when each was last shrunk."""

    def __init__(self, weights: Floats, square: Floats, moved: Floats) -> None:
        self.weights = weights
        self.square = square
        self.moved = moved
        self.last = np.zeros(len(weights), dtype=np.int64)
        self._stamp = np.zeros(len(weights), dtype=np.int64)
        self._slot = np.zeros(len(weights), dtype=np.int64)
        self._touched = [
            np.zeros(len(weights) // 2 + 2 if k else len(weights), dtype=np.int64) for k in (0, 1)
        ]
        self._count = [0, 0]
        self._gradient = [np.zeros((0, weights.shape[1]), dtype=weights.dtype) for _ in (0, 1)]

    def touch(
        self,
        members: Ints,
        pointer: Ints,
        column: Ints,
        part: int,
        parts: int,
        now: tuple[int, int],
        penalty: tuple[float, float, float],
    ) -> None:
        count = touch(
            members,
            pointer,
            column,
            self.weights,
            self.square,
            self.moved,
            self.last,
            self._stamp,
            self._slot,
            self._touched[part],
            part,
            parts,
            *now,
            *penalty,
        )
        self._count[part] = count
        if count > len(self._gradient[part]):
            self._gradient[part] = np.zeros((2 * count, self.weights.shape[1]), dtype=self.weights.dtype)

    def gather(
        self,
        members: Ints,
        pointer: Ints,
        column: Ints,
        error: Floats,
        part: int,
        parts: int,
    ) -> None:
        gather(members, pointer, column, error, self._slot, part, parts, self._gradient[part])

    def descend(self, part: int, when: int, rate: float) -> None:
        descend(
            self._touched[part],
            self._count[part],
            self._gradient[part],
            self.weights,
            self.square,
            self.moved,
            when,
            rate,
        )


def _positions(layout: Layout, sentences: Ints) -> Ints:
    """Positions of the tokens of these sentences, in order."""
    length = layout.length[sentences]
    shift = layout.first[sentences] - (np.cumsum(length) - length)
    return np.asarray(np.arange(int(length.sum())) + np.repeat(shift, length))


def _padding(layout: Layout, sentences: Ints) -> Ints:
    """One position of padding, if there is any sentence: it is the same word everywhere."""
    return layout.first[sentences[:1]] - 1


def _rows_of(length: Ints) -> Ints:
    """Rows of shard_gradient's `error` that belong to tokens, in order."""
    first = np.cumsum(length + WINDOW) - length + WINDOW
    return np.asarray(np.arange(int(length.sum())) + np.repeat(first - (np.cumsum(length) - length), length))


class Perceptron:
    """The averaged structured perceptron; the objective is the share of wrong labels.

    It knows right and wrong alone: what nobody has judged counts as no span, and all texts count alike.
    """

    def __init__(self, matter: Matter) -> None:
        self._m = matter
        gold = matter.labels.gold
        self._gold = np.where(gold < 0, matter.coding.outside, gold)
        self._now = Weights.zeros(matter.attributes, matter.features, matter.coding)
        self._sums = self._now.copy()
        self._done = 0
        self._chain = coding_arrays(matter.coding)

    PORTION = 256

    def epoch(self, order: Ints, should_stop: Callable[[], bool]) -> float | None:
        layout, lexicon = self._m.layout, self._m.lexicon
        wrong = 0
        for at in range(0, len(order), self.PORTION):
            if should_stop():
                return None
            portion = order[at : at + self.PORTION]
            wrong += perceptron_pass(
                portion,
                self._done,
                layout.word,
                layout.first,
                layout.length,
                self._gold,
                lexicon.pointer,
                lexicon.column,
                *self._m.own,
                *self._now.arrays,
                *self._sums.arrays,
                *self._chain,
            )
            self._done += len(portion)
        return wrong / max(1, int(layout.length[order].sum()))

    def weights(self) -> Weights:
        average = self._sums.copy()
        for value, now in zip(average.arrays, self._now.arrays, strict=True):
            value *= np.float32(-1 / max(1, self._done))
            value += now
        return average
