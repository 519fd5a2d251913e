"""Choosing how long to train, and how hard to pull weights towards zero, by folds of the training texts."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from urdaten.core.tagger.corpus import GoldText
from urdaten.core.tagger.model import Tagger
from urdaten.core.tagger.settings import TrainingSettings
from urdaten.core.tagger.training import Progress
from urdaten.errors import Stopped

FOLDS = 4
# How much harder or softer the pull towards zero may be than the settings say; the folds choose.
L2_TIMES = (0.3, 1.0, 3.0)
# Of the seconds that a training may take, choosing has this share; the rest is for all texts.
SHARE_OF_TIME = 0.7
Report = Callable[[str, Progress], None]
# Trains on some texts, watching others: with these settings, told of progress, asking whether to stop.
Learn = Callable[
    [list[GoldText], list[GoldText], TrainingSettings, Callable[[Progress], None], Callable[[], bool]], Tagger
]


@dataclass(frozen=True, kw_only=True)
class Chosen:
    """The best settings, with what is left of the seconds; and of the folds' taggers the best, None before the first."""

    settings: TrainingSettings
    tagger: Tagger | None


def fold_of_each(groups: Sequence[str], seed: int) -> list[int]:
    """The fold of each text, given the group of each; a group is never split."""
    names = sorted(set(groups))
    order = np.random.default_rng(seed).permutation(len(names))
    fold_of = {names[k]: place % min(FOLDS, len(names)) for place, k in enumerate(order.tolist())}
    return [fold_of[group] for group in groups]


def choose(
    fold_of: Sequence[int],
    texts: Sequence[GoldText],
    settings: TrainingSettings,
    learn: Learn,
    report: Report,
    should_stop: Callable[[], bool],
) -> Chosen:
    """The settings with the number of epochs and the l2 whose mean F1 on texts left out is best.

    When `should_stop` says so, or the share of time is up, what the folds have told until then decides.
    """
    began = time.monotonic()

    def enough() -> bool:
        return should_stop() or 0 < SHARE_OF_TIME * settings.seconds < time.monotonic() - began

    several = L2_TIMES if settings.method == "crf" and settings.l2 > 0 else (1.0,)
    folds = sorted(set(fold_of))
    best, best_score = settings, -1.0
    kept: Tagger | None = None
    kept_score = -1.0
    for times in several:
        # The seconds are those of the whole, not of each fold.
        tried = replace(settings, l2=min(1000.0, settings.l2 * times), seconds=0)
        curves: list[list[float]] = []
        for fold in folds:
            inner = [text for text, own in zip(texts, fold_of, strict=True) if own != fold]
            outer = [text for text, own in zip(texts, fold_of, strict=True) if own == fold]
            if enough() or not any(text.gold for text in inner):
                continue
            curve: list[float] = []

            def note(
                progress: Progress, curve: list[float] = curve, fold: int = fold, l2: float = tried.l2
            ) -> None:
                curve.append(progress.dev_f1 or 0.0)
                report(f"fold {fold + 1}, l2 {l2:g}", progress)

            try:
                made = learn(inner, outer, tried, note, enough)
            except Stopped:
                break
            curves.append(curve)
            if max(curve) > kept_score:
                kept, kept_score = made, max(curve)
        # Settings that fewer folds have told of are no match for those that all have.
        if curves and (best_score < 0 or not enough()):
            # A fold that ended early had its best before: beyond its end it counts with its last value.
            longest = max(map(len, curves))
            means = np.mean([curve + [curve[-1]] * (longest - len(curve)) for curve in curves], axis=0)
            if float(means.max()) > best_score:
                best_score = float(means.max())
                best = replace(tried, epochs=int(np.argmax(means)) + 1)
    left = max(1, round(settings.seconds - (time.monotonic() - began))) if settings.seconds else 0
    return Chosen(settings=replace(best, seconds=left), tagger=kept)
