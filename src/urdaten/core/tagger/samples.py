"""Training and scoring on samples alone: no lists, no rules, no database."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from urdaten.core.formats import Sample
from urdaten.core.lexicon import GeneralLexicon
from urdaten.core.scoring import Figures, SpanScores, score_spans
from urdaten.core.spans import Span
from urdaten.core.tagger.corpus import GoldText
from urdaten.core.tagger.layout import TaggerInput
from urdaten.core.tagger.model import Tagger
from urdaten.core.tagger.neighbours import Neighbours
from urdaten.core.tagger.settings import EVIDENCE_GROUPS, TrainingSettings
from urdaten.core.tagger.training import Progress, train
from urdaten.core.text import Vocabulary, analyse_many
from urdaten.errors import BadInput, BadSpan

FOLDS = 4
# How much harder or softer the pull towards zero may be than the settings say; the folds choose.
PULLS = (0.3, 1.0, 3.0)
Report = Callable[[str, Progress], None]


def gold_texts(samples: Sequence[Sample], vocabulary: Vocabulary) -> list[GoldText]:
    """Samples as the tagger learns from them. A span that cuts a token is widened to it.

    Raises BadSpan for a span without a word in it.
    """
    analyses = analyse_many([sample.text for sample in samples], vocabulary=vocabulary)
    texts = []
    for number, (sample, analysis) in enumerate(zip(samples, analyses, strict=True), start=1):
        try:
            spans = [Span(*analysis.widen(s.start, s.end), s.type) for s in sample.spans]
        except BadSpan as fault:
            raise BadSpan(f"Text {sample.id or number}: {fault.message}") from fault
        texts.append(GoldText(TaggerInput(analysis, (), group=sample.group or None), spans))
    return texts


def train_on_samples(
    samples: Sequence[Sample],
    dev: Sequence[Sample],
    settings: TrainingSettings,
    report: Report = lambda _stage, _progress: None,
    *,
    unsigned: Neighbours | None = None,
    general: GeneralLexicon | None = None,
    threads: int = 1,
    should_stop: Callable[[], bool] = lambda: False,
) -> Tagger:
    """Train on samples; without dev ones the number of epochs and the regularisation are chosen by inner
    folds over the groups, and the tagger is then trained on everything.

    Word classes are learnt from the samples and from what `unsigned` texts count. The manifest keeps the folded surfaces of the training spans, so that scores can tell seen from
    unseen ones. Raises BadInput when no sample has a span.
    """
    types = sorted({span.type for sample in samples for span in sample.spans})
    if not types:
        raise BadInput("No line has a span, so there is nothing to learn.")
    settings = settings.without(EVIDENCE_GROUPS)
    vocabulary = Vocabulary()
    texts = gold_texts(samples, vocabulary)
    held_out = gold_texts(dev, vocabulary)
    folds = {}
    if not held_out:
        fold_of = _folds(samples, settings.seed)
        if len(set(fold_of)) > 1:
            chosen = _choose(
                fold_of, texts, vocabulary, types, settings, report, should_stop, unsigned, general, threads
            )
            folds = {"folds": len(set(fold_of)), "epochs_by_folds": chosen.epochs, "l2_by_folds": chosen.l2}
            settings = replace(chosen, patience=chosen.epochs)
    tagger = train(
        texts,
        held_out,
        vocabulary,
        types,
        settings,
        lambda p: report("all", p),
        should_stop,
        unsigned=unsigned,
        general=general,
        threads=threads,
    )
    if unsigned is not None:
        folds |= {"unsigned_tokens": unsigned.tokens}
    surfaces = sorted({s.text[span.start : span.end].casefold() for s in samples for span in s.spans})
    return replace(tagger, manifest=tagger.manifest | folds | {"surfaces": surfaces})


def _folds(samples: Sequence[Sample], seed: int) -> list[int]:
    """The fold of each sample; a group is never split."""
    groups = [sample.group or f"line {k}" for k, sample in enumerate(samples)]
    names = sorted(set(groups))
    order = np.random.default_rng(seed).permutation(len(names))
    fold_of = {names[k]: place % min(FOLDS, len(names)) for place, k in enumerate(order.tolist())}
    return [fold_of[group] for group in groups]


def _choose(
    fold_of: Sequence[int],
    texts: Sequence[GoldText],
    vocabulary: Vocabulary,
    types: Sequence[str],
    settings: TrainingSettings,
    report: Report,
    should_stop: Callable[[], bool],
    unsigned: Neighbours | None,
    general: GeneralLexicon | None,
    threads: int,
) -> TrainingSettings:
    """The settings with the number of epochs and the l2 whose mean F1 on texts left out is best."""
    pulls = PULLS if settings.method == "crf" and settings.l2 > 0 else (1.0,)
    best, best_score = settings, -1.0
    for pull in pulls:
        tried = replace(settings, l2=min(1000.0, settings.l2 * pull))
        curves: list[list[float]] = []
        for fold in sorted(set(fold_of)):
            curve: list[float] = []

            def note(
                progress: Progress, curve: list[float] = curve, fold: int = fold, l2: float = tried.l2
            ) -> None:
                curve.append(progress.dev_f1 or 0.0)
                report(f"fold {fold + 1}, l2 {l2:g}", progress)

            inner = [t for t, f in zip(texts, fold_of, strict=True) if f != fold]
            outer = [t for t, f in zip(texts, fold_of, strict=True) if f == fold]
            if any(text.gold for text in inner):
                train(
                    inner,
                    outer,
                    vocabulary,
                    types,
                    tried,
                    note,
                    should_stop,
                    unsigned=unsigned,
                    general=general,
                    threads=threads,
                )
                curves.append(curve)
        # A fold that ended early had its best before: beyond its end it counts with its last value.
        longest = max(map(len, curves), default=0)
        if longest:
            means = np.mean([curve + [curve[-1]] * (longest - len(curve)) for curve in curves], axis=0)
            if float(means.max()) > best_score:
                best_score = float(means.max())
                best = replace(tried, epochs=int(np.argmax(means)) + 1)
    return best


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

    groups = [sample.group or k for k, sample in enumerate(samples)]
    return SampleScores(score_spans(pairs, types, groups=groups), figures(True), figures(False))


def tag_samples(tagger: Tagger, samples: Sequence[Sample], least: float | None = None) -> list[list[Span]]:
    """Spans of each sample with their probabilities; with `least` all that are at least so probable."""
    vocabulary = Vocabulary()
    analyses = analyse_many([sample.text for sample in samples], vocabulary=vocabulary)
    items = [
        TaggerInput(analysis, (), group=sample.group or None)
        for analysis, sample in zip(analyses, samples, strict=True)
    ]
    return tagger.tag(items, vocabulary) if least is None else tagger.likely(items, vocabulary, least)
