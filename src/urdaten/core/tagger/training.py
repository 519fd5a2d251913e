"""Training a linear-chain conditional random field by minibatch AdaGrad (Duchi, Hazan and Singer 2011)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from urdaten.core.scoring.spans import count_matches
from urdaten.core.spans.coding import encode
from urdaten.core.spans.span import Span
from urdaten.core.tagger import chain
from urdaten.core.tagger.features import (
    EVIDENCE_SOURCES,
    OFFSETS,
    WINDOW,
    AttributeTable,
    Sentences,
    TaggerInput,
    evidence_names,
    lay_out,
)
from urdaten.core.tagger.model import (
    Floats,
    Tagger,
    Weights,
    check_types,
    falling_length,
)
from urdaten.core.tagger.settings import TrainingSettings
from urdaten.core.text.analysis import Vocabulary
from urdaten.errors import BadInput, Stopped


@dataclass(frozen=True)
class GoldText:
    """A text with its gold spans; `item.sentences` names the sentences whose gold is complete."""

    item: TaggerInput
    gold: Sequence[Span]


@dataclass(frozen=True, kw_only=True)
class Progress:
    """What is known after an epoch. Objective is the mean negative log-likelihood per sentence."""

    epoch: int
    epochs: int
    objective: float
    # Strict F1, 0 to 1; None where there is nothing to measure it on.
    train_f1: float | None
    dev_f1: float | None
    best_epoch: int

    def as_dict(self) -> dict[str, Any]:
        return vars(self).copy()


def train(
    texts: Sequence[GoldText],
    dev: Sequence[GoldText],
    vocabulary: Vocabulary,
    types: Sequence[str],
    settings: TrainingSettings,
    on_progress: Callable[[Progress], None] = lambda _: None,
    should_stop: Callable[[], bool] = lambda: False,
) -> Tagger:
    """Train on the given sentences; with dev texts keep the epoch that is best on them, else the last.

    All texts share the vocabulary. The result depends on the inputs and the seed alone. When
    `should_stop` says so, between two steps, the best epoch so far is returned; Stopped is raised if
    not even one was finished.
    """
    check_types(types)
    learner = _Learner(texts, vocabulary, tuple(types), settings)
    random = np.random.default_rng(settings.seed)
    best: Weights | None = None
    best_score, best_epoch, best_progress = -1.0, 0, None
    epoch = 0
    stopped = False
    while epoch < settings.epochs and epoch - best_epoch < settings.patience:
        objective = 0.0
        order = random.permutation(len(learner.data))
        for at in range(0, len(order), settings.batch):
            if should_stop():
                stopped = True
                break
            objective += learner.step(order[at : at + settings.batch])
        if stopped:
            break
        epoch += 1
        train_f1 = learner.f1(texts)
        dev_f1 = learner.f1(dev)
        # Nothing tells without dev texts which epoch is best: F1 on what was learnt from is no judge.
        if best is None or dev_f1 is None or dev_f1 > best_score:
            best, best_score, best_epoch = learner.weights.copy(), dev_f1 or 0.0, epoch
        best_progress = Progress(
            epoch=epoch,
            epochs=settings.epochs,
            objective=objective / len(order),
            train_f1=train_f1,
            dev_f1=dev_f1,
            best_epoch=best_epoch,
        )
        on_progress(best_progress)
    if best is None or best_progress is None:
        raise Stopped("Training was stopped before its first epoch was done; there is nothing to keep.")
    manifest = {
        "settings": settings.as_dict(),
        "best_epoch": best_epoch,
        "epochs_run": epoch,
        "stopped": stopped,
        "sentences": len(learner.data),
        "attributes": len(learner.table),
    }
    return Tagger(learner.types, learner.sources, learner.table, best, manifest)


class _Learner:
    """Columns, weights and the optimiser's state during one training."""

    def __init__(
        self,
        texts: Sequence[GoldText],
        vocabulary: Vocabulary,
        types: tuple[str, ...],
        settings: TrainingSettings,
    ) -> None:
        self.types = types
        self.settings = settings
        self.sources = tuple(name for name in EVIDENCE_SOURCES if name in settings.features)
        forms = vocabulary.forms
        items = [text.item for text in texts]
        self.data = lay_out(items, types, self.sources, len(forms))
        if not len(self.data):
            raise BadInput("No sentence of the training split is signed yet; sign some at the Desk first.")
        seen = {forms[i] for i in np.unique(self.data.word) if i < len(forms)}
        self.table = AttributeTable.learn(sorted(seen), settings.features)
        self.attributes = self.table.matrix(forms)
        self.labels = np.concatenate(
            [
                encode(text.gold, text.item.analysis, types)[a:b]
                for text in texts
                for a, b in text.item.token_ranges()
            ]
        ).astype(np.int64)
        columns = len(evidence_names(types, self.sources))
        self.weights = Weights.zeros(len(self.table), columns, types)
        self._square = Weights(
            np.zeros_like(self.weights.attribute),
            np.zeros_like(self.weights.evidence),
            np.zeros_like(self.weights.start),
            np.zeros_like(self.weights.transition),
        )
        self._laid_out: dict[int, Sentences] = {id(texts): self.data}
        self._vocabulary_size = len(forms)

    def step(self, sentences: NDArray[np.int64]) -> float:
        """One optimiser step over the given sentences; their negative log-likelihood before it."""
        data, weights = self.data, self.weights
        chosen = sentences[falling_length(data.length[sentences])]
        length = data.length[chosen]
        tokens = np.concatenate([np.arange(data.first[s], data.first[s] + data.length[s]) for s in chosen])
        # Only forms within the window of these tokens, and attributes of these forms, are touched.
        window = data.position[tokens][:, None] + np.arange(-WINDOW, WINDOW + 1)
        forms, local = np.unique(data.word[window], return_inverse=True)
        local = local.reshape(window.shape)
        rows = self.attributes[forms]
        active = np.unique(rows.indices)
        rows = rows[:, active]
        form_scores = rows @ weights.attribute[active]
        loss, error, moves, starts = chain_gradient(
            self._scores(form_scores, local, window), self.labels[tokens], length, weights
        )
        width = len(weights.start)
        form_gradient = np.zeros((len(forms), OFFSETS * width))
        evidence_gradient = np.zeros_like(weights.evidence)
        ones, ends = np.ones(len(tokens)), np.arange(len(tokens) + 1)
        for k in range(OFFSETS):
            part = slice(k * width, (k + 1) * width)
            pick = sparse.csr_array((ones, local[:, k], ends), shape=(len(tokens), len(forms)))
            form_gradient[:, part] = np.asarray(pick.T @ error)
            if weights.evidence.size:
                evidence_gradient[:, part] = data.evidence[window[:, k]].T @ error
        share = self.settings.l2 * len(chosen) / 10
        self._descend("attribute", rows.T @ form_gradient, share, active)
        if weights.evidence.size:
            self._descend("evidence", evidence_gradient, share)
        self._descend("start", starts, share)
        self._descend("transition", moves, share)
        return loss

    def _scores(self, form_scores: Floats, local: NDArray[np.int64], window: NDArray[np.int64]) -> Floats:
        width = len(self.weights.start)
        scores = np.zeros((len(local), width))
        for k in range(OFFSETS):
            part = slice(k * width, (k + 1) * width)
            scores += form_scores[local[:, k], part]
            if self.weights.evidence.size:
                scores += self.data.evidence[window[:, k]] @ self.weights.evidence[:, part]
        return scores

    def _descend(
        self, name: str, gradient: Floats, l2: float, rows: NDArray[np.integer[Any]] | slice = slice(None)
    ) -> None:
        values: Floats = getattr(self.weights, name)
        squares: Floats = getattr(self._square, name)
        current = values[rows]
        allowed = current > chain.FORBIDDEN / 2
        gradient = np.where(allowed, gradient + l2 * np.where(allowed, current, 0.0), 0.0)
        squares[rows] += gradient**2
        values[rows] = current - self.settings.rate * gradient / (np.sqrt(squares[rows]) + 1e-8)

    def f1(self, texts: Sequence[GoldText]) -> float | None:
        """Strict F1 of the present weights on the sentences of these texts."""
        if id(texts) not in self._laid_out:
            items = [text.item for text in texts]
            self._laid_out[id(texts)] = lay_out(items, self.types, self.sources, self._vocabulary_size)
        data = self._laid_out[id(texts)]
        if not len(data):
            return None
        tagger = Tagger(self.types, self.sources, self.table, self.weights, {})
        found = tagger.tag_laid_out(
            [text.item for text in texts], data, self.attributes @ self.weights.attribute
        )
        counts = [count_matches(gold_within(text), spans) for text, spans in zip(texts, found, strict=True)]
        right, in_gold, in_found = (sum(column) for column in zip(*counts, strict=True))
        return 2 * right / (in_gold + in_found) if in_gold + in_found else 1.0


def gold_within(text: GoldText) -> list[Span]:
    """The gold spans that lie in the sentences in use."""
    analysis = text.item.analysis
    if text.item.sentences is None:
        return list(text.gold)
    bounds = analysis.sentence_bounds()
    ranges = [bounds[k] for k in text.item.sentences]
    return [s for s in text.gold if any(a <= s.start and s.end <= b for a, b in ranges)]


def chain_gradient(
    scores: Floats, labels: NDArray[np.int64], length: NDArray[np.int64], weights: Weights
) -> tuple[float, Floats, Floats, Floats]:
    """Negative log-likelihood of a block and its gradient.

    scores (n_tokens, L) and labels (n_tokens,) lie end to end in sentences of falling length. Returns
    the loss and its derivatives by scores (n_tokens, L), transition (L, L) and start (L,).
    """
    first = np.cumsum(length) - length
    block = chain.make_block(scores, first, length)
    passes = chain.forward_backward(block, weights.start, weights.transition)
    node = passes.node()
    sentence = np.repeat(np.arange(len(length)), length)
    time = np.arange(len(scores)) - first[sentence]
    error = node[time, sentence]
    starts = error[first].sum(axis=0)
    moves = chain.expected_transitions(block, passes, weights.transition)
    gold_score = scores[np.arange(len(labels)), labels].sum() + weights.start[labels[first]].sum()
    follows = np.ones(len(labels), dtype=bool)
    follows[first] = False
    later = np.flatnonzero(follows)
    gold_score += weights.transition[labels[later - 1], labels[later]].sum()
    error[np.arange(len(labels)), labels] -= 1
    np.subtract.at(starts, labels[first], 1)
    np.subtract.at(moves, (labels[later - 1], labels[later]), 1)
    return float(passes.log_partition.sum() - gold_score), error, moves, starts
