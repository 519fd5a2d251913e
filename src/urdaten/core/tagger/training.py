"""Training: from texts with gold to the best tagger that the settings lead to."""

from __future__ import annotations

import time
from collections.abc import Callable, Generator, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from itertools import zip_longest
from typing import Any

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.lexicon import WordLexicon
from urdaten.core.spans import Coding, CodingKind
from urdaten.core.tagger.calibration import Calibration
from urdaten.core.tagger.classes import learn_classes
from urdaten.core.tagger.corpus import GoldText, SpanKeys, find_layers, label_texts
from urdaten.core.tagger.features import AttributeTable, Lexicon, TokenTable
from urdaten.core.tagger.kernels.scores import REACH
from urdaten.core.tagger.layout import lay_out, makers_apart
from urdaten.core.tagger.learner import AdaGrad, LayerData, Learner, Perceptron
from urdaten.core.tagger.model import Layer, Tagger
from urdaten.core.tagger.neighbours import Neighbours
from urdaten.core.tagger.repeats import SOURCE as REPEATS
from urdaten.core.tagger.repeats import with_repeats
from urdaten.core.tagger.settings import (
    FORM_GROUPS,
    LEXICON,
    MAKERS,
    SPAN_GROUPS,
    TOKEN_GROUPS,
    TrainingSettings,
)
from urdaten.core.tagger.watched import Watched, first_sentences
from urdaten.core.tagger.weights import SparseRows, Weights, least_that_fits, rows_above
from urdaten.core.tagger.whole import WHOLE_BYTES, Stop, evaluations
from urdaten.core.text import Vocabulary
from urdaten.errors import BadInput, BadSettings, Stopped

# F1 on training sentences is shown for comparison alone; more of them would only take time.
TRAIN_F1_SENTENCES = 500
# A smaller rise of dev F1 is kept, and not worth waiting for another.
WORTH = 0.001


@dataclass(frozen=True, kw_only=True)
class Progress:
    """What is known after an epoch. Objective is the mean negative log-likelihood per sentence, for the
    perceptron the share of wrong labels."""

    epoch: int
    epochs: int
    objective: float
    # Strict F1, 0 to 1; None where there is nothing to measure it on.
    train_f1: float | None
    dev_f1: float | None
    best_epoch: int
    seconds: float

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)


def train(
    texts: Sequence[GoldText],
    dev: Sequence[GoldText],
    vocabulary: Vocabulary,
    types: Sequence[str],
    settings: TrainingSettings,
    on_progress: Callable[[Progress], None] = lambda _: None,
    should_stop: Callable[[], bool] = lambda: False,
    *,
    unsigned: Neighbours | None = None,
    general: WordLexicon | None = None,
    threads: int = 1,
) -> Tagger:
    """Train on the given sentences; with dev texts keep the epoch that is best on them, else the last.

    All texts share the vocabulary; word classes are learnt from training texts and from what `unsigned` ones count. The result depends
    on the inputs, the general lexicon and the seed alone, whatever the number of threads. When `should_stop` says so, or the
    time is up, the best epoch so far is returned; Stopped is raised if not even one was finished.
    """
    began = time.monotonic()
    if general is None or LEXICON not in settings.features:
        settings, general = settings.without([LEXICON]), None
    learnt = check_types(types, settings)
    trainer = _Trainer(texts, dev, vocabulary, learnt, settings, unsigned, general, threads)

    def enough() -> bool:
        return should_stop() or 0 < settings.seconds < time.monotonic() - began

    patience = patience_in_epochs(settings.patience, len(trainer.layout))
    best: list[Weights] | None = None
    best_score, best_epoch, epoch = -1.0, 0, 0
    risen, risen_to = 0, -1.0
    epochs = trainer.epochs(enough)
    for objective, weights in epochs:
        epoch += 1
        train_f1, dev_f1 = trainer.f1(weights)
        # Nothing tells without dev texts which epoch is best: F1 on what was learnt from is no judge.
        if best is None or dev_f1 is None or dev_f1 > best_score:
            best = weights
            best_score, best_epoch = dev_f1 or 0.0, epoch
        if best_score >= risen_to + WORTH:
            risen, risen_to = epoch, best_score
        on_progress(
            Progress(
                epoch=epoch,
                epochs=settings.epochs,
                objective=objective,
                train_f1=train_f1,
                dev_f1=dev_f1,
                best_epoch=best_epoch,
                seconds=time.monotonic() - began,
            )
        )
        if dev_f1 is not None and epoch - risen >= patience:
            break
    # What the optimiser held is let go before the tagger is built.
    epochs.close()
    if best is None:
        raise Stopped("Training was stopped before its first epoch was done; there is nothing to keep.")
    manifest = {
        "settings": settings.as_dict(),
        "best_epoch": best_epoch,
        "epochs_run": epoch,
        "stopped": trainer.stopped,
        "sentences": len(trainer.layout),
        "lexicon": None if general is None else general.digest,
    }
    return trainer.tagger(best, manifest)


def patience_in_epochs(patience: int, sentences: int) -> int:
    """An epoch over many sentences tells as much as several over few: from 3 000 on, fewer are waited for."""
    return max(min(2, patience), round(patience * min(1.0, 3000 / sentences)))


def check_types(types: Sequence[str], settings: TrainingSettings) -> tuple[str, ...]:
    """The types to learn. Raises BadInput when there is none, BadSettings for one that is not there."""
    if not types:
        raise BadInput("There is no entity type to learn; add one under Types.")
    for code in settings.types:
        if code not in types:
            raise BadSettings(f"There is no type {code}; the types are {', '.join(types)}.", field="types")
    return tuple(code for code in types if not settings.types or code in settings.types)


class _Trainer:
    """All that one training holds."""

    def __init__(
        self,
        texts: Sequence[GoldText],
        dev: Sequence[GoldText],
        vocabulary: Vocabulary,
        types: tuple[str, ...],
        settings: TrainingSettings,
        unsigned: Neighbours | None,
        general: WordLexicon | None,
        threads: int,
    ) -> None:
        self._settings = settings
        self._types = types
        self._threads = threads
        self.stopped = False
        items = [text.item for text in texts]
        self._sources = tuple(name for name in SPAN_GROUPS if name in settings.features)
        if MAKERS in settings.features:
            self._sources += tuple(makers_apart(items, self._sources))
        self.layout = plain = lay_out(items, types, self._sources)
        if not len(self.layout):
            raise BadInput(
                "No sentence of the training split is signed yet; sign some at the Desk first, or learn from what lists find"
                " (from_lists)."
            )
        self._table = self._learn_attributes(texts, vocabulary, unsigned, general)
        self._lexicon = Lexicon(self._table, vocabulary)
        gold = SpanKeys(texts, types)
        if REPEATS in settings.features:
            # Gold stands in for what the first look at a text finds.
            hidden_by = np.random.default_rng((settings.seed, 2))
            repeats = (len(types), self._sources.index(REPEATS), hidden_by)
            self.layout = with_repeats(plain, self._lexicon.folded, gold.columns, *repeats)
        token_groups = [group for group in (*TOKEN_GROUPS, LEXICON) if group in settings.features]
        self._token_table = TokenTable.learn(token_groups, types, self._sources, self._lexicon, self.layout)
        kind: CodingKind = "BILOU" if settings.coding == "BILOU" else "BIO"
        self._codings = [Coding(kind, layer) for layer in find_layers(texts, types)]
        self._check_memory()
        own = self._token_table.columns(self._lexicon, self.layout)
        self._layers = [self._layer(texts, coding, own) for coding in self._codings]
        shown = first_sentences(plain, TRAIN_F1_SENTENCES)
        self._watched = [Watched(shown, gold, self._lexicon, self._token_table)]
        dev_layout = lay_out([text.item for text in dev], types, self._sources)
        if len(dev_layout):
            dev_gold = SpanKeys(dev, types)
            self._watched.append(Watched(dev_layout, dev_gold, self._lexicon, self._token_table))

    def _learn_attributes(
        self,
        texts: Sequence[GoldText],
        vocabulary: Vocabulary,
        unsigned: Neighbours | None,
        general: WordLexicon | None,
    ) -> AttributeTable:
        """Those of the words in use."""
        classes: Mapping[str, Sequence[int]] = {}
        if "classes" in self._settings.features:
            # Not from dev texts: their F1 is to say what texts are worth that nobody has seen.
            read = [text.item.analysis for text in texts]
            classes = learn_classes((unsigned or Neighbours()).with_texts(read), self._settings.seed)
        forms = vocabulary.forms
        seen = [forms[row - 1] for row in np.unique(self.layout.word).tolist() if row]
        groups = [group for group in FORM_GROUPS if group in self._settings.features]
        return AttributeTable.learn(seen, groups, classes, general)

    def _layer(self, texts: Sequence[GoldText], coding: Coding, own: tuple[Ints, Ints]) -> LayerData:
        labels = label_texts(texts, self.layout, coding)
        sizes = (len(self._table), len(self._token_table))
        return LayerData(self._lexicon, self.layout, own, labels, coding, *sizes)

    def _check_memory(self) -> None:
        numbers = sum(
            (len(self._table) + len(self._lexicon)) * REACH * coding.count
            + len(self._token_table) * coding.count
            for coding in self._codings
        )
        # Weights, squares of gradients, what averages need, the average, and the best one so far.
        each = 4 * 5
        if self._settings.method == "crf" and self._settings.optimiser == "whole":
            each = WHOLE_BYTES * (2 if self._settings.l1 > 0 else 1)
        needed = each * numbers / 1e6
        if needed > self._settings.megabytes:
            raise BadSettings(
                f"Training would take about {needed:.0f} MB and megabytes allows"
                f" {self._settings.megabytes}; learn fewer types or feature groups at once, or allow more.",
                field="megabytes",
            )

    def epochs(self, enough: Callable[[], bool]) -> Generator[tuple[float, list[Weights]]]:
        """Objective and weights of all layers after each epoch; ends early when it is enough."""
        settings = self._settings
        if settings.method == "crf" and settings.optimiser == "whole":
            runs_of = [evaluations(data, settings, enough) for data in self._layers]
            results: list[tuple[float, Weights]] = []
            try:
                # A layer that has converged stays as it is while the others go on.
                for round_of in zip_longest(*runs_of):
                    results = [new or results[k] for k, new in enumerate(round_of)]
                    yield sum(loss for loss, _ in results), [weights for _, weights in results]
            except Stop:
                self.stopped = True
            return
        learners: list[Learner] = [
            Perceptron(data, settings)
            if settings.method == "perceptron"
            else AdaGrad(data, settings, self._threads)
            for data in self._layers
        ]
        random = np.random.default_rng(settings.seed)
        for _ in range(settings.epochs):
            order = random.permutation(len(self.layout))
            objective = 0.0
            for learner in learners:
                loss = learner.epoch(order, enough)
                if loss is None:
                    self.stopped = True
                    return
                objective += loss
            yield objective, [learner.weights() for learner in learners]

    def f1(self, weights: Sequence[Weights]) -> tuple[float | None, float | None]:
        """Strict F1 on training sentences and on dev; None where there is no dev text."""
        codings = [data.coding for data in self._layers]
        scores = [watched.f1(codings, weights) for watched in self._watched]
        return scores[0], scores[1] if len(scores) > 1 else None

    def tagger(self, best: Sequence[Weights], manifest: dict[str, Any]) -> Tagger:
        """The finished tagger: what weighs enough, calibrated on dev."""
        least = self._threshold(best)
        used = np.zeros(len(self._table), dtype=bool)
        used[0] = True  # what stands for "beyond the sentence" is always asked for
        used_tokens = np.zeros(len(self._token_table), dtype=bool)
        for weights in best:
            used |= rows_above(weights.forms, least)
            used_tokens |= rows_above(weights.tokens, least)
        rows, token_rows = np.flatnonzero(used), np.flatnonzero(used_tokens)
        lexicon = self._lexicon.only(rows)
        tagger = Tagger(
            self._types,
            self._sources,
            lexicon.table,
            self._token_table.only(token_rows),
            tuple(
                Layer(
                    data.coding,
                    SparseRows.of(weights.forms, rows, least),
                    SparseRows.of(weights.tokens, token_rows, least).dense(data.coding.count),
                    weights.moves,
                )
                for data, weights in zip(self._layers, best, strict=True)
            ),
            Calibration(),
            manifest | {"attributes": len(rows), "token_features": len(token_rows)},
        )
        if len(self._watched) > 1:
            tagger.use(lexicon)
            tagger = replace(tagger, calibration=self._calibrate(tagger))
        return tagger

    def _threshold(self, best: Sequence[Weights]) -> float:
        """The size of weight from which on the tagger's file is as small as the settings want it."""
        # Beside weights the file holds names.
        names = sum(map(len, self._table.names)) + 8 * len(self._table)
        features = sum(map(len, self._token_table.named.names)) + 20 * len(self._token_table)
        whole = self._settings.file_megabytes * 1e6
        weights = [array for one in best for array in (one.forms, one.tokens)]
        return least_that_fits(weights, self._settings.prune, max(whole - names - features, whole / 2))

    def _calibrate(self, tagger: Tagger) -> Calibration:
        dev = self._watched[1]
        probability, right = [], []
        for found in tagger.tag_layout(dev.layout, self._lexicon.vocabulary, with_probabilities=True):
            assert found.probability is not None
            spans = (found.first, found.last, found.kind, found.types)
            judged = dev.gold.is_judged(*spans)
            probability.append(found.probability[judged])
            right.append(dev.gold.is_right(*spans)[judged])
        return Calibration.fit(np.concatenate(probability), np.concatenate(right))
