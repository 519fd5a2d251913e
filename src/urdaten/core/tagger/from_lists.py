"""Learning from what lists find in sentences that nobody has signed, beside those that somebody has, or alone."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace

import numpy as np

from urdaten.core.spans import Span, clear_spans
from urdaten.core.tagger.corpus import GoldText
from urdaten.core.tagger.layout import TaggerInput
from urdaten.core.text import Analysis

# More would only take time: what lists know is said by then.
MOST_SENTENCES = 20_000


def text_from_lists(
    analysis: Analysis,
    signed: Collection[int],
    found: Iterable[Span],
    types: Collection[str],
    group: str | None = None,
) -> GoldText:
    """The sentences of a text that are not signed, as lists see them.

    signed: numbers of sentences. What is unclear is left open, and so is what is of types that no list is of. The evidence of
    lists and rules is hidden: it would say what is to be learnt.
    """
    rest = np.setdiff1d(analysis.sentence, np.array(sorted(signed), dtype=np.int32)).tolist()
    clear, unclear = clear_spans(found)
    mine = set(rest)

    def is_mine(span: Span) -> bool:
        token = analysis.token_at(span.start)
        return token is not None and int(analysis.sentence[token]) in mine

    return GoldText(
        TaggerInput(analysis, (), rest, group),
        [span for span in clear if is_mine(span)],
        signed_types=frozenset(types),
        unread=[(span.start, span.end) for span in unclear if is_mine(span)],
    )


def weighed(texts: Sequence[GoldText], worth: int, signed: int) -> list[GoldText]:
    """These texts, or of very many some evenly spread ones, so that all of their sentences together count as much as `worth` signed
    ones. None counts more than a signed one; where none is signed, each counts as much."""
    sizes = [len(text.item.token_ranges()) for text in texts]
    one_in = max(1.0, sum(sizes) / MOST_SENTENCES)
    taken: list[GoldText] = []
    sentences = before = 0
    for text, size in zip(texts, sizes, strict=True):
        if size and sentences * one_in <= before:
            taken.append(text)
            sentences += size
        before += size
    weight = min(1.0, worth / max(1, sentences)) if signed else 1.0
    return [replace(text, weight=weight) for text in taken]
