"""Abbreviations found in a corpus without being taught (Kiss and Strunk 2006, the type-based step).

A word that is nearly always followed by a stop, is short, and hardly ever stands without one, is an
abbreviation. In a small corpus many short words stand only at the end of a sentence, so a candidate must
besides have been followed, stop and all, by what begins no sentence: a small letter, a figure, a comma.
Each candidate's log-likelihood ratio of "always a stop" (0.99) against "a stop as often as
after any word" is scaled by length, inner stops and occurrences without a stop.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from urdaten.core.text.analysis import Analysis

ALWAYS = 0.99
THRESHOLD = 0.3


def find_abbreviations(analyses: Sequence[Analysis], threshold: float = THRESHOLD) -> dict[str, float]:
    """Folded forms without their stop, and their scores, highest first.

    The analyses share one vocabulary. Only words of letters are candidates.
    """
    if not analyses:
        return {}
    forms = analyses[0].vocabulary.forms
    stop = analyses[0].vocabulary.get(".")
    folded: dict[str, int] = {}
    fold_of = np.array([folded.setdefault(form.casefold(), len(folded)) for form in forms], dtype=np.int64)
    with_stop = np.zeros(len(folded), dtype=np.int64)
    total = np.zeros(len(folded), dtype=np.int64)
    runs_on = np.zeros(len(folded), dtype=bool)
    continues = np.array(
        [form[0].islower() or form[0].isdigit() or form in ",;:" for form in forms], dtype=bool
    )
    for analysis in analyses:
        word = analysis.word
        np.add.at(total, fold_of[word], 1)
        glued = (word[1:] == stop) & (analysis.start[1:] == analysis.end[:-1])
        np.add.at(with_stop, fold_of[word[:-1][glued]], 1)
        inside = glued[:-1] & continues[word[2:]]
        runs_on[fold_of[word[:-2][inside]]] = True
    names = list(folded)
    inner = np.array([name.count(".") for name in names], dtype=np.float64)
    length = np.array([len(name) for name in names], dtype=np.float64) - inner
    candidate = runs_on & np.array([name.replace(".", "").isalpha() for name in names], dtype=bool)
    often = with_stop.sum() / max(1, total.sum())
    score = np.zeros(len(names))
    if 0 < often < ALWAYS:
        without = total - with_stop
        ratio = 2 * (
            with_stop * (np.log(ALWAYS) - np.log(often)) + without * (np.log(1 - ALWAYS) - np.log(1 - often))
        )
        # The penalty falls below what a float holds; in logarithms it cannot.
        penalty = np.exp(np.maximum(-without * np.log(np.maximum(length, 1)), -700))
        score = np.where(candidate, ratio * np.exp(-length) * (inner + 1) * penalty, 0)
    found = {names[k]: float(score[k]) for k in np.flatnonzero(score >= threshold).tolist()}
    return dict(sorted(found.items(), key=lambda item: (-item[1], item[0])))
