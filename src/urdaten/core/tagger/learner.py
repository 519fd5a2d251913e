"""What is learnt from, made ready: columns and labels of one layer, and how weights are changed on them."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats, Ints
from urdaten.core.spans import Coding
from urdaten.core.tagger.corpus import Labels
from urdaten.core.tagger.features import Lexicon
from urdaten.core.tagger.kernels.adagrad import (
    SHARDS,
    Pace,
    Plan,
    Shared,
    State,
    descend,
    penalise_all,
)
from urdaten.core.tagger.kernels.kinds import Columns
from urdaten.core.tagger.kernels.perceptron import WeightArrays, perceptron_pass
from urdaten.core.tagger.kernels.scores import REACH, WINDOW
from urdaten.core.tagger.layout import Layout
from urdaten.core.tagger.settings import TrainingSettings
from urdaten.core.tagger.weights import Moves, Weights, codes_of

LABELS_AT_A_TIME = 500_000


@dataclass(frozen=True)
class LayerData:
    """Everything that one layer is learnt from."""

    lexicon: Lexicon
    layout: Layout
    # (pointer, column) of the tokens' own features, by position.
    own: tuple[Ints, Ints]
    labels: Labels
    coding: Coding
    attributes: int
    features: int

    def columns(self, words: _Words) -> Columns:
        """As kernels take it, with what the words have."""
        layout, labels = self.layout, self.labels
        return Columns(
            layout.word,
            layout.first,
            layout.length,
            labels.gold,
            labels.weight,
            labels.masks,
            words.pointer,
            words.column,
            *self.own,
        )


class Learner(Protocol):
    """Changes weights, one pass over the sentences at a time."""

    def epoch(self, order: Ints, should_stop: Callable[[], bool]) -> float | None:
        """One pass; the objective per sentence, or None when it was stopped before its end."""

    def weights(self) -> Weights:
        """Weights as they would be used now; they are the caller's to keep."""


class _Words:
    """The words of a layout, of which each pass reads another share with hidden letters."""

    def __init__(self, data: LayerData, settings: TrainingSettings) -> None:
        self._word = data.layout.word
        self._share = settings.blank
        self._random = np.random.default_rng((settings.seed, 1))
        self._rows = len(data.lexicon)
        self.pointer, self.column = data.lexicon.pointer, data.lexicon.column
        if self._share:
            self.pointer, self.column = data.lexicon.with_blanks()

    def drawn(self) -> Ints:
        """Rows by position for one pass."""
        if not self._share:
            return self._word
        hidden = (self._random.random(len(self._word)) < self._share) & (self._word > 0)
        return self._word + hidden * self._rows


class AdaGrad:
    """A conditional random field by minibatches; see kernels.adagrad."""

    def __init__(self, data: LayerData, settings: TrainingSettings, threads: int) -> None:
        self._data = data
        layout, coding = data.layout, data.coding
        self._batch = batch_size(settings.batch, len(layout))
        batches = -(-len(layout) // self._batch)
        l2 = scaled_l2(settings.l2, len(layout))
        rate = settled_rate(settings.rate, len(layout) / len(coding.types))
        self._pace = Pace(rate, settings.l1 / batches, l2 / batches)
        self._step = 0
        self._begun = 0
        self._parts = min(threads, SHARDS)
        self._pool = ThreadPoolExecutor(1) if self._parts > 1 else None
        self._words = _Words(data, settings)
        self._columns = data.columns(self._words)
        self._state = _state(data)
        self._codes = codes_of(coding)
        # Rows for the words of the longest sentences that can meet in a batch, and for the padding around them.
        longest = np.sort(layout.length)[::-1][: self._batch]
        room = int((longest + WINDOW).sum()) + (len(longest) + 4) * WINDOW
        self._shared = _shared(self._state, room, coding.count)
        self._plans = (_plan(self._columns, self._state, room), _plan(self._columns, self._state, room))
        # So many batches at a time that a wish to stop is heard soon.
        tokens = max(1, len(layout.position) // batches)
        self._portion = self._batch * max(1, int(LABELS_AT_A_TIME / (tokens * coding.count)))

    def epoch(self, order: Ints, should_stop: Callable[[], bool]) -> float | None:
        self._begun = self._step
        for rows in (self._state.forms, self._state.tokens):
            rows[:, 2] = 0
        for moves in (self._state.start, self._state.dense, self._state.step):
            moves[2] = 0
        self._shared.loss[:] = 0
        self._columns = self._columns._replace(word=self._words.drawn())
        order = order[np.lexsort((-self._data.layout.length[order], np.arange(len(order)) // self._batch))]
        for at in range(0, len(order), self._portion):
            if should_stop():
                return None
            self._descend(order[at : at + self._portion])
        return float(self._shared.loss.sum()) / len(order)

    def _descend(self, order: Ints) -> None:
        self._shared.arrivals[0] = 0

        def work(part: int) -> None:
            descend(
                order,
                self._batch,
                part,
                self._parts,
                self._step,
                self._begun,
                self._columns,
                self._state,
                self._codes,
                self._shared,
                self._plans,
                self._pace,
            )

        other = self._pool.submit(work, 1) if self._pool else None
        try:
            work(0)
        except BaseException:
            # Interrupted before it began: the other part shall not wait for this one for ever.
            self._shared.arrivals[0] = 2**60
            raise
        if other:
            other.result()
        self._step += -(-len(order) // self._batch)

    def weights(self) -> Weights:
        state = self._state
        for rows, last in ((state.forms, state.form_last), (state.tokens, state.token_last)):
            penalise_all(rows, last, self._step, self._begun, self._pace)
        share = np.float32(1 / max(1, self._step - self._begun))
        forms, tokens = (_average(rows[:, 0], rows[:, 2], share) for rows in (state.forms, state.tokens))
        moves = (_average(part[0], part[2], share) for part in (state.start, state.dense, state.step))
        return Weights(forms, tokens, Moves(*moves))


def _average(now: Floats, moved: Floats, share: np.float32) -> Floats:
    """now − moved · share, without another array of that size."""
    average = moved * -share
    average += now
    return average


def _state(data: LayerData) -> State:
    def rows(count: int, width: int) -> Floats:
        return np.zeros((count, 3, width), dtype=np.float32)

    labels = data.coding.count
    start, dense, step = (
        np.zeros((3, *part.shape), dtype=np.float32) for part in Moves.zeros(data.coding).arrays
    )
    return State(
        forms=rows(data.attributes, REACH * labels),
        tokens=rows(data.features, labels),
        start=start,
        dense=dense,
        step=step,
        form_last=np.zeros(data.attributes, dtype=np.int64),
        token_last=np.zeros(data.features, dtype=np.int64),
    )


def _shared(state: State, room: int, labels: int) -> Shared:
    def floats(*shape: int) -> Floats:
        return np.zeros(shape, dtype=np.float32)

    width = REACH * labels
    start, dense, step = (floats(SHARDS, *part.shape[1:]) for part in (state.start, state.dense, state.step))
    return Shared(
        form_scores=floats(room, width),
        form_error=floats(SHARDS, room, width),
        error=floats(SHARDS, room + 2 * WINDOW, labels),
        start=start,
        dense=dense,
        step=step,
        loss=np.zeros(SHARDS),
        arrivals=np.zeros(1, dtype=np.int64),
    )


def _plan(columns: Columns, state: State, room: int) -> Plan:
    """Room for a batch of at most so many words, wherever they stand."""

    def unset(count: int) -> Ints:
        return np.full(count, -1, dtype=np.int64)

    def inverted(pointer: NDArray[np.integer[Any]], rows: int) -> tuple[Ints, Ints, Ints, Ints]:
        held = room * int(np.diff(pointer).max(initial=0))
        touched = min(rows, held)
        return unset(rows), unset(touched), unset(touched + 1), unset(held)

    return Plan(
        np.zeros(3, dtype=np.int64),
        unset(len(columns.form_pointer) - 1),
        unset(room),
        *inverted(columns.form_pointer, len(state.forms)),
        unset(room),
        unset(room),
        *inverted(columns.token_pointer, len(state.tokens)),
    )


def scaled_l2(l2: float, sentences: int) -> float:
    """The L2 penalty for so many sentences, given the one for 1000."""
    return l2 * float(np.sqrt(sentences / 1000))


def settled_rate(rate: float, sentences: float) -> float:
    """The step size where there are so many sentences for each type: many bear smaller steps, which are steadier."""
    return rate * min(1.0, float(np.sqrt(300 / sentences)))


def batch_size(most: int, sentences: int) -> int:
    """Sentences per step: at most as many as wished, and at least some forty steps an epoch where it can be."""
    return min(most, max(4, sentences // 40))


class Perceptron:
    """The averaged structured perceptron; the objective is the share of wrong labels.

    It knows right and wrong alone: what nobody has judged counts as no span, and all texts count alike.
    """

    def __init__(self, data: LayerData, settings: TrainingSettings) -> None:
        self._data = data
        self._words = _Words(data, settings)
        columns = data.columns(self._words)
        self._columns = columns._replace(gold=np.where(columns.gold < 0, data.coding.outside, columns.gold))
        self._now = Weights.zeros(data.attributes, data.features, data.coding)
        self._sums = self._now.copy()
        self._done = 0
        self._codes = codes_of(data.coding)

    PORTION = 256

    def epoch(self, order: Ints, should_stop: Callable[[], bool]) -> float | None:
        columns = self._columns._replace(word=self._words.drawn())
        weights, sums = WeightArrays(*self._now.arrays), WeightArrays(*self._sums.arrays)
        wrong = 0
        for at in range(0, len(order), self.PORTION):
            if should_stop():
                return None
            portion = order[at : at + self.PORTION]
            wrong += perceptron_pass(portion, self._done, columns, weights, sums, self._codes)
            self._done += len(portion)
        return wrong / max(1, int(columns.length[order].sum()))

    def weights(self) -> Weights:
        average = self._sums.copy()
        for value, now in zip(average.arrays, self._now.arrays, strict=True):
            value *= np.float32(-1 / max(1, self._done))
            value += now
        return average
