"""What each group of features brings, and text that nobody signed: F1 without it, on the demo corpus' dev split and on a synthetic one.

Five seeds each; beside every difference half the width of its 95 % interval (Student's t over the seeds).
"""

from __future__ import annotations

import math
import statistics
from collections.abc import Callable, Sequence
from dataclasses import replace

from _baseline import strict_f1
from _demo import demo_texts
from _synthetic import make_corpus

from urdaten.core.tagger import FEATURE_GROUPS, PRESETS, Neighbours, TrainingSettings, train
from urdaten.installed import general_lexicon

SEEDS = (1, 2, 3, 4, 5)
# Two-sided 95 % of Student's t for four degrees of freedom.
T_95 = 2.776
SENTENCES, FULL_SENTENCES = 800, 5000
THOROUGH = PRESETS["thorough"]


def measure(full: bool) -> dict[str, float]:
    """Points of F1 that each group brings, beside all others, and half the width of the interval."""
    demo = demo_texts()
    items = [text.item for text in demo.dev]

    def on_demo(settings: TrainingSettings, seed: int, unsigned: Neighbours | None = demo.unsigned) -> float:
        chosen = replace(settings, seed=seed)
        # The last epoch and not the best one on dev: dev is what is scored here. Word classes never see it.
        tagger = train(
            demo.train,
            (),
            demo.vocabulary,
            demo.types,
            replace(chosen, epochs=12),
            unsigned=unsigned,
            general=general_lexicon(),
        )
        return 100 * strict_f1(demo.dev, tagger.tag(items, demo.vocabulary))

    corpora = {seed: make_corpus(4, FULL_SENTENCES if full else SENTENCES, seed) for seed in SEEDS}

    def on_synthetic(settings: TrainingSettings, seed: int) -> float:
        corpus = corpora[seed]
        tagger = train(corpus.train, corpus.dev, corpus.vocabulary, corpus.types, replace(settings, epochs=8))
        return 100 * strict_f1(corpus.test, tagger.tag([t.item for t in corpus.test], corpus.vocabulary))

    synthetic = THOROUGH.without(["lists", "rules", "lexicon"])
    whole = [on_demo(THOROUGH, seed) for seed in SEEDS]
    without_unsigned = [on_demo(THOROUGH, seed, None) for seed in SEEDS]
    return (
        _table("demo", on_demo, THOROUGH, whole)
        | _gain("demo_unsigned", whole, without_unsigned)
        | _table("synthetic", on_synthetic, synthetic, [on_synthetic(synthetic, seed) for seed in SEEDS])
    )


def _table(
    name: str,
    score: Callable[[TrainingSettings, int], float],
    settings: TrainingSettings,
    whole: Sequence[float],
) -> dict[str, float]:
    """What each group brings; `whole` are the scores with all of them."""
    figures = {f"{name}_f1": statistics.mean(whole)}
    for group in FEATURE_GROUPS:
        if group in settings.features:
            less = [score(settings.without([group]), seed) for seed in SEEDS]
            figures |= _gain(f"{name}_{group}", whole, less)
    return figures


def _gain(name: str, whole: Sequence[float], less: Sequence[float]) -> dict[str, float]:
    gains = [a - b for a, b in zip(whole, less, strict=True)]
    half = T_95 * statistics.stdev(gains) / math.sqrt(len(gains))
    return {f"{name}_brings": statistics.mean(gains), f"{name}_plus_minus": half}
