"""A trained tagger: what it knows, and how it tags."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from urdaten.core.arrays import Floats, Ints
from urdaten.core.spans import Coding, Span, SpanTable
from urdaten.core.tagger.calibration import Calibration
from urdaten.core.tagger.features import AttributeTable, Lexicon, TokenTable
from urdaten.core.tagger.inference import FoundSpans, Inference
from urdaten.core.tagger.kernels.kinds import Chain
from urdaten.core.tagger.kernels.scores import REACH
from urdaten.core.tagger.layout import Layout, TaggerInput, lay_out, lay_out_batch
from urdaten.core.tagger.repeats import SOURCE as REPEATS
from urdaten.core.tagger.repeats import with_repeats
from urdaten.core.tagger.weights import Moves, SparseRows, chain_of
from urdaten.core.text import Batch, Vocabulary
from urdaten.errors import BadInput

# Spans of less raw probability are never looked for, whatever calibration makes of it.
_RAREST = 1e-5


@dataclass(frozen=True)
class Layer:
    """The weights for types that never overlap each other."""

    coding: Coding
    forms: SparseRows
    tokens: Floats
    moves: Moves

    @property
    def width(self) -> int:
        return REACH * self.coding.count

    def chain(self) -> Chain:
        return chain_of(self.moves, self.coding)


class _Known:
    """Rows and form scores for one vocabulary, extended as it grows."""

    def __init__(self, tagger: Tagger, lexicon: Lexicon) -> None:
        self.lexicon = lexicon
        self._layers = tagger.layers
        self._held = [np.empty((0, layer.width), dtype=np.float32) for layer in self._layers]
        self._size = 0

    def form_scores(self) -> list[Floats]:
        self.lexicon.grow()
        size = len(self.lexicon)
        if size > self._size:
            new = np.arange(self._size, size)
            for k, layer in enumerate(self._layers):
                if size > len(self._held[k]):
                    grown = np.empty((max(size, size + size // 2), layer.width), dtype=np.float32)
                    grown[: self._size] = self._held[k][: self._size]
                    self._held[k] = grown
                self._held[k][self._size : size] = layer.forms.sums(
                    self.lexicon.pointer, self.lexicon.column, new, layer.width
                )
            self._size = size
        return [held[:size] for held in self._held]


@dataclass
class Tagger:
    """A trained linear-chain tagger. `manifest` says what it was made from.

    Types that overlap in the data are tagged by layers of their own.
    """

    types: tuple[str, ...]
    sources: tuple[str, ...]
    table: AttributeTable
    token_table: TokenTable
    layers: tuple[Layer, ...]
    calibration: Calibration
    manifest: dict[str, Any]
    _known: _Known | None = field(default=None, repr=False, compare=False)

    def lexicon(self, vocabulary: Vocabulary) -> Lexicon:
        """The attributes of a vocabulary's forms; the one last asked for is kept."""
        return self._of(vocabulary).lexicon

    def _of(self, vocabulary: Vocabulary) -> _Known:
        # Read once: another thread may tag with another vocabulary meanwhile.
        known = self._known
        if known is None or known.lexicon.vocabulary is not vocabulary:
            known = self._known = _Known(self, Lexicon(self.table, vocabulary))
        return known

    def use(self, lexicon: Lexicon) -> None:
        """Take what is known already of a vocabulary's forms; the lexicon is of this tagger's table."""
        self._known = _Known(self, lexicon)

    def lay_out(self, inputs: Sequence[TaggerInput]) -> Layout:
        return lay_out(inputs, self.types, self.sources)

    def tag(self, inputs: Sequence[TaggerInput], vocabulary: Vocabulary) -> list[list[Span]]:
        """Spans of each input with their probabilities, calibrated. The inputs share the vocabulary."""
        layout = self.lay_out(inputs)
        result: list[list[Span]] = [[] for _ in inputs]
        if not len(layout):
            return result
        start = np.concatenate([_in_use(item, item.analysis.start) for item in inputs])
        end = np.concatenate([_in_use(item, item.analysis.end) for item in inputs])
        for found in self.tag_layout(layout, vocabulary, with_probabilities=True):
            assert found.probability is not None
            types = found.types
            rows = zip(
                layout.text[layout.first[found.sentence]].tolist(),
                start[found.first].tolist(),
                end[found.last - 1].tolist(),
                found.kind.tolist(),
                np.round(found.probability, 4).tolist(),
                strict=True,
            )
            for text, a, b, kind, probability in rows:
                result[text].append(Span(a, b, types[kind], "tagger", probability, "sequence tagger"))
        if len(self.layers) > 1:
            return [sorted(spans) for spans in result]
        return result

    def tag_batch(self, batch: Batch, evidence: SpanTable, groups: Sequence[str] = ()) -> SpanTable:
        """Spans of the texts of a batch with their probabilities, calibrated, by text and place; texts of one group are read
        together, those of "" each for itself."""
        names = [group or None for group in groups]
        layout = lay_out_batch(batch, evidence, self.types, self.sources, names)
        tables = [SpanTable.empty()]
        if len(layout):
            tables = [
                SpanTable.of_tokens(
                    batch,
                    found.first,
                    found.last,
                    found.kind,
                    found.types,
                    source="tagger",
                    probability=None if found.probability is None else np.round(found.probability, 4),
                )
                for found in self.tag_layout(layout, batch.vocabulary, with_probabilities=True)
            ]
        return tables[0] if len(tables) == 1 else SpanTable.joined(tables).in_order()

    def kinds(self, batch: Batch) -> Ints:
        """Of each token of a batch the number of the type that it is found to be of, -1 for none; of several layers the last
        one counts."""
        layout = lay_out_batch(batch, SpanTable.empty(), self.types, self.sources)
        kinds = np.full(len(batch.word), -1, dtype=np.int32)
        if not len(layout):
            return kinds
        for found in self.tag_layout(layout, batch.vocabulary, with_probabilities=False):
            number = np.array([self.types.index(code) for code in found.types], dtype=np.int32)
            length = found.last - found.first
            inside = np.arange(int(length.sum())) - np.repeat(np.cumsum(length) - length, length)
            kinds[np.repeat(found.first, length) + inside] = np.repeat(number[found.kind], length)
        return kinds

    def likely(
        self, inputs: Sequence[TaggerInput], vocabulary: Vocabulary, least: float = 0.1
    ) -> list[list[Span]]:
        """All spans of each input that are at least so probable, 0 < least ≤ 1, the likeliest first.

        They may overlap: they are what the tagger weighs against each other, not one answer.
        """
        _check_least(least)
        layout = self.lay_out(inputs)
        result: list[list[Span]] = [[] for _ in inputs]
        if not len(layout):
            return result
        start = np.concatenate([_in_use(item, item.analysis.start) for item in inputs])
        end = np.concatenate([_in_use(item, item.analysis.end) for item in inputs])
        for found in self._likely(layout, vocabulary, least):
            assert found.probability is not None
            rows = zip(
                layout.text[layout.first[found.sentence]].tolist(),
                start[found.first].tolist(),
                end[found.last - 1].tolist(),
                found.kind.tolist(),
                found.probability.tolist(),
                strict=True,
            )
            for text, a, b, kind, value in rows:
                result[text].append(Span(a, b, found.types[kind], "tagger", value, "sequence tagger"))
        return [sorted(spans, key=lambda s: (-(s.probability or 0), s)) for spans in result]

    def likely_batch(
        self, batch: Batch, evidence: SpanTable, groups: Sequence[str] = (), least: float = 0.1
    ) -> SpanTable:
        """As `likely`, of the texts of a batch, by text and place; groups as those of tag_batch."""
        _check_least(least)
        layout = lay_out_batch(batch, evidence, self.types, self.sources, [group or None for group in groups])
        tables = [SpanTable.empty()]
        if len(layout):
            tables += [
                SpanTable.of_tokens(
                    batch,
                    found.first,
                    found.last,
                    found.kind,
                    found.types,
                    source="tagger",
                    probability=found.probability,
                )
                for found in self._likely(layout, batch.vocabulary, least)
            ]
        return SpanTable.joined(tables).in_order()

    def _likely(self, layout: Layout, vocabulary: Vocabulary, least: float) -> Iterator[FoundSpans]:
        """Spans with a calibrated probability of at least this, a portion at a time."""
        known = self._of(vocabulary)
        layout, own = self.look(layout, vocabulary)
        # What calibration raises to the least is looked for too.
        raw_least = min(least, max(self.calibration.raw(least), _RAREST))
        for layer, scores in zip(self.layers, known.form_scores(), strict=True):
            inference = Inference(scores, layer.tokens, layer.chain(), layout, own)
            for found in inference.likely(layer.coding, raw_least):
                assert found.probability is not None
                probability = np.round(self.calibration.apply(found.probability), 4)
                held = probability >= least
                yield replace(
                    found,
                    sentence=found.sentence[held],
                    first=found.first[held],
                    last=found.last[held],
                    kind=found.kind[held],
                    probability=probability[held],
                )

    def tag_layout(
        self, layout: Layout, vocabulary: Vocabulary, *, with_probabilities: bool
    ) -> list[FoundSpans]:
        """Spans of every layer as columns."""
        known = self._of(vocabulary)
        layout, own = self.look(layout, vocabulary)
        return [
            self._tag_layer(layer, scores, layout, own, with_probabilities)
            for layer, scores in zip(self.layers, known.form_scores(), strict=True)
        ]

    def look(self, layout: Layout, vocabulary: Vocabulary) -> tuple[Layout, tuple[Ints, Ints]]:
        """The layout with what a first look at it finds as evidence, where the tagger uses that, and the features of its
        tokens."""
        known = self._of(vocabulary)
        form_scores = known.form_scores()
        of_words = self.token_table.of_words(known.lexicon, layout)
        own = self.token_table.with_evidence(of_words, known.lexicon, layout)
        if REPEATS not in self.sources:
            return layout, own
        found = [
            self._tag_layer(layer, scores, layout, own, with_probabilities=False)
            for layer, scores in zip(self.layers, form_scores, strict=True)
        ]
        second = with_found(layout, known.lexicon.folded, self.types, self.sources, found)
        if second is layout:
            return layout, own
        return second, self.token_table.with_evidence(of_words, known.lexicon, second)

    def _tag_layer(
        self, layer: Layer, scores: Floats, layout: Layout, own: tuple[Ints, Ints], with_probabilities: bool
    ) -> FoundSpans:
        inference = Inference(scores, layer.tokens, layer.chain(), layout, own)
        found = inference.spans(layer.coding, with_probabilities=with_probabilities)
        if found.probability is None:
            return found
        return replace(found, probability=self.calibration.apply(found.probability))


def _check_least(least: float) -> None:
    if not 0 < least <= 1:
        raise BadInput(f"The least probability is {least}; it must lie above 0 and be at most 1.")


def with_found(
    layout: Layout, folded: Ints, types: Sequence[str], sources: Sequence[str], found: Sequence[FoundSpans]
) -> Layout:
    """The layout with what was found as evidence for the same words elsewhere."""
    number = {code: k for k, code in enumerate(types)}
    kind = [np.array([number[code] for code in spans.types], dtype=np.int64)[spans.kind] for spans in found]
    columns = (
        np.concatenate([spans.first for spans in found]),
        np.concatenate([spans.last for spans in found]),
        np.concatenate(kind),
    )
    return with_repeats(layout, folded, columns, len(types), sources.index(REPEATS))


def _in_use(item: TaggerInput, column: Ints) -> Ints:
    """The part of a token column that lies in the sentences in use."""
    if item.sentences is None:
        return column
    return np.concatenate([column[:0], *(column[a:b] for a, b in item.token_ranges())])
