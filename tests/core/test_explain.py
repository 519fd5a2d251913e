"""Explanations against brute force: what they add up to, and whether the runner-up is the best one."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.spans import CODINGS, Coding, CodingKind, Span
from urdaten.core.tagger import Tagger, TaggerInput
from urdaten.core.tagger.calibration import Calibration
from urdaten.core.tagger.explain import explain
from urdaten.core.tagger.features import AttributeTable, Lexicon, TokenTable
from urdaten.core.tagger.layout import lay_out
from urdaten.core.tagger.model import Layer
from urdaten.core.tagger.repeats import with_repeats
from urdaten.core.tagger.weights import Moves, SparseRows, Weights
from urdaten.core.text import Vocabulary, analyse
from urdaten.errors import BadSpan

TYPES = ("PRT", "VES")
SOURCES = ("lists", "repeats")
GROUPS = ("words", "shapes", "affixes")
BODY = "Pellin sailed for Pellin. Old Haldis in"


def tagger_of(weights: Weights, table: AttributeTable, tokens: TokenTable, coding: Coding) -> Tagger:
    rows = SparseRows.of(weights.forms, range(len(table)), 0)
    layer = Layer(coding, rows, weights.tokens, weights.moves)
    return Tagger(TYPES, tokens.sources, table, tokens, (layer,), Calibration(), {})


def random_tagger(seed: int, item: TaggerInput, vocabulary: Vocabulary, kind: CodingKind) -> Tagger:
    random = np.random.default_rng(seed)
    coding = Coding(kind, TYPES)
    table = AttributeTable.learn(vocabulary.forms, GROUPS)
    layout = lay_out([item, item], TYPES, SOURCES)
    lexicon = Lexicon(table, vocabulary)
    found = np.arange(len(item.analysis))
    # Every word was found in the other text of the group, so that all such features are there to weigh.
    layout = with_repeats(
        replace(layout, group=np.zeros(2, int)), lexicon.folded, (found, found + 1, found % 2), 2, 1
    )
    tokens = TokenTable.learn(("pairs", "texts"), TYPES, SOURCES, lexicon, layout)
    weights = Weights.zeros(len(table), len(tokens), coding)
    for array in weights.arrays:
        array[:] = random.normal(size=array.shape)
    return tagger_of(weights, table, tokens, coding)


def emissions(
    tagger: Tagger, item: TaggerInput, vocabulary: Vocabulary
) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """Scores of every token by plain sums, (n_tokens, L)."""
    layer = tagger.layers[0]
    labels = layer.coding.count
    lexicon = tagger.lexicon(vocabulary)
    layout, (pointer, column) = tagger.look(tagger.lay_out([item]), vocabulary)
    scores = np.zeros((len(layout.position), labels))
    for t, at in enumerate(layout.position.tolist()):
        for offset in range(-2, 3):
            row = int(layout.word[at + offset])
            for number in lexicon.column[lexicon.pointer[row] : lexicon.pointer[row + 1]].tolist():
                for place, value in layer.forms.row(number).items():
                    if place // labels == 2 - offset:
                        scores[t, place % labels] += value
        for number in column[pointer[at] : pointer[at + 1]].tolist():
            scores[t] += layer.tokens[number]
    return scores


@pytest.mark.parametrize("kind", CODINGS)
@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(TYPES), st.data())
def test_contributions_sum_to_the_difference_from_the_best_without(
    kind: CodingKind, seed: int, code: str, data: st.DataObject
) -> None:
    vocabulary = Vocabulary()
    body = "Pellin sailed for Pellin. Old Haldis in" if kind == "BIO" else "Pellin sailed. Old Haldis in"
    analysis = analyse(body, vocabulary=vocabulary)
    evidence = [Span(0, 6, "VES", "lists"), Span(body.index("Haldis"), body.index(" in"), "VES", "lists")]
    item = TaggerInput(analysis, evidence)
    tagger = random_tagger(seed, item, vocabulary, kind)
    coding, moves = tagger.layers[0].coding, tagger.layers[0].moves
    low, high = item.token_ranges()[data.draw(st.integers(0, 1))]
    first = data.draw(st.integers(low, high - 1))
    last = data.draw(st.integers(first + 1, high))
    span = Span(int(analysis.start[first]), int(analysis.end[last - 1]), code)
    found = explain(tagger, item, vocabulary, span)

    scores = emissions(tagger, item, vocabulary)[low:high]
    start, between = moves.first(coding), moves.between(coding)
    starts = np.arange(high - low) == 0

    def ranges(path: tuple[int, ...]) -> list[tuple[int, int, str]]:
        columns = coding.decode(np.array(path), starts)
        return [(int(a), int(b), TYPES[int(k)]) for a, b, k in zip(*columns, strict=True)]

    best: dict[bool, tuple[float, tuple[int, ...]]] = {True: (-np.inf, ()), False: (-np.inf, ())}
    for path in itertools.product(range(coding.count), repeat=high - low):
        score = start[path[0]] + scores[np.arange(len(path)), path].sum()
        score += sum(between[a, b] for a, b in itertools.pairwise(path))
        if score > -np.inf and coding.closing[0] <= path[-1] < coding.closing[1]:
            holds = (first - low, last - low, code) in ranges(path)
            if score > best[holds][0]:
                best[holds] = (score, path)
    assert found.difference == pytest.approx(best[True][0] - best[False][0], abs=1e-6)
    assert sum(c.value for c in found.contributions) == pytest.approx(found.difference, abs=1e-6)
    ahead = ranges(best[True][1])
    runner_up = [s for s in ranges(best[False][1]) if s not in ahead]
    assert [(s.start, s.end, s.type) for s in found.runner_up] == [
        (int(analysis.start[low + a]), int(analysis.end[low + b - 1]), name) for a, b, name in runner_up
    ]
    sizes = [abs(c.value) for c in found.contributions]
    assert sizes == sorted(sizes, reverse=True)


def test_a_span_is_explained_by_the_words_that_have_the_features() -> None:
    vocabulary = Vocabulary()
    analysis = analyse("sails Haldis", vocabulary=vocabulary)
    table = AttributeTable.learn(vocabulary.forms, ("words",))
    coding = Coding("BIO", TYPES)
    weights = Weights.zeros(len(table), 0, coding)
    begins_vessel, speaks_for_the_next = coding.label("begin", 1), 3
    weights.forms[table.names.index("word=sails"), speaks_for_the_next * coding.count + begins_vessel] = 2.0
    moves = Moves(weights.moves.start, weights.moves.dense, weights.moves.step)
    moves.dense[:, begins_vessel] = -0.5
    tagger = tagger_of(weights, table, TokenTable((), TYPES, ()), coding)
    found = explain(tagger, TaggerInput(analysis, ()), vocabulary, Span(6, 12, "VES"))
    feature, move = found.contributions
    assert (feature.feature, feature.word, feature.offset, feature.token, feature.value) == (
        ("word=sails", "sails", -1, 1, 2.0)
    )
    assert (move.feature, move.token, move.value) == ("move from outside to VES begins", 1, -0.5)
    assert (found.difference, found.runner_up) == (1.5, ())


@pytest.mark.parametrize(
    ("span", "words"),
    [
        (Span(0, 3, "VES"), "whole words of one sentence"),
        (Span(18, 29, "VES"), "whole words of one sentence"),
        (Span(0, 6, "ORG"), "knows PRT, VES and not ORG"),
    ],
)
def test_a_span_that_cannot_be_explained_is_refused(span: Span, words: str) -> None:
    vocabulary = Vocabulary()
    analysis = analyse(BODY, vocabulary=vocabulary)
    item = TaggerInput(analysis, ())
    tagger = random_tagger(1, item, vocabulary, "BIO")
    with pytest.raises(BadSpan, match=words):
        explain(tagger, item, vocabulary, span)
