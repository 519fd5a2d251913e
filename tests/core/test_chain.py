"""The chain's kernels against brute force over all label sequences, and gradients against differences."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from threading import Thread
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from urdaten.core.spans import CODINGS, Coding, CodingKind
from urdaten.core.tagger.inference import Inference
from urdaten.core.tagger.kernels.decode import likely_spans
from urdaten.core.tagger.kernels.gradient import block_gradient
from urdaten.core.tagger.kernels.kinds import Slopes
from urdaten.core.tagger.kernels.meet import meet
from urdaten.core.tagger.kernels.passes import (
    add_products,
    expected_moves,
    exponentials,
    portion,
    row_offsets,
)
from urdaten.core.tagger.kernels.paths import best_path
from urdaten.core.tagger.kernels.powers import exp_row
from urdaten.core.tagger.kernels.scores import REACH, WINDOW, add_windows, take_windows
from urdaten.core.tagger.layout import lay_out_words
from urdaten.core.tagger.weights import Moves, chain_of, runs

Floats = NDArray[np.floating[Any]]
SINGLE = np.empty(0, dtype=np.float32)
LENGTHS = np.array([4, 3, 3, 1], dtype=np.int64)


@dataclass
class Problem:
    """Random scores for a block of sentences, and what the kernels are handed."""

    coding: Coding
    scores: Floats
    moves: Moves
    gold: NDArray[np.int64]
    masks: NDArray[np.bool_]
    weight: Floats

    @property
    def first(self) -> NDArray[np.int64]:
        return np.cumsum(LENGTHS) - LENGTHS

    def loss(self) -> tuple[float, Floats, list[Floats]]:
        kind = self.scores.dtype.type
        error = np.zeros_like(self.scores)
        slopes = [np.zeros_like(array) for array in self.moves.arrays]
        loss = block_gradient(
            self.scores,
            self.first,
            LENGTHS,
            self.gold,
            self.weight,
            self.masks,
            chain_of(self.moves, self.coding, kind),
            error,
            Slopes(*slopes),
        )
        return loss, error, slopes

    def sequences(self, sentence: int) -> tuple[list[tuple[int, ...]], Floats]:
        """All allowed label sequences of a sentence, and their scores."""
        coding, length = self.coding, int(LENGTHS[sentence])
        start, between = self.moves.first(coding), self.moves.between(coding)
        scores = self.scores[self.first[sentence] : self.first[sentence] + length].astype(np.float64)
        paths = np.array(list(itertools.product(range(coding.count), repeat=length)))
        values = start[paths[:, 0]] + scores[np.arange(length), paths].sum(axis=1)
        values = values + between[paths[:, :-1], paths[:, 1:]].sum(axis=1)
        closes = (coding.closing[0] <= paths[:, -1]) & (paths[:, -1] < coding.closing[1])
        allowed = closes & (values > -np.inf)
        return [tuple(path) for path in paths[allowed].tolist()], values[allowed]

    def possible(self, sentence: int, path: tuple[int, ...]) -> bool:
        at = int(self.first[sentence])
        return all(
            label == known if known >= 0 else bool(self.masks[-1 - known, label])
            for label, known in zip(path, self.gold[at : at + len(path)].tolist(), strict=True)
        )


def problem(
    seed: int, kind: CodingKind, *, partial: bool = False, size: float = 1.5, dtype: Any = np.float64
) -> Problem:
    random = np.random.default_rng(seed)
    coding = Coding(kind, ("A", "B"))
    zero = Moves.zeros(coding, dtype)
    made = Problem(
        coding,
        random.normal(0, size, (int(LENGTHS.sum()), coding.count)).astype(dtype),
        Moves(*(random.normal(0, size, array.shape).astype(dtype) for array in zero.arrays)),
        np.zeros(int(LENGTHS.sum()), dtype=np.int64),
        np.ones((2, coding.count), dtype=bool),
        np.ones(len(LENGTHS), dtype=dtype),
    )
    for sentence in range(len(LENGTHS)):
        paths, _ = made.sequences(sentence)
        at = int(made.first[sentence])
        made.gold[at : at + LENGTHS[sentence]] = paths[random.integers(len(paths))]
    if partial:
        made.masks[1] = random.random(coding.count) < 0.5
        # What is signed must stay possible.
        made.masks[1, made.gold] = True
        hidden = random.random(len(made.gold)) < 0.5
        made.gold[hidden] = -1 - random.integers(0, 2, int(hidden.sum()))
        made.weight = random.uniform(0.2, 1.5, len(LENGTHS)).astype(dtype)
    return made


@pytest.mark.parametrize("kind", CODINGS)
@pytest.mark.parametrize("partial", [False, True])
def test_loss_is_that_of_all_sequences(kind: CodingKind, partial: bool) -> None:
    for seed in range(5):
        one = problem(seed, kind, partial=partial)
        wanted = 0.0
        for sentence in range(len(LENGTHS)):
            paths, values = one.sequences(sentence)
            right = np.array([one.possible(sentence, path) for path in paths])
            wanted += one.weight[sentence] * (
                np.logaddexp.reduce(values) - np.logaddexp.reduce(values[right])
            )
        assert one.loss()[0] == pytest.approx(wanted, rel=1e-9)
        single = problem(seed, kind, partial=partial, dtype=np.float32)
        assert single.loss()[0] == pytest.approx(wanted, rel=1e-4)


@pytest.mark.parametrize("kind", CODINGS)
@pytest.mark.parametrize("partial", [False, True])
def test_gradient_is_the_slope_of_the_loss(kind: CodingKind, partial: bool) -> None:
    one = problem(11, kind, partial=partial)
    _, error, slopes = one.loss()
    step = 1e-5
    for values, gradient in [(one.scores, error), *zip(one.moves.arrays, slopes, strict=True)]:
        for at in np.ndindex(values.shape):
            kept = values[at]
            values[at] = kept + step
            above = one.loss()[0]
            values[at] = kept - step
            below = one.loss()[0]
            values[at] = kept
            assert gradient[at] == pytest.approx((above - below) / (2 * step), abs=1e-6)


@pytest.mark.parametrize("kind", CODINGS)
@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from([0.1, 1.5, 8.0]))
def test_best_path_is_the_best_of_all_sequences(kind: CodingKind, seed: int, size: float) -> None:
    one = problem(seed, kind, size=size)
    for sentence in range(len(LENGTHS)):
        paths, values = one.sequences(sentence)
        at = int(one.first[sentence])
        out = np.zeros(LENGTHS[sentence], dtype=np.int64)
        value = best_path(
            one.scores[at : at + LENGTHS[sentence]],
            chain_of(one.moves, one.coding, np.float64),
            out,
        )
        assert value == pytest.approx(values.max())
        assert tuple(out.tolist()) == paths[int(values.argmax())]


def through(one: Problem) -> Inference:
    """The problem as a layout whose every token has a form of its own, which speaks for that token alone."""
    count = one.coding.count
    layout = lay_out_words(np.arange(len(one.scores)), LENGTHS)
    form_scores = np.zeros((len(one.scores) + 1, REACH * count), dtype=np.float32)
    form_scores[1:, WINDOW * count : (WINDOW + 1) * count] = one.scores
    none = np.zeros(len(layout.word) + 1, dtype=np.int64), np.zeros(0, dtype=np.int64)
    tokens = np.zeros((0, count), dtype=np.float32)
    return Inference(form_scores, tokens, chain_of(one.moves, one.coding), layout, none)


def likely_in_single_precision(one: Problem, least: float) -> int:
    """How many spans single precision finds likely, or -1 where it cannot tell."""
    inference = through(one)
    (run,) = inference._runs()
    (chosen,) = run.blocks(np.arange(len(LENGTHS)))
    rows, values = np.empty((400, 4), dtype=np.int64), np.empty(400)
    chain = inference._chain
    wanted = (one.coding.roles, one.coding.steps, least, rows, values)
    return likely_spans(chosen, run.scores, run.tokens, exponentials(chain, SINGLE), chain, *wanted, SINGLE)


def span_shares(one: Problem, sentence: int) -> dict[tuple[int, int, int], float]:
    """The probability of every span of a sentence, by summing over all its sequences."""
    paths, values = one.sequences(sentence)
    share = np.exp(values - np.logaddexp.reduce(values))
    starts = np.arange(int(LENGTHS[sentence])) == 0
    found: dict[tuple[int, int, int], float] = {}
    for path, weight in zip(paths, share.tolist(), strict=True):
        for a, b, kind in zip(*(c.tolist() for c in one.coding.decode(np.array(path), starts)), strict=True):
            found[a, b, kind] = found.get((a, b, kind), 0.0) + weight
    return found


@pytest.mark.parametrize("kind", CODINGS)
@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from([0.3, 2.0, 6.0]))
def test_span_probabilities_are_sums_over_all_sequences(kind: CodingKind, seed: int, size: float) -> None:
    """Those of the best path, and of every span above a bound, in single precision, through the whole way."""
    one = problem(seed, kind, size=size, dtype=np.float32)
    inference = through(one)
    wanted = [span_shares(one, sentence) for sentence in range(len(LENGTHS))]
    begins = np.cumsum(LENGTHS) - LENGTHS
    found = inference.spans(one.coding, with_probabilities=True)
    assert found.probability is not None
    for sentence in range(len(LENGTHS)):
        paths, values = one.sequences(sentence)
        path = np.array(paths[int(values.argmax())])
        best = zip(*(c.tolist() for c in one.coding.decode(path, np.arange(len(path)) == 0)), strict=True)
        at = found.sentence == sentence
        columns = (found.first[at] - begins[sentence], found.last[at] - begins[sentence], found.kind[at])
        spans = list(zip(*(column.tolist() for column in columns), strict=True))
        assert spans == list(best)
        for span, probability in zip(spans, found.probability[at].tolist(), strict=True):
            assert probability == pytest.approx(wanted[sentence][span], abs=2e-5)

    least = 0.05
    (all_likely,) = inference.likely(one.coding, least)
    assert all_likely.probability is not None
    likely = {
        (s, a - begins[s], b - begins[s], kind): value
        for s, a, b, kind, value in zip(
            all_likely.sentence.tolist(),
            all_likely.first.tolist(),
            all_likely.last.tolist(),
            all_likely.kind.tolist(),
            all_likely.probability.tolist(),
            strict=True,
        )
    }
    assert len(likely) == len(all_likely.sentence)
    for s, shares in enumerate(wanted):
        for span, share in shares.items():
            if share > least + 1e-4:
                assert likely[s, *span] == pytest.approx(share, abs=2e-5)
            elif share < least - 1e-4:
                assert (s, *span) not in likely


@pytest.mark.parametrize("kind", CODINGS)
@pytest.mark.parametrize("dtype", [np.float32, np.float64])
@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from([40.0, 400.0]), st.booleans())
def test_loss_is_exact_however_far_scores_lie_apart(
    kind: CodingKind, dtype: Any, seed: int, size: float, partial: bool
) -> None:
    one = problem(seed, kind, partial=partial, size=size, dtype=dtype)
    loss, error, slopes = one.loss()
    wanted = 0.0
    marginals, begun = np.zeros(one.scores.shape), np.zeros(one.coding.count)
    moved = np.zeros((one.coding.count, one.coding.count))
    for sentence, length in enumerate(LENGTHS.tolist()):
        paths, values = one.sequences(sentence)
        right = np.array([one.possible(sentence, path) for path in paths])
        sums = np.logaddexp.reduce(values), np.logaddexp.reduce(values[right])
        wanted += one.weight[sentence] * (sums[0] - sums[1])
        shares = np.exp(values - sums[0])
        shares[right] -= np.exp(values[right] - sums[1])
        shares *= one.weight[sentence]
        for t in range(length):
            here = [path[t] for path in paths]
            np.add.at(marginals[one.first[sentence] + t], here, shares)
            if t == 0:
                np.add.at(begun, here, shares)
            else:
                np.add.at(moved, ([path[t - 1] for path in paths], here), shares)
    assert loss == pytest.approx(wanted, rel=1e-4, abs=1e-3)
    coding = one.coding
    opening, closing = slice(*coding.opening), slice(*coding.closing)
    for found, exact in (
        (error, marginals),
        (slopes[0], begun[opening]),
        (slopes[1], moved[closing, opening]),
        (slopes[2], moved[coding.moves[:, 0], coding.moves[:, 1]]),
    ):
        np.testing.assert_allclose(found, exact, atol=1e-3)


def test_labels_that_cannot_stand_do_not_drown_those_that_can() -> None:
    """A label far above all others that the moves rule out: single precision says that it cannot tell."""
    one = problem(1, "BILOU", size=0.5, dtype=np.float32)
    inside, only = one.coding.label("inside", 0), one.coding.label("only", 1)
    last_sentence = int(LENGTHS.sum()) - 1
    one.scores[last_sentence] = 0
    one.scores[last_sentence, inside] = 60
    one.scores[last_sentence, only] = 3
    wanted = span_shares(one, len(LENGTHS) - 1)[0, 1, 1]
    assert likely_in_single_precision(one, 0.05) == -1
    (found,) = through(one).likely(one.coding, 0.05)
    assert found.probability is not None
    at = np.flatnonzero((found.sentence == len(LENGTHS) - 1) & (found.kind == 1))
    assert found.probability[at].tolist() == pytest.approx([wanted], abs=1e-6)


@pytest.mark.parametrize(("dtype", "within"), [(np.float64, 1e-11), (np.float32, 3e-7)])
def test_exponentials_are_exact_enough(dtype: Any, within: float) -> None:
    values = np.linspace(-400, 0, 8001, dtype=dtype)
    out = np.empty_like(values)
    exp_row(values, 0.0, out)
    floor = -30 if dtype == np.float32 else -300
    np.testing.assert_allclose(out, np.exp(np.maximum(values, floor)), rtol=within * 10)


def test_windows_are_gathered_and_given_back() -> None:
    """Adding windows is a linear map, and taking them back its transpose."""
    random = np.random.default_rng(1)
    word = np.array([0, 0, 2, 1, 0, 0, 1, 0, 0], dtype=np.int64)
    rows = random.normal(size=(3, REACH * 2))
    scores = np.zeros((len(word) + 2 * WINDOW, 2))
    add_windows(rows, word, scores)
    wanted = np.zeros_like(scores)
    for p, form in enumerate(word):
        for part in range(REACH):
            wanted[p + part] += rows[form, 2 * part : 2 * part + 2]
    np.testing.assert_allclose(scores, wanted)
    error = random.normal(size=scores.shape)
    back = np.zeros_like(rows)
    take_windows(error, word, back)
    assert (back * rows).sum() == pytest.approx((error * scores).sum())


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from([4, 9, 40]), st.integers(0, 140))
def test_products_of_parts_are_those_of_the_library(seed: int, size: int, rows: int) -> None:
    """Small matrices go through a loop and large ones through the library, some rows at a time."""
    random = np.random.default_rng(seed)
    wide, matrix = random.normal(size=(rows, size + 3)), random.normal(size=(size, size // 2))
    assert (portion(matrix) > 0) == (size == 40)
    out = random.normal(size=(rows, size + 1))
    before = out.copy()
    half = rows // 2
    add_products(wide, rows - half, 2, matrix, out, 0, 1, half)
    before[:half, 1 : size // 2 + 1] += wide[rows - half :, 2 : size + 2] @ matrix
    np.testing.assert_allclose(out, before, atol=1e-12)


@pytest.mark.parametrize("kind", CODINGS)
@pytest.mark.parametrize("types", [2, 25])
def test_expected_moves_are_sums_over_neighbours(kind: CodingKind, types: int) -> None:
    coding = Coding(kind, tuple(f"T{k:02d}" for k in range(types)))
    random = np.random.default_rng(types)
    length = np.sort(random.integers(1, 7, 23))[::-1]
    offset = row_offsets(length)
    alpha, ahead = random.random((offset[-1], coding.count)), random.random((offset[-1], coding.count))
    found = Moves.zeros(coding, np.float64)
    expected_moves(alpha, ahead, offset, runs(coding), coding.moves, found.dense, found.step)
    pairs = np.zeros((coding.count, coding.count))
    for s, size in enumerate(length.tolist()):
        for t in range(1, size):
            pairs += np.outer(alpha[offset[t - 1] + s], ahead[offset[t] + s])
    np.testing.assert_allclose(found.dense, pairs[slice(*coding.closing), slice(*coding.opening)])
    np.testing.assert_allclose(found.step, pairs[coding.moves[:, 0], coding.moves[:, 1]])


def test_threads_wait_for_each_other() -> None:
    """Neither of two threads is ever more than one meeting ahead."""
    arrivals = np.zeros(1, dtype=np.int64)
    done = [0, 0]
    ahead: list[int] = []

    def walk(part: int) -> None:
        times = 0
        for _ in range(300):
            done[part] += 1
            times = meet(arrivals, 2, times)
            ahead.append(done[part] - done[1 - part])

    other = Thread(target=walk, args=(1,))
    other.start()
    walk(0)
    other.join()
    assert done == [300, 300]
    assert set(ahead) <= {-1, 0, 1}
    assert arrivals[0] == 600
    assert meet(arrivals, 1, 5) == 6, "one alone waits for nobody"
