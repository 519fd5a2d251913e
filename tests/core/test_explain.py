"""Explanations against brute force: what they add up to, and whether the runner-up is the best one."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.spans import Span
from urdaten.core.spans.coding import decode, label_count
from urdaten.core.tagger import Tagger, TaggerInput
from urdaten.core.tagger.explain import explain
from urdaten.core.tagger.features import AttributeTable, lay_out
from urdaten.core.tagger.model import Weights, emission_scores
from urdaten.core.text import Vocabulary, analyse
from urdaten.errors import BadSpan

TYPES = ("PRT", "VES")
GROUPS = ("words", "shapes", "affixes")
BODY = "Pellin sailed for Pellin. Old Haldis in"


def random_tagger(seed: int, vocabulary: Vocabulary) -> Tagger:
    random = np.random.default_rng(seed)
    table = AttributeTable.learn(vocabulary.forms, GROUPS)
    weights = Weights.zeros(len(table), 2 * len(TYPES), TYPES)
    weights.attribute[:] = random.normal(size=weights.attribute.shape)
    weights.evidence[:] = random.normal(size=weights.evidence.shape)
    for moves in (weights.start, weights.transition):
        free = moves > -1e29
        moves[free] = random.normal(size=int(free.sum()))
    return Tagger(TYPES, ("lists",), table, weights, {})


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(TYPES), st.data())
def test_contributions_sum_to_the_difference_from_the_best_without(
    seed: int, code: str, data: st.DataObject
) -> None:
    vocabulary = Vocabulary()
    analysis = analyse(BODY, vocabulary=vocabulary)
    tagger = random_tagger(seed, vocabulary)
    item = TaggerInput(analysis, [Span(0, 6, "VES", "lists"), Span(30, 36, "VES", "lists")])
    number = data.draw(st.integers(0, 1))
    low, high = [(0, 5), (5, 8)][number]
    first = data.draw(st.integers(low, high - 1))
    last = data.draw(st.integers(first + 1, high))
    span = Span(int(analysis.start[first]), int(analysis.end[last - 1]), code)
    found = explain(tagger, item, vocabulary, span)

    one = TaggerInput(analysis, item.evidence, [number])
    columns = lay_out([one], TYPES, tagger.sources, len(vocabulary))
    scores = emission_scores(
        tagger.table.matrix(vocabulary.forms) @ tagger.weights.attribute,
        tagger.weights,
        columns,
        np.arange(high - low),
    )
    best: dict[bool, tuple[float, tuple[int, ...]]] = {True: (-np.inf, ()), False: (-np.inf, ())}
    for path in itertools.product(range(label_count(TYPES)), repeat=high - low):
        score = tagger.weights.start[path[0]] + scores[np.arange(len(path)), path].sum()
        score += sum(tagger.weights.transition[a, b] for a, b in itertools.pairwise(path))
        holds = (first - low, last - low, code) in decode(np.array(path, dtype=np.int16), TYPES)
        if score > best[holds][0]:
            best[holds] = (score, path)
    assert found.difference == pytest.approx(best[True][0] - best[False][0], abs=1e-9)
    assert sum(c.value for c in found.contributions) == pytest.approx(found.difference, abs=1e-9)
    ahead = decode(np.array(best[True][1], dtype=np.int16), TYPES)
    runner_up = [s for s in decode(np.array(best[False][1], dtype=np.int16), TYPES) if s not in ahead]
    assert [(s.start, s.end, s.type) for s in found.runner_up] == [
        (int(analysis.start[low + a]), int(analysis.end[low + b - 1]), name) for a, b, name in runner_up
    ]
    sizes = [abs(c.value) for c in found.contributions]
    assert sizes == sorted(sizes, reverse=True)


def test_a_span_is_explained_by_the_words_that_have_the_features() -> None:
    vocabulary = Vocabulary()
    analysis = analyse("sails Haldis", vocabulary=vocabulary)
    table = AttributeTable.learn(vocabulary.forms, ("words",))
    weights = Weights.zeros(len(table), 0, TYPES)
    begins_vessel, before = 3, 1
    weights.attribute[table.names.index("word=sails"), before * label_count(TYPES) + begins_vessel] = 2.0
    weights.transition[:, begins_vessel] = -0.5
    tagger = Tagger(TYPES, (), table, weights, {})
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
    with pytest.raises(BadSpan, match=words):
        explain(random_tagger(1, vocabulary), TaggerInput(analysis, ()), vocabulary, span)
