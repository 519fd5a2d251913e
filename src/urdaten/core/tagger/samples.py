"""Training and scoring on samples alone: no lists, no rules, no database."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from urdaten.core.formats import Sample
from urdaten.core.lexicon import WordLexicon
from urdaten.core.lists import Gazetteer
from urdaten.core.scoring import Figures, SpanScores, score_spans
from urdaten.core.spans import Span
from urdaten.core.tagger.corpus import GoldText
from urdaten.core.tagger.folds import Report, choose, fold_of_each
from urdaten.core.tagger.layout import TaggerInput
from urdaten.core.tagger.model import Tagger
from urdaten.core.tagger.neighbours import Neighbours
from urdaten.core.tagger.settings import EVIDENCE_GROUPS, MAKERS, TrainingSettings
from urdaten.core.tagger.training import Progress, train
from urdaten.core.text import Vocabulary, batch_of, fold
from urdaten.errors import BadInput, BadSpan

# Texts are tagged in portions of about so many code points.
SIGNS_AT_ONCE = 2_000_000


def inputs_of(
    samples: Sequence[Sample], vocabulary: Vocabulary, lists: Gazetteer | None = None
) -> list[TaggerInput]:
    """Samples as the tagger sees them, with what lists find."""
    batch = batch_of([sample.text for sample in samples], vocabulary=vocabulary)
    found = [()] * len(batch) if lists is None else lists.table(batch).spans(len(batch))
    return [
        TaggerInput(analysis, names, group=sample.group or None)
        for analysis, names, sample in zip(batch.analyses, found, samples, strict=True)
    ]


def gold_texts(
    samples: Sequence[Sample], vocabulary: Vocabulary, lists: Gazetteer | None = None
) -> list[GoldText]:
    """Samples as the tagger learns from them. A span that cuts a token is widened to it.

    Raises BadSpan for a span without a word in it.
    """
    texts = []
    for number, (sample, item) in enumerate(
        zip(samples, inputs_of(samples, vocabulary, lists), strict=True), start=1
    ):
        try:
            spans = [Span(*item.analysis.widen(s.start, s.end), s.type) for s in sample.spans]
        except BadSpan as fault:
            raise BadSpan(f"Text {sample.id or number}: {fault.message}") from fault
        texts.append(GoldText(item, spans))
    return texts


def train_on_samples(
    samples: Sequence[Sample],
    dev: Sequence[Sample],
    settings: TrainingSettings,
    report: Report = lambda _stage, _progress: None,
    *,
    lists: Gazetteer | None = None,
    unsigned: Neighbours | None = None,
    general: WordLexicon | None = None,
    threads: int = 1,
    should_stop: Callable[[], bool] = lambda: False,
) -> Tagger:
    """Train on samples; without dev ones the number of epochs and the regularisation are chosen by inner
    folds over the groups, and the tagger is then trained on everything. When `should_stop` says so meanwhile, the best
    tagger of a fold is kept; Stopped is raised if there is none yet.

    Word classes are learnt from the samples and from what `unsigned` texts count. The manifest keeps the folded surfaces
    of the training spans, so that scores can tell seen from unseen ones, and the lists by name. Raises BadInput when no
    sample has a span, for a list whose type none has, and for settings that want what lists find in unsigned sentences.
    """
    if settings.from_lists:
        raise BadInput(
            "From what lists find in unsigned sentences a tagger learns in a project alone; set it to 0 here.",
            field="from_lists",
        )
    types = sorted({span.type for sample in samples for span in sample.spans})
    if not types:
        raise BadInput("No line has a span, so there is nothing to learn.")
    if lists is None:
        settings = settings.without((*EVIDENCE_GROUPS, MAKERS))
    else:
        settings = settings.without(["rules"])
        if unknown := sorted(set(lists.types) - set(types)):
            raise BadInput(f"There is a list of {unknown[0]}, and no span of that type to learn from.")
    vocabulary = Vocabulary()
    texts = gold_texts(samples, vocabulary, lists)
    held_out = gold_texts(dev, vocabulary, lists)

    def learn(
        inner: Sequence[GoldText],
        outer: Sequence[GoldText],
        settings: TrainingSettings,
        note: Callable[[Progress], None],
        stop: Callable[[], bool],
    ) -> Tagger:
        return train(
            inner,
            outer,
            vocabulary,
            types,
            settings,
            note,
            stop,
            unsigned=unsigned,
            general=general,
            threads=threads,
        )

    told: dict[str, Any] = {} if unsigned is None else {"unsigned_tokens": unsigned.tokens}
    if lists is not None:
        told["lists"] = list(lists.makers)
    told["surfaces"] = sorted({fold(s.text[span.start : span.end]) for s in samples for span in s.spans})
    if not held_out:
        groups = [sample.group or f"line {k}" for k, sample in enumerate(samples)]
        fold_of = fold_of_each(groups, settings.seed)
        if len(set(fold_of)) > 1:
            chosen = choose(fold_of, texts, settings, learn, report, should_stop)
            if should_stop() and chosen.tagger is not None:
                return replace(chosen.tagger, manifest=chosen.tagger.manifest | told | {"stopped": True})
            settings = replace(chosen.settings, patience=chosen.settings.epochs)
            told |= {
                "folds": len(set(fold_of)),
                "epochs_by_folds": settings.epochs,
                "l2_by_folds": settings.l2,
            }
    tagger = learn(texts, held_out, settings, lambda p: report("all", p), should_stop)
    return replace(tagger, manifest=tagger.manifest | told)


@dataclass(frozen=True)
class SampleScores:
    """Scores over samples, and those of spans whose surface was or was not among the training spans."""

    scores: SpanScores
    seen: Figures
    unseen: Figures


def score_samples(tagger: Tagger, samples: Sequence[Sample], lists: Gazetteer | None = None) -> SampleScores:
    """Strict span scores of a tagger. Types that it does not know count as missed."""
    found = tag_samples(tagger, samples, lists=lists)
    types = sorted({*tagger.types, *(s.type for sample in samples for s in sample.spans)})
    known = set(map(fold, tagger.manifest.get("surfaces", ())))
    pairs = [(sample.spans, spans) for sample, spans in zip(samples, found, strict=True)]

    def figures(seen: bool) -> Figures:
        kept = [
            [[s for s in side if (fold(text[s.start : s.end]) in known) == seen] for side in pair]
            for text, pair in zip((sample.text for sample in samples), pairs, strict=True)
        ]
        return score_spans([(gold, had) for gold, had in kept], types, rounds=10).overall

    groups = [sample.group or k for k, sample in enumerate(samples)]
    return SampleScores(score_spans(pairs, types, groups=groups), figures(True), figures(False))


def check_lists(tagger: Tagger, lists: Gazetteer | None) -> None:
    """Raises BadInput where a list is missing that the tagger was trained with."""
    given = () if lists is None else lists.makers
    if missing := [name for name in tagger.manifest.get("lists", ()) if name not in given]:
        raise BadInput(f"This tagger was trained with lists that are not given: {', '.join(missing)}.")


def tag_samples(
    tagger: Tagger, samples: Sequence[Sample], least: float | None = None, lists: Gazetteer | None = None
) -> list[list[Span]]:
    """Spans of each sample with their probabilities; with `least` all that are at least so probable.

    Raises BadInput where a list is missing that the tagger was trained with.
    """
    check_lists(tagger, lists)
    vocabulary = Vocabulary()
    items = inputs_of(samples, vocabulary, lists)
    return tagger.tag(items, vocabulary) if least is None else tagger.likely(items, vocabulary, least)


def tag_stream(
    tagger: Tagger,
    samples: Iterable[Sample],
    least: float | None = None,
    lists: Gazetteer | None = None,
    signs_at_once: int = SIGNS_AT_ONCE,
) -> Iterator[tuple[list[Sample], list[list[Span]]]]:
    """As tag_samples, a portion of about so many code points at a time, so that memory does not grow with the file.

    Texts of one group are read together where they stand one after another.
    """
    portion: list[Sample] = []
    signs = 0
    for sample in samples:
        goes_on = bool(portion) and sample.group != "" and sample.group == portion[-1].group
        if signs >= signs_at_once and not goes_on:
            yield portion, tag_samples(tagger, portion, least, lists)
            portion, signs = [], 0
        portion.append(sample)
        signs += len(sample.text)
    if portion:
        yield portion, tag_samples(tagger, portion, least, lists)
