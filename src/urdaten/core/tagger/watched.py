"""Sentences whose F1 is watched during training."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.spans import Coding
from urdaten.core.tagger.corpus import SpanKeys
from urdaten.core.tagger.features import Lexicon, TokenTable
from urdaten.core.tagger.inference import FoundSpans, Inference
from urdaten.core.tagger.kernels.scores import sum_rows
from urdaten.core.tagger.layout import Layout
from urdaten.core.tagger.model import with_found
from urdaten.core.tagger.repeats import SOURCE as REPEATS
from urdaten.core.tagger.weights import Weights, chain_of


class Watched:
    """A layout with its gold, tagged as the finished tagger would do it."""

    def __init__(self, layout: Layout, gold: SpanKeys, lexicon: Lexicon, token_table: TokenTable) -> None:
        self.layout = layout
        self.gold = gold.before(len(layout.position))
        self._lexicon = lexicon
        self._table = token_table
        self._of_words = token_table.of_words(lexicon, layout)
        self._own = token_table.with_evidence(self._of_words, lexicon, layout)
        self._rows = np.unique(layout.word)

    def f1(self, codings: Sequence[Coding], weights: Sequence[Weights]) -> float:
        """Strict F1, 0 to 1, of the layers' weights, over what has been judged; 1 where there is nothing to find and nothing is found."""
        form_scores = [self._form_scores(layer) for layer in weights]
        found = self._find(self.layout, self._own, codings, weights, form_scores)
        if REPEATS in self._table.sources:
            types, sources = self._table.types, self._table.sources
            second = with_found(self.layout, self._lexicon.folded, types, sources, found)
            if second is not self.layout:
                own = self._table.with_evidence(self._of_words, self._lexicon, second)
                found = self._find(second, own, codings, weights, form_scores)
        right = sum(self.gold.count_right(s.first, s.last, s.kind, s.types) for s in found)
        # What nobody has judged is neither right nor wrong.
        judged = sum(int(self.gold.is_judged(s.first, s.last, s.kind, s.types).sum()) for s in found)
        total = len(self.gold) + judged
        return 2 * right / total if total else 1.0

    def _form_scores(self, layer: Weights) -> NDArray[np.float32]:
        width = layer.forms.shape[1]
        part = np.empty((len(self._rows), width), dtype=np.float32)
        sum_rows(self._lexicon.pointer, self._lexicon.column, layer.forms, self._rows, part)
        scores = np.empty((len(self._lexicon), width), dtype=np.float32)
        scores[self._rows] = part
        return scores

    def _find(
        self,
        layout: Layout,
        own: tuple[Ints, Ints],
        codings: Sequence[Coding],
        weights: Sequence[Weights],
        form_scores: Sequence[NDArray[np.float32]],
    ) -> list[FoundSpans]:
        return [
            Inference(scores, layer.tokens, chain_of(layer.moves, coding), layout, own).spans(
                coding, with_probabilities=False
            )
            for coding, layer, scores in zip(codings, weights, form_scores, strict=True)
        ]


def first_sentences(layout: Layout, count: int) -> Layout:
    """The layout of the first so many sentences."""
    if len(layout) <= count:
        return layout
    end = int(layout.first[count])
    held = layout.evidence_position < end
    return replace(
        layout,
        word=layout.word[:end],
        text=layout.text[:end],
        position=layout.position[: int(layout.length[:count].sum())],
        first=layout.first[:count],
        length=layout.length[:count],
        evidence_position=layout.evidence_position[held],
        evidence_kind=layout.evidence_kind[held],
    )
