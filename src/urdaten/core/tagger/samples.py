"""Training and scoring on samples alone: no lists, no rules, no database."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from urdaten.core.formats.samples import Sample
from urdaten.core.scoring.spans import Figures, SpanScores, score_spans
from urdaten.core.spans.span import Span
from urdaten.core.tagger.features import TaggerInput
from urdaten.core.tagger.model import Tagger
from urdaten.core.tagger.settings import TrainingSettings
from urdaten.core.tagger.training import GoldText, Progress, train
from urdaten.core.text import Vocabulary, analyse_many
from urdaten.errors import BadInput

FOLDS = 4
Report = Callable[[str, Progress], None]


def gold_texts(samples: Sequence[Sample], vocabulary: Vocabulary) -> list[GoldText]:
    """Samples as the tagger learns from them. A span that cuts a token is widened to it."""
    analyses = analyse_many([sample.text for sample in samples], vocabulary=vocabulary)
    texts = []
    for sample, analysis in zip(samples, analyses, strict=True):
        spans = [Span(*analysis.widen(s.start, s.end), s.type) for s in sample.spans]
        texts.append(GoldText(TaggerInput(analysis, ()), spans))
    return texts


def train_on_samples(
    samples: Sequence[Sample],
    dev: Sequence[Sample],
    settings: TrainingSettings,
    report: Report = lambda _stage, _progress: None,
) -> Tagger:
    """Train on samples; without dev ones the number of epochs is chosen by inner folds over the groups.

    The manifest keeps the folded surfaces of the training spans, so that scores can tell seen from
    unseen ones. Raises BadInput when no sample has a span.
    """
    types = sorted({span.type for sample in samples for span in sample.spans})
    if not types:
        raise BadInput("No line has a span, so there is nothing to learn.")
    settings = replace(settings, features=tuple(f for f in settings.features if f not in ("lists", "rules")))
    vocabulary = Vocabulary()
    texts = gold_texts(samples, vocabulary)
    held_out = gold_texts(dev, vocabulary)
    folds = {}
    if not held_out:
        epochs = _epochs_by_folds(samples, texts, vocabulary, types, settings, report)
        folds = {"folds": FOLDS, "epochs_by_folds": epochs}
        settings = replace(settings, epochs=epochs)
    tagger = train(texts, held_out, vocabulary, types, settings, lambda p: report("all", p))
    surfaces = sorted({s.text[span.start : span.end].casefold() for s in samples for span in s.spans})
    return replace(tagger, manifest=tagger.manifest | folds | {"surfaces": surfaces})


def _epochs_by_folds(
    samples: Sequence[Sample],
    texts: Sequence[GoldText],
    vocabulary: Vocabulary,
    types: Sequence[str],
    settings: TrainingSettings,
    report: Report,
) -> int:
    """The number of epochs with the best mean F1 on texts left out; a group is never split."""
    groups = [sample.group or f"line {k}" for k, sample in enumerate(samples)]
    names = sorted(set(groups))
    if len(names) < 2:
        return settings.epochs
    order = np.random.default_rng(settings.seed).permutation(len(names))
    fold_of = {names[k]: place % min(FOLDS, len(names)) for place, k in enumerate(order.tolist())}
    curves: list[list[float]] = []
    for fold in range(min(FOLDS, len(names))):
        curve: list[float] = []

        def note(progress: Progress, curve: list[float] = curve, fold: int = fold) -> None:
            curve.append(progress.dev_f1 or 0.0)
            report(f"fold {fold + 1}", progress)

        inner = [t for t, g in zip(texts, groups, strict=True) if fold_of[g] != fold]
        outer = [t for t, g in zip(texts, groups, strict=True) if fold_of[g] == fold]
        if any(text.gold for text in inner):
            train(inner, outer, vocabulary, types, settings, note)
            curves.append(curve)
    # A fold that ended early had its best before: beyond its end it counts with its last value.
    longest = max(map(len, curves))
    means = np.mean([curve + [curve[-1]] * (longest - len(curve)) for curve in curves], axis=0)
    return int(np.argmax(means)) + 1


@dataclass(frozen=True)
class SampleScores:
    """Scores over samples, and those of spans whose surface was or was not among the training spans."""

    scores: SpanScores
    seen: Figures
    unseen: Figures


def score_samples(tagger: Tagger, samples: Sequence[Sample]) -> SampleScores:
    """Strict span scores of a tagger. Types that it does not know count as missed."""
    found = tag_samples(tagger, samples)
    types = sorted({*tagger.types, *(s.type for sample in samples for s in sample.spans)})
    known = set(tagger.manifest.get("surfaces", ()))
    pairs = [(sample.spans, spans) for sample, spans in zip(samples, found, strict=True)]

    def figures(seen: bool) -> Figures:
        kept = [
            [[s for s in side if (text[s.start : s.end].casefold() in known) == seen] for side in pair]
            for text, pair in zip((sample.text for sample in samples), pairs, strict=True)
        ]
        return score_spans([(gold, had) for gold, had in kept], types, rounds=10).overall

    return SampleScores(score_spans(pairs, types), figures(True), figures(False))


def tag_samples(tagger: Tagger, samples: Sequence[Sample]) -> list[list[Span]]:
    """Spans of each sample with their probabilities."""
    vocabulary = Vocabulary()
    analyses = analyse_many([sample.text for sample in samples], vocabulary=vocabulary)
    return tagger.tag([TaggerInput(analysis, ()) for analysis in analyses], vocabulary)
