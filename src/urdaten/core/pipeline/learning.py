"""Learning to weigh: weights from sentences that a person has signed, and honest figures of them by folds."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Floats
from urdaten.core.pipeline.policy import PolicyStage
from urdaten.core.pipeline.stage import ALONE, Beside
from urdaten.core.pipeline.weighing import Looks, Weigher, looks
from urdaten.core.spans import Overlap, Span, SpanTable
from urdaten.core.text import Batch
from urdaten.errors import BadInput, Stopped

# What was seen of fewer candidates tells of them alone.
_SELDOM = 4
_PENALTIES = (1.0, 4.0, 16.0)
_LEAST = np.arange(0.20, 0.66, 0.05)
FOLDS = 5
# Fewer signed spans than this say nothing of who is to be believed.
LEAST_SPANS = 30


@dataclass(frozen=True, eq=False)
class Signed:
    """Texts with all that stages say of them, before any policy, and what persons have signed there."""

    batch: Batch
    spans: SpanTable
    gold: SpanTable
    # Of each token whether it stands in a signed sentence: what is said elsewhere is not judged.
    judged: Bools
    beside: Beside = field(default_factory=lambda: ALONE)

    @classmethod
    def of(
        cls,
        batch: Batch,
        spans: SpanTable,
        gold: Sequence[Sequence[Span]],
        signed: Sequence[Sequence[tuple[int, int]]],
        beside: Beside = ALONE,
    ) -> Signed:
        """Of texts with their gold spans, and the bounds of their signed sentences, both by text."""
        bounds = np.array(
            [(text, *pair) for text, own in enumerate(signed) for pair in own], dtype=np.int64
        ).reshape(-1, 3)
        first, last = batch.token_ranges(*bounds.T)
        steps = np.zeros(len(batch.word) + 1, dtype=np.int64)
        np.add.at(steps, first, 1)
        np.add.at(steps, last, -1)
        return cls(batch, spans, SpanTable.of_spans(gold), np.cumsum(steps)[:-1] > 0, beside)


@dataclass(frozen=True, eq=False)
class _Data:
    """What is seen of the candidates of several batches: triplets as those of Looks, over all of them."""

    row: NDArray[np.int64]
    name: NDArray[np.int64]
    value: Floats
    names: tuple[str, ...]
    # Of each candidate: is it gold, is it judged, and the number of its text among all.
    right: Bools
    judged: Bools
    text: NDArray[np.int64]
    # Gold spans of each text.
    gold: NDArray[np.int64]

    @classmethod
    def of(cls, examples: Sequence[Signed]) -> _Data:
        names: dict[str, int] = {}
        rows: list[NDArray[np.int64]] = []
        numbers: list[NDArray[np.int64]] = []
        values: list[Floats] = []
        right: list[Bools] = []
        judged: list[Bools] = []
        texts: list[NDArray[np.int64]] = []
        gold: list[NDArray[np.int64]] = []
        candidates = before = 0
        for one in examples:
            seen = looks(one.batch, one.spans, one.beside)
            own = np.array([names.setdefault(name, len(names)) for name in seen.names], dtype=np.int64)
            rows.append(seen.row + candidates)
            numbers.append(own[seen.name])
            values.append(seen.value)
            right.append(_is_gold(one, seen))
            judged.append(_is_judged(one, seen))
            texts.append(one.spans.text[seen.span].astype(np.int64) + before)
            gold.append(np.bincount(one.gold.text, minlength=len(one.batch)))
            candidates += seen.candidates
            before += len(one.batch)
        return cls(
            row=np.concatenate(rows),
            name=np.concatenate(numbers),
            value=np.concatenate(values),
            names=tuple(names),
            right=np.concatenate(right),
            judged=np.concatenate(judged),
            text=np.concatenate(texts),
            gold=np.concatenate(gold),
        )


def _is_gold(one: Signed, seen: Looks) -> Bools:
    def told(table: SpanTable, rows: NDArray[np.integer]) -> list[tuple[int, int, int, str]]:
        columns = (table.text[rows], table.start[rows], table.end[rows])
        codes = [table.types[k] for k in table.type[rows].tolist()]
        return list(zip(*(column.tolist() for column in columns), codes, strict=True))

    gold = set(told(one.gold, np.arange(len(one.gold))))
    return np.array([span in gold for span in told(one.spans, seen.span)], dtype=bool)


def _is_judged(one: Signed, seen: Looks) -> Bools:
    spans = one.spans.at(seen.span)
    first, last = one.batch.token_ranges(spans.text, spans.start, spans.end)
    held = last > first
    found = np.zeros(len(spans), dtype=bool)
    found[held] = one.judged[first[held]]
    return found


def learn(
    examples: Sequence[Signed],
    overlap: Overlap = "apart",
    folds: int = FOLDS,
    should_stop: Callable[[], bool] = lambda: False,
) -> Weigher:
    """Weights from signed texts; by folds of texts the penalty with which held-out candidates are likeliest, and the least
    probability with which their F1 is highest.

    Raises BadInput where there is too little to learn from, and Stopped.
    """
    data = _Data.of(examples)
    if data.right.sum() < LEAST_SPANS:
        raise BadInput(
            f"Weighing learns from signed sentences, and what stages say is gold there in {int(data.right.sum())} places; it takes "
            f"{LEAST_SPANS}. Sign more sentences of the dev split."
        )
    return _learn(examples, data, np.ones(len(data.gold), dtype=bool), overlap, folds, should_stop)


def answers_by_folds(
    others: Sequence[Signed],
    judged: Signed,
    overlap: Overlap = "apart",
    folds: int = FOLDS,
    should_stop: Callable[[], bool] = lambda: False,
) -> list[list[Span]]:
    """What weighing answers in each text when neither weights nor the least probability were learnt on it: the texts are dealt
    out to folds, and each is answered by what the other folds and `others` teach."""
    examples = [*others, judged]
    data = _Data.of(examples)
    before = sum(len(one.batch) for one in others)
    fold = np.full(len(data.gold), -1)
    fold[before:] = np.arange(len(judged.batch)) % folds
    answers: list[list[Span]] = [[] for _ in range(len(judged.batch))]
    for number in range(folds):
        weigher = _learn(examples, data, fold != number, overlap, folds, should_stop)
        policy = PolicyStage("weighed", order=(), overlap=overlap, least=weigher.least, weigher=weigher)
        changes = policy.apply(judged.batch, judged.spans, judged.beside)
        found = changes.to(judged.spans).spans(len(judged.batch))
        for text in np.flatnonzero(fold[before:] == number).tolist():
            answers[text] = sorted(found[text])
    return answers


def _learn(
    examples: Sequence[Signed],
    data: _Data,
    texts: Bools,
    overlap: Overlap,
    folds: int,
    should_stop: Callable[[], bool],
) -> Weigher:
    """From these texts alone."""
    mine = np.flatnonzero(texts)
    fold = np.full(len(texts), -1)
    fold[mine] = np.arange(len(mine)) % folds
    usable = data.judged & texts[data.text]
    best: tuple[float, float, Floats] | None = None
    for penalty in _PENALTIES:
        probability: Floats = np.zeros(len(data.right))
        for number in range(folds):
            if should_stop():
                raise Stopped("Learning to weigh was stopped; what was learnt before stays.")
            weights = _fit(data, usable & (fold[data.text] != number), penalty)
            held = usable & (fold[data.text] == number)
            probability[held] = _probabilities(data, weights)[held]
        said = np.where(data.right, probability, 1 - probability)[usable]
        likelihood = float(np.log(np.maximum(said, 1e-12)).mean())
        if best is None or likelihood > best[0]:
            best = likelihood, penalty, probability
    assert best is not None
    _, penalty, probability = best
    least = _best_least(examples, data, texts, probability, overlap)
    weights = _fit(data, usable, penalty)
    named = sorted(
        (name, round(float(w), 5)) for name, w in zip(data.names, weights.tolist(), strict=True) if w
    )
    return Weigher(tuple(named), least)


def _best_least(
    examples: Sequence[Signed], data: _Data, texts: Bools, probability: Floats, overlap: Overlap
) -> float:
    """The least probability with which the F1 of held-out answers is highest; of several as good the middle one."""
    gold = int(data.gold[texts].sum())
    scores = []
    for least in _LEAST.tolist():
        right = found = 0
        candidate = 0
        for one in examples:
            seen = looks(one.batch, one.spans, one.beside)
            own = slice(candidate, candidate + seen.candidates)
            candidate += seen.candidates
            known = _Known(probability[own][seen.of_span])
            policy = PolicyStage("weighed", order=(), overlap=overlap, least=least, weigher=known)
            changes = policy.apply(one.batch, one.spans, one.beside)
            kept = np.ones(len(one.spans), dtype=bool)
            kept[changes.removed] = False
            chosen = seen.of_span[kept]
            counts = (data.judged & texts[data.text])[own][chosen]
            found += int(counts.sum())
            right += int((data.right[own][chosen] & counts).sum())
        scores.append(2 * right / max(1, found + gold))
    best = np.flatnonzero(np.array(scores) >= max(scores) - 1e-12)
    return round(float(_LEAST[best[len(best) // 2]]), 2)


@dataclass(frozen=True, eq=False)
class _Known:
    """Probabilities that are known already, as a Weigher gives them."""

    of_span: Floats
    fingerprint: str = ""

    def probabilities(self, _batch: Batch, _spans: SpanTable, _beside: Beside, /) -> Floats:
        return self.of_span


def _probabilities(data: _Data, weights: Floats) -> Floats:
    score = np.bincount(data.row, weights[data.name] * data.value, minlength=len(data.right))
    return np.asarray(1 / (1 + np.exp(-np.clip(score, -30, 30))))


def _fit(data: _Data, chosen: Bools, penalty: float) -> Floats:
    """Weights of the highest penalised likelihood on these candidates; 0 for what is seen of hardly any."""
    from scipy.optimize import minimize

    number = np.cumsum(chosen) - 1
    mine = np.flatnonzero(chosen[data.row])
    row, name, value = number[data.row[mine]], data.name[mine], data.value[mine]
    right = data.right[chosen].astype(float)
    common = np.bincount(name, minlength=len(data.names)) >= _SELDOM

    def loss(weights: Floats) -> tuple[float, Floats]:
        score = np.bincount(row, weights[name] * value, minlength=len(right))
        slope = 1 / (1 + np.exp(-score)) - right
        value_of = np.logaddexp(0, score).sum() - right @ score + penalty / 2 * (weights @ weights)
        gradient = np.bincount(name, slope[row] * value, minlength=len(weights)) + penalty * weights
        return float(value_of), np.where(common, gradient, 0.0)

    began = np.zeros(len(data.names))
    return np.asarray(minimize(loss, began, jac=True, method="L-BFGS-B", options={"maxiter": 200}).x)
