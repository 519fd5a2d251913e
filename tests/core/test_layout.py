"""Layouts: sentences in use end to end, and what evidence says of their tokens, against a slow reference."""

from __future__ import annotations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from core.invented import QUICK, TYPES, invented
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tagger import TaggerInput, train
from urdaten.core.tagger.kernels.scores import WINDOW
from urdaten.core.tagger.layout import lay_out, source_of
from urdaten.core.text import Batch, Vocabulary, analyse

SOURCES = ("lists", "rules", "lists “a”")
BODY = st.lists(
    st.sampled_from(["Pellin left.", "Salt", "is in.", "", "🚢 The Amber Quay (late)"]), max_size=4
)


@st.composite
def inputs(draw: st.DrawFn) -> list[TaggerInput]:
    vocabulary = Vocabulary()
    items = []
    for _ in range(draw(st.integers(0, 4))):
        analysis = analyse(" ".join(draw(BODY)), vocabulary=vocabulary)
        size = len(analysis.body)
        bounds = st.tuples(st.integers(0, size + 2), st.integers(0, size + 4)).filter(lambda b: b[0] < b[1])
        spans = [
            Span(
                *draw(bounds),
                draw(st.sampled_from((*TYPES, "CGO"))),
                draw(st.sampled_from(("lists", "rules", "elsewhere"))),
                maker=draw(st.sampled_from(("", "a", "b"))),
            )
            for _ in range(draw(st.integers(0, 4)))
        ]
        sentences = int(analysis.sentence.max(initial=-1)) + 1
        chosen = draw(st.none() | st.sets(st.integers(0, max(0, sentences)), max_size=3))
        group = draw(st.sampled_from((None, "g")))
        items.append(TaggerInput(analysis, spans, None if chosen is None else sorted(chosen), group))
    return items


@settings(max_examples=200, deadline=None)
@given(inputs())
def test_layouts_are_those_of_a_walk_through_the_sentences(items: list[TaggerInput]) -> None:
    word, text, hits = [0] * WINDOW, [0] * WINDOW, set()
    firsts, lengths = [], []
    for k, item in enumerate(items):
        analysis = item.analysis
        for first, last in item.token_ranges():
            firsts.append(len(word))
            lengths.append(last - first)
            for token in range(first, last):
                for span in item.evidence:
                    low, high = analysis.token_range(span.start, span.end)
                    if not low <= token < high or span.type not in TYPES or span.source not in SOURCES:
                        continue
                    for name in {span.source, source_of(span.source, span.maker)} & set(SOURCES):
                        kind = 2 * (SOURCES.index(name) * len(TYPES) + TYPES.index(span.type))
                        hits.add((len(word), kind + (token > low)))
                word.append(int(analysis.word[token]) + 1)
                text.append(k)
            word += [0] * WINDOW
            text += [0] * WINDOW
    made = lay_out(items, TYPES, SOURCES)
    assert made.word.tolist() == word
    assert [made.text[at] for at in made.position] == [text[at] for at in np.flatnonzero(word)]
    assert (made.first.tolist(), made.length.tolist()) == (firsts, lengths)
    assert sorted(zip(made.evidence_position.tolist(), made.evidence_kind.tolist(), strict=True)) == sorted(
        hits
    )
    same = [[a == b for b in made.group] for a in made.group]
    assert same == [
        [a == b or (one.group is not None and one.group == other.group) for b, other in enumerate(items)]
        for a, one in enumerate(items)
    ]


def test_a_batch_is_tagged_as_its_texts_are() -> None:
    vocabulary = Vocabulary()
    texts = invented(40, 3, vocabulary)
    evidence = [[Span(4, 10, "VES", "lists", maker="ships")] if k % 3 else [] for k in range(40)]
    groups = ["", "g", "h", ""] * 10
    learnt = [
        type(text)(TaggerInput(text.item.analysis, own), text.gold)
        for text, own in zip(texts, evidence, strict=True)
    ]
    tagger = train(learnt, [], vocabulary, TYPES, QUICK)
    items = [
        TaggerInput(text.item.analysis, own, group=group or None)
        for text, own, group in zip(texts, evidence, groups, strict=True)
    ]
    batch = Batch.joined([item.analysis for item in items])
    found = tagger.tag_batch(batch, SpanTable.of_spans(evidence), groups)

    def told(spans: list[list[Span]]) -> list[list[tuple[int, int, str, float]]]:
        return [[(s.start, s.end, s.type, round(s.probability or 0, 4)) for s in own] for own in spans]

    assert told(found.spans(len(batch))) == told(tagger.tag(items, vocabulary))
    nothing = Batch.joined([analyse("", vocabulary=vocabulary)])
    assert len(tagger.tag_batch(nothing, SpanTable.empty())) == 0
